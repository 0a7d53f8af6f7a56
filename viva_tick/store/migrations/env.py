"""Alembic's environment: the connection comes from `store.database`."""

from alembic import context

from viva_tick.store.tables import METADATA

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=METADATA, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
