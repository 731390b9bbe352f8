"""How the file of a logger is to be read: its delimiter, its times, and what each column is."""

from enum import StrEnum
from typing import Literal

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.trace import MOST_CHANNELS, Channel

__all__ = ["MOST_COLUMNS", "BadRow", "ColumnUse", "CsvGuess", "CsvMapping", "Delimiter", "ReadCsv", "TimeFormat"]

MOST_COLUMNS = 64

Delimiter = Literal[",", ";", "\t", "|"]


class TimeFormat(StrEnum):
    """How a file writes its times."""

    SECONDS = "seconds"
    MILLISECONDS = "milliseconds"
    MINUTES = "minutes"
    HOURS = "hours"
    DAYS = "days"
    CLOCK = "clock"
    ISO = "iso"
    MONTH_FIRST = "month_first"
    DAY_FIRST = "day_first"
    NONE = "none"


class ColumnUse(Frozen):
    """What one column is."""

    column: int = Field(ge=0, lt=MOST_COLUMNS)
    channel: Channel
    factor: float = Field(default=1.0, ge=1e-6, le=1e6, description="to volts or amps: 0.001 where it is in mV or mA")


class CsvMapping(Frozen):
    """How a file is to be read."""

    delimiter: Delimiter = ","
    decimal_comma: bool = False
    first_row: int = Field(default=1, ge=0, le=1000, description="rows ahead of the first number")
    time_column: int | None = Field(default=0, ge=0, lt=MOST_COLUMNS)
    date_column: int | None = Field(default=None, ge=0, lt=MOST_COLUMNS, description="where the day has its own")
    time_format: TimeFormat = TimeFormat.SECONDS
    interval_s: float = Field(default=1.0, ge=0.001, le=3600, description="between rows, where the file has no times")
    columns: tuple[ColumnUse, ...] = Field(default=(), max_length=MOST_CHANNELS)


class CsvGuess(Frozen):
    """What was recognized in the first rows of a file."""

    mapping: CsvMapping
    names: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...] = Field(description="the first rows of numbers, as written")


class BadRow(Frozen):
    """A row that was left out."""

    line: int = Field(description="in the file, the first is 1")
    why: str


class ReadCsv(Frozen):
    """What became of the rows of a file."""

    rows: int = Field(description="that were taken")
    left_out: int
    bad: tuple[BadRow, ...] = Field(description="the first of those left out, by line")
