"""The list of calls: which of them are whose to see, narrowed by what is asked, and what a list shows of each."""

from collections.abc import Iterator
from typing import Annotated, Any
from uuid import UUID

from pydantic import AwareDatetime, BeforeValidator, Field
from sqlalchemy import ColumnElement, and_, false, func, not_, or_, select, tuple_
from sqlalchemy.orm import Session

from zesty_copper.core.diagnosis.model.answer import Standing
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Person, Role
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.core.repair.proving.notes import Outcome
from zesty_copper.store.calls.entries import counted
from zesty_copper.store.calls.stored import read_or
from zesty_copper.store.records import CallPage, CallStatus, CallSummary, Found, Visit, status_of
from zesty_copper.store.tables import CallRow, EquipmentRow, PersonRow, ShareRow, SiteRow

__all__ = ["LISTED", "CallFilter", "calls", "seen_by", "summary_of"]


def _as_written(told: object) -> object:
    """Refuse what is no written date: a bare number would be taken for seconds since 1970."""
    if isinstance(told, str) and "-" not in told[1:]:
        raise ValueError("Write the moment as a date and time, with its zone.")
    return told


Moment = Annotated[AwareDatetime, BeforeValidator(_as_written)]


class CallFilter(Frozen):
    """Which calls to list: those that are all of what is said."""

    search: str = Field(default="", max_length=80, description="words that complaint or names hold, all of them")
    status: CallStatus | None = None
    technician_id: UUID | None = None
    site_id: UUID | None = None
    equipment_id: UUID | None = None
    since: Moment | None = Field(default=None, description="calls that start at this moment or later")
    until: Moment | None = Field(default=None, description="calls that start before this moment")


LISTED = (
    CallRow.id,
    CallRow.complaint,
    CallRow.starts_at,
    CallRow.scope,
    CallRow.found,
    CallRow.status,
    CallRow.repair,
    CallRow.visit,
    CallRow.equipment_id,
    CallRow.technician_id,
    PersonRow.name.label("technician_name"),
    PersonRow.role,
    PersonRow.may_open_panels,
    PersonRow.is_active,
    EquipmentRow.name.label("equipment_name"),
    SiteRow.id.label("site_id"),
    SiteRow.name.label("site_name"),
    SiteRow.address.label("site_address"),
)
"""What a list shows of a call."""


def calls(
    session: Session, person: Person, wanted: CallFilter | None = None, after: UUID | None = None, most: int = 25
) -> CallPage:
    """Return some calls, the latest first.

    Parameters
    ----------
    person
        Whose calls to see.
    wanted
        Which of them; all by default.
    after
        The last call of the page before.
    most
        How many at most.

    Raises
    ------
    NotFound
        If `after` is not on file.
    """
    # Columns, not rows: a list is asked for often, and whole rows take three times as long to make.
    query = (
        select(*LISTED)
        .join(CallRow.technician)
        .join(CallRow.equipment)
        .join(EquipmentRow.site)
        .where(seen_by(person))
        .order_by(CallRow.starts_at.desc(), CallRow.id.desc())
        .limit(most + 1)
    )
    query = query.where(*_conditions(wanted or CallFilter()))
    if after is not None:
        last = select(CallRow.starts_at, CallRow.id).where(CallRow.id == after).subquery()
        query = query.where(
            tuple_(CallRow.starts_at, CallRow.id) < select(last.c.starts_at, last.c.id).scalar_subquery()
        )
    rows = session.execute(query).all()
    standing = counted(session, [row.id for row in rows])
    listed = tuple(summary_of(row, standing.get(row.id, 0)) for row in rows[:most])
    return CallPage(calls=listed, next=listed[-1].id if len(rows) > most else None)


def _conditions(call_filter: CallFilter) -> Iterator[ColumnElement[bool]]:
    searched = (CallRow.complaint, SiteRow.name, SiteRow.address, EquipmentRow.name, PersonRow.name)
    for word in call_filter.search.split():
        yield or_(*(column.icontains(word, autoescape=True) for column in searched))
    is_found = func.coalesce(CallRow.found["standing"].astext == Standing.SURE, false())
    match call_filter.status:
        case CallStatus.OPEN:
            yield and_(CallRow.status == "open", not_(is_found))
        case CallStatus.FOUND:
            yield and_(CallRow.status == "open", is_found)
        case CallStatus.WAITING | CallStatus.DONE:
            yield CallRow.status == call_filter.status
        case None:
            pass
    if call_filter.technician_id is not None:
        yield CallRow.technician_id == call_filter.technician_id
    if call_filter.site_id is not None:
        yield SiteRow.id == call_filter.site_id
    if call_filter.equipment_id is not None:
        yield CallRow.equipment_id == call_filter.equipment_id
    if call_filter.since is not None:
        yield CallRow.starts_at >= call_filter.since
    if call_filter.until is not None:
        yield CallRow.starts_at < call_filter.until


def seen_by(person: Person, *, deleted: bool = False) -> ColumnElement[bool]:
    """Which calls are somebody's to see: those on the list, or those taken off it."""
    is_there = CallRow.deleted_at.is_not(None) if deleted else CallRow.deleted_at.is_(None)
    if person.role.sees_all_calls:
        return is_there
    shared = select(ShareRow.call_id).where(ShareRow.person_id == person.id)
    return and_(is_there, or_(CallRow.technician_id == person.id, CallRow.id.in_(shared)))


def summary_of(row: Any, readings: int) -> CallSummary:
    """Return a call as lists show it, from the columns of `LISTED`."""
    found = None if row.found is None else read_or(Found, row.found, None)
    repair = read_or(RepairNotes, row.repair or {}, RepairNotes())
    technician = Person(
        id=row.technician_id,
        name=row.technician_name,
        role=Role(row.role),
        may_open_panels=row.may_open_panels,
        is_active=row.is_active,
    )
    return CallSummary(
        id=row.id,
        technician=technician,
        site_id=row.site_id,
        site_name=row.site_name,
        site_address=row.site_address,
        equipment_id=row.equipment_id,
        equipment_name=row.equipment_name,
        complaint=row.complaint,
        starts_at=row.starts_at,
        # What a list cannot read it leaves out; the narrowest scope sends nobody anywhere.
        scope=read_or(Scope, row.scope, Scope()),
        readings=readings,
        found=found,
        status=status_of(row.status, found),
        visit=Visit(row.visit),
        proof=repair.proof.outcome,
        not_proven=repair.proof.reason if repair.proof.outcome is Outcome.NOT_PROVEN else "",
        return_on=repair.return_on,
    )
