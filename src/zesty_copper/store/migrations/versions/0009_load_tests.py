"""Load tests: volts and amps over time, in chunks."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "load_test",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("call_id", sa.Uuid(), sa.ForeignKey("call.id"), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("source", sa.Text(), nullable=False),
        sa.Column("begun_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("touched_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("channels", JSONB(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("progress", sa.Float(), nullable=False),
        sa.Column("why", sa.Text(), nullable=False),
        sa.Column("rows", JSONB(), nullable=True),
        sa.Column("report", JSONB(), nullable=True),
    )
    op.create_index("ix_load_test_call_id", "load_test", ["call_id"])
    op.create_table(
        "load_chunk",
        sa.Column("load_test_id", sa.Uuid(), sa.ForeignKey("load_test.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("place", sa.Integer(), primary_key=True),
        sa.Column("from_s", sa.Float(), nullable=False),
        sa.Column("to_s", sa.Float(), nullable=False),
        sa.Column("samples", sa.Integer(), nullable=False),
        sa.Column("seconds", sa.LargeBinary(), nullable=False),
        sa.Column("values", sa.LargeBinary(), nullable=False),
        sa.Column("overview", sa.LargeBinary(), nullable=False),
    )
    # Numbers hardly shrink, and each look at a chart would unpack them.
    for column in ("seconds", "values", "overview"):
        op.execute(f'ALTER TABLE load_chunk ALTER COLUMN "{column}" SET STORAGE EXTERNAL')


def downgrade() -> None:
    """Take back."""
    op.drop_table("load_chunk")
    op.drop_table("load_test")
