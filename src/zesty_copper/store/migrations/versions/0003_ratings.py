"""What a call knows of plates, wires and devices, and the calculations kept in it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("call", sa.Column("ratings", JSONB(), nullable=True))


def downgrade() -> None:
    """Take back."""
    op.drop_column("call", "ratings")
