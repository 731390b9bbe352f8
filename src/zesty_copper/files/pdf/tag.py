"""Tags for a locked or bypassed disconnect: one for each end."""

from collections.abc import Iterator

from reportlab.lib.units import inch
from reportlab.platypus import CondPageBreak, Flowable, Spacer

from zesty_copper.files.pdf.paper import says
from zesty_copper.files.pdf.told import HandOver

__all__ = ["tags"]


def tags(told: HandOver) -> Iterator[Flowable]:
    """Two tags, one for each end."""
    bypass = next((choice for choice in told.notes.chosen.values() if choice.way == "bypass"), None)
    for end in ("At the disconnect", "At the breaker"):
        yield CondPageBreak(4.4 * inch)
        yield says("BYPASSED: OPEN AT THE BREAKER" if bypass else "DO NOT OPERATE", "title")
        yield says("The disconnect does not disconnect." if bypass else "Locked out for repair.", "big")
        reason = bypass.reason if bypass else told.diagnosis.verdict.words
        back = told.notes.return_on
        lines = [
            ("where", end),
            ("equipment", f"{told.call.equipment_name}, {told.call.site_name}"),
            ("why", reason),
            ("by", told.call.technician.name),
            ("since", told.moment(told.today)),
            ("until", f"{back:%A, %B %-d, %Y}" if back else "it is repaired"),
        ]
        yield from (says(f"{name}: {value}", "big") for name, value in lines)
        yield says("Only whoever hung this tag takes it down.")
        yield Spacer(1, 0.5 * inch)
