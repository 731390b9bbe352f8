"""The tables. Rows stay inside the store; what leaves it are values of `records`."""

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, CheckConstraint, DateTime, ForeignKey, Identity, MetaData, Text, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

__all__ = ["Base", "CallRow", "EntryRow", "EquipmentRow", "SiteRow", "TechnicianRow", "UnreadAnswerRow"]


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


class TechnicianRow(Base):
    """Someone who takes readings."""

    __tablename__ = "technician"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(Text, unique=True)
    may_open_panels: Mapped[bool]


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
    id: Mapped[UUID] = mapped_column(primary_key=True)
    technician_id: Mapped[UUID] = mapped_column(ForeignKey("technician.id"), index=True)
    equipment_id: Mapped[UUID] = mapped_column(ForeignKey("equipment.id"), index=True)
    complaint: Mapped[str] = mapped_column(Text)
    starts_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), index=True)
    scope: Mapped[dict[str, Any]] = mapped_column(JSONB)
    circuit: Mapped[dict[str, Any]] = mapped_column(JSONB)
    ratings: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), doc="sheets and kept sums")
    found: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), doc="what was last said of it")
    technician: Mapped[TechnicianRow] = relationship()
    equipment: Mapped[EquipmentRow] = relationship()
    entries: Mapped[list["EntryRow"]] = relationship(order_by="EntryRow.sequence")


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
    entered_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class UnreadAnswerRow(Base):
    """What is said of a circuit before anything was read on it: the same for everybody, and the slowest to find."""

    __tablename__ = "unread_answer"
    key: Mapped[str] = mapped_column(Text, primary_key=True, doc="of circuit, scope and what is known beforehand")
    engine: Mapped[str] = mapped_column(Text, doc="version of the core that said so")
    answer: Mapped[dict[str, Any]] = mapped_column(JSONB)
