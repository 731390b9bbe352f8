"""The times of a logger's rows, as loggers write them."""

import math
import re
from collections.abc import Callable, Sequence
from datetime import date
from functools import lru_cache

from zesty_copper.files.logger.mapping import CsvMapping, TimeFormat

__all__ = ["DAY_S", "HALF_DAY_S", "time_reader"]

DAY_S, HALF_DAY_S = 86_400.0, 43_200.0
FACTORS = {
    TimeFormat.SECONDS: 1.0,
    TimeFormat.MILLISECONDS: 0.001,
    TimeFormat.MINUTES: 60.0,
    TimeFormat.HOURS: 3600.0,
    TimeFormat.DAYS: DAY_S,
}


def time_reader(mapping: CsvMapping) -> Callable[[Sequence[str], int], float]:
    """Return what reads the time of a row [s]."""
    column, day, shape = mapping.time_column, mapping.date_column, mapping.time_format
    if column is None or shape is TimeFormat.NONE:
        return lambda _, count: count * mapping.interval_s

    def told(cell: str) -> ValueError:
        return ValueError(f"“{cell[:40]}” is no time of the kind that was chosen")

    if (factor := FACTORS.get(shape)) is not None:

        def bare(row: Sequence[str], _count: int) -> float:
            cell = row[column].strip()
            try:
                value = factor * float(cell.replace(",", ".") if mapping.decimal_comma else cell)
            except ValueError:
                raise told(cell) from None
            if not math.isfinite(value):
                raise told(cell)
            return value

        return bare

    def written(row: Sequence[str], _count: int) -> float:
        cell = row[column].strip()
        try:
            if shape is TimeFormat.CLOCK:
                return _clock(cell)
            if day is not None:
                return _day(row[day].strip(), shape) + _clock(cell)
            on, _sep, at = cell.replace("T", " ").partition(" ")
            return _day(on, shape) + (_clock(at) if at else 0.0)
        except (ValueError, IndexError):
            raise told(cell) from None

    return written


@lru_cache(maxsize=64)
def _day(text: str, shape: TimeFormat) -> float:
    """Seconds until the beginning of a day; only differences count."""
    if shape is TimeFormat.ISO:
        return date.fromisoformat(text).toordinal() * DAY_S
    first, second, year = (int(text_part) for text_part in re.split(r"[/.]", text))
    month, of_month = (second, first) if shape is TimeFormat.DAY_FIRST else (first, second)
    return date(year + 2000 if year < 100 else year, month, of_month).toordinal() * DAY_S


def _clock(text: str) -> float:
    """Seconds since midnight of 14:03:07.25, 2:03:07 PM, or minutes and seconds."""
    words = text.split()
    clock = words[0].rstrip("Z")
    parts = re.split(r"[+-]", clock, maxsplit=1)[0].replace(",", ".").split(":")
    seconds = 0.0
    for part in parts:
        seconds = 60 * seconds + float(part)
    if len(parts) == 2 and (len(words) > 1 or "." not in parts[1]):
        seconds *= 60  # hours and minutes, where no fraction of a second shows otherwise
    if len(words) > 1 and words[1].upper() in ("AM", "PM"):
        noon = int(float(parts[0])) == 12
        seconds += (HALF_DAY_S if words[1].upper() == "PM" else 0.0) - (HALF_DAY_S if noon else 0.0)
    return seconds
