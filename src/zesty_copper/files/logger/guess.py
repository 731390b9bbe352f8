"""What the first rows of a logger's file tell of it: delimiter, header, times, columns and their units."""

import csv
import math
import re
from collections.abc import Iterator, Sequence
from typing import Literal

from zesty_copper.core.errors import BadInput
from zesty_copper.core.load_test.trace import MOST_CHANNELS, Channel
from zesty_copper.files.logger.mapping import (
    MOST_COLUMNS,
    ColumnUse,
    CsvGuess,
    CsvMapping,
    Delimiter,
    TimeFormat,
)

__all__ = ["guess_csv"]

HEAD_ROWS = 60
SHOWN_ROWS = 6


def guess_csv(head: str, lanes: Sequence[str]) -> CsvGuess:
    """Recognize delimiter, header, times and columns from the first lines of a file.

    Parameters
    ----------
    lanes
        Conductors of the circuit, which name the columns that do not say theirs.

    Raises
    ------
    BadInput
        If no row of numbers is found.
    """
    lines = head.replace("\x00", "").splitlines()[:HEAD_ROWS]
    for delimiter in _likeliest_first(lines):
        try:
            rows = list(csv.reader(lines, delimiter=delimiter))
        except csv.Error:
            continue  # a field beyond what any logger writes
        comma = delimiter != "," and any(re.fullmatch(r"-?\d+,\d+", cell.strip()) for row in rows for cell in row)
        first = _first_row(rows, comma=comma)
        if first is not None:
            return _guessed(rows, delimiter, first, lanes, comma=comma)
    raise BadInput("No row of numbers was found: choose the CSV file that the logger exports.", "head")


def _likeliest_first(lines: Sequence[str]) -> list[Delimiter]:
    delimiters: tuple[Delimiter, ...] = ("\t", ";", "|", ",")
    return sorted(delimiters, key=lambda delimiter: -min(sum(line.count(delimiter) for line in lines[-8:]), 1))


def _number(cell: str, *, comma: bool) -> float | None:
    text = cell.strip().replace(",", ".") if comma else cell.strip()
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def _first_row(rows: Sequence[Sequence[str]], *, comma: bool) -> int | None:
    """Return the first row that holds a number and is as long as the one after it."""
    for i, row in enumerate(rows):
        numbers = sum(_number(cell, comma=comma) is not None for cell in row)
        timed = any(_time_format(cell, comma=comma) is not TimeFormat.NONE for cell in row)
        alike = i + 1 >= len(rows) or len(rows[i + 1]) == len(row)
        if numbers and alike and (numbers > 1 or timed or len(row) == 1):
            return i
    return None


def _guessed(
    rows: Sequence[Sequence[str]],
    delimiter: Delimiter,
    first: int,
    lanes: Sequence[str],
    *,
    comma: bool,
) -> CsvGuess:
    data = [row for row in rows[first:] if row]
    width = len(data[0])
    header = rows[first - 1] if first and len(rows[first - 1]) >= width else []
    names = [header[i].strip() if i < len(header) else f"column {i + 1}" for i in range(width)]
    time, day, time_format = _time_columns(names, data, comma=comma)
    free = [i for i in range(width) if i not in (time, day)]
    numeric = [i for i in free if _number(data[0][i], comma=comma) is not None]
    columns = tuple(_uses(names, numeric, lanes))
    mapping = CsvMapping(
        delimiter=delimiter,
        decimal_comma=comma,
        first_row=first,
        time_column=time,
        date_column=day,
        time_format=time_format,
        columns=columns[:MOST_CHANNELS],
    )
    shown_rows = tuple(tuple(row[:MOST_COLUMNS]) for row in data[:SHOWN_ROWS])
    return CsvGuess(mapping=mapping, names=tuple(names[:MOST_COLUMNS]), rows=shown_rows)


def _time_format(cell: str, *, comma: bool) -> TimeFormat:
    """How a cell writes a time; none for a bare number, which may be anything."""
    text = cell.strip()
    if re.match(r"\d{4}-\d{1,2}-\d{1,2}", text):
        return TimeFormat.ISO
    if match := re.match(r"(\d{1,2})[/.](\d{1,2})[/.]\d{2,4}", text):
        day_first = int(match[1]) > 12 or "." in text[:3]
        return TimeFormat.DAY_FIRST if day_first and not (comma and "/" in text) else TimeFormat.MONTH_FIRST
    if re.match(r"\d{1,3}:\d{2}", text):
        return TimeFormat.CLOCK
    return TimeFormat.NONE


UNIT_OF_TIME = (
    (TimeFormat.MILLISECONDS, r"\bms\b|millisec"),
    (TimeFormat.MINUTES, r"\bmin(ute)?s?\b"),
    (TimeFormat.HOURS, r"\bh(ou)?rs?\b|\bh\b"),
    (TimeFormat.DAYS, r"\bdays?\b"),
    (TimeFormat.SECONDS, r"."),
)


def _time_columns(
    names: Sequence[str], data: Sequence[Sequence[str]], *, comma: bool
) -> tuple[int | None, int | None, TimeFormat]:
    """Which column holds the time, which the day where that is apart, and how they are written."""
    written = {i: _time_format(cell, comma=comma) for i, cell in enumerate(data[0])}
    days = [i for i, time_format in written.items() if time_format not in (TimeFormat.NONE, TimeFormat.CLOCK)]
    clocks = [i for i, time_format in written.items() if time_format is TimeFormat.CLOCK]
    if days:
        day = days[0]
        shape = next(
            (
                time_format
                for row in data
                if (time_format := _time_format(row[day], comma=comma)) is TimeFormat.DAY_FIRST
            ),
            written[day],
        )
        if ":" in data[0][day] or not clocks:
            return day, None, shape
        return clocks[0], day, shape
    if clocks:
        return clocks[0], None, TimeFormat.CLOCK
    for i, name in enumerate(names):
        if re.search(r"time|elapsed|second|^t\b|\bsec\b|\bms\b", name, re.IGNORECASE):
            unit = next(time_format for time_format, pattern in UNIT_OF_TIME if re.search(pattern, name, re.IGNORECASE))
            return i, None, unit
    return None, None, TimeFormat.NONE


def _uses(names: Sequence[str], numeric: Sequence[int], lanes: Sequence[str]) -> Iterator[ColumnUse]:
    """What each column of numbers is, by its name; what names no conductor takes the next that is free."""
    hot = [lane for lane in lanes if lane not in ("N", "G")]
    pairs = [(a, b) for i, a in enumerate(hot) for b in hot[i + 1 :]] or [(hot[0], "N")]
    used_lanes: set[tuple[str, ...]] = set()
    for i in numeric:
        name = names[i]
        kind, factor = _unit(name)
        if kind is None:
            continue
        named = tuple(dict.fromkeys(re.findall(r"(?:\b|(?<=[AaVvUuIi]))[Ll]?([123N])(?=\D|$)", name)))
        own_lanes = tuple(dict.fromkeys(leg if leg == "N" else f"L{leg}" for leg in named))
        if kind == "volts":
            lane = own_lanes[:2] if len(own_lanes) == 2 else (own_lanes[0], "N") if own_lanes else None
            free = [pair for pair in pairs if pair not in used_lanes]
            place: tuple[str, ...] | None = lane or (free[0] if free else None)
        else:
            lanes_left = [(text,) for text in hot if (text,) not in used_lanes]
            place = own_lanes[:1] or (lanes_left[0] if lanes_left else None)
        if place is None or place in used_lanes or any(text not in lanes for text in place):
            continue
        used_lanes.add(place)
        yield ColumnUse(column=i, channel=Channel(kind=kind, lanes=place), factor=factor)


def _unit(name: str) -> tuple[Literal["volts", "amps"] | None, float]:
    """What a column's name says of its unit."""
    factors = {"": 1.0, "m": 0.001, "k": 1000.0}
    if match := re.search(r"[(\[ _]([mk]?)(V|A)(rms|ac)?[)\] _]?$", name.strip(), re.IGNORECASE):
        return ("volts" if match[2].upper() == "V" else "amps"), factors[match[1].lower()]
    if re.search(r"volt|^u\d|^v\d|\bv\b", name, re.IGNORECASE):
        return "volts", 1.0
    if re.search(r"amp|curr|^[ia]\d|\ba\b", name, re.IGNORECASE):
        return "amps", 1.0
    return None, 1.0
