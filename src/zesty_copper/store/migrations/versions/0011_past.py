"""Finds by kind of equipment, so that opening a call does not read every closed one."""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.execute(
        "CREATE INDEX ix_call_past ON call ((circuit->>'name'), starts_at DESC) "
        "WHERE status = 'done' AND deleted_at IS NULL AND repair->'proof'->>'outcome' = 'proven'"
    )


def downgrade() -> None:
    """Take back."""
    op.drop_index("ix_call_past", "call")
