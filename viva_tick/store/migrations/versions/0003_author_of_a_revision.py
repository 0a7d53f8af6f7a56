"""Whose a revision is, so that nobody takes back another's edit unseen."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revision", sa.Column("author", sa.String(16)))


def downgrade() -> None:
    op.drop_column("revision", "author")
