"""The shelf: boards of the user's own."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "shelf_board",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("shelf_board")
