"""What the firm has found before, on equipment of the same kind and on this very one, makes a fault likelier."""

from collections import Counter
from collections.abc import Iterator, Sequence

from pydantic import Field

from zesty_copper.core.diagnosis.model.job import PriorFactor
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["PastFind", "experience"]

LEAST_FINDS = 2
"""Once is chance."""
EACH, MOST = 0.35, 3.0
"""By how much each find makes a fault likelier, and how much all of them do at most: a firm's few calls outweigh no
reading (common practice, no source)."""
HERE = 2.5
"""A fault found on this very equipment before is so much likelier there: the first repair may have missed the cause."""


class PastFind(Frozen):
    """A fault that was found and proven repaired."""

    key: str = Field(description="of the fault")
    words: str
    same_equipment: bool
    when: str


def experience(finds: Sequence[PastFind]) -> tuple[PriorFactor, ...]:
    """Return what past finds make likelier, each with its reason; no factor is above three.

    Parameters
    ----------
    finds
        On equipment of the same kind, the latest first.
    """
    return tuple(_factors(finds))


def _factors(finds: Sequence[PastFind]) -> Iterator[PriorFactor]:
    on_this_unit = {find.key: find for find in reversed(finds) if find.same_equipment}
    for key, times in on_this_unit.items():
        yield PriorFactor(key=key, factor=HERE, reason=say("tools.found_here_before", when=times.when))
    for key, count in Counter(past_find.key for past_find in finds).items():
        if key not in on_this_unit and count >= LEAST_FINDS:
            reason = say("tools.found_on_others", count=count)
            yield PriorFactor(key=key, factor=min(1 + EACH * count, MOST), reason=reason)
