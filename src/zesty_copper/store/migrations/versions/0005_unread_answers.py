"""What is said of a circuit before anything was read on it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """One row for each circuit, scope and engine."""
    op.create_table(
        "unread_answer",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("engine", sa.Text(), nullable=False),
        sa.Column("answer", JSONB(), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_unread_answer"),
    )


def downgrade() -> None:
    """They are computed again."""
    op.drop_table("unread_answer")
