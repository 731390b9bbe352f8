"""Load tests under way: files that are read in a process of their own, and clamps that are listened to."""

import json
import os
import socket
import tempfile
import time
from collections.abc import Mapping, Sequence
from multiprocessing import get_context
from multiprocessing.pool import Pool
from pathlib import Path
from threading import Lock, Thread
from uuid import UUID

import numpy as np
from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from zesty_copper.api.problems import NotConnected
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.errors import BadInput, ZestyError
from zesty_copper.core.load_test.expected import expected_ohm
from zesty_copper.core.load_test.report import analysed
from zesty_copper.core.load_test.trace import Channel, Series, trace_of
from zesty_copper.files.logger.mapping import CsvMapping
from zesty_copper.files.logger.read import read_logger_csv
from zesty_copper.stand_ins.clamp_protocol import MOST_LINE_BYTES, Begin, Begun, Ended, Refused, Sample
from zesty_copper.store.calls import load_tests
from zesty_copper.store.database import connect

__all__ = ["PIECE_BYTES", "LoadTests", "add_piece", "check_file", "typed_series"]

MOST_FILE_BYTES = 300_000_000
PIECE_BYTES = 900_000
MOST_WAITING_BYTES = 2_000_000_000
"""Of all files that have come and were not read yet."""
WAITS_S = 86_400.0
LEAST_URGENT = 10
CLAMP_SECONDS = 20.0
"""A clamp that says nothing for so long is gone [s]."""
KEPT_EVERY_SAMPLES = 32
"""So many samples of a clamp are kept at once."""

_Word = Begun | Sample | Ended | Refused
_WORD: TypeAdapter[_Word] = TypeAdapter(_Word)


def _file_of(call_id: UUID, test_id: UUID) -> Path:
    """Where the pieces of a file are put together until it is read: of one call, so that no other adds to it."""
    return _folder() / f"{call_id}-{test_id}.csv"


def _folder() -> Path:
    """A folder of this user's own.

    Raises
    ------
    OSError
        If somebody else has one of that name.
    """
    folder = Path(tempfile.gettempdir()) / f"zesty-copper-{os.getuid()}"
    folder.mkdir(mode=0o700, exist_ok=True)
    if folder.is_symlink() or folder.stat().st_uid != os.getuid():
        raise OSError(f"{folder} is somebody else's")
    return folder


def _check_room() -> None:
    """Let go of what waits since yesterday, and refuse more than there is room for."""
    waiting = 0
    for file in _folder().glob("*.csv"):
        stat_result = file.stat()
        if time.time() - stat_result.st_mtime > WAITS_S:
            file.unlink(missing_ok=True)
        else:
            waiting += stat_result.st_size
    if waiting > MOST_WAITING_BYTES:
        raise BadInput("Too many files wait to be read: try again in a while.", "file")


def add_piece(call_id: UUID, test_id: UUID, place: int, piece: bytes) -> int:
    """Put a piece of a file behind those before it, or in its place when it is sent again; returns the file's size.

    Raises
    ------
    BadInput
        If it is too large, a piece before it is missing, the file grows too large, or there is no room for more.
    """
    file, begin = _file_of(call_id, test_id), place * PIECE_BYTES
    if len(piece) > PIECE_BYTES:
        raise BadInput(f"A piece has at most {PIECE_BYTES:,} bytes: cut the file again.", "piece")
    if place == 0:
        _check_room()
    if begin + len(piece) > MOST_FILE_BYTES:
        file.unlink(missing_ok=True)
        raise BadInput(f"The file is larger than {MOST_FILE_BYTES / 1e6:.0f} MB: cut it into several.", "file")
    if begin > (file.stat().st_size if file.exists() else 0):
        raise BadInput("A piece of the file is missing: send it from the beginning.", "place")
    with file.open("r+b" if file.exists() else "wb") as open_file:
        open_file.seek(begin)
        open_file.write(piece)
        open_file.truncate()
        return open_file.tell()


def check_file(call_id: UUID, test_id: UUID) -> None:
    """Check that a file has come.

    Raises
    ------
    BadInput
        If nothing of it has.
    """
    if not _file_of(call_id, test_id).exists():
        raise BadInput("The file has not come: send it first.", "file")


def typed_series(seconds: Sequence[float], values: Sequence[Sequence[float | None]]) -> tuple[Series, Series]:
    """Return numbers typed by hand as arrays, (samples,) and (channels, samples); NaN where nothing was read.

    Raises
    ------
    BadInput
        If a channel has not as many numbers as there are times.
    """
    if any(len(row) != len(seconds) for row in values):
        raise BadInput("Give each conductor a number at each time, or leave it empty.", "values")
    rows = [[np.nan if value is None else value for value in row] for row in values]
    return np.array(seconds, dtype=np.float64), np.array(rows, dtype=np.float64)


class LoadTests:
    """What is under way, in a process and threads of its own.

    Parameters
    ----------
    clamp
        Where a logging clamp is reached; none: there is none.
    """

    def __init__(self, engine: Engine, clamp: tuple[str, int] | None) -> None:
        self._engine = engine
        self._clamp = clamp
        self._pool: Pool | None = None
        self._lock = Lock()

    @property
    def has_clamp(self) -> bool:
        """Whether a clamp can be listened to."""
        return self._clamp is not None

    def read_file(self, call_id: UUID, test_id: UUID, mapping: CsvMapping, circuit: Circuit) -> None:
        """Begin to read a file whose pieces have all come, into a load test that is on file."""
        file = _file_of(call_id, test_id)
        ohms = expected_ohm(circuit, [column.channel for column in mapping.columns])
        expected = json.dumps([[*pair, ohm] for pair, ohm in ohms.items()])
        url = self._engine.url.render_as_string(hide_password=False)
        with self._lock:
            if self._pool is None:
                # It reads whole files: what it held goes back to the machine after each.
                self._pool = get_context("spawn").Pool(1, os.nice, (LEAST_URGENT,), maxtasksperchild=1)
            self._pool.apply_async(_read_file, (url, str(test_id), str(file), mapping.model_dump_json(), expected))

    def ask_clamp(self, begin: Begin) -> socket.socket:
        """Ask the clamp for samples.

        Raises
        ------
        NotConnected
            If there is no clamp, or it does not answer.
        """
        if self._clamp is None:
            raise NotConnected("No logging clamp is connected: import its file, or type the numbers.", "clamp")
        try:
            connection = socket.create_connection(self._clamp, CLAMP_SECONDS)
            connection.sendall(begin.model_dump_json().encode() + b"\n")
        except OSError:
            raise NotConnected("The logging clamp does not answer: switch it on and try again.", "clamp") from None
        return connection

    def listen(self, connection: socket.socket, test_id: UUID, begin: Begin) -> None:
        """Keep what the clamp answers, as samples of a load test that is on file."""
        arguments = (connection, test_id, 60 * begin.minutes, begin.circuit)
        Thread(target=self._keep, args=arguments, daemon=True, name="clamp").start()

    def _keep(self, connection: socket.socket, test_id: UUID, lasts_s: float, circuit: Circuit | None) -> None:
        """Keep what a clamp says until it ends, is stopped, or falls silent; then say what it means."""
        heard = _Heard()
        try:
            with connection, connection.makefile("rb") as lines:
                while (line := lines.readline(MOST_LINE_BYTES)) and heard.take(_WORD.validate_json(line)):
                    if heard.waiting >= KEPT_EVERY_SAMPLES and not self._put(test_id, heard, lasts_s):
                        break
        except (OSError, ValidationError):
            pass  # what came until then is kept, and said
        try:
            if heard.refused:
                raise BadInput(heard.refused)
            if heard.waiting:
                self._put(test_id, heard, lasts_s)
            trace = trace_of(heard.channels, *heard.all())
            report = analysed(trace, expected_ohm(circuit, heard.channels) if circuit is not None else None)
            with Session(self._engine) as session, session.begin():
                load_tests.finish(session, test_id, report)
        except ZestyError as error:
            _say_failed(self._engine, test_id, error.message)

    def _put(self, test_id: UUID, heard: "_Heard", lasts_s: float) -> bool:
        """Keep what was heard since; tells whether more is wanted."""
        seconds, values = heard.since()
        with Session(self._engine) as session, session.begin():
            is_wanted = load_tests.touch(session, test_id, min(float(seconds[-1]) / lasts_s, 1.0))
            load_tests.append(session, test_id, seconds, values)
        return is_wanted

    def close(self) -> None:
        """End the process, whatever it is reading."""
        with self._lock:
            if self._pool is not None:
                self._pool.terminate()
                self._pool = None


class _Heard:
    """What a clamp has said so far."""

    def __init__(self) -> None:
        self.channels: tuple[Channel, ...] = ()
        self.refused = ""
        self._seconds: list[float] = []
        self._values: list[list[float]] = []
        self._kept = 0

    def take(self, word: _Word) -> bool:
        """Take a word; tells whether more is to come."""
        match word:
            case Begun():
                self.channels = word.channels
            case Refused():
                self.refused = word.refused
            case Sample() if len(word.v) == len(self.channels) and (not self._seconds or word.s > self._seconds[-1]):
                self._seconds.append(word.s)
                self._values.append([np.nan if value is None else value for value in word.v])
            case _:
                pass
        return isinstance(word, Begun | Sample)

    @property
    def waiting(self) -> int:
        """How many samples have not been kept yet."""
        return len(self._seconds) - self._kept

    def since(self) -> tuple[Series, Series]:
        """Samples that have not been kept yet, which then have."""
        begin, self._kept = self._kept, len(self._seconds)
        return np.array(self._seconds[begin:]), np.array(self._values[begin:]).T

    def all(self) -> tuple[Series, Series]:
        """Every sample."""
        return np.array(self._seconds), np.array(self._values).T.reshape(len(self.channels), -1)


def _read_file(url: str, test_id: str, path: str, mapping: str, expected: str) -> None:
    """Read a file, in the process of its own."""
    file, key = Path(path), UUID(test_id)
    engine = connect(url)
    expected_ohms: Mapping[tuple[str, str], float] = {(a, b): ohm for a, b, ohm in json.loads(expected)}
    size = max(file.stat().st_size, 1)
    try:
        with file.open("rb") as open_file:

            def progress(_rows: int) -> None:
                with Session(engine) as session, session.begin():
                    load_tests.touch(session, key, 0.9 * open_file.tell() / size)

            trace, rows = read_logger_csv(open_file, CsvMapping.model_validate_json(mapping), progress)
        report = analysed(trace, expected_ohms)
        with Session(engine) as session, session.begin():
            load_tests.append(session, key, trace.seconds, trace.values)
            load_tests.finish(session, key, report, rows)
    except ZestyError as error:
        _say_failed(engine, key, error.message)
    except (OSError, SQLAlchemyError, MemoryError):
        _say_failed(engine, key, "The file could not be read: send it again.")
    finally:
        file.unlink(missing_ok=True)
        engine.dispose()


def _say_failed(engine: Engine, test_id: UUID, why: str) -> None:
    with Session(engine) as session, session.begin():
        load_tests.fail(session, test_id, why)
