"""Routes of ratings, bench and tables; each calls one function that knows no HTTP."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import Field

from zesty_copper.api.gate.access import CallChanged, CallSeen
from zesty_copper.api.gate.database import Database, Seen
from zesty_copper.api.pages.ratings import CallRatings, check_source, ratings_of, sheet_of
from zesty_copper.api.problems import responses
from zesty_copper.core.circuit.part import Identifier
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.bench.tools import BenchAnswer, BenchTool, bench, bench_tools
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.inputs.tables import Table, tables
from zesty_copper.core.ratings.sizing.heater_kit import (
    HeaterAnswer,
    HeaterKit,
    HeaterWanted,
    OldHeater,
    heater_answer,
)
from zesty_copper.store.calls import queries
from zesty_copper.store.records import Kept

__all__ = ["rating_router"]

rating_router = APIRouter(prefix="/api")


@rating_router.get("/calls/{call_id}/ratings", responses=responses(404, 409))
def show_ratings(call_id: CallSeen, session: Database) -> CallRatings:
    """What circuit and equipment require, against what is there and what was measured."""
    return ratings_of(queries.call(session, call_id))


@rating_router.put("/calls/{call_id}/ratings/{source}", responses=responses(404, 409, 422))
def change_sheet(call_id: CallChanged, source: str, sheet: Sheet, session: Database, seen: Seen = None) -> CallRatings:
    """Keep what is known of plate, wires and devices on one supply."""
    call = queries.call(session, call_id)
    check_source(call, source)
    queries.set_sheet(session, call_id, source, sheet, seen)
    session.commit()  # nobody waits for the row while it is judged
    return ratings_of(queries.call(session, call_id))


@rating_router.delete("/calls/{call_id}/ratings/{source}", responses=responses(404, 409))
def forget_sheet(call_id: CallChanged, source: str, session: Database, seen: Seen = None) -> CallRatings:
    """Go back to what the circuit says."""
    queries.set_sheet(session, call_id, source, None, seen)
    session.commit()
    return ratings_of(queries.call(session, call_id))


@rating_router.post("/calls/{call_id}/kept", status_code=201, responses=responses(404, 409, 422))
def keep_calculation(call_id: CallChanged, kept: Kept, session: Database) -> CallRatings:
    """Keep a calculation of the bench to a call."""
    bench(kept.tool, kept.values)  # refuses what cannot be done
    queries.keep_calculation(session, call_id, kept)
    return ratings_of(queries.call(session, call_id))


@rating_router.delete("/calls/{call_id}/kept/{kept_id}", responses=responses(404, 409))
def drop_calculation(call_id: CallChanged, kept_id: UUID, session: Database) -> CallRatings:
    """Take a kept calculation out of a call."""
    queries.drop_calculation(session, call_id, kept_id)
    return ratings_of(queries.call(session, call_id))


@rating_router.get("/bench")
def list_bench() -> list[BenchTool]:
    """Every calculation of the bench."""
    return list(bench_tools())


@rating_router.post("/bench/{key}", responses=responses(422))
def calculate(key: str, values: dict[str, float | str | None]) -> BenchAnswer:
    """Do one calculation."""
    return bench(key, values)


class HeaterAsked(Frozen):
    """An old heater, what its place asks, and a kit that is offered."""

    old: OldHeater
    wanted: HeaterWanted
    kit: HeaterKit | None = None
    source: Identifier = Field(description="where the branch circuit begins that it hangs on")


@rating_router.post("/calls/{call_id}/heater-match", responses=responses(404, 409, 422))
def match_heater(call_id: CallSeen, asked: HeaterAsked, session: Database) -> HeaterAnswer:
    """Size an old heater, hold a kit against what is wanted, and check the circuit with it."""
    call = queries.call(session, call_id)
    check_source(call, asked.source)
    return heater_answer(asked.old, asked.wanted, asked.kit, sheet_of(call, asked.source))


@rating_router.get("/tables")
def list_tables() -> list[Table]:
    """Every published table, with its source and standing."""
    return list(tables().values())
