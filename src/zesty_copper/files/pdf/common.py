"""What several sheets have in common: their top, lists, pictures, and how a call was left."""

from collections.abc import Iterator
from io import BytesIO

from reportlab.lib.units import inch
from reportlab.platypus import Flowable, Image, KeepTogether

from zesty_copper.core.repair.proving.notes import Outcome
from zesty_copper.files.pdf.drawings import drop_drawing, strip_drawing
from zesty_copper.files.pdf.paper import WIDTH, says
from zesty_copper.files.pdf.told import HandOver

__all__ = ["left_words", "listed", "pictures", "top", "unit_words"]

MOST_PICTURES = 12
UNITS = {"degF": "°F", "ohm": "Ω"}


def unit_words(unit: str | None) -> str:
    """A unit of the core as it is written."""
    return UNITS.get(unit or "", unit or "")


def top(told: HandOver, title: str) -> Iterator[Flowable]:
    """A sheet's title, and whose it is."""
    yield says(title, "title")
    where = f", {told.call.site_address}" if told.call.site_address else ""
    yield says(f"{told.call.equipment_name} at {told.call.site_name}{where}", "big")
    yield says(
        f"Visit of {told.moment(told.call.starts_at)}, by {told.call.technician.name}. Reported: {told.call.complaint}"
    )


def listed(title: str, lines: list[str]) -> Iterator[Flowable]:
    """A heading and its lines, kept on one page where they fit; nothing where there are none."""
    if lines:
        yield KeepTogether([says(title, "head"), *(says(line, bullet=True) for line in lines[:6])])
        yield from (says(text, bullet=True) for text in lines[6:])


def left_words(told: HandOver) -> str:
    """How the proof was left."""
    proof = told.notes.proof
    if proof.outcome is Outcome.PROVEN:
        return "Repaired and proven: it was run under load, and every number is as it should be."
    if proof.outcome is Outcome.NOT_PROVEN:
        return f"Not proven yet: {proof.reason}"
    if not told.is_sure and not told.plan.items:
        return "Not finished: the cause has not been found yet."
    return "Not finished: the repair has not been proven under load."


def pictures(told: HandOver, size: float) -> Iterator[Flowable]:
    """Strip, drops and photos, these as wide as a share of the page."""
    strip, drops = strip_drawing(told), drop_drawing(told)
    if strip is not None:
        yield KeepTogether([says("The path of the power, from the source down", "head"), strip])
    if drops is not None:
        yield KeepTogether([says("Volts lost on the way", "head"), drops])
    if told.pictures:
        yield says("Pictures", "head")
    for picture in told.pictures[:MOST_PICTURES]:
        image = Image(BytesIO(picture.jpeg))
        scale = min(size * WIDTH / image.imageWidth, 3.6 * inch / image.imageHeight)
        image.drawWidth, image.drawHeight = scale * image.imageWidth, scale * image.imageHeight
        image.hAlign = "LEFT"
        yield KeepTogether([image, says(picture.words, "small")])
