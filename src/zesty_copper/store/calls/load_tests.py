"""Load tests: traces in chunks, and what was found in them."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from typing import Any, Literal
from uuid import UUID

import numpy as np
from pydantic import Field
from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from zesty_copper.core.errors import BadInput, Conflict, NotFound
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.bins import Envelope, envelope
from zesty_copper.core.load_test.report import LoadReport
from zesty_copper.core.load_test.trace import MOST_CHANNELS, Channel, Series, Trace
from zesty_copper.core.people import Line
from zesty_copper.store import audit
from zesty_copper.store.calls.stored import read_or
from zesty_copper.store.tables import LoadChunkRow, LoadTestRow

__all__ = [
    "LoadTest",
    "LoadTestState",
    "NewLoadTest",
    "add",
    "append",
    "chart",
    "fail",
    "finish",
    "is_there",
    "last_report",
    "listed",
    "remove",
    "stop",
    "touch",
    "trace",
]

MOST_TESTS = 40
"""Load tests that one call keeps."""
CHUNK = 65_536
STRETCH = 64
"""Samples of one stretch of the overview."""
WHOLE_CHUNKS = 3
"""A window over no more chunks is drawn from the samples themselves."""
GIVEN_UP = timedelta(minutes=2)
"""One that nothing was heard of for so long has ended with whatever made it."""


class LoadTestState(StrEnum):
    """How far a load test is."""

    RUNNING = "running"
    STOPPING = "stopping"
    READY = "ready"
    FAILED = "failed"


class NewLoadTest(Frozen):
    """A load test to begin."""

    id: UUID = Field(description="made where it is begun: sending it twice changes nothing")
    title: Line = Field(min_length=1, max_length=80)
    channels: tuple[Channel, ...] = Field(min_length=1, max_length=MOST_CHANNELS)


class LoadTest(NewLoadTest):
    """A load test as it stands."""

    source: Literal["csv", "clamp", "typed"]
    begun_at: datetime
    state: LoadTestState
    progress: float = Field(description="0 to 1; of a clamp, how much of its time has gone by")
    why: str = Field(description="why it failed")
    rows: dict[str, Any] | None = Field(description="of a file: rows taken, rows left out, and which")
    report: LoadReport | None


def add(session: Session, call_id: UUID, new: NewLoadTest, source: str, begun_at: datetime | None = None) -> bool:
    """Begin a load test; tells whether it is new.

    Raises
    ------
    Conflict
        If another is on file under this id.
    BadInput
        If the call holds as many as it can.
    """
    count = session.scalar(select(func.count()).where(LoadTestRow.call_id == call_id)) or 0
    load_test_row = session.get(LoadTestRow, new.id)
    if load_test_row is not None:
        if load_test_row.call_id != call_id or load_test_row.title != new.title:
            raise Conflict("Another load test is on file under this id: begin it anew.", "id")
        return False
    if count >= MOST_TESTS:
        raise BadInput(f"A call keeps {MOST_TESTS} load tests: remove one first.", "id")
    channels = [channel.model_dump(mode="json") for channel in new.channels]
    at = {} if begun_at is None else {"begun_at": begun_at}
    values = at | {"id": new.id, "call_id": call_id, "title": new.title, "source": source, "channels": channels}
    session.execute(insert(LoadTestRow).values(**values, state=LoadTestState.RUNNING, progress=0.0, why=""))
    audit.note(session, "call.load_test", call_id=call_id, about_id=None, after=new.title)
    return True


def is_there(session: Session, test_id: UUID) -> bool:
    """Whether a load test is on file."""
    return session.get(LoadTestRow, test_id) is not None


def append(session: Session, test_id: UUID, seconds: Series, values: Series) -> None:
    """Keep further samples behind those that are there; (samples,) [s] and (channels, samples)."""
    last = select(func.max(LoadChunkRow.place)).where(LoadChunkRow.load_test_id == test_id)
    place = session.scalar(last)
    place = -1 if place is None else place
    for begin in range(0, len(seconds), CHUNK):
        times, part = seconds[begin : begin + CHUNK], values[:, begin : begin + CHUNK]
        drawn = _overview(times, part)
        place += 1
        row = {
            "load_test_id": test_id,
            "place": place,
            "from_s": float(times[0]),
            "to_s": float(times[-1]),
            "samples": len(times),
            "seconds": times.astype("<f8").tobytes(),
            "values": part.astype("<f4").tobytes(),
            "overview": np.stack([drawn.low, drawn.high]).astype("<f4").tobytes(),
        }
        session.execute(insert(LoadChunkRow).values(**row))


def _overview(seconds: Series, values: Series) -> Envelope:
    return envelope(seconds, values, values, -(-len(seconds) // STRETCH))


def touch(session: Session, test_id: UUID, progress: float) -> bool:
    """Say how far it is; tells whether it is still wanted."""
    row = session.get(LoadTestRow, test_id, with_for_update=True, populate_existing=True)
    if row is None or row.state != LoadTestState.RUNNING:
        return False
    row.progress, row.touched_at = progress, datetime.now(UTC)
    session.flush()
    return True


def stop(session: Session, call_id: UUID, test_id: UUID) -> None:
    """Ask a run to end: what listens to the clamp sees it at its next word; raises NotFound."""
    row = _row(session, call_id, test_id)
    if row.state == LoadTestState.RUNNING:
        row.state = LoadTestState.STOPPING
        session.flush()


def finish(session: Session, test_id: UUID, report: LoadReport, rows: Frozen | None = None) -> None:
    """Keep what was found in it; one that was removed meanwhile stays so."""
    row = session.get(LoadTestRow, test_id)
    if row is not None:
        row.report, row.state, row.progress = report.model_dump(mode="json"), LoadTestState.READY, 1.0
        row.rows = rows.model_dump(mode="json") if rows is not None else None
        session.flush()


def fail(session: Session, test_id: UUID, why: str) -> None:
    """Say why it came to nothing."""
    row = session.get(LoadTestRow, test_id)
    if row is not None:
        row.state, row.why = LoadTestState.FAILED, why
        session.flush()


def remove(session: Session, call_id: UUID, test_id: UUID) -> None:
    """Remove a load test; one that is gone already changes nothing."""
    gone = delete(LoadTestRow).where(LoadTestRow.id == test_id, LoadTestRow.call_id == call_id)
    title = session.scalar(gone.returning(LoadTestRow.title))
    if title is not None:
        audit.note(session, "call.load_test", call_id=call_id, before=title)


def listed(session: Session, call_id: UUID) -> tuple[LoadTest, ...]:
    """Every load test of a call, in the order in which they were begun."""
    rows = session.scalars(
        select(LoadTestRow).where(LoadTestRow.call_id == call_id).order_by(LoadTestRow.begun_at, LoadTestRow.id)
    )
    return tuple(_told(row) for row in rows)


def last_report(session: Session, call_id: UUID) -> LoadReport | None:
    """What the last load test of a call found; none where none has ended."""
    query = select(LoadTestRow.report).where(LoadTestRow.call_id == call_id, LoadTestRow.state == LoadTestState.READY)
    report = session.scalar(query.order_by(LoadTestRow.begun_at.desc(), LoadTestRow.id).limit(1))
    return None if report is None else read_or(LoadReport, report, None)


def _told(row: LoadTestRow) -> LoadTest:
    state, why = LoadTestState(row.state), row.why
    if state in (LoadTestState.RUNNING, LoadTestState.STOPPING) and datetime.now(UTC) - row.touched_at > GIVEN_UP:
        state, why = LoadTestState.FAILED, "It was broken off: begin it anew."
    report = None if row.report is None else read_or(LoadReport, row.report, None)
    return LoadTest(
        id=row.id,
        title=row.title,
        channels=tuple(Channel.model_validate(channel) for channel in row.channels),
        source=row.source,  # type: ignore[arg-type] # checked by the model
        begun_at=row.begun_at,
        state=state,
        progress=row.progress,
        why=why,
        rows=row.rows,
        report=report,
    )


def _row(session: Session, call_id: UUID, test_id: UUID) -> LoadTestRow:
    row = session.get(LoadTestRow, test_id)
    if row is None or row.call_id != call_id:
        raise NotFound("This load test is not on file.", "test_id")
    return row


def chart(
    session: Session, call_id: UUID, test_id: UUID, window: tuple[float | None, float | None], stretches: int
) -> Envelope:
    """Return a window of a load test in as many stretches as a chart has columns.

    Parameters
    ----------
    window
        From and to [s]; none: from its beginning, to its end.

    Raises
    ------
    NotFound
        If it is not on file, or not in this call.
    """
    channels = len(_row(session, call_id, test_id).channels)
    from_s, to_s = window
    conditions = [LoadChunkRow.load_test_id == test_id]
    if from_s is not None:
        conditions.append(LoadChunkRow.to_s >= from_s)
    if to_s is not None:
        conditions.append(LoadChunkRow.from_s <= to_s)
    heads = session.execute(
        select(LoadChunkRow.place, LoadChunkRow.samples).where(*conditions).order_by(LoadChunkRow.place)
    ).all()
    if not heads:
        return Envelope(np.empty(0), np.empty((channels, 0)), np.empty((channels, 0)))
    whole = sum(head.samples for head in heads) <= WHOLE_CHUNKS * CHUNK
    seconds, low, high = [], [], []
    columns = (LoadChunkRow.seconds, LoadChunkRow.values if whole else LoadChunkRow.overview)
    for times, numbers in session.execute(select(*columns).where(*conditions).order_by(LoadChunkRow.place)):
        at = np.frombuffer(times, "<f8")
        if whole:
            part = np.frombuffer(numbers, "<f4").reshape(channels, -1)
            seconds.append(at)
            low.append(part)
            high.append(part)
        else:
            low_and_high = np.frombuffer(numbers, "<f4").reshape(2, channels, -1)
            starts = np.linspace(0, len(at), low_and_high.shape[2], endpoint=False).astype(np.int64)
            seconds.append(at[starts])
            low.append(low_and_high[0])
            high.append(low_and_high[1])
    return _window(np.concatenate(seconds), _joined(low), _joined(high), window, stretches)


def _joined(parts: Sequence[np.ndarray]) -> Series:
    return np.concatenate(parts, axis=1).astype(np.float64)


def _window(
    seconds: Series, low: Series, high: Series, window: tuple[float | None, float | None], stretches: int
) -> Envelope:
    begin = 0 if window[0] is None else max(0, int(np.searchsorted(seconds, window[0])) - 1)
    end = len(seconds) if window[1] is None else int(np.searchsorted(seconds, window[1])) + 1
    return envelope(seconds[begin:end], low[:, begin:end], high[:, begin:end], stretches)


def trace(session: Session, call_id: UUID, test_id: UUID) -> Trace:
    """Return a whole trace, as it was kept.

    Raises
    ------
    NotFound
        If it is not on file, or not in this call.
    """
    row = _row(session, call_id, test_id)
    channels = tuple(Channel.model_validate(channel) for channel in row.channels)
    chunks = select(LoadChunkRow.seconds, LoadChunkRow.values).where(LoadChunkRow.load_test_id == test_id)
    seconds, values = [np.empty(0)], [np.empty((len(channels), 0))]
    for times, numbers in session.execute(chunks.order_by(LoadChunkRow.place)):
        seconds.append(np.frombuffer(times, "<f8"))
        values.append(np.frombuffer(numbers, "<f4").reshape(len(channels), -1))
    return Trace(channels, np.concatenate(seconds), np.concatenate(values, axis=1).astype(np.float64))
