"""Photos of a call, each at its place; and what kind of visit a call is."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "photo",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("call_id", sa.Uuid(), sa.ForeignKey("call.id"), nullable=False),
        sa.Column("part", sa.Text(), nullable=True),
        sa.Column("lane", sa.Text(), nullable=True),
        sa.Column("words", sa.Text(), nullable=False),
        sa.Column("added_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("jpeg", sa.LargeBinary(), nullable=False),
        sa.Column("thumb", sa.LargeBinary(), nullable=False),
    )
    op.create_index("ix_photo_call_id", "photo", ["call_id"])
    op.add_column("call", sa.Column("visit", sa.Text(), nullable=False, server_default="service"))


def downgrade() -> None:
    """Take back."""
    op.drop_column("call", "visit")
    op.drop_table("photo")
