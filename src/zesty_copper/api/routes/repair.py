"""Routes of the repair; each calls one function that knows no HTTP."""

from fastapi import APIRouter
from pydantic import Field

from zesty_copper.api.gate.access import CallChanged, CallSeen, SignedIn
from zesty_copper.api.gate.database import Database
from zesty_copper.api.pages.repair import CallRepair, check_kept, repair_of
from zesty_copper.api.problems import responses
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.merging import FieldChange
from zesty_copper.core.repair.notes import changed_notes
from zesty_copper.store.calls import load_tests, queries

__all__ = ["repair_router"]

repair_router = APIRouter(prefix="/api/calls")


@repair_router.get("/{call_id}/repair", responses=responses(404, 409, 503))
def show_repair(call_id: CallSeen, session: Database, viewer: SignedIn) -> CallRepair:
    """What is done about what was found and seen: choices, parts, order, proof."""
    return repair_of(queries.call(session, call_id), viewer, load_tests.last_report(session, call_id))


class NotesChange(Frozen):
    """Some fields of the notes about a repair, each with what its sender saw there."""

    changes: tuple[FieldChange, ...] = Field(min_length=1, max_length=400)


@repair_router.patch("/{call_id}/repair", responses=responses(404, 409, 422, 503))
def change_repair(
    call_id: CallChanged, change: NotesChange, session: Database, viewer: SignedIn, anyway: bool = False
) -> CallRepair:
    """Change some of what was chosen and noted about the repair; all else stays as it is stored."""
    before = queries.repair_notes(session, call_id)
    notes = changed_notes(before, change.changes, anyway=anyway)
    check_kept(queries.call(session, call_id), notes)
    queries.set_repair(session, call_id, notes)
    session.commit()  # nobody waits for the row while the page is laid out
    return repair_of(queries.call(session, call_id), viewer, load_tests.last_report(session, call_id))
