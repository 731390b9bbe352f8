"""What time it is: the one place that days on pages and sheets are counted from.

`ZESTY_NOW` (ISO 8601, as 2028-02-29T09:00-05:00) sets it; it goes on from there. What only measures how long something
took, or ends by itself, asks the machine's or the database's own clock.
"""

import os
from datetime import UTC, datetime, timedelta

__all__ = ["now"]


def _ahead() -> timedelta:
    """How far this clock is ahead of the machine's."""
    setting = os.environ.get("ZESTY_NOW", "")
    return datetime.fromisoformat(setting).astimezone(UTC) - datetime.now(UTC) if setting else timedelta()


_AHEAD = _ahead()


def now() -> datetime:
    """Return the time, in UTC."""
    return datetime.now(UTC) + _AHEAD
