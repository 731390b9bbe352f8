"""How far a call is, and calls that were taken off the list."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("call", sa.Column("status", sa.Text(), server_default="open", nullable=False))
    op.alter_column("call", "status", server_default=None)
    op.add_column("call", sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    """Take back; calls that were taken off the list are on it again."""
    op.drop_column("call", "deleted_at")
    op.drop_column("call", "status")
