"""The board of what is due, over every call that somebody sees."""

from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Person
from zesty_copper.core.repair.follow_up import DANGER, Due, due_of
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.store.calls.listing import LISTED, seen_by, summary_of
from zesty_copper.store.calls.stored import read_or
from zesty_copper.store.records import CallStatus, CallSummary
from zesty_copper.store.tables import CallRow, EquipmentRow

__all__ = ["Board", "BoardLine", "board"]

MOST_CALLS, MOST_LINES = 2000, 200


class BoardLine(Frozen):
    """One thing that is due, and of which call."""

    call: CallSummary
    due: Due


class Board(Frozen):
    """What is due, the most dangerous first, and of each kind the longest due."""

    lines: tuple[BoardLine, ...]
    more: int


def board(session: Session, person: Person) -> Board:
    """Return what is due over all calls that somebody sees."""
    rows = session.execute(
        select(*LISTED)
        .join(CallRow.technician)
        .join(CallRow.equipment)
        .join(EquipmentRow.site)
        .where(seen_by(person), CallRow.repair.is_not(None))
        .order_by(CallRow.starts_at.desc(), CallRow.id)
        .limit(MOST_CALLS)
    ).all()
    lines = [
        BoardLine(call=summary_of(row, 0), due=due)
        for row in rows
        for due in due_of(read_or(RepairNotes, row.repair, RepairNotes()), is_closed=row.status == CallStatus.DONE)
    ]
    lines.sort(key=_danger)
    return Board(lines=tuple(lines[:MOST_LINES]), more=max(0, len(lines) - MOST_LINES))


def _danger(line: BoardLine) -> tuple[int, bool, date]:
    """No day at all is worse than a day to come: nobody will remember it."""
    on = line.due.on
    return DANGER.index(line.due.kind), on is not None, on or line.call.starts_at.date()
