"""The tables. Rows stay inside the store; what leaves it are values of `records`."""

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, CheckConstraint, DateTime, ForeignKey, Identity, Index, MetaData, Text, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from zesty_copper.store.clock import now

__all__ = [
    "AttemptsRow",
    "AuditRow",
    "Base",
    "CallRow",
    "EntryRow",
    "EquipmentRow",
    "LinkRow",
    "LoadChunkRow",
    "LoadTestRow",
    "PersonRow",
    "PhotoRow",
    "SecretRow",
    "SessionRow",
    "ShareRow",
    "SiteRow",
    "UnreadAnswerRow",
]


class Base(DeclarativeBase):
    """Base of all tables; constraint names are fixed so that migrations can speak of them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class PersonRow(Base):
    """Someone who signs in."""

    __tablename__ = "person"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(Text, unique=True)
    role: Mapped[str] = mapped_column(Text)
    may_open_panels: Mapped[bool]
    is_active: Mapped[bool]
    is_demo: Mapped[bool] = mapped_column(doc="anyone at this machine may be them")
    password: Mapped[str | None] = mapped_column(Text, doc="Argon2 hash; none until they have chosen one")


class SessionRow(Base):
    """Somebody signed in somewhere."""

    __tablename__ = "session"
    key: Mapped[str] = mapped_column(Text, primary_key=True, doc="hash of what the cookie holds")
    person_id: Mapped[UUID] = mapped_column(ForeignKey("person.id"), index=True)
    begun_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    used_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    person: Mapped[PersonRow] = relationship()


class LinkRow(Base):
    """A link that lets somebody choose a password, once."""

    __tablename__ = "link"
    key: Mapped[str] = mapped_column(Text, primary_key=True, doc="hash of what the link holds")
    person_id: Mapped[UUID | None] = mapped_column(
        ForeignKey("person.id"), index=True, doc="none: whoever opens it becomes the first lead"
    )
    expires_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class AttemptsRow(Base):
    """How often something was tried in a stretch of time."""

    __tablename__ = "attempts"
    key: Mapped[str] = mapped_column(Text, primary_key=True)
    count: Mapped[int]
    expires_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class SecretRow(Base):
    """What this installation signs with; every process on the database uses the same."""

    __tablename__ = "secret"
    purpose: Mapped[str] = mapped_column(Text, primary_key=True)
    value: Mapped[str] = mapped_column(Text)


class AuditRow(Base):
    """Who changed what. Lines are never changed or removed: the database refuses it."""

    __tablename__ = "audit"
    sequence: Mapped[int] = mapped_column(BigInteger, Identity(always=True), primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now, server_default=func.now())
    person_id: Mapped[UUID | None] = mapped_column(ForeignKey("person.id"), doc="none: the program itself, or nobody")
    what: Mapped[str] = mapped_column(Text)
    call_id: Mapped[UUID | None] = mapped_column(ForeignKey("call.id"))
    about_id: Mapped[UUID | None] = mapped_column(doc="the person, equipment or site that it is about")
    before: Mapped[Any | None] = mapped_column(JSONB(none_as_null=True))
    after: Mapped[Any | None] = mapped_column(JSONB(none_as_null=True))


class SiteRow(Base):
    """A customer's address."""

    __tablename__ = "site"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    address: Mapped[str] = mapped_column(Text)
    feeds: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), doc="what was found to feed what")
    equipment: Mapped[list["EquipmentRow"]] = relationship(back_populates="site", order_by="EquipmentRow.name")


class EquipmentRow(Base):
    """One piece of equipment and the circuit that feeds it."""

    __tablename__ = "equipment"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    site_id: Mapped[UUID] = mapped_column(ForeignKey("site.id"), index=True)
    name: Mapped[str] = mapped_column(Text)
    circuit: Mapped[dict[str, Any]] = mapped_column(JSONB)
    site: Mapped[SiteRow] = relationship(back_populates="equipment")


class CallRow(Base):
    """One visit. It keeps the circuit as it was taken to be, whatever becomes of the equipment's."""

    __tablename__ = "call"
    __table_args__ = (
        Index(
            "ix_call_past",
            text("(circuit ->> 'name')"),
            text("starts_at DESC"),
            postgresql_where=text(
                "status = 'done' AND deleted_at IS NULL AND repair -> 'proof' ->> 'outcome' = 'proven'"
            ),
        ),
    )
    id: Mapped[UUID] = mapped_column(primary_key=True)
    technician_id: Mapped[UUID] = mapped_column(ForeignKey("person.id"), index=True)
    equipment_id: Mapped[UUID] = mapped_column(ForeignKey("equipment.id"), index=True)
    complaint: Mapped[str] = mapped_column(Text)
    starts_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), index=True)
    scope: Mapped[dict[str, Any]] = mapped_column(JSONB)
    circuit: Mapped[dict[str, Any]] = mapped_column(JSONB)
    ratings: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), doc="sheets and kept sums")
    repair: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), doc="what was chosen and noted")
    found: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), doc="what was last said of it")
    status: Mapped[str] = mapped_column(Text, default="open")
    visit: Mapped[str] = mapped_column(Text, default="service", server_default="service")
    deleted_at: Mapped[datetime | None] = mapped_column(
        DateTime(timezone=True), doc="when it was taken off the list; none: it is on it"
    )
    technician: Mapped[PersonRow] = relationship()
    equipment: Mapped[EquipmentRow] = relationship()
    entries: Mapped[list["EntryRow"]] = relationship(order_by="EntryRow.sequence")


class ShareRow(Base):
    """A call that somebody else works on too, or was handed."""

    __tablename__ = "share"
    call_id: Mapped[UUID] = mapped_column(ForeignKey("call.id"), primary_key=True)
    person_id: Mapped[UUID] = mapped_column(ForeignKey("person.id"), primary_key=True, index=True)


class EntryRow(Base):
    """One thing said about one reading or look: added, corrected or withdrawn. Entries are never changed or removed."""

    __tablename__ = "entry"
    __table_args__ = (CheckConstraint("(action = 'withdraw') = (reading IS NULL)", name="reading_given"),)
    id: Mapped[UUID] = mapped_column(primary_key=True, doc="made where it was typed")
    sequence: Mapped[int] = mapped_column(BigInteger, Identity(always=True), unique=True)
    call_id: Mapped[UUID] = mapped_column(ForeignKey("call.id"), index=True)
    reading_id: Mapped[str] = mapped_column(Text)
    action: Mapped[str] = mapped_column(Text)
    reading: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    entered_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now, server_default=func.now())
    person_id: Mapped[UUID | None] = mapped_column(ForeignKey("person.id"), doc="who said it; none: not known")


class UnreadAnswerRow(Base):
    """What is said of a circuit before anything was read on it: the same for everybody, and the slowest to find."""

    __tablename__ = "unread_answer"
    key: Mapped[str] = mapped_column(Text, primary_key=True, doc="of circuit, scope and what is known beforehand")
    engine: Mapped[str] = mapped_column(Text, doc="version of the core that said so")
    answer: Mapped[dict[str, Any]] = mapped_column(JSONB)


class LoadTestRow(Base):
    """Volts and amps over time, and what was found in them."""

    __tablename__ = "load_test"
    id: Mapped[UUID] = mapped_column(primary_key=True, doc="made where it was begun")
    call_id: Mapped[UUID] = mapped_column(ForeignKey("call.id"), index=True)
    title: Mapped[str] = mapped_column(Text)
    source: Mapped[str] = mapped_column(Text)
    begun_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    touched_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    channels: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)
    state: Mapped[str] = mapped_column(Text)
    progress: Mapped[float] = mapped_column(default=0.0)
    why: Mapped[str] = mapped_column(Text, default="", doc="why it failed")
    rows: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), doc="what became of a file's rows")
    report: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))


class LoadChunkRow(Base):
    """Some samples of a load test in their order, as little-endian numbers."""

    __tablename__ = "load_chunk"
    load_test_id: Mapped[UUID] = mapped_column(ForeignKey("load_test.id", ondelete="CASCADE"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    from_s: Mapped[float]
    to_s: Mapped[float]
    samples: Mapped[int]
    seconds: Mapped[bytes] = mapped_column(doc="(samples,) of 8 bytes")
    values: Mapped[bytes] = mapped_column(doc="(channels, samples) of 4 bytes")
    overview: Mapped[bytes] = mapped_column(doc="(2, channels, stretches) of 4 bytes: lowest, highest of 64 samples")


class PhotoRow(Base):
    """A photo, where on the circuit it was taken, and what it shows."""

    __tablename__ = "photo"
    id: Mapped[UUID] = mapped_column(primary_key=True, doc="made where it was taken")
    call_id: Mapped[UUID] = mapped_column(ForeignKey("call.id"), index=True)
    part: Mapped[str | None] = mapped_column(Text)
    lane: Mapped[str | None] = mapped_column(Text)
    words: Mapped[str] = mapped_column(Text)
    added_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now, server_default=func.now())
    width: Mapped[int]
    height: Mapped[int]
    jpeg: Mapped[bytes]
    thumb: Mapped[bytes]
