"""A fault: what is wrong, where, how likely before anything is read, and its words."""

from typing import NamedTuple

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["Fault", "FaultEntry", "no_suspect"]


class FaultEntry(NamedTuple):
    """A fault as its family lists it, before the priors of a circuit are made to sum to one."""

    kind: FaultKind
    part: str | None
    leg: str | None
    prior: float
    words: str


class Fault(Frozen):
    """One thing that can be wrong, in one place."""

    kind: FaultKind
    part: str | None = Field(default=None, description="id of the part")
    leg: str | None = Field(
        default=None, description="the conductor, the winding, two conductors with a dash, or of a pair both keys"
    )
    prior: float = Field(gt=0, lt=1)
    words: str
    opens: tuple[tuple[str, float], ...] = Field(
        default=(), description="parts that it opens, the usual one first, and how often each does"
    )

    @property
    def tripped(self) -> str | None:
        """The part that it usually opens."""
        return self.opens[0][0] if self.opens else None

    @property
    def key(self) -> str:
        """Name of the fault within its circuit."""
        if self.kind is FaultKind.TWO_AT_ONCE:
            return FaultKey(self.leg or "")
        return FaultKey.of(self.kind, self.part, self.leg)

    @property
    def place(self) -> tuple[str, str]:
        """Where the hand goes: part and conductor; a load as a whole; the supply's own by their kind."""
        if self.kind is FaultKind.TWO_AT_ONCE:
            return self.leg or "", ""
        whole = self.part is None or self.kind is FaultKind.LOAD_OPEN
        return (self.part or self.kind, "" if whole else self.leg or "")

    def part_in(self, circuit: Circuit) -> Part:
        """The part of a circuit that the fault is in; the first supply where none is named."""
        return circuit.part(self.part) if self.part else circuit.series[0]


def no_suspect(field: str) -> BadInput:
    """What to say of a suspect that a circuit lacks."""
    return BadInput(say("faults.circuit_has_no_such"), field)
