"""Read a logger's CSV whole: no row is dropped unsaid."""

import csv
import io
import math
from array import array
from collections.abc import Callable, Sequence
from typing import BinaryIO

import numpy as np

from zesty_copper.core.errors import BadInput
from zesty_copper.core.load_test.trace import LEAST_SAMPLES, MOST_SAMPLES, Trace, trace_of
from zesty_copper.files.logger.mapping import BadRow, ColumnUse, CsvMapping, ReadCsv, TimeFormat
from zesty_copper.files.logger.times import DAY_S, HALF_DAY_S, time_reader

__all__ = ["read_logger_csv"]

MOST_BAD_TOLD = 500
"""How many rows that were left out are told with their lines; the others are counted."""
ROWS_BETWEEN = 20_000
"""Between two words of progress."""
EMPTY = frozenset({"", "-", "--", "---", "----", "ol", "nan", "n/a", "na", "null", "overload"})
"""What loggers write where they have no number."""


class _Rows:
    """Rows taken so far, and those left out."""

    def __init__(self, mapping: CsvMapping) -> None:
        self.mapping = mapping
        self.seconds = array("d")
        self.values = [array("d") for _ in mapping.columns]
        self.bad: list[BadRow] = []
        self.left_out = 0
        self._read_time = time_reader(mapping)
        self._last, self._offset = -math.inf, 0.0

    def take(self, row: Sequence[str], line: int) -> None:
        """Take a row, or leave it out and keep why."""
        try:
            at = self._time(row)
            numbers = [_cell(row, use, self.mapping) for use in self.mapping.columns]
        except (ValueError, IndexError) as error:
            self.left_out += 1
            if len(self.bad) < MOST_BAD_TOLD:
                why = "it has too few columns" if isinstance(error, IndexError) else str(error)
                self.bad.append(BadRow(line=line, why=why))
            return
        self._last = at
        self.seconds.append(at)
        for column, number in zip(self.values, numbers, strict=True):
            column.append(number)

    def _time(self, row: Sequence[str]) -> float:
        at = self._read_time(row, len(self.seconds) + self.left_out) + self._offset
        # A clock that has passed midnight begins anew.
        if self.mapping.time_format is TimeFormat.CLOCK and at < self._last - HALF_DAY_S:
            self._offset += DAY_S
            at += DAY_S
        if at <= self._last:
            raise ValueError("its time does not come after the row before")
        return at


def read_logger_csv(
    file: BinaryIO, mapping: CsvMapping, progress: Callable[[int], None] = lambda _: None
) -> tuple[Trace, ReadCsv]:
    """Read a whole file.

    Parameters
    ----------
    file
        At its beginning.
    progress
        Told how many rows were taken, every so many.

    Raises
    ------
    BadInput
        If no column is chosen, there are more rows than a trace holds, or too few that can be read.
    """
    if not mapping.columns:
        raise BadInput("Say of at least one column what it measures.", "mapping.columns")
    taken = _Rows(mapping)
    text = io.TextIOWrapper(file, encoding=_encoding(file), errors="replace", newline="")
    rows = csv.reader((line.replace("\x00", "") for line in text), delimiter=mapping.delimiter)
    try:
        for i, row in enumerate(rows):
            if i < mapping.first_row or not row:
                continue
            taken.take(row, rows.line_num)
            if len(taken.seconds) > MOST_SAMPLES:
                raise BadInput(f"The file has more than {MOST_SAMPLES:,} rows: cut it into several.", "file")
            if len(taken.seconds) % ROWS_BETWEEN == 0:
                progress(len(taken.seconds))
    except csv.Error as error:
        raise BadInput(f"Line {rows.line_num} cannot be read as CSV ({error}): choose another delimiter.") from None
    finally:
        text.detach()
    if len(taken.seconds) < LEAST_SAMPLES:
        first = f" Line {taken.bad[0].line}: {taken.bad[0].why}." if taken.bad else ""
        raise BadInput(f"Hardly a row could be read: check times and columns.{first}", "mapping")
    values = np.array(taken.values)
    trace = trace_of([use.channel for use in mapping.columns], np.frombuffer(taken.seconds), values)
    return trace, ReadCsv(rows=len(taken.seconds), left_out=taken.left_out, bad=tuple(taken.bad))


def _encoding(file: BinaryIO) -> str:
    """By the mark at the file's beginning; loggers without one write ASCII."""
    mark = file.read(4)
    file.seek(0)
    return "utf-16" if mark[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"


def _cell(row: Sequence[str], use: ColumnUse, mapping: CsvMapping) -> float:
    text = row[use.column].strip()
    try:
        return use.factor * float(text.replace(",", ".") if mapping.decimal_comma else text)
    except ValueError:
        if text.lower() in EMPTY:
            return math.nan
        raise ValueError(f"“{text[:40]}” in column {use.column + 1} is no number") from None
