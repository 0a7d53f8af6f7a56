"""Benches, revisions, runs."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("bench_id", sa.Integer, sa.ForeignKey("bench.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("revision.id"), index=True),
        sa.Column("document", sa.LargeBinary, nullable=False),
        sa.Column("words", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "bench",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("revision.id", name="fk_bench_head")),
        sa.Column("demo", sa.String(40), unique=True),
        sa.Column("made_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "run",
        sa.Column("key", sa.String(32), primary_key=True),
        sa.Column("run", sa.LargeBinary, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False, index=True),
    )


def downgrade() -> None:
    op.drop_table("run")
    op.drop_table("bench")
    op.drop_table("revision")
