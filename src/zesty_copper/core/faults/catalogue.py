"""Every fault a circuit can have, with its prior and its words."""

import tomllib
from enum import StrEnum
from functools import cache, lru_cache
from importlib.resources import files

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit, Part
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen

__all__ = ["Fault", "FaultKind", "Priors", "faults_of", "priors"]


class FaultKind(StrEnum):
    """The ways in which a supply is not what it should be."""

    OPEN = "open"
    RESISTIVE = "resistive"
    INTERMITTENT = "intermittent"
    NOT_CLOSED = "not_closed"
    LOAD_OPEN = "load_open"
    SAME_LEG = "same_leg"
    SUPPLY_DEAD = "supply_dead"
    SUPPLY_LOW = "supply_low"
    NOTHING_WRONG = "nothing_wrong"
    NONE_OF_THESE = "none_of_these"


class Fault(Frozen):
    """One thing that can be wrong, in one place."""

    kind: FaultKind
    part: str | None = Field(default=None, description="id of the part")
    leg: str | None = None
    prior: float = Field(gt=0, lt=1)
    words: str

    @property
    def key(self) -> str:
        """Name of the fault within its circuit."""
        return ":".join(text for text in (self.kind, self.part, self.leg) if text)

    @property
    def place(self) -> tuple[str, str]:
        """Where the hand goes: part and leg; faults without a part are places of their own."""
        return (self.part or self.kind, self.leg or "")


class Priors(Frozen):
    """The tables of `priors.toml`."""

    whole: dict[str, float]
    not_closed: dict[str, float]
    weight: dict[str, float]
    way: dict[str, tuple[float, float, float]]


_WAYS = (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT)


@cache
def priors() -> Priors:
    """The prior tables, read once.

    Raises
    ------
    ValueError
        If the ways in which a part fails do not sum to one.
    """
    table = Priors.model_validate(tomllib.loads(files(__package__).joinpath("priors.toml").read_text("utf-8")))
    for kind, shares in table.way.items():
        if abs(sum(shares) - 1) > 1e-9:
            raise ValueError(f"priors.toml: the ways of {kind} sum to {sum(shares)}, not to 1.")
    return table


@lru_cache(maxsize=64)
def faults_of(circuit: Circuit) -> tuple[Fault, ...]:
    """Every fault of a circuit; the priors sum to one. `not_closed` comes first and `none_of_these` last.

    Raises
    ------
    BadInput
        If a part's kind has no prior.
    """
    table = priors()
    found: list[tuple[FaultKind, Part | None, str | None, float, str]] = []
    for switch in circuit.switches:
        part = next(p for p in circuit.series if p.switch == switch.id)
        prior = _lookup(table.not_closed, part)
        found.append((FaultKind.NOT_CLOSED, part, None, prior, part.entry.not_closed))
    load = circuit.load
    found += [
        (FaultKind.LOAD_OPEN, load, None, table.whole["load_open"], load.entry.open.format(name=load.name)),
        (FaultKind.SAME_LEG, None, None, table.whole["same_leg"], "Both legs are on one side of the supply"),
        (FaultKind.SUPPLY_DEAD, None, None, table.whole["supply_dead"], "The supply is dead ahead of the panel"),
        (FaultKind.SUPPLY_LOW, None, None, table.whole["supply_low"], "The supply itself is low"),
        (FaultKind.NOTHING_WRONG, None, None, table.whole["nothing_wrong"], "Nothing is wrong on this path"),
    ]
    unlisted = table.whole["none_of_these"]
    rest = 1 - unlisted - sum(prior for *_, prior, _ in found)
    total = sum(_lookup(table.weight, part) for part in circuit.series) * len(circuit.legs)
    for part in circuit.series:
        share = rest * _lookup(table.weight, part) / total
        sayings = (part.entry.open, part.entry.resistive, part.entry.intermittent)
        for leg in circuit.legs:
            for kind, way, saying in zip(_WAYS, table.way[part.kind], sayings, strict=True):
                found.append((kind, part, leg, share * way, f"{leg} {saying.format(name=part.name)}"))
    found.append(
        (FaultKind.NONE_OF_THESE, None, None, unlisted, "None of these: something not listed, or a reading is off")
    )
    scale = sum(prior for *_, prior, _ in found)
    return tuple(
        Fault(kind=kind, part=part.id if part else None, leg=leg, prior=prior / scale, words=words)
        for kind, part, leg, prior, words in found
    )


def _lookup(table: dict[str, float], part: Part) -> float:
    try:
        return table[part.kind]
    except KeyError:
        raise BadInput(f"No prior is known for a part of kind “{part.kind}”.", "circuit.parts") from None
