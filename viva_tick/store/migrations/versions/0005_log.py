"""The log: what happened to a bench beside its revisions."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    if sa.inspect(op.get_bind()).has_table("log_entry"):
        return  # of a folder that was left half made, and was mended
    op.create_table(
        "log_entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("bench_id", sa.Integer, sa.ForeignKey("bench.id", ondelete="CASCADE"), nullable=False),
        sa.Column("revision_id", sa.Integer, nullable=False),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("words", sa.Text, nullable=False),
        sa.Column("data", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("picture", sa.LargeBinary, nullable=True),
    )
    op.create_index("ix_log_entry_bench_id", "log_entry", ["bench_id"])


def downgrade() -> None:
    op.drop_table("log_entry")
