"""What a call's diagnosis last said, for the list."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("call", sa.Column("found", JSONB(), nullable=True))


def downgrade() -> None:
    """Take back."""
    op.drop_column("call", "found")
