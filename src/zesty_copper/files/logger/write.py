"""Write a trace as CSV (RFC 4180), in the columns that are recognized when it is read."""

import csv
import io
import math
from collections.abc import Iterator

from zesty_copper.core.load_test.trace import Channel, Trace

__all__ = ["csv_of"]

ROWS_AT_ONCE = 5000


def csv_of(trace: Trace) -> Iterator[str]:
    """Return the text of a trace, some rows at a time; where the logger gave nothing a cell is empty."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(["Time (s)", *map(_name, trace.channels)])
    columns = trace.values.T.tolist()
    for i, (at, row) in enumerate(zip(trace.seconds.tolist(), columns, strict=True)):
        rows.writerow([f"{at:.4f}", *("" if math.isnan(number) else f"{number:.6g}" for number in row)])
        if i % ROWS_AT_ONCE == 0:
            yield text.getvalue()
            text.seek(0)
            text.truncate()
    yield text.getvalue()


def _name(channel: Channel) -> str:
    return f"{'-'.join(channel.lanes)} ({channel.unit})"
