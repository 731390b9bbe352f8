"""Readings and looks of a call as CSV (RFC 4180)."""

import csv
import io
from collections.abc import Sequence

__all__ = ["readings_csv", "safe_cell"]

HEAD = ("time", "where", "state", "value", "unit", "words", "corrected")
FORMULA = ("=", "+", "-", "@", "\t", "\r")


def safe_cell(text: str) -> str:
    """Keep a spreadsheet from taking text for a formula; numbers are written as numbers and never come here."""
    return f"'{text}" if text.startswith(FORMULA) else text


def readings_csv(rows: Sequence[Sequence[str | float]]) -> str:
    """Write readings, one a line: time, where, state, value, unit, the value in words, whether it was corrected."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(HEAD)
    for row in rows:
        writer.writerow([safe_cell(cell) if isinstance(cell, str) else cell for cell in row])
    return text.getvalue()
