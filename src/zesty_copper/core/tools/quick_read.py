"""The moment before any call exists: a system, a few numbers at the unit, and what they can mean."""

from functools import lru_cache
from itertools import combinations

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part, Switch, Zone
from zesty_copper.core.circuit.parts.conductor import Conductor, Metal
from zesty_copper.core.circuit.parts.loads import LoadData
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.systems import SystemName, supplies
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Suspect
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.words import say

__all__ = ["AskedVolts", "Meaning", "QuickRead", "asked_of", "meanings_of", "quick_circuit", "quick_job"]

SPOT = "whip"
"""The part behind which the numbers are read: the unit's line terminals."""
CALL = "contactor"
POINTS = {
    "supply": "panel incoming lug",
    "panel_lug": "breaker stab",
    "branch_wires": "disconnect line lug",
    "disconnect": "disconnect load lug",
    SPOT: "unit line terminal",
}
LEAST_TOLD = 0.01
RATED_AMPS = 18.0
"""A usual load, so that amps and sags have a size; the numbers asked are volts."""


class AskedVolts(Frozen):
    """One pair that is read, and what it shows where nothing is wrong."""

    pair: str = Field(description="two conductors with a dash, as L1-L2 or L1-G")
    healthy_volts: float | None = Field(description="none where nothing holds it [V]")


class QuickRead(Frozen):
    """What was read at the unit's line terminals."""

    system: SystemName
    load_connected: bool = Field(description="whether the contactor is in and the load asks for current")
    volts: dict[str, float] = Field(max_length=6, description="by pair of conductors [V]")


class Meaning(Frozen):
    """What the numbers can mean, said for the place where they were read."""

    words: str
    probability: float


@lru_cache(maxsize=16)
def quick_circuit(system: str) -> Circuit:
    """Return a plain circuit of a system: panel, breaker, wires, disconnect, whip, contactor, one load."""
    supply = supplies()[system]
    legs = tuple(supply.legs)
    lanes = legs if len(legs) > 1 else (*legs, NEUTRAL)
    volts = supply.line_volts
    wire = Conductor(size_awg=8, metal=Metal.COPPER, length_m=20)
    kind = "three_phase_motor" if len(legs) == 3 else "motor"
    factor = 0.86 if len(legs) == 3 else 0.9

    def part(name: str, sort: str, zone: Zone, **more: object) -> Part:
        fields = {"id": name, "kind": sort, "name": name.replace("_", " "), "zone": zone, "point": POINTS.get(name, "")}
        return Part.model_validate(fields | more)

    return Circuit(
        name=f"Quick read, {supply.label}",
        system=system,
        switches=(
            Switch(id="breaker", name="Breaker", closed="on", open="off"),
            Switch(id="disconnect", name="Disconnect", closed="on", open="off"),
            Switch(id=CALL, name="Contactor", closed="in", open="dropped out"),
        ),
        parts=(
            part("supply", "source", Zone.PANEL, lanes=lanes),
            part("panel_lug", "panel_lug", Zone.PANEL, lanes=lanes),
            part("breaker", "breaker", Zone.PANEL, switch="breaker", lanes=lanes, rating_amps=40),
            part(
                "branch_wires", "conductor", Zone.DISCONNECT, point="disconnect line lug", conductor=wire, lanes=lanes
            ),
            part(
                "disconnect",
                "blade",
                Zone.DISCONNECT,
                point="disconnect load lug",
                switch="disconnect",
                lanes=lanes,
                rating_amps=60,
            ),
            part(SPOT, "conductor", Zone.UNIT, conductor=wire, lanes=lanes),
            part("contactor", "contactor", Zone.UNIT, switch=CALL, lanes=lanes, rating_amps=40),
            part(
                "load",
                kind,
                Zone.UNIT,
                lanes=lanes,
                load=LoadData(rated_volts=volts, rated_amps=RATED_AMPS, power_factor=factor),
            ),
        ),
    )


def asked_of(system: str) -> tuple[AskedVolts, ...]:
    """Return the pairs read on a system: leg to leg, and each leg to ground."""
    supply = supplies()[system]
    phasors = dict(supply.phasors)
    pairs = combinations(phasors, 2)
    between = [AskedVolts(pair=f"{a}-{b}", healthy_volts=abs(phasors[a] - phasors[b])) for a, b in pairs]
    if len(phasors) == 1:
        (leg,) = phasors
        between = [AskedVolts(pair=f"{leg}-{NEUTRAL}", healthy_volts=abs(phasors[leg]))]
    is_grounded = supply.grounding != "none"
    to_ground = [
        AskedVolts(pair=f"{leg}-{GROUND}", healthy_volts=abs(volts) if is_grounded else None)
        for leg, volts in phasors.items()
    ]
    neutral = [AskedVolts(pair=f"{NEUTRAL}-{GROUND}", healthy_volts=0.0)] if len(phasors) == 1 else []
    return (*between, *to_ground, *neutral)


def quick_job(told: QuickRead) -> Job:
    """Turn the numbers into a job, to be diagnosed, or kept as a call.

    Raises
    ------
    BadInput
        If a pair is not one of the system's.
    """
    circuit = quick_circuit(told.system)
    pairs_asked = [asked_volts.pair for asked_volts in asked_of(told.system)]
    state = frozenset() if told.load_connected else frozenset({CALL})
    readings = []
    for pair, volts in told.volts.items():
        if pair not in pairs_asked:
            raise BadInput(say("tools.system_has_no_pair", pair=pair, known=", ".join(pairs_asked)), "volts")
        a, _, b = pair.partition("-")
        place = Between(a=Point.at(a, SPOT), b=GROUND if b == GROUND else Point.at(b, SPOT))
        measurement = Measurement(place=place, open_switches=state)
        readings.append(Reading(id=pair, measurement=measurement, value=volts, unit="V"))
    return Job(circuit=circuit, readings=tuple(readings), scope=Scope(tools=frozenset({Tool.LOZ, Tool.SEQUENCE})))


def meanings_of(found: Diagnosis) -> tuple[Meaning, ...]:
    """Gather suspects into what can be said before a circuit is known: which leg, and on which side of the unit."""
    shares: dict[str, float] = {}
    for suspect in found.suspects:
        words = _meaning(suspect)
        shares[words] = shares.get(words, 0.0) + suspect.probability
    ranked = sorted(shares, key=lambda words: -shares[words])
    return tuple(Meaning(words=words, probability=shares[words]) for words in ranked if shares[words] >= LEAST_TOLD)


def _meaning(suspect: Suspect) -> str:
    """Say a suspect as far as this plain circuit knows the real one."""
    if suspect.kind in (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT) and suspect.leg is not None:
        side = "behind the line terminals" if suspect.part == CALL else "ahead of the unit"
        leg = "The ground" if suspect.leg == GROUND else suspect.leg
        return f"{leg} is open or high resistance {side}"
    if suspect.kind in (FaultKind.SHORT, FaultKind.LEAK, FaultKind.LOAD_GROUND):
        return "Something touches, and a breaker or fuse may be open"
    if suspect.kind is FaultKind.NOT_CLOSED and suspect.part != CALL:
        return "A switch ahead of the unit is off or tripped"
    return suspect.words
