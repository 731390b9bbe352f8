"""What is still due after a visit, the most dangerous first."""

from collections.abc import Iterator
from datetime import date
from enum import StrEnum

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.repair.notes import Quote, RepairNotes
from zesty_copper.core.repair.proving.notes import Outcome
from zesty_copper.core.words import say

__all__ = ["DANGER", "Due", "DueKind", "due_of"]


class DueKind(StrEnum):
    """What is due."""

    BYPASS = "bypass"
    NOT_PROVEN = "not_proven"
    RETURN = "return"
    PUT_BACK = "put_back"
    QUOTE = "quote"
    PARTS = "parts"


DANGER = tuple(DueKind)
"""In the order of danger: a disconnect that does not disconnect first, parts that somebody waits for last."""


class Due(Frozen):
    """One thing that is still due."""

    kind: DueKind
    words: str
    on: date | None = Field(default=None, description="until when; none: no day was said")


def due_of(notes: RepairNotes, *, is_closed: bool) -> Iterator[Due]:
    """Say what is still due of one call, by what was chosen and noted about its repair."""
    proof = notes.proof
    proven = proof.outcome is Outcome.PROVEN
    for chosen in notes.chosen.values():
        if chosen.way == "bypass" and not proven:
            yield Due(kind=DueKind.BYPASS, words=say("repair.due_bypass", reason=chosen.reason), on=chosen.return_on)
        elif chosen.return_on is not None and not proven:
            yield Due(kind=DueKind.RETURN, words=say("repair.due_return", reason=chosen.reason), on=chosen.return_on)
    if proof.outcome is Outcome.NOT_PROVEN:
        words = say("repair.due_proof", reason=proof.reason)
        yield Due(kind=DueKind.NOT_PROVEN, words=words, on=proof.return_on)
    if is_closed and (not_put_back := [item.words for item in notes.put_back if not item.done]):
        yield Due(kind=DueKind.PUT_BACK, words=say("repair.due_put_back", what="; ".join(not_put_back)))
    if notes.quote is Quote.WAITING:
        yield Due(kind=DueKind.QUOTE, words=say("repair.due_quote"))
    to_order = [order.words for order in notes.orders if order.state == "to_order"]
    if to_order:
        yield Due(kind=DueKind.PARTS, words=say("repair.due_parts", parts="; ".join(to_order)))
