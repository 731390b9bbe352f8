"""Everything that reads or writes calls."""

import json
from collections.abc import Sequence
from datetime import datetime
from hashlib import sha256
from typing import Any
from uuid import UUID

from sqlalchemy import delete, func, literal_column, or_, select, tuple_
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, contains_eager, defer, joinedload, selectinload

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Diagnosis
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import BadInput, Conflict, NotFound
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.store.filing import technician_of
from zesty_copper.store.records import (
    MOST_KEPT,
    Action,
    Call,
    CallPage,
    CallSummary,
    Entry,
    Found,
    Kept,
    RatingNotes,
    StoredEntry,
    Versions,
    fold,
)
from zesty_copper.store.stored import read, read_or
from zesty_copper.store.tables import CallRow, EntryRow, EquipmentRow, SiteRow, TechnicianRow, UnreadAnswerRow

__all__ = [
    "add_call",
    "add_entry",
    "call",
    "calls",
    "drop_calculation",
    "entries",
    "has_call",
    "keep_calculation",
    "keep_unread_answer",
    "raw_call",
    "set_circuit",
    "set_found",
    "set_scope",
    "set_sheet",
    "stamp",
    "unread_answer",
]


MOST_ENTRIES = 10_000
"""What may be said in one call, corrections and withdrawals among it."""


def calls(session: Session, search: str = "", after: UUID | None = None, most: int = 50) -> CallPage:
    """Return some calls, the latest first, whose words or names hold all words of a search.

    Parameters
    ----------
    after
        The last call of the page before.
    most
        How many at most.

    Raises
    ------
    NotFound
        If `after` is not on file.
    """
    query = (
        select(CallRow)
        .join(CallRow.technician)
        .join(CallRow.equipment)
        .join(EquipmentRow.site)
        .options(
            contains_eager(CallRow.technician),
            contains_eager(CallRow.equipment).contains_eager(EquipmentRow.site),
            defer(CallRow.circuit),
            defer(CallRow.ratings),
            contains_eager(CallRow.equipment).defer(EquipmentRow.circuit),
        )
        .order_by(CallRow.starts_at.desc(), CallRow.id.desc())
        .limit(most + 1)
    )
    searched = (CallRow.complaint, SiteRow.name, SiteRow.address, EquipmentRow.name, TechnicianRow.name)
    for word in search.split():
        query = query.where(or_(*(column.icontains(word, autoescape=True) for column in searched)))
    if after is not None:
        last = select(CallRow.starts_at, CallRow.id).where(CallRow.id == after).subquery()
        query = query.where(
            tuple_(CallRow.starts_at, CallRow.id) < select(last.c.starts_at, last.c.id).scalar_subquery()
        )
    rows = session.scalars(query).all()
    standing = _standing(session, [row.id for row in rows])
    listed = tuple(_summary(row, standing.get(row.id, 0)) for row in rows[:most])
    return CallPage(calls=listed, next=listed[-1].id if len(rows) > most else None)


def _standing(session: Session, call_ids: Sequence[UUID]) -> dict[UUID, int]:
    """How many readings and looks stand in some calls, counted where they lie."""
    last = (
        select(EntryRow.call_id, EntryRow.action)
        .where(EntryRow.call_id.in_(call_ids))
        .distinct(EntryRow.call_id, EntryRow.reading_id)
        .order_by(EntryRow.call_id, EntryRow.reading_id, EntryRow.sequence.desc())
        .subquery()
    )
    counted = select(last.c.call_id, func.count()).where(last.c.action != Action.WITHDRAW).group_by(last.c.call_id)
    return {row[0]: row[1] for row in session.execute(counted)}


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
    if session.get(TechnicianRow, technician_id) is None:
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
    row = session.get(
        CallRow,
        call_id,
        options=[
            joinedload(CallRow.technician),
            joinedload(CallRow.equipment).joinedload(EquipmentRow.site),
            selectinload(CallRow.entries),
        ],
    )
    if row is None:
        raise NotFound("This call is not on file.", "call_id")
    said = tuple(_entry(entry) for entry in row.entries)
    return Call(
        summary=_summary(row, len(fold(said))),
        circuit=read(Circuit, row.circuit),
        entries=said,
        ratings=read(RatingNotes, row.ratings or {}),
        versions=Versions(circuit=_version(row.circuit), scope=_version(row.scope)),
    )


def set_sheet(session: Session, call_id: UUID, source: str, sheet: Sheet | None) -> None:
    """Keep what was entered for one supply of a call; none goes back to what the circuit says."""
    row = _locked_call(session, call_id)
    notes = read(RatingNotes, row.ratings or {})
    sheets = {key: one for key, one in notes.sheets.items() if key != source}
    if sheet is not None:
        sheets[source] = sheet
    row.ratings = notes.model_copy(update={"sheets": sheets}).model_dump(mode="json")
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
    _check_seen(row.scope, seen, "scope")
    row.scope = scope.model_dump(mode="json")
    session.flush()


def _check_seen(stored: dict[str, Any], seen: str | None, what: str) -> None:
    if seen is not None and seen != _version(stored):
        raise Conflict(f"Somebody changed the {what} meanwhile: look at theirs, or keep yours.", what, now=stored)


def _version(stored: dict[str, Any]) -> str:
    """Tell what is stored from anything else in its place."""
    return sha256(json.dumps(stored, sort_keys=True).encode()).hexdigest()[:16]


def set_found(session: Session, call_id: UUID, found: Found | None, after: int) -> None:
    """Keep what a call's diagnosis says, for the list, unless more was said than the entries it came after."""
    row = _locked_call(session, call_id)
    if session.scalar(select(func.count()).select_from(EntryRow).where(EntryRow.call_id == call_id)) != after:
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
    _check_seen(row.circuit, seen, "circuit")
    row.circuit = row.equipment.circuit = circuit.model_dump(mode="json")
    session.flush()


def add_entry(session: Session, call_id: UUID, entry: Entry, *, follows: UUID | None = None) -> None:
    """Store what was said about a reading; an entry that is already stored changes nothing.

    Parameters
    ----------
    follows
        The last entry about the reading that the sender knew, if it was told: what came since is not undone by it.

    Raises
    ------
    NotFound
        If the call, or the reading to correct or withdraw, is not on file.
    Conflict
        If an added reading is there already, the entry's id was used for something else, or another entry came since.
    BadInput
        If the call holds as many entries as it can.
    """
    # One writer per call at a time, so that the checks below still hold when the entry is stored.
    if session.scalar(select(CallRow.id).where(CallRow.id == call_id).with_for_update()) is None:
        raise NotFound("This call is not on file.", "call_id")
    reading = entry.reading.model_dump(mode="json") if entry.reading else None
    known = session.get(EntryRow, entry.id)
    if known is not None:
        if (known.call_id, known.reading_id, known.action) != (call_id, entry.reading_id, entry.action):
            raise Conflict("This entry's id was already used for another entry: send it under a new one.", "id")
        if known.reading is not None and _entry(known).reading != entry.reading:
            raise Conflict("This entry was stored with another number: correct the reading instead.", "id")
        return
    said = session.scalar(
        select(EntryRow.id)
        .where(EntryRow.call_id == call_id, EntryRow.reading_id == entry.reading_id)
        .order_by(EntryRow.sequence.desc())
        .limit(1)
    )
    if entry.action is Action.ADD and said is not None:
        raise Conflict("A reading of this id is on file already: correct it instead.", "reading_id")
    if entry.action is not Action.ADD and said is None:
        raise NotFound("The reading to change is not on file.", "reading_id")
    if follows is not None and said != follows:
        raise Conflict("This was changed or withdrawn meanwhile: look at it again before you change it.", "follows")
    count = session.scalar(select(func.count()).select_from(EntryRow).where(EntryRow.call_id == call_id)) or 0
    if count >= MOST_ENTRIES:
        raise BadInput(f"A call holds {MOST_ENTRIES} entries: open another call for what follows.", "id")
    session.add(
        EntryRow(
            id=entry.id,
            call_id=call_id,
            reading_id=entry.reading_id,
            action=entry.action,
            reading=reading,
        )
    )
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


def entries(session: Session, call_id: UUID) -> tuple[StoredEntry, ...]:
    """Return everything said in a call, or raise NotFound."""
    if not has_call(session, call_id):
        raise NotFound("This call is not on file.", "call_id")
    rows = session.scalars(select(EntryRow).where(EntryRow.call_id == call_id).order_by(EntryRow.sequence))
    return tuple(map(_entry, rows))


def raw_call(session: Session, call_id: UUID) -> dict[str, Any]:
    """Return a call as it is stored, whether or not it can still be read."""
    row = session.get(CallRow, call_id, options=[selectinload(CallRow.entries)])
    if row is None:
        raise NotFound("This call is not on file.", "call_id")
    said = [
        {"id": str(one.id), "action": one.action, "reading_id": one.reading_id, "reading": one.reading}
        for one in row.entries
    ]
    return {"circuit": row.circuit, "scope": row.scope, "ratings": row.ratings, "entries": said}


def _entry(row: EntryRow) -> StoredEntry:
    told = {
        "id": row.id,
        "action": row.action,
        "reading_id": row.reading_id,
        "reading": row.reading,
        "entered_at": row.entered_at,
    }
    return read(StoredEntry, told)


def _summary(row: CallRow, readings: int) -> CallSummary:
    return CallSummary(
        id=row.id,
        technician=technician_of(row.technician),
        site_id=row.equipment.site.id,
        site_name=row.equipment.site.name,
        site_address=row.equipment.site.address,
        equipment_name=row.equipment.name,
        complaint=row.complaint,
        starts_at=row.starts_at,
        # What a list cannot read it leaves out; the narrowest scope sends nobody anywhere.
        scope=read_or(Scope, row.scope, Scope()),
        readings=readings,
        found=None if row.found is None else read_or(Found, row.found, None),
    )
