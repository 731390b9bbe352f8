"""Routes of the load tests; each calls one function that knows no HTTP."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Body, Depends, Path, Query, Request
from fastapi.responses import StreamingResponse
from pydantic import Field

from zesty_copper.api.gate.access import CallChanged, CallSeen
from zesty_copper.api.gate.database import Database
from zesty_copper.api.load_tests import LoadTests, add_piece, check_file, typed_series
from zesty_copper.api.problems import responses
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.expected import analysed_for, plated, usual_channels
from zesty_copper.core.load_test.trace import MOST_CHANNELS, Channel, Series, trace_of
from zesty_copper.core.people import Line
from zesty_copper.files.logger.guess import guess_csv
from zesty_copper.files.logger.mapping import CsvGuess, CsvMapping
from zesty_copper.files.logger.write import csv_of
from zesty_copper.stand_ins.clamp_protocol import Begin
from zesty_copper.store.calls import load_tests, queries
from zesty_copper.store.calls.load_tests import LoadTest, NewLoadTest

__all__ = ["load_test_router"]

load_test_router = APIRouter(prefix="/api/calls/{call_id}")

MOST_STRETCHES = 4000
MOST_TYPED = 200
MOST_PIECES = 400
CLAMP_RATE_HZ, SPEED = 4.0, 60.0
"""The simulated clamp runs a minute in a second."""


def _under_way(request: Request) -> LoadTests:
    under_way: LoadTests = request.app.state.load_tests
    return under_way


UnderWay = Annotated[LoadTests, Depends(_under_way)]


class CallLoadTests(Frozen):
    """The load tests of a call, and what its next one would measure."""

    tests: tuple[LoadTest, ...]
    usual: tuple[Channel, ...] = Field(description="what is usually measured on this circuit")
    has_clamp: bool


class CsvHead(Frozen):
    """The beginning of a file."""

    head: str = Field(min_length=1, max_length=200_000)


class FileSize(Frozen):
    """How much of a file has come."""

    bytes_there: int


class NewFileTest(Frozen):
    """A file to read, once all its pieces have come."""

    id: UUID
    title: Line = Field(min_length=1, max_length=80)
    mapping: CsvMapping


class TypedTest(NewLoadTest):
    """Numbers typed at intervals."""

    seconds: tuple[Annotated[float, Field(ge=0, le=1e6)], ...] = Field(min_length=3, max_length=MOST_TYPED)
    values: tuple[tuple[Annotated[float, Field(ge=0, le=5000)] | None, ...], ...] = Field(
        min_length=1, max_length=MOST_CHANNELS, description="for each channel as many as there are times"
    )


class ClampTest(Frozen):
    """A run with the logging clamp."""

    id: UUID
    title: Line = Field(min_length=1, max_length=80)
    minutes: float = Field(default=10.0, ge=1, le=60)
    hides: str | None = Field(default=None, max_length=120, description="what the simulated clamp finds; none: nothing")


class ChartData(Frozen):
    """A window of a trace, as many stretches as a chart has columns."""

    seconds: tuple[float, ...]
    low: tuple[tuple[float | None, ...], ...] = Field(description="for each channel the lowest of each stretch")
    high: tuple[tuple[float | None, ...], ...]


class Window(Frozen):
    """Which part of a trace, and how fine."""

    from_s: float | None = None
    to_s: float | None = None
    stretches: int = Field(default=800, ge=2, le=MOST_STRETCHES)


@load_test_router.get("/load-tests", responses=responses(404, 409))
def list_load_tests(call_id: CallSeen, session: Database, under_way: UnderWay) -> CallLoadTests:
    """Every load test of a call, how far it is, and what was found."""
    circuit = queries.call(session, call_id).circuit
    tests = load_tests.listed(session, call_id)
    return CallLoadTests(tests=tests, usual=usual_channels(circuit), has_clamp=under_way.has_clamp)


@load_test_router.post("/recognized-logs", responses=responses(404, 409, 422))
def recognize_file(call_id: CallSeen, told: CsvHead, session: Database) -> CsvGuess:
    """What the first lines of a logger's file are, before it is sent."""
    return guess_csv(told.head, queries.call(session, call_id).circuit.lanes)


@load_test_router.put("/load-tests/{test_id}/pieces/{place}", responses=responses(404, 409, 422))
def send_piece(
    call_id: CallChanged,
    test_id: UUID,
    place: Annotated[int, Path(ge=0, le=MOST_PIECES)],
    piece: Annotated[bytes, Body(media_type="application/octet-stream")],
) -> FileSize:
    """A piece of a file, 900,000 bytes but for the last; the same sent again changes nothing."""
    return FileSize(bytes_there=add_piece(call_id, test_id, place, piece))


@load_test_router.post("/file-load-tests", status_code=201, responses=responses(404, 409, 422))
def read_file(call_id: CallChanged, new: NewFileTest, session: Database, under_way: UnderWay) -> CallLoadTests:
    """Read a file whose pieces have come; ask for the list to see how far it is."""
    circuit = queries.call(session, call_id).circuit
    columns = tuple(
        column.model_copy(update={"channel": plated(circuit, column.channel)}) for column in new.mapping.columns
    )
    mapping = new.mapping.model_copy(update={"columns": columns})
    test = NewLoadTest(id=new.id, title=new.title, channels=tuple(column_use.channel for column_use in columns))
    if not load_tests.is_there(session, new.id):
        check_file(call_id, new.id)
    if load_tests.add(session, call_id, test, "csv"):
        session.commit()
        under_way.read_file(call_id, new.id, mapping, circuit)
    return list_load_tests(call_id, session, under_way)


@load_test_router.post("/typed-load-tests", status_code=201, responses=responses(404, 409, 422))
def type_numbers(call_id: CallChanged, new: TypedTest, session: Database, under_way: UnderWay) -> CallLoadTests:
    """Numbers typed at intervals, and what they mean."""
    circuit = queries.call(session, call_id).circuit
    channels = tuple(plated(circuit, channel) for channel in new.channels)
    trace = trace_of(channels, *typed_series(new.seconds, new.values))
    if load_tests.add(session, call_id, NewLoadTest(id=new.id, title=new.title, channels=channels), "typed"):
        load_tests.append(session, new.id, trace.seconds, trace.values)
        load_tests.finish(session, new.id, analysed_for(circuit, trace))
    return list_load_tests(call_id, session, under_way)


@load_test_router.post("/clamp-load-tests", status_code=201, responses=responses(404, 409, 422, 503))
def run_clamp(call_id: CallChanged, new: ClampTest, session: Database, under_way: UnderWay) -> CallLoadTests:
    """Log with the clamp; ask for the list to see how far it is."""
    circuit = queries.call(session, call_id).circuit
    test = NewLoadTest(id=new.id, title=new.title, channels=usual_channels(circuit))
    begin = _beginning(new, circuit)
    connection = under_way.ask_clamp(begin)
    if load_tests.add(session, call_id, test, "clamp"):
        session.commit()
        under_way.listen(connection, new.id, begin)
    else:
        connection.close()
    return list_load_tests(call_id, session, under_way)


def _beginning(new: ClampTest, circuit: Circuit) -> Begin:
    """What the clamp is asked to log; the simulated one logs a circuit with a fault in it."""
    return Begin(
        rate_hz=CLAMP_RATE_HZ,
        minutes=new.minutes,
        speed=SPEED,
        circuit=circuit,
        fault=new.hides,
        seed=new.id.int % 2**31,
    )


@load_test_router.post("/load-tests/{test_id}/stopped", responses=responses(404, 409))
def stop_load_test(call_id: CallChanged, test_id: UUID, session: Database, under_way: UnderWay) -> CallLoadTests:
    """Stop a run; what was logged until then is kept, and said."""
    load_tests.stop(session, call_id, test_id)
    return list_load_tests(call_id, session, under_way)


@load_test_router.delete("/load-tests/{test_id}", responses=responses(404, 409))
def remove_load_test(call_id: CallChanged, test_id: UUID, session: Database, under_way: UnderWay) -> CallLoadTests:
    """Remove a load test; one that is gone already changes nothing."""
    load_tests.remove(session, call_id, test_id)
    return list_load_tests(call_id, session, under_way)


@load_test_router.get("/load-tests/{test_id}/chart", responses=responses(404, 409, 422))
def show_chart(call_id: CallSeen, test_id: UUID, session: Database, window: Annotated[Window, Query()]) -> ChartData:
    """A window of a trace for a chart."""
    drawn = load_tests.chart(session, call_id, test_id, (window.from_s, window.to_s), window.stretches)
    return ChartData(seconds=tuple(drawn.seconds.round(3).tolist()), low=_plain(drawn.low), high=_plain(drawn.high))


def _plain(rows: Series) -> tuple[tuple[float | None, ...], ...]:
    # What is not equal to itself is missing.
    return tuple(tuple(number if number == number else None for number in row) for row in rows.round(3).tolist())  # noqa: PLR0124


@load_test_router.get("/load-tests/{test_id}/csv", response_class=StreamingResponse, responses=responses(404, 409))
def export_trace(call_id: CallSeen, test_id: UUID, session: Database) -> StreamingResponse:
    """A trace as CSV (RFC 4180), which comes back in as it went out."""
    trace = load_tests.trace(session, call_id, test_id)
    headers = {"content-disposition": f'attachment; filename="zesty-copper-{test_id}.csv"'}
    return StreamingResponse(csv_of(trace), media_type="text/csv; charset=utf-8", headers=headers)
