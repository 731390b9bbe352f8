"""The first tables."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "technician",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("may_open_panels", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_technician")),
        sa.UniqueConstraint("name", name=op.f("uq_technician_name")),
    )
    op.create_table(
        "site",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("address", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_site")),
    )
    op.create_table(
        "equipment",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("circuit", JSONB(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_equipment")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_equipment_site_id")),
    )
    op.create_index(op.f("ix_equipment_site_id"), "equipment", ["site_id"])
    op.create_table(
        "call",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("technician_id", sa.Uuid(), nullable=False),
        sa.Column("equipment_id", sa.Uuid(), nullable=False),
        sa.Column("complaint", sa.Text(), nullable=False),
        sa.Column("starts_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("panel_may_be_opened", sa.Boolean(), nullable=False),
        sa.Column("circuit", JSONB(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_call")),
        sa.ForeignKeyConstraint(["technician_id"], ["technician.id"], name=op.f("fk_call_technician_id")),
        sa.ForeignKeyConstraint(["equipment_id"], ["equipment.id"], name=op.f("fk_call_equipment_id")),
    )
    op.create_index(op.f("ix_call_technician_id"), "call", ["technician_id"])
    op.create_index(op.f("ix_call_equipment_id"), "call", ["equipment_id"])
    op.create_index(op.f("ix_call_starts_at"), "call", ["starts_at"])
    op.create_table(
        "entry",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("sequence", sa.BigInteger(), sa.Identity(always=True), nullable=False),
        sa.Column("call_id", sa.Uuid(), nullable=False),
        sa.Column("reading_id", sa.Text(), nullable=False),
        sa.Column("action", sa.Text(), nullable=False),
        sa.Column("reading", JSONB(), nullable=True),
        sa.Column("entered_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_entry")),
        sa.UniqueConstraint("sequence", name=op.f("uq_entry_sequence")),
        sa.ForeignKeyConstraint(["call_id"], ["call.id"], name=op.f("fk_entry_call_id")),
        sa.CheckConstraint("(action = 'withdraw') = (reading IS NULL)", name=op.f("ck_entry_reading_given")),
    )
    op.create_index(op.f("ix_entry_call_id"), "entry", ["call_id"])


def downgrade() -> None:
    """Take back."""
    for table in ("entry", "call", "equipment", "site", "technician"):
        op.drop_table(table)
