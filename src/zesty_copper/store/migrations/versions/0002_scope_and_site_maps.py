"""A call's whole scope in place of the one question about the panel; a site's map of what feeds what."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("call", sa.Column("scope", JSONB(), nullable=True))
    op.execute("UPDATE call SET scope = jsonb_build_object('panel_may_be_opened', panel_may_be_opened)")
    op.alter_column("call", "scope", nullable=False)
    op.drop_column("call", "panel_may_be_opened")
    op.add_column("site", sa.Column("feeds", JSONB(), nullable=True))


def downgrade() -> None:
    """Take back."""
    op.drop_column("site", "feeds")
    op.add_column("call", sa.Column("panel_may_be_opened", sa.Boolean(), nullable=True))
    op.execute("UPDATE call SET panel_may_be_opened = (scope->>'panel_may_be_opened')::boolean")
    op.alter_column("call", "panel_may_be_opened", nullable=False)
    op.drop_column("call", "scope")
