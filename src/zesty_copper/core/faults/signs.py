"""What is seen, smelled, heard or told: the signs of `signs.toml`, and how each bears on every fault."""

import tomllib
from collections.abc import Mapping, Sequence
from enum import StrEnum
from functools import cache
from importlib.resources import files
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Lane, Part, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["Follows", "Look", "Sign", "SignOf", "chances_of", "check_look", "look_words", "places_for", "signs"]


class SignOf(StrEnum):
    """Where a sign is looked for."""

    PART = "part"
    RUN = "run"
    LOAD = "load"
    CALL = "call"


class Follows(StrEnum):
    """What is told of the equipment as a whole and follows from its network."""

    NOTHING_RUNS = "nothing_runs"
    PARTLY = "partly"
    HUMS = "hums"
    CHATTERS = "chatters"
    WEAK = "weak"
    BLANK = "blank"


class Shows(Frozen):
    """How likely a sign is under some faults."""

    faults: tuple[FaultKind, ...] = ()
    parts: tuple[str, ...] = ()
    ahead: bool = False
    tripped: bool = False
    here: float = Field(gt=0, lt=1)
    beside: float = Field(default=0.0, ge=0, lt=1)

    def fits(self, fault: Fault, kind: str | None) -> bool:
        """Whether this line speaks of a fault in a part of some kind."""
        return (
            (not self.faults or fault.kind in self.faults)
            and (not self.parts or kind in self.parts)
            and (not self.tripped or bool(fault.opens))
        )


class Sign(Frozen):
    """One entry of `signs.toml`; the fields are explained in its head."""

    label: str
    of: SignOf
    finding: bool = False
    otherwise: float = Field(gt=0, lt=1)
    reason: str
    said: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    follows: Follows | None = None
    shows: tuple[Shows, ...] = ()


class Look(Frozen):
    """One thing looked for, at one place, and whether it was there."""

    id: str = Field(min_length=1, max_length=64, description="made where it was said")
    sign: Identifier
    part: Identifier | None = Field(default=None, description="where; none for a sign of the call as a whole")
    leg: Lane | None = Field(default=None, description="on which conductor, where that is plain")
    zone: Zone | None = Field(default=None, description="instead of a part: the whole box was looked over")
    seen: bool = True


@cache
def signs() -> Mapping[str, Sign]:
    """Every sign by its name, read once."""
    table = tomllib.loads(files(__package__).joinpath("signs.toml").read_text("utf-8"))
    return MappingProxyType({name: Sign.model_validate(row) for name, row in table.items()})


def places_for(circuit: Circuit, sign: Sign) -> tuple[Part, ...]:
    """Parts at which a sign may be found."""
    match sign.of:
        case SignOf.PART:
            joints = (p for p in circuit.series if p.conductor is None and p.entry.role is PartRole.SERIES)
            return tuple(p for p in joints if not sign.parts or p.kind in sign.parts)
        case SignOf.RUN:
            return tuple(p for p in circuit.series if p.conductor is not None)
        case SignOf.LOAD:
            return circuit.loads
        case SignOf.CALL:
            return ()


def check_look(circuit: Circuit, look: Look) -> None:
    """Raise BadInput for a sign or place that is not there."""
    sign = signs().get(look.sign)
    if sign is None:
        raise BadInput(say("faults.there_no_sign_choose", sign=look.sign), "sign")
    if sign.of is SignOf.CALL:
        if look.part or look.zone:
            raise BadInput(say("faults.said_call_whole_leave", label=sign.label), "part")
        return
    if look.zone is not None and look.part is None:
        if look.seen:
            raise BadInput(say("faults.say_which_part_was", label=sign.label.lower()), "part")
        return
    if look.part is None:
        raise BadInput(say("faults.say_where_you_looked", label=sign.label.lower()), "part")
    part = circuit.part(look.part)
    if part not in places_for(circuit, sign):
        raise BadInput(say("faults.not_looked_choose_another", label=sign.label, name=part.name), "part")
    if look.leg is not None:
        circuit.check_reaches(look.leg, part, "leg")


def look_words(circuit: Circuit, look: Look) -> str:
    """Say a look: `L2 at the line-side clip: discolored or burnt`."""
    sign = signs()[look.sign]
    sign_words = sign.label.lower()
    if look.part is not None:
        name = circuit.part(look.part).name
        where = say("faults.leg_at_part", leg=look.leg, name=name) if look.leg else f"The {name}"
        return (
            f"{where}: {sign_words}" if look.seen else say("faults.looked_for_not_found", where=where, said=sign_words)
        )
    if look.zone is not None:
        return say("faults.looked_over_nothing", zone=look.zone, said=sign_words)
    return sign.label if look.seen else say("faults.asked_not_so", said=sign_words)


def chances_of(circuit: Circuit, faults: Sequence[Fault], look: Look) -> NDArray[np.float64]:
    """Chance of the sign at the look's place under each fault, (faults,)."""
    sign = signs()[look.sign]
    return np.array([_chance(circuit, sign, fault, look) for fault in faults])


def _chance(circuit: Circuit, sign: Sign, fault: Fault, look: Look) -> float:
    part = circuit.part(fault.part) if fault.part else circuit.series[0]
    rule = next((rule for rule in sign.shows if rule.fits(fault, part.kind)), None)
    if rule is None:
        return sign.otherwise
    if rule.tripped and sign.of is SignOf.PART:
        opened = [share for name, share in fault.opens if name == look.part or circuit.part(name).zone is look.zone]
        return sign.otherwise + (rule.here - sign.otherwise) * max(opened, default=0.0)
    if sign.of is SignOf.CALL or (rule.ahead and fault.part is None):
        return rule.here
    return max(_chance_at(circuit, part, rule, fault, look), sign.otherwise)


def _chance_at(circuit: Circuit, part: Part, rule: Shows, fault: Fault, look: Look) -> float:
    """Chance of a sign at the place that was looked at, by how near it is to the fault's own part; 0 elsewhere."""
    if look.part is None:
        return rule.here if part.zone is look.zone else 0.0
    at = circuit.part(look.part)
    if look.leg and fault.leg and not set(fault.leg.split("-")) & {look.leg}:
        return 0.0
    if at == part:
        return rule.here
    neighbours = fault.part is not None and (circuit.feed(at) == part or circuit.feed(part) == at)
    return rule.beside if neighbours else 0.0
