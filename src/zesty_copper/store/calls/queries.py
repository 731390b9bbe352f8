"""Everything that reads or writes calls; what is said in them is in `entries`."""

from collections.abc import Collection
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from sqlalchemy import delete, func, literal_column, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Diagnosis
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import BadInput, Conflict, NotFound, Unreadable
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Person
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.store import audit
from zesty_copper.store.calls.entries import last_of, stands
from zesty_copper.store.calls.listing import LISTED, seen_by, summary_of
from zesty_copper.store.calls.past import past_of
from zesty_copper.store.calls.stored import check_seen, read, read_or, version
from zesty_copper.store.clock import now
from zesty_copper.store.records import (
    MOST_KEPT,
    Call,
    CallDetails,
    Found,
    Kept,
    RatingNotes,
    Versions,
    Visit,
)
from zesty_copper.store.tables import CallRow, EntryRow, EquipmentRow, PersonRow, ShareRow, SiteRow, UnreadAnswerRow

__all__ = [
    "add_call",
    "call",
    "change_details",
    "delete_call",
    "drop_calculation",
    "has_call",
    "is_seen_by",
    "keep_calculation",
    "keep_unread_answer",
    "repair_notes",
    "restore_call",
    "scope",
    "sees_site",
    "set_circuit",
    "set_found",
    "set_ratings",
    "set_repair",
    "set_scope",
    "set_sheet",
    "share",
    "stamp",
    "unread_answer",
]


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
    visit: Visit = Visit.SERVICE,
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
            visit=visit,
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
    rows = session.execute(
        select(CallRow.circuit, CallRow.ratings, *LISTED)
        .join(CallRow.technician)
        .join(CallRow.equipment)
        .join(EquipmentRow.site)
        .where(CallRow.id == call_id)
    )
    row = rows.one_or_none()
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
        summary=summary_of(row, len(standing) + len(unread)),
        circuit=read(Circuit, row.circuit),
        stands=tuple(standing),
        unread=tuple(unread),
        last=last_of(session, call_id),
        ratings=notes,
        unread_ratings=unread_ratings,
        repair=read(RepairNotes, row.repair or {}),
        past=past_of(session, call_id, row.equipment_id, row.circuit.get("name", "")),
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


def _put(session: Session, call_id: UUID, column: Literal["repair", "scope"], value: Frozen, seen: str | None) -> None:
    """Put a value in place of the one that was seen; raises NotFound, Conflict."""
    row = _locked_call(session, call_id)
    check_seen(getattr(row, column), seen, column)
    setattr(row, column, value.model_dump(mode="json"))
    session.flush()


def repair_notes(session: Session, call_id: UUID) -> RepairNotes:
    """Return what was noted about a call's repair, held for the one writer who asks; raises NotFound, Unreadable."""
    return read(RepairNotes, _locked_call(session, call_id).repair or {})


def set_repair(session: Session, call_id: UUID, notes: RepairNotes) -> None:
    """Keep what was chosen and noted about a call's repair, in place of what was; raises NotFound."""
    _put(session, call_id, "repair", notes, None)


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
    active_ids = set(session.scalars(select(PersonRow.id).where(PersonRow.id.in_(with_whom), PersonRow.is_active)))
    if not set(with_whom) - before <= active_ids:
        raise NotFound("Somebody in this choice is not on the list: choose again.", "people")
    if before == set(with_whom):
        return
    session.execute(delete(ShareRow).where(ShareRow.call_id == call_id))
    session.add_all(ShareRow(call_id=call_id, person_id=person) for person in sorted(with_whom))
    after = sorted(map(str, with_whom))
    audit.note(session, "call.people", call_id=call_id, before=sorted(map(str, before)), after=after)
    session.flush()


def is_seen_by(session: Session, call_id: UUID, person: Person, *, deleted: bool = False) -> bool:
    """Whether a call is on the list, or was taken off it, and is somebody's to see."""
    visible = select(CallRow.id).where(CallRow.id == call_id, seen_by(person, deleted=deleted))
    return session.scalar(visible) is not None


def sees_site(session: Session, site_id: UUID, person: Person) -> bool:
    """Whether a site is on file, and somebody's to see: all, or those of their calls."""
    site = select(SiteRow.id).where(SiteRow.id == site_id)
    if not person.role.sees_all_sites:
        visible = select(CallRow.id).join(CallRow.equipment).where(EquipmentRow.site_id == site_id, seen_by(person))
        site = site.where(visible.exists())
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
    row.deleted_at = row.deleted_at or now()
    session.flush()


def restore_call(session: Session, call_id: UUID) -> None:
    """Put a call back on the list."""
    _locked_call(session, call_id).deleted_at = None
    session.flush()


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
    same = next((kept_sum for kept_sum in notes.kept if kept_sum.id == kept.id), None)
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
    kepts = tuple(kept_sum for kept_sum in notes.kept if kept_sum.id != kept_id)
    row.ratings = notes.model_copy(update={"kept": kepts}).model_dump(mode="json")
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
    _put(session, call_id, "scope", scope, seen)


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
