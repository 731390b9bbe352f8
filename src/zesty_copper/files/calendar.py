"""Return visits as iCalendar (RFC 5545), for any calendar to take."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from uuid import UUID, uuid5

from icalendar import Calendar, Event

__all__ = ["Return", "calendar_of"]


@dataclass(frozen=True)
class Return:
    """A day on which somebody comes back, and why."""

    on: date
    why: str


def calendar_of(call_id: UUID, where: str, address: str, returns: Sequence[Return], now: datetime) -> bytes:
    """Write return visits as days of a calendar; the same visit keeps its id, so that it is taken over and not doubled.

    Parameters
    ----------
    where
        Equipment and site.
    now
        When it is written, with its zone.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Zesty Copper//Return visits//EN")
    calendar.add("version", "2.0")
    for visit in returns:
        event = Event()
        event.add("uid", f"{uuid5(call_id, visit.why)}@zesty-copper")
        event.add("dtstamp", now)
        event.add("dtstart", visit.on)
        event.add("dtend", visit.on + timedelta(days=1))
        event.add("summary", f"Return visit: {where}")
        event.add("description", visit.why)
        if address:
            event.add("location", address)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
