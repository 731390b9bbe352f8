"""Routes of the repair; each calls one function that knows no HTTP."""

from fastapi import APIRouter

from zesty_copper.api.gate.access import CallChanged, CallSeen, SignedIn
from zesty_copper.api.gate.database import Database, Seen
from zesty_copper.api.pages.repair import CallRepair, check_kept, repair_of
from zesty_copper.api.problems import responses
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.store.calls import load_tests, queries

__all__ = ["repair_router"]

repair_router = APIRouter(prefix="/api/calls")


@repair_router.get("/{call_id}/repair", responses=responses(404, 409, 503))
def show_repair(call_id: CallSeen, session: Database, viewer: SignedIn) -> CallRepair:
    """What is done about what was found and seen: choices, parts, order, proof."""
    return repair_of(queries.call(session, call_id), viewer, load_tests.last_report(session, call_id))


@repair_router.put("/{call_id}/repair", responses=responses(404, 409, 422, 503))
def change_repair(
    call_id: CallChanged, notes: RepairNotes, session: Database, viewer: SignedIn, seen: Seen = None
) -> CallRepair:
    """Keep what was chosen and noted about the repair."""
    check_kept(queries.call(session, call_id), notes)
    queries.set_repair(session, call_id, notes, seen)
    return repair_of(queries.call(session, call_id), viewer, load_tests.last_report(session, call_id))
