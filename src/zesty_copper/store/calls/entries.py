"""Everything that reads or writes what is said in a call: its entries, which are added and never changed."""

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from sqlalchemy import ARRAY, Uuid, any_, bindparam, func, select
from sqlalchemy.dialects.postgresql import distinct_on, insert
from sqlalchemy.orm import Session, selectinload

from zesty_copper.core.diagnosis.model.job import MOST_SAID
from zesty_copper.core.errors import BadInput, Conflict, NotFound, Unreadable
from zesty_copper.store.calls.stored import read
from zesty_copper.store.records import MOST_ENTRIES, Action, Entry, HistoryPage, StandingEntry, StoredEntry, Unread
from zesty_copper.store.tables import CallRow, EntryRow, PersonRow

__all__ = [
    "add_entries",
    "add_entry",
    "counted",
    "has_entries",
    "history",
    "last_of",
    "raw_call",
    "stands",
]


def stands(session: Session, call_id: UUID) -> tuple[list[StandingEntry], list[Unread]]:
    """Return what stands in a call, in the order in which it was first said, and what of it can no longer be read.

    A withdrawn reading that is corrected later stands again: that is how an undo is undone.
    """
    in_call = EntryRow.call_id == call_id
    of_each = (
        select(
            EntryRow.reading_id,
            func.min(EntryRow.sequence).label("first"),
            func.max(EntryRow.sequence).label("last"),
            (func.count(EntryRow.reading.distinct()) > 1).label("corrected"),
        )
        .where(in_call)
        .group_by(EntryRow.reading_id)
        .subquery()
    )
    first = select(EntryRow.sequence, EntryRow.entered_at).where(in_call).subquery()
    rows = session.execute(
        select(EntryRow.id, EntryRow.reading_id, EntryRow.reading, first.c.entered_at, of_each.c.corrected)
        .join(of_each, of_each.c.last == EntryRow.sequence)
        .join(first, first.c.sequence == of_each.c.first)
        .where(EntryRow.action != Action.WITHDRAW)
        .order_by(of_each.c.first)
    )
    standing, unread = [], []
    for entry_id, reading_id, entry_said, entered_at, corrected in rows:
        fields = {"said": entry_said, "entered_at": entered_at, "corrected": corrected, "entry_id": entry_id}
        try:
            standing.append(read(StandingEntry, fields))
        except Unreadable as error:
            unread.append(_unread(reading_id, entry_id, error))
    return standing, unread


def counted(session: Session, call_ids: Sequence[UUID]) -> dict[UUID, int]:
    """How many readings and looks stand in some calls, counted where they lie; calls without any are left out."""
    # One array, however many they are: the statement stays the same, and is prepared once.
    these = bindparam("calls", list(call_ids), ARRAY(Uuid))
    last = (
        select(EntryRow.call_id, EntryRow.action)
        .where(EntryRow.call_id == any_(these))
        .ext(distinct_on(EntryRow.call_id, EntryRow.reading_id))
        .order_by(EntryRow.call_id, EntryRow.reading_id, EntryRow.sequence.desc())
        .subquery()
    )
    standing = select(last.c.call_id, func.count()).where(last.c.action != Action.WITHDRAW).group_by(last.c.call_id)
    return {row[0]: row[1] for row in session.execute(standing)}


def last_of(session: Session, call_id: UUID) -> int:
    """Return the place of a call's last entry among all entries; 0 while there is none."""
    return session.scalar(select(func.max(EntryRow.sequence)).where(EntryRow.call_id == call_id)) or 0


def history(session: Session, call_id: UUID, after: UUID | None = None, most: int | None = None) -> HistoryPage:
    """Return some of everything ever said in a call, in the order in which it arrived.

    Parameters
    ----------
    after
        The last entry of the page before.
    most
        How many at most; all of them if not told.
    """
    query = (
        select(EntryRow, PersonRow.name)
        .outerjoin(PersonRow, PersonRow.id == EntryRow.person_id)
        .where(EntryRow.call_id == call_id)
        .order_by(EntryRow.sequence)
    )
    if after is not None:
        query = query.where(EntryRow.sequence > select(EntryRow.sequence).where(EntryRow.id == after).scalar_subquery())
    rows = session.execute(query if most is None else query.limit(most + 1)).all()
    page_rows = rows if most is None else rows[:most]
    entries, unread = [], []
    for row, name in page_rows:
        try:
            entries.append(_entry(row, name))
        except Unreadable as error:
            unread.append(_unread(row.reading_id, row.id, error))
    following = page_rows[-1][0].id if len(rows) > len(page_rows) else None
    return HistoryPage(entries=tuple(entries), unread=tuple(unread), next=following)


def has_entries(session: Session, call_id: UUID, ids: Sequence[UUID]) -> bool:
    """Whether all of these are said in a call."""
    known_count = select(func.count()).select_from(EntryRow).where(EntryRow.call_id == call_id, EntryRow.id.in_(ids))
    return session.scalar(known_count) == len(set(ids))


def add_entries(session: Session, call_id: UUID, entries: Sequence[StoredEntry]) -> None:
    """Store what was said elsewhere, with the times at which it was, in a call where nothing was said yet."""
    rows = [
        {
            "id": entry.id,
            "call_id": call_id,
            "reading_id": entry.reading_id,
            "action": entry.action,
            "reading": entry.reading.model_dump(mode="json") if entry.reading else None,
            "entered_at": entry.entered_at,
            "person_id": session.info.get("person_id"),
        }
        for entry in entries
    ]
    if rows:
        session.execute(insert(EntryRow), rows)


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
    entry_row = session.get(EntryRow, entry.id)
    if entry_row is not None:
        if (entry_row.call_id, entry_row.reading_id, entry_row.action) != (call_id, entry.reading_id, entry.action):
            raise Conflict("This entry's id was already used for another entry: send it under a new one.", "id")
        if entry_row.reading is not None and _entry(entry_row, None).reading != entry.reading:
            raise Conflict("This entry was stored with another number: correct the reading instead.", "id")
        return
    last = session.execute(
        select(EntryRow.id, EntryRow.action)
        .where(EntryRow.call_id == call_id, EntryRow.reading_id == entry.reading_id)
        .order_by(EntryRow.sequence.desc())
        .limit(1)
    ).one_or_none()
    said, stood = (None, None) if last is None else (last[0], last[1])
    if entry.action is Action.ADD and said is not None:
        raise Conflict("A reading of this id is on file already: correct it instead.", "reading_id")
    if entry.action is not Action.ADD and said is None:
        raise NotFound("The reading to change is not on file.", "reading_id")
    if follows is not None and said != follows:
        raise Conflict("This was changed or withdrawn meanwhile: look at it again before you change it.", "follows")
    count = session.scalar(select(func.count()).select_from(EntryRow).where(EntryRow.call_id == call_id)) or 0
    if count >= MOST_ENTRIES:
        raise BadInput(f"A call holds {MOST_ENTRIES} entries: open another call for what follows.", "id")
    is_more = entry.action is not Action.WITHDRAW and stood in (None, Action.WITHDRAW)
    if is_more and counted(session, [call_id]).get(call_id, 0) >= MOST_SAID:
        raise BadInput(f"A call holds {MOST_SAID} readings and looks: open another call for what follows.", "id")
    session.add(
        EntryRow(
            id=entry.id,
            call_id=call_id,
            reading_id=entry.reading_id,
            action=entry.action,
            reading=reading,
            person_id=session.info.get("person_id"),
        )
    )
    session.flush()


def raw_call(session: Session, call_id: UUID) -> dict[str, Any]:
    """Return a call as it is stored, whether or not it can still be read."""
    row = session.get(CallRow, call_id, options=[selectinload(CallRow.entries)])
    if row is None:
        raise NotFound("This call is not on file.", "call_id")
    raw_entries = [
        {"id": str(entry.id), "action": entry.action, "reading_id": entry.reading_id, "reading": entry.reading}
        for entry in row.entries
    ]
    return {"circuit": row.circuit, "scope": row.scope, "ratings": row.ratings, "entries": raw_entries}


def _unread(reading_id: str, entry_id: UUID, error: Unreadable) -> Unread:
    return Unread(reading_id=reading_id, entry_id=entry_id, why=str(error.details["why"]))


def _entry(row: EntryRow, entered_by: str | None) -> StoredEntry:
    fields = {
        "id": row.id,
        "action": row.action,
        "reading_id": row.reading_id,
        "reading": row.reading,
        "entered_at": row.entered_at,
        "entered_by": entered_by,
    }
    return read(StoredEntry, fields)
