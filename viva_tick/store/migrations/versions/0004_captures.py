"""Captures in a table of their own: each once a bench, however many revisions have it."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    if sa.inspect(op.get_bind()).has_table("capture"):
        return  # of a folder that was left half made, and was mended
    op.create_table(
        "capture",
        sa.Column("bench_id", sa.Integer, sa.ForeignKey("bench.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("digest", sa.String(32), primary_key=True),
        sa.Column("edges", sa.LargeBinary, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("capture")
