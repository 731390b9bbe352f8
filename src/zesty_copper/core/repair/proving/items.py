"""One thing that is asked of a proof, and how a number that answers it is judged."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.repair.proving.notes import Mode

__all__ = ["Group", "Judged", "NumberAsked", "ProofItem", "ProofStanding", "Subject", "at_most", "item_of"]

Group = Literal["volts", "amps", "start", "stages", "air", "joints", "last"]
ProofUnit = Literal["V", "A", "s", "degF", "cfm", "ohm", "%"]


class ProofStanding(StrEnum):
    """How an item of a proof stands."""

    MISSING = "missing"
    MET = "met"
    NOT_MET = "not_met"
    LATER = "later"
    """It cannot be proven today."""
    INFORMS = "informs"
    """It is not judged by itself: others are judged by it."""


@dataclass(frozen=True)
class Judged:
    """What is made of a number."""

    standing: ProofStanding
    says: str


@dataclass(frozen=True)
class NumberAsked:
    """What is asked: a number with its unit, or without one a thing that is ticked.

    Attributes
    ----------
    judge
        What is made of the number; of a ticked thing nothing.
    needed
        Whether the proof is open as long as it is not said.
    found
        A number that follows from the others, which nobody types.
    """

    key: ProofKey
    group: Group
    label: str
    unit: ProofUnit | None = None
    must: str = ""
    judge: Callable[[float], Judged] | None = None
    needed: bool = True
    found: float | None = None


@dataclass(frozen=True)
class Subject:
    """What is proven: the loads of one branch circuit, and the parts that were worked on.

    It begins at its source, or at its breaker where one source feeds the equipment by several.
    """

    circuit: Circuit
    start: Part
    sheet: Sheet
    loads: tuple[Part, ...]
    parts: tuple[Part, ...]
    numbers: Mapping[ProofKey, float]
    mode: Mode
    is_maintenance: bool = False

    @property
    def source(self) -> Part:
        """The source that feeds it."""
        return self.circuit.path(self.start)[0]

    @property
    def lanes(self) -> tuple[str, ...]:
        """The conductors that carry current to the loads, ground left out."""
        used = {lane for load in self.loads for lane in self.lanes_of(load)}
        return tuple(lane for lane in self.circuit.lanes_of(self.source) if lane in used)

    @property
    def pairs(self) -> tuple[tuple[str, str], ...]:
        """Between which conductors volts are read: each leg to each, or the one leg to the neutral."""
        hot = [lane for lane in self.lanes if lane in self.circuit.supply_of(self.source).legs]
        ends = hot if len(hot) > 1 else list(self.lanes)
        return tuple((a, b) for i, a in enumerate(ends) for b in ends[i + 1 :])

    def lanes_of(self, load: Part) -> tuple[str, ...]:
        """Conductors of the supply that a load is on; the inner leads of a compressor are not among them."""
        brought = self.circuit.lanes_of(self.source)
        return tuple(lane for lane in self.circuit.lanes_of(load) if lane in brought and lane != GROUND)

    def pair_of(self, load: Part) -> tuple[str, str] | None:
        """The pair that a load of one phase is on."""
        return next((pair for pair in self.pairs if set(pair) == set(self.lanes_of(load))), None)

    def volts_of(self, load: Part) -> float | None:
        """Volts at the unit under load on a load's own conductors, the lowest of three pairs; none where not read."""
        own_pair = self.pair_of(load)
        volts_typed = [self.numbers.get(self.key("load", *pair)) for pair in ((own_pair,) if own_pair else self.pairs)]
        volts_read = [value for value in volts_typed if value is not None]
        return min(volts_read, default=None)

    def key(self, what: str, *lanes: str) -> ProofKey:
        """Key of an item about this branch circuit."""
        return ProofKey.of(what, self.start.id, *lanes)


class ProofItem(Frozen):
    """One thing that is asked, with what was said and how it stands."""

    key: ProofKey
    group: Group
    label: str
    unit: ProofUnit | None
    must: str
    asked: bool
    needed: bool
    value: float | None
    ticked: bool
    standing: ProofStanding
    says: str


def item_of(ask: NumberAsked, numbers: Mapping[ProofKey, float], ticked: Iterable[str]) -> ProofItem:
    """Judge what was said to something that was asked."""
    value = ask.found if ask.found is not None else numbers.get(ask.key)
    done = ask.key in ticked
    judged = Judged(ProofStanding.MET if done else ProofStanding.MISSING, "")
    if ask.unit is not None:
        judged = Judged(ProofStanding.MISSING if ask.needed else ProofStanding.INFORMS, "")
        if value is not None:
            judged = ask.judge(value) if ask.judge else Judged(ProofStanding.INFORMS, "")
    return ProofItem(
        key=ask.key,
        group=ask.group,
        label=ask.label,
        unit=ask.unit,
        must=ask.must,
        asked=ask.found is None,
        needed=ask.needed,
        value=value,
        ticked=done,
        standing=judged.standing,
        says=judged.says,
    )


def at_most(limit: float, says: str) -> Callable[[float], Judged]:
    """Judge a number by a limit that it must not exceed; `says` is told where it does."""
    return lambda value: Judged(ProofStanding.MET, "") if value <= limit else Judged(ProofStanding.NOT_MET, says)
