"""Everything that reads or writes calls; what is said in them is in `entries`."""

from collections.abc import Collection, Iterator
from datetime import UTC, datetime
from typing import Annotated, Any
from uuid import UUID

from pydantic import AwareDatetime, BeforeValidator, Field
from sqlalchemy import ColumnElement, and_, delete, false, func, literal_column, not_, or_, select, tuple_
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import BadInput, Conflict, NotFound, Unreadable
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Person, Role
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.store import audit
from zesty_copper.store.entries import counted, last_of, stands
from zesty_copper.store.records import (
    MOST_KEPT,
    Call,
    CallDetails,
    CallPage,
    CallStatus,
    CallSummary,
    Found,
    Kept,
    RatingNotes,
    Versions,
    status_of,
)
from zesty_copper.store.stored import check_seen, read, read_or, version
from zesty_copper.store.tables import CallRow, EntryRow, EquipmentRow, PersonRow, ShareRow, SiteRow, UnreadAnswerRow

__all__ = [
    "CallFilter",
    "add_call",
    "call",
    "calls",
    "change_details",
    "delete_call",
    "drop_calculation",
    "has_call",
    "is_seen_by",
    "keep_calculation",
    "keep_unread_answer",
    "restore_call",
    "scope",
    "sees_site",
    "set_circuit",
    "set_found",
    "set_ratings",
    "set_scope",
    "set_sheet",
    "share",
    "stamp",
    "unread_answer",
]


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


_LISTED = (
    CallRow.id,
    CallRow.complaint,
    CallRow.starts_at,
    CallRow.scope,
    CallRow.found,
    CallRow.status,
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
        select(*_LISTED)
        .join(CallRow.technician)
        .join(CallRow.equipment)
        .join(EquipmentRow.site)
        .where(_seen_by(person))
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
    listed = tuple(_summary(row, standing.get(row.id, 0)) for row in rows[:most])
    return CallPage(calls=listed, next=listed[-1].id if len(rows) > most else None)


def _conditions(wanted: CallFilter) -> Iterator[ColumnElement[bool]]:
    searched = (CallRow.complaint, SiteRow.name, SiteRow.address, EquipmentRow.name, PersonRow.name)
    for word in wanted.search.split():
        yield or_(*(column.icontains(word, autoescape=True) for column in searched))
    is_found = func.coalesce(CallRow.found["standing"].astext == Standing.SURE, false())
    match wanted.status:
        case CallStatus.OPEN:
            yield and_(CallRow.status == "open", not_(is_found))
        case CallStatus.FOUND:
            yield and_(CallRow.status == "open", is_found)
        case CallStatus.WAITING | CallStatus.DONE:
            yield CallRow.status == wanted.status
        case None:
            pass
    if wanted.technician_id is not None:
        yield CallRow.technician_id == wanted.technician_id
    if wanted.site_id is not None:
        yield SiteRow.id == wanted.site_id
    if wanted.equipment_id is not None:
        yield CallRow.equipment_id == wanted.equipment_id
    if wanted.since is not None:
        yield CallRow.starts_at >= wanted.since
    if wanted.until is not None:
        yield CallRow.starts_at < wanted.until


def add_call(
    session: Session,
    *,
    call_id: UUID,
    technician_id: UUID,
    equipment_id: UUID,
    complaint: str,
    starts_at: datetime,
    scope: Scope,
    circuit: Circuit,
) -> None:
    """Store a call; the same one sent again changes nothing, whatever became of it since.

    Raises
    ------
    NotFound
        If the technician or the equipment is not on file.
    Conflict
        If another call is stored under this id.
    """
    if session.get(PersonRow, technician_id) is None:
        raise NotFound("This technician is not on the list.", "technician_id")
    if session.get(EquipmentRow, equipment_id) is None:
        raise NotFound("This equipment is not on file.", "equipment_id")
    session.execute(
        insert(CallRow)
        .values(
            id=call_id,
            technician_id=technician_id,
            equipment_id=equipment_id,
            complaint=complaint,
            starts_at=starts_at,
            scope=scope.model_dump(mode="json"),
            circuit=circuit.model_dump(mode="json"),
        )
        .on_conflict_do_nothing()
    )
    row = session.get_one(CallRow, call_id)
    stored = (row.technician_id, row.equipment_id, row.complaint, row.starts_at)
    if stored != (technician_id, equipment_id, complaint, starts_at):
        raise Conflict("Another call is on file under this id: look again before you open one.", "id")


def has_call(session: Session, call_id: UUID) -> bool:
    """Whether a call is on file."""
    return session.get(CallRow, call_id) is not None


def stamp(session: Session, call_id: UUID) -> str:
    """Return what is another text as soon as anything of a call was changed, read without reading the call.

    Raises
    ------
    NotFound
        If the call is not on file.
    """
    last = select(func.max(EntryRow.sequence)).where(EntryRow.call_id == call_id).scalar_subquery()
    # PostgreSQL keeps with every row the transaction that wrote it.
    row = session.execute(select(literal_column("call.xmin::text"), last).where(CallRow.id == call_id)).one_or_none()
    if row is None:
        raise NotFound("This call is not on file.", "call_id")
    return f"{row[0]}-{row[1] or 0}"


def call(session: Session, call_id: UUID) -> Call:
    """Return one call with everything said in it, or raise NotFound."""
    found = session.execute(
        select(CallRow.circuit, CallRow.ratings, *_LISTED)
        .join(CallRow.technician)
        .join(CallRow.equipment)
        .join(EquipmentRow.site)
        .where(CallRow.id == call_id)
    )
    row = found.one_or_none()
    if row is None:
        raise NotFound("This call is not on file.", "call_id")
    standing, unread = stands(session, call_id)
    sheets: dict[str, Any] = (row.ratings or {}).get("sheets", {})
    notes, unread_ratings = RatingNotes(), ""
    try:
        notes = read(RatingNotes, row.ratings or {})
    except Unreadable as error:
        unread_ratings = error.message
    return Call(
        summary=_summary(row, len(standing) + len(unread)),
        circuit=read(Circuit, row.circuit),
        stands=tuple(standing),
        unread=tuple(unread),
        last=last_of(session, call_id),
        ratings=notes,
        unread_ratings=unread_ratings,
        versions=Versions(
            circuit=version(row.circuit),
            scope=version(row.scope),
            sheets={source: version(sheet) for source, sheet in sheets.items()},
        ),
        shared_with=tuple(session.scalars(select(ShareRow.person_id).where(ShareRow.call_id == call_id))),
    )


def set_sheet(session: Session, call_id: UUID, source: str, sheet: Sheet | None, seen: str | None = None) -> None:
    """Keep what was entered for one supply of a call; none goes back to what the circuit says.

    Raises
    ------
    NotFound
        If the call is not on file.
    Conflict
        If the sheet is no longer the version that was seen; `""` means that none was there.
    """
    row = _locked_call(session, call_id)
    # As it is stored, not as it is read: so one that can no longer be read is replaced, and the others stay.
    notes: dict[str, Any] = row.ratings or {}
    sheets = dict(notes.get("sheets", {}))
    check_seen(sheets.pop(source, None), version(None) if seen == "" else seen, "sheet")
    if sheet is not None:
        sheets[source] = sheet.model_dump(mode="json")
    row.ratings = {**notes, "sheets": sheets}
    session.flush()


def set_ratings(session: Session, call_id: UUID, notes: RatingNotes) -> None:
    """Keep everything that was entered for a call's ratings, in place of what was."""
    _locked_call(session, call_id).ratings = notes.model_dump(mode="json")
    session.flush()


def share(session: Session, call_id: UUID, with_whom: Collection[UUID]) -> None:
    """Say who else works on a call, or was handed it.

    Raises
    ------
    NotFound
        If the call, or somebody, is not on file.
    """
    _locked_call(session, call_id)
    before = set(session.scalars(select(ShareRow.person_id).where(ShareRow.call_id == call_id)))
    known = set(session.scalars(select(PersonRow.id).where(PersonRow.id.in_(with_whom), PersonRow.is_active)))
    if not set(with_whom) - before <= known:
        raise NotFound("Somebody in this choice is not on the list: choose again.", "people")
    if before == set(with_whom):
        return
    session.execute(delete(ShareRow).where(ShareRow.call_id == call_id))
    session.add_all(ShareRow(call_id=call_id, person_id=one) for one in sorted(with_whom))
    after = sorted(map(str, with_whom))
    audit.note(session, "call.people", call_id=call_id, before=sorted(map(str, before)), after=after)
    session.flush()


def is_seen_by(session: Session, call_id: UUID, person: Person, *, deleted: bool = False) -> bool:
    """Whether a call is on the list, or was taken off it, and is somebody's to see."""
    here = select(CallRow.id).where(CallRow.id == call_id, _seen_by(person, deleted=deleted))
    return session.scalar(here) is not None


def sees_site(session: Session, site_id: UUID, person: Person) -> bool:
    """Whether a site is on file, and somebody's to see: all, or those of their calls."""
    site = select(SiteRow.id).where(SiteRow.id == site_id)
    if not person.role.sees_all_sites:
        here = select(CallRow.id).join(CallRow.equipment).where(EquipmentRow.site_id == site_id, _seen_by(person))
        site = site.where(here.exists())
    return session.scalar(site) is not None


def change_details(session: Session, call_id: UUID, details: CallDetails) -> None:
    """Change a call's head; what is none stays as it is.

    Raises
    ------
    NotFound
        If the call, or whom it is given to, is not on file.
    """
    row = _locked_call(session, call_id)
    changed = details.model_dump(exclude_none=True)
    if details.technician_id is not None and session.get(PersonRow, details.technician_id) is None:
        raise NotFound("This technician is not on the list.", "technician_id")
    for name, value in changed.items():
        setattr(row, name, value)
    session.flush()


def delete_call(session: Session, call_id: UUID) -> None:
    """Take a call off the list; nothing of it is lost."""
    row = _locked_call(session, call_id)
    row.deleted_at = row.deleted_at or datetime.now(UTC)
    session.flush()


def restore_call(session: Session, call_id: UUID) -> None:
    """Put a call back on the list."""
    _locked_call(session, call_id).deleted_at = None
    session.flush()


def _seen_by(person: Person, *, deleted: bool = False) -> ColumnElement[bool]:
    """Which calls are somebody's to see: those on the list, or those taken off it."""
    is_there = CallRow.deleted_at.is_not(None) if deleted else CallRow.deleted_at.is_(None)
    if person.role.sees_all_calls:
        return is_there
    shared = select(ShareRow.call_id).where(ShareRow.person_id == person.id)
    return and_(is_there, or_(CallRow.technician_id == person.id, CallRow.id.in_(shared)))


def keep_calculation(session: Session, call_id: UUID, kept: Kept) -> None:
    """Keep a calculation to a call; one that is kept already changes nothing.

    Raises
    ------
    Conflict
        If another calculation is kept under this id.
    BadInput
        If the call holds as many as it can.
    """
    row = _locked_call(session, call_id)
    notes = read(RatingNotes, row.ratings or {})
    same = next((one for one in notes.kept if one.id == kept.id), None)
    if same == kept:
        return
    if same is not None:
        raise Conflict("Another calculation is kept under this id: keep it anew.", "id")
    if len(notes.kept) >= MOST_KEPT:
        raise BadInput(f"A call keeps {MOST_KEPT} calculations: take one out first.", "id")
    row.ratings = notes.model_copy(update={"kept": (*notes.kept, kept)}).model_dump(mode="json")
    session.flush()


def drop_calculation(session: Session, call_id: UUID, kept_id: UUID) -> None:
    """Take a kept calculation out of a call; one that is gone already changes nothing."""
    row = _locked_call(session, call_id)
    notes = read(RatingNotes, row.ratings or {})
    left = tuple(one for one in notes.kept if one.id != kept_id)
    row.ratings = notes.model_copy(update={"kept": left}).model_dump(mode="json")
    session.flush()


def _locked_call(session: Session, call_id: UUID) -> CallRow:
    """Return a call's row as it stands now, for one writer at a time, or raise NotFound."""
    # Whatever was loaded before the lock was held may have been changed by the writer before.
    row = session.get(CallRow, call_id, with_for_update=True, populate_existing=True)
    if row is None:
        raise NotFound("This call is not on file.", "call_id")
    return row


def scope(session: Session, call_id: UUID) -> Scope:
    """Return a call's scope as it stands, held for the one writer who asks; raises NotFound, Unreadable."""
    return read(Scope, _locked_call(session, call_id).scope)


def set_scope(session: Session, call_id: UUID, scope: Scope, seen: str | None = None) -> None:
    """Say how far the technician may go on this call, in which order and with what.

    Raises
    ------
    NotFound
        If the call is not on file.
    Conflict
        If its scope is no longer the version that was seen.
    """
    row = _locked_call(session, call_id)
    check_seen(row.scope, seen, "scope")
    row.scope = scope.model_dump(mode="json")
    session.flush()


def set_found(session: Session, call_id: UUID, found: Found | None, after: int) -> None:
    """Keep what a call's diagnosis says, for the list, unless more was said since the entry it came after."""
    row = _locked_call(session, call_id)
    if last_of(session, call_id) != after:
        return
    row.found = None if found is None else found.model_dump(mode="json")
    session.flush()


def set_circuit(session: Session, call_id: UUID, circuit: Circuit, seen: str | None = None) -> None:
    """Put a changed circuit on file, for the call and for its equipment; other calls keep theirs.

    Raises
    ------
    NotFound
        If the call is not on file.
    Conflict
        If its circuit is no longer the version that was seen.
    """
    row = _locked_call(session, call_id)
    check_seen(row.circuit, seen, "circuit")
    row.circuit = row.equipment.circuit = circuit.model_dump(mode="json")
    session.flush()


def unread_answer(session: Session, key: str) -> Diagnosis | None:
    """Return what is kept of a circuit before anything was read on it; none where nothing is."""
    row = session.get(UnreadAnswerRow, key)
    return None if row is None else read_or(Diagnosis, row.answer, None)


def keep_unread_answer(session: Session, key: str, engine: str, answer: Diagnosis) -> None:
    """Keep it, and let go of what other versions of the core have said."""
    session.execute(delete(UnreadAnswerRow).where(UnreadAnswerRow.engine != engine))
    values = {"key": key, "engine": engine, "answer": answer.model_dump(mode="json")}
    session.execute(insert(UnreadAnswerRow).values(**values).on_conflict_do_nothing())


def _summary(row: Any, readings: int) -> CallSummary:
    """Return a call as lists show it, from the columns of `_LISTED`."""
    found = None if row.found is None else read_or(Found, row.found, None)
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
    )
