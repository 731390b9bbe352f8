"""What a finding makes likelier: an undersized joint fails more often, a breaker at its rating trips."""

from collections.abc import Iterable

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.rules.finding import Failing, Finding, Status, rules

__all__ = ["Likelier", "likelier"]

_WAYS = {
    Failing.JOINT: ("open", "resistive", "intermittent"),
    Failing.CONTACT: ("open", "resistive", "intermittent", "welded"),
    Failing.TRIP: ("not_closed",),
}


class Likelier(Frozen):
    """Faults of one kind at one part, and by how much they are likelier."""

    kind: str
    part: str
    factor: float = Field(gt=0)
    reason: str


def likelier(findings: Iterable[Finding]) -> tuple[Likelier, ...]:
    """Return what findings that are not met make likelier; of several on one part the strongest counts."""
    strongest: dict[tuple[str, str], Likelier] = {}
    for finding in findings:
        if finding.part is None or finding.status not in (Status.NOT_MET, Status.ADVICE):
            continue
        for failing, factor in rules()[finding.rule].likelier.items():
            for kind in _WAYS[failing]:
                key = (kind, finding.part)
                if key not in strongest or strongest[key].factor < factor:
                    strongest[key] = Likelier(kind=kind, part=finding.part, factor=factor, reason=finding.words)
    return tuple(strongest[key] for key in sorted(strongest))
