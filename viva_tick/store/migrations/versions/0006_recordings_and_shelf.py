"""Captures too long for the document; the shelf of more than boards; drills."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    if sa.inspect(op.get_bind()).has_table("recording"):
        return  # of a folder that was left half made, and was mended
    op.create_table(
        "recording",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("bench_id", sa.Integer, sa.ForeignKey("bench.id", ondelete="CASCADE"), nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("rest", sa.LargeBinary, nullable=False),
        sa.Column("taken", sa.Integer, nullable=False),
        sa.Column("channels", sa.Text, nullable=False),
        sa.Column("length_ns", sa.BigInteger, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_index("ix_recording_bench_id", "recording", ["bench_id"])
    op.create_table(
        "recording_stretch",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("recording_id", sa.Integer, sa.ForeignKey("recording.id", ondelete="CASCADE"), nullable=False),
        sa.Column("channel", sa.Integer, nullable=False),
        sa.Column("from_ns", sa.BigInteger, nullable=False),
        sa.Column("to_ns", sa.BigInteger, nullable=False),
        sa.Column("changes", sa.Integer, nullable=False),
        sa.Column("level", sa.Integer, nullable=False),
        sa.Column("outline", sa.LargeBinary, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_index("ix_recording_stretch_of", "recording_stretch", ["recording_id", "channel", "to_ns"])
    op.create_table(
        "shelf_thing",
        sa.Column("kind", sa.String(16), primary_key=True),
        sa.Column("id", sa.String(60), primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "shelf_use",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("thing_id", sa.String(60), nullable=False),
        sa.Column("bench_id", sa.Integer, sa.ForeignKey("bench.id", ondelete="CASCADE"), nullable=False),
        sa.Column("local", sa.String(80), nullable=False),
        sa.Column("given", sa.Text, nullable=False),
        sa.Column("digest", sa.String(32), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_index("ix_shelf_use_bench_id", "shelf_use", ["bench_id"])
    op.create_table(
        "drill",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("bench_id", sa.Integer, sa.ForeignKey("bench.id", ondelete="SET NULL"), nullable=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("seed", sa.Integer, nullable=False),
        sa.Column("level", sa.Integer, nullable=False),
        sa.Column("sound", sa.LargeBinary, nullable=False),
        sa.Column("faults", sa.Text, nullable=False),
        sa.Column("asked", sa.Text, nullable=False),
        sa.Column("found", sa.Text, nullable=False),
        sa.Column("gave_up", sa.Boolean, nullable=False),
        sa.Column("began", sa.DateTime, nullable=False),
        sa.Column("ended", sa.DateTime, nullable=True),
    )
    op.create_index("ix_drill_bench_id", "drill", ["bench_id"])


def downgrade() -> None:
    op.drop_table("drill")
    op.drop_table("shelf_use")
    op.drop_table("shelf_thing")
    op.drop_table("recording_stretch")
    op.drop_table("recording")
