"""What was chosen and noted about a call's repair."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("call", sa.Column("repair", JSONB(), nullable=True))


def downgrade() -> None:
    """Take back."""
    op.drop_column("call", "repair")
