"""People with roles and passwords in place of technicians; sessions, links, shares, and a log of changes."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

DEMO_PEOPLE = ("deb647ba-91ba-5631-8f25-fe782a2b487b", "9bfdc27d-1031-5299-80a8-92b4767112e8")
"""Whom the demo had made before people signed in."""


def upgrade() -> None:
    """Apply."""
    op.rename_table("technician", "person")
    op.execute("ALTER TABLE person RENAME CONSTRAINT pk_technician TO pk_person")
    op.execute("ALTER TABLE person RENAME CONSTRAINT uq_technician_name TO uq_person_name")
    op.add_column("person", sa.Column("role", sa.Text(), server_default="technician", nullable=False))
    op.add_column("person", sa.Column("is_active", sa.Boolean(), server_default=sa.true(), nullable=False))
    op.add_column("person", sa.Column("is_demo", sa.Boolean(), server_default=sa.false(), nullable=False))
    op.add_column("person", sa.Column("password", sa.Text(), nullable=True))
    for column in ("role", "is_active", "is_demo"):
        op.alter_column("person", column, server_default=None)
    for demo_person in DEMO_PEOPLE:
        op.execute(
            sa.text("UPDATE person SET is_demo = true WHERE id = CAST(:one AS uuid)").bindparams(one=demo_person)
        )
    moment = sa.DateTime(timezone=True)
    person = sa.ForeignKey("person.id", name="fk_session_person_id")
    op.create_table(
        "session",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Uuid(), person, nullable=False),
        sa.Column("begun_at", moment, server_default=sa.func.now(), nullable=False),
        sa.Column("used_at", moment, server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_session"),
    )
    op.create_index("ix_session_person_id", "session", ["person_id"])
    op.create_table(
        "link",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("person.id", name="fk_link_person_id"), nullable=True),
        sa.Column("expires_at", moment, nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_link"),
    )
    op.create_index("ix_link_person_id", "link", ["person_id"])
    op.create_table(
        "attempts",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("expires_at", moment, nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_attempts"),
    )
    op.create_table(
        "secret",
        sa.Column("purpose", sa.Text(), nullable=False),
        sa.Column("value", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("purpose", name="pk_secret"),
    )
    op.create_table(
        "share",
        sa.Column("call_id", sa.Uuid(), sa.ForeignKey("call.id", name="fk_share_call_id"), nullable=False),
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("person.id", name="fk_share_person_id"), nullable=False),
        sa.PrimaryKeyConstraint("call_id", "person_id", name="pk_share"),
    )
    op.create_index("ix_share_person_id", "share", ["person_id"])
    op.create_table(
        "audit",
        sa.Column("sequence", sa.BigInteger(), sa.Identity(always=True), nullable=False),
        sa.Column("at", moment, server_default=sa.func.now(), nullable=False),
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("person.id", name="fk_audit_person_id"), nullable=True),
        sa.Column("what", sa.Text(), nullable=False),
        sa.Column("call_id", sa.Uuid(), sa.ForeignKey("call.id", name="fk_audit_call_id"), nullable=True),
        sa.Column("about_id", sa.Uuid(), nullable=True),
        sa.Column("before", JSONB(), nullable=True),
        sa.Column("after", JSONB(), nullable=True),
        sa.PrimaryKeyConstraint("sequence", name="pk_audit"),
    )
    op.execute(
        "CREATE FUNCTION audit_stays() RETURNS trigger LANGUAGE plpgsql AS "
        "$$ BEGIN RAISE EXCEPTION 'lines of the log are never changed or removed'; END $$"
    )
    op.execute(
        "CREATE TRIGGER audit_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON audit "
        "FOR EACH STATEMENT EXECUTE FUNCTION audit_stays()"
    )
    op.add_column(
        "entry", sa.Column("person_id", sa.Uuid(), sa.ForeignKey("person.id", name="fk_entry_person_id"), nullable=True)
    )


def downgrade() -> None:
    """Take back; who may do what is forgotten."""
    op.drop_column("entry", "person_id")
    op.drop_table("audit")
    op.execute("DROP FUNCTION audit_stays")
    for table in ("share", "secret", "attempts", "link", "session"):
        op.drop_table(table)
    for column in ("role", "is_active", "is_demo", "password"):
        op.drop_column("person", column)
    op.execute("ALTER TABLE person RENAME CONSTRAINT uq_person_name TO uq_technician_name")
    op.execute("ALTER TABLE person RENAME CONSTRAINT pk_person TO pk_technician")
    op.rename_table("person", "technician")
