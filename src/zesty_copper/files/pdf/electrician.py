"""The electrician's sheet: what was found, what to measure next and where."""

from collections.abc import Iterator

from reportlab.platypus import Flowable

from zesty_copper.core.repair.rows import By
from zesty_copper.files.pdf.common import listed, pictures, top
from zesty_copper.files.pdf.paper import rows, says
from zesty_copper.files.pdf.told import HandOver

__all__ = ["electrician", "is_for_electrician"]

NOTHING_OPENED = "Every supply off, locked and tagged; proved dead on every conductor."


def is_for_electrician(told: HandOver) -> bool:
    """Whether anything of it is an electrician's, or the utility's."""
    return told.diagnosis.stop is not None or any(item.by is By.ELECTRICIAN for item in told.plan.items)


def electrician(told: HandOver) -> Iterator[Flowable]:
    """Everything that the electrician's sheet says."""
    yield from top(told, "For the electrician")
    verdict, test = told.diagnosis.verdict, told.diagnosis.next_test
    if told.diagnosis.stop is not None:
        yield says(told.diagnosis.stop.title, "big")
        yield says(told.diagnosis.stop.words)
        yield says(f"Clears it: {told.diagnosis.stop.clears}")
    yield says("What was found", "head")
    yield says(f"{verdict.words} ({100 * verdict.probability:.0f} %)")
    readings = [(reading.place, reading.state, reading.value) for reading in told.readings]
    yield (
        rows(("where", "state", "value"), readings, (0.45, 0.35, 0.2)) if readings else says("No readings were taken.")
    )
    yield from listed(
        "Yours to do", [f"{item.does} {item.why}" for item in told.plan.items if item.by is By.ELECTRICIAN]
    )
    if test is not None:
        lines = [*test.procedure, *(text for text in (test.settles, test.caution) if text)]
        yield from listed("What to measure next, and where", lines)
    before = list(dict.fromkeys(told.plan.before)) or [
        "Every supply off, locked and tagged; proved dead on every conductor."
    ]
    yield from listed("Before any hand goes in", before)
    yield from pictures(told, 0.6)
