"""What is told on the telephone: complaints to choose from, and what each says of the call."""

import tomllib
from functools import cache
from importlib.resources import files

from pydantic import Field

from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import SignOf, signs
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["Complaint", "check_told", "complaints"]


class Complaint(Frozen):
    """One way of saying what is wrong."""

    words: str
    signs: tuple[str, ...] = Field(description="names of signs of the call as a whole")


@cache
def complaints() -> tuple[Complaint, ...]:
    """Every complaint to choose from, the commonest first.

    Raises
    ------
    BadInput
        If one names a sign that is none of a call.
    """
    table = tomllib.loads(files(__package__).joinpath("complaints.toml").read_text("utf-8"))
    listed = tuple(Complaint.model_validate(row) for row in table["complaint"])
    for complaint in listed:
        check_told(complaint.signs)
    return listed


def check_told(names: tuple[str, ...] | frozenset[str]) -> None:
    """Raise BadInput for a name that is no sign of a call as a whole."""
    for name in sorted(names):
        sign = signs().get(name)
        if sign is None or sign.of is not SignOf.CALL:
            raise BadInput(say("tools.nothing_told_call_choose", name=name), "told")
