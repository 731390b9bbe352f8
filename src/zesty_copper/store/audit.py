"""The log of who changed what: written with the change itself, so that neither is ever without the other."""

from collections.abc import Iterable
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import event, inspect, select
from sqlalchemy.orm import Session, UOWTransaction

from zesty_copper.store.records import AuditLine, AuditPage
from zesty_copper.store.tables import AuditRow, Base, CallRow, EquipmentRow, PersonRow, SiteRow

__all__ = ["act_as", "lines", "note"]

WATCHED: dict[type[Base], tuple[str, ...]] = {
    CallRow: (
        "scope",
        "circuit",
        "ratings",
        "repair",
        "complaint",
        "technician_id",
        "starts_at",
        "status",
        "visit",
        "deleted_at",
    ),
    EquipmentRow: ("circuit", "name"),
    SiteRow: ("feeds", "name", "address"),
    PersonRow: ("name", "role", "may_open_panels", "is_active"),
}
"""Whatever changes one of these writes a line, by which way ever it came."""


def act_as(session: Session, person_id: UUID | None) -> None:
    """Say in whose name a session changes things."""
    session.info["person_id"] = person_id


def note(
    session: Session,
    what: str,
    *,
    call_id: UUID | None = None,
    about_id: UUID | None = None,
    before: object = None,
    after: object = None,
) -> None:
    """Write a line in the name of whom the session acts for."""
    fields = {"call_id": call_id, "about_id": about_id, "before": before, "after": after}
    session.add(AuditRow(person_id=session.info.get("person_id"), what=what, **fields))


@event.listens_for(Session, "before_flush")
def _watch(session: Session, _: UOWTransaction, __: Iterable[object] | None) -> None:
    for row in session.dirty:
        for name in WATCHED.get(type(row), ()):
            changed = inspect(row).attrs[name].history
            before, after = (values[0] if values else None for values in (changed.deleted, changed.added))
            if changed.has_changes() and before != after:
                is_call = isinstance(row, CallRow)
                row_id: UUID = row.id
                where: dict[str, Any] = {"call_id": row_id} if is_call else {"about_id": row_id}
                note(session, f"{row.__tablename__}.{name}", **where, before=_plain(before), after=_plain(after))


def _plain(value: object) -> object:
    """As JSON has it."""
    return str(value) if isinstance(value, datetime | UUID) else value


def lines(session: Session, call_id: UUID | None = None, before: int | None = None, most: int = 50) -> AuditPage:
    """Return some lines, the latest first.

    Parameters
    ----------
    call_id
        Of one call alone.
    before
        The last line of the page before.
    most
        How many at most.
    """
    query = (
        select(AuditRow, PersonRow.name, CallRow.complaint)
        .outerjoin(PersonRow, PersonRow.id == AuditRow.person_id)
        .outerjoin(CallRow, CallRow.id == AuditRow.call_id)
        .order_by(AuditRow.sequence.desc())
        .limit(most + 1)
    )
    if call_id is not None:
        query = query.where(AuditRow.call_id == call_id)
    if before is not None:
        query = query.where(AuditRow.sequence < before)
    rows = session.execute(query).all()
    about = {row.about_id for row, _, __ in rows if row.about_id is not None}
    names: dict[UUID, str] = {}
    for table in (PersonRow, EquipmentRow, SiteRow):
        named = session.execute(select(table.id, table.name).where(table.id.in_(about)))
        names |= {row[0]: row[1] for row in named}
    listed = tuple(
        AuditLine(
            sequence=row.sequence,
            at=row.at,
            who=who,
            what=row.what,
            call_id=row.call_id,
            about=complaint if row.about_id is None else names.get(row.about_id),
            before=row.before,
            after=row.after,
        )
        for row, who, complaint in rows[:most]
    )
    return AuditPage(lines=listed, next=listed[-1].sequence if len(rows) > most else None)
