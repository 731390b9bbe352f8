"""A call gathered for its sheets, its calendar and its tables."""

from collections.abc import Iterator
from typing import Annotated
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import AfterValidator
from sqlalchemy.orm import Session

from zesty_copper.api.pages.repair import repair_of
from zesty_copper.api.pages.workbench import Workbench, workbench_of
from zesty_copper.core.circuit.words import at_words, mark_words
from zesty_copper.core.people import Person
from zesty_copper.core.ratings.inputs.from_circuit import sheets_with
from zesty_copper.core.repair.proving.notes import Outcome
from zesty_copper.files.calendar import Return
from zesty_copper.files.pdf.told import HandOver, Picture, PrintedReading
from zesty_copper.store.calls import load_tests, photos
from zesty_copper.store.calls.photos import ShownPhoto
from zesty_copper.store.clock import now
from zesty_copper.store.records import Call

__all__ = ["Zone", "hand_over_of", "photo_words", "reading_rows", "returns_of"]


def _known(name: str) -> str:
    try:
        ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise ValueError("This time zone is not known: leave it out.") from None
    return name


Zone = Annotated[str, AfterValidator(_known)]
"""Name of a time zone, as America/New_York."""


def photo_words(call: Call, photo: ShownPhoto) -> str:
    """Say where a photo was taken, and what it shows."""
    parts = {part.id: part for part in call.circuit.parts}
    part = parts.get(photo.part or "")
    where = ""
    if part is not None:
        where = at_words(call.circuit, part) if photo.lane is None else f"{mark_words(part, photo.lane)}, {part.name}"
    return ": ".join(text for text in (where, photo.words) if text)


def hand_over_of(session: Session, call: Call, viewer: Person, zone: str) -> HandOver:
    """Gather everything that the sheets of a call tell."""
    page, repair = workbench_of(call, viewer), repair_of(call, viewer)
    listed_photos = photos.listed(session, call.summary.id)
    jpegs = photos.jpegs(session, call.summary.id)
    return HandOver(
        call=page.call,
        circuit=call.circuit,
        strip=page.strip,
        diagnosis=page.diagnosis,
        plan=repair.plan,
        notes=call.repair,
        proof=repair.proof,
        sheets=sheets_with(call.circuit, call.ratings.sheets, call.readings),
        readings=tuple(
            PrintedReading(reading.entered_at, reading.place, reading.state, reading.value, corrected=reading.corrected)
            for reading in page.readings
        ),
        looks=tuple(PrintedReading(look.entered_at, look.words, "", "") for look in page.looks),
        treads=page.treads,
        tests=tuple(
            (load_test.title, load_test.report)
            for load_test in load_tests.listed(session, call.summary.id)
            if load_test.report
        ),
        zone=ZoneInfo(zone),
        today=now(),
        pictures=tuple(
            Picture(photo_words(call, photo), jpeg) for photo, jpeg in zip(listed_photos, jpegs, strict=True)
        ),
    )


def reading_rows(page: Workbench) -> Iterator[tuple[str | float, ...]]:
    """Every reading and look of a call as a row of a table."""
    for shown_reading in page.readings:
        reading = shown_reading.reading
        at = shown_reading.entered_at.isoformat()
        yield (
            at,
            shown_reading.place,
            shown_reading.state,
            reading.value,
            reading.unit,
            shown_reading.value,
            "yes" if shown_reading.corrected else "",
        )
    for look in page.looks:
        yield look.entered_at.isoformat(), look.words, "", "", "", "seen" if look.look.seen else "not seen", ""


def returns_of(call: Call) -> list[Return]:
    """Every day on which somebody has to come back."""
    notes = call.repair
    returns = [
        Return(choice.return_on, choice.reason or "Finish the repair")
        for choice in notes.chosen.values()
        if choice.return_on
    ]
    if notes.proof.return_on is not None and notes.proof.outcome is not Outcome.PROVEN:
        returns.append(Return(notes.proof.return_on, f"Prove the repair under load: {notes.proof.reason}"))
    return returns
