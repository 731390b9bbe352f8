"""Every fault a circuit can have, with its prior and its words."""

import tomllib
from collections.abc import Iterator
from functools import cache, lru_cache
from importlib.resources import files
from itertools import pairwise

import numpy as np
from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode, PartRole
from zesty_copper.core.circuit.parts.conductor import conductor_resistance_ohm
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.faults.kinds import TOUCHING, FaultKind
from zesty_copper.core.faults.touching import SHORT_TYPICAL_OHM, touching
from zesty_copper.core.faults.trips import TRIP_STEPS, trips_by_sample, trips_of
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.network.machines import inside
from zesty_copper.core.network.netlist import OMEGA
from zesty_copper.core.words import say

__all__ = ["UNDERSIZED_RANGE", "Fault", "Priors", "faults_of", "no_suspect", "priors"]


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


class Priors(Frozen):
    """The tables of `priors.toml`."""

    whole: dict[str, float]
    weight: dict[str, float]
    conductor: dict[str, float]
    way: dict[str, tuple[float, float, float]]


"""Kinds of part that blow; what else opens by itself trips."""
CONTROL_VOLTS = 60.0
"""Highest voltage of a secondary whose wiring is control wiring [V]."""
SELDOM_NOT_CLOSED = 0.02
"""Chance that a switch of a kind that is no switch by itself is not closed."""
UNDERSIZED_RANGE = (3.0, 20.0)
"""Resistance of a run against what it should be: five to thirteen gauge steps, or so much longer."""
UNDERSIZED_LOSS = 0.01
"""A run is not listed as too small where even the most of that loses less than this share of the volts."""
_WAYS = (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT)

_Raw = tuple[FaultKind, str | None, str | None, float, str]
"""Kind, part, leg, prior or weight, words."""


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
    """Every fault of a circuit; the priors sum to one, and `none_of_these` comes last.

    Raises
    ------
    BadInput
        If a part's entry names a way of failing that `priors.toml` lacks.
    """
    table = priors()
    fixed = [*_switches_not_closed(circuit), *_of_the_supply(circuit)]
    weighed = [
        *_in_series(circuit),
        *_of_loads(circuit),
        *_between_conductors(circuit),
        *_touching_boxes(circuit),
        *_joined_from_elsewhere(circuit),
        *_of_switches(circuit),
        *_reversed(circuit),
    ]
    unlisted = table.whole["none_of_these"]
    rest = 1 - unlisted - sum(raw[3] for raw in fixed)
    total = sum(raw[3] for raw in weighed)
    found = fixed + [(kind, part, leg, rest * weight / total, words) for kind, part, leg, weight, words in weighed]
    found.append((FaultKind.NONE_OF_THESE, None, None, unlisted, say("faults.none_these_something_not")))
    scale = sum(raw[3] for raw in found)
    return tuple(
        _with_trip(circuit, Fault(kind=kind, part=part, leg=leg, prior=prior / scale, words=words))
        for kind, part, leg, prior, words in found
    )


def no_suspect(field: str) -> BadInput:
    """What to say of a suspect that a circuit lacks."""
    return BadInput(say("faults.circuit_has_no_such"), field)


def _with_trip(circuit: Circuit, fault: Fault) -> Fault:
    """Say what a fault trips, and when."""
    if fault.kind not in TOUCHING or fault.part is None:
        return fault
    part, leg, words = circuit.part(fault.part), fault.leg or "", fault.words
    ends = touching(circuit, fault.kind, part, leg)
    trips = trips_of(circuit, *ends, SHORT_TYPICAL_OHM)
    if not trips:
        return fault.model_copy(update={"words": say("faults.and_nothing_trips", words=words)})
    first = trips[0]
    opened = circuit.part(first.part)
    told = f"{words}: {'blows' if opened.entry.blows else 'trips'} the {opened.name} {first.when}"
    middles = (np.arange(TRIP_STEPS) + 0.5) / TRIP_STEPS
    by_step = trips_by_sample(circuit, ends, middles, np.ones(TRIP_STEPS, dtype=np.bool_))
    parts = dict.fromkeys([first.part, *(trip.part for step_trips in by_step for trip in step_trips)])
    share = {
        part_id: sum(any(t.part == part_id for t in step_trips) for step_trips in by_step) / TRIP_STEPS
        for part_id in parts
    }
    return fault.model_copy(update={"words": told, "opens": tuple(share.items())})


def _switches_not_closed(circuit: Circuit) -> Iterator[_Raw]:
    for switch in circuit.switches:
        part = next((p for p in circuit.series if p.switch == switch.id and not p.normally_closed), None)
        if part is not None:
            words = part.entry.say_not_closed.format(name=part.name)
            lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
            # Of a single conductor, not closed and open are one place.
            only = lanes[0] if len(lanes) == 1 else None
            yield FaultKind.NOT_CLOSED, part.id, only, part.entry.not_closed or SELDOM_NOT_CLOSED, words


def _of_the_supply(circuit: Circuit) -> Iterator[_Raw]:
    whole = priors().whole
    sources = [part for part in circuit.series if part.entry.role is PartRole.SOURCE]
    for source in sources:
        supply = circuit.supply_of(source)
        # The first source is meant where none is named.
        part, of = (None, "The supply") if source is sources[0] else (source.id, f"The {source.name}")
        legs = [leg for leg in supply.legs if leg in circuit.lanes_of(source)]
        # Of a single leg, dead and lost are one place: no hand finds them apart.
        at, only = (source.id, legs[0]) if len(legs) == 1 else (part, None)
        yield FaultKind.SUPPLY_DEAD, at, only, whole["supply_dead"], say("faults.dead_ahead_panel", of=of)
        yield FaultKind.SUPPLY_LOW, part, None, whole["supply_low"], say("faults.supply_is_low", of=of)
        if len(legs) == 2:
            words = say("faults.both_hots_are_same")
            yield FaultKind.SAME_LEG, part, None, whole["same_leg"], words
        if supply.primary_delta:
            for leg in legs:
                words = say("faults.phase_lost_primary_transformer", leg=leg)
                yield FaultKind.PRIMARY_LOST, part, leg, whole["primary_lost"] / len(legs), words
        if supply.other is not None:
            label = supplies()[supply.other].label
            yield (
                FaultKind.WRONG_SUPPLY,
                part,
                None,
                whole["wrong_supply"],
                say("faults.supply_is_another", of=of, label=label, label_2=supply.label),
            )
        if supply.high_leg is not None:
            for leg in legs:
                if leg != supply.high_leg:
                    words = say("faults.high_leg_instead", leg=leg, high_leg=supply.high_leg)
                    yield FaultKind.HIGH_LEG, part, leg, whole["high_leg"] / (len(legs) - 1), words
    yield FaultKind.NOTHING_WRONG, None, None, whole["nothing_wrong"], say("faults.nothing_wrong_path")


def _in_series(circuit: Circuit) -> Iterator[_Raw]:
    table = priors()
    for part in circuit.series:
        if part.entry.role is PartRole.TRANSFORMER:
            continue
        sayings = (part.entry.say_open, part.entry.say_resistive, part.entry.say_intermittent)
        for lane in circuit.lanes_of(part):
            if lane == GROUND and part.entry.role is PartRole.SOURCE:
                continue  # the bond is the panel's own
            share = part.entry.weight * table.conductor.get(lane, 1.0)
            if lane == GROUND:
                # Nothing flows in it, so volts and amps tell it only when it is gone.
                yield FaultKind.OPEN, part.id, lane, share, sayings[0].format(name=part.name, lane="the ground")
                continue
            for kind, chance, saying in zip(_WAYS, _ways_of(part), sayings, strict=True):
                yield kind, part.id, lane, share * chance, saying.format(name=part.name, lane=lane)


def _of_loads(circuit: Circuit) -> Iterator[_Raw]:
    table = priors()
    for part in circuit.parts:
        if part.entry.role not in (PartRole.SHUNT, PartRole.TRANSFORMER):
            continue
        if not part.entry.weight:
            continue
        names = [name for name, _, _ in inside(part, circuit.lanes_of(part), OMEGA).branches]
        for name in names:
            words = part.entry.say_open.format(name=part.name, branch=name)
            yield FaultKind.LOAD_OPEN, part.id, name or None, part.entry.weight / len(names), words
        if FailureMode.GROUND in part.entry.may:
            words = say("faults.grounded_winding_element", name=part.name)
            yield FaultKind.LOAD_GROUND, part.id, None, table.weight["load_ground"], words
        if FailureMode.STALL in part.entry.may:
            words = say("faults.does_not_turn_locked", name=part.name)
            yield FaultKind.STALLED, part.id, None, table.weight["stalled"], words
        if FailureMode.SHORT in part.entry.may:
            words = say("faults.coil_is_shorted", name=part.name)
            yield FaultKind.COIL_SHORT, part.id, None, table.weight["coil_short"], words
        if part.winding is not None and part.winding.other_tap_volts is not None:
            words = say("faults.on_wrong_tap", name=part.name)
            yield FaultKind.WRONG_TAP, part.id, None, table.weight["wrong_tap"], words


def _between_conductors(circuit: Circuit) -> Iterator[_Raw]:
    table = priors()
    for part in circuit.series:
        if part.conductor is None:
            continue
        lost_volts = circuit.carried_amps(part) * conductor_resistance_ohm(part.conductor) * UNDERSIZED_RANGE[1]
        if lost_volts > UNDERSIZED_LOSS * circuit.root_volts(part):
            words = say("faults.undersized_too_long_run", name=part.name)
            yield FaultKind.UNDERSIZED, part.id, None, table.weight["undersized"], words
        lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
        pairs = [*pairwise(lanes), *((lane, GROUND) for lane in lanes if lane != NEUTRAL)]
        for a, b in pairs:
            other = "ground" if b == GROUND else b
            yield (
                FaultKind.SHORT,
                part.id,
                f"{a}-{b}",
                table.weight["short"],
                say("faults.short_from_along", a=a, other=other, name=part.name),
            )
            words = say("faults.leakage_from_along", a=a, other=other, name=part.name)
            yield FaultKind.LEAK, part.id, f"{a}-{b}", table.weight["leak"], words


def _touching_boxes(circuit: Circuit) -> Iterator[_Raw]:
    """Bare ends that touch the box they sit in: splices, leads, contactor terminals."""
    for part in circuit.series:
        if part.entry.touches_box and circuit.root(part).entry.role is PartRole.SOURCE:
            for lane in circuit.lanes_of(part):
                if lane not in (GROUND, NEUTRAL):
                    words = say("faults.short_from_box", lane=lane, name=part.name)
                    yield FaultKind.SHORT, part.id, f"{lane}-{GROUND}", priors().weight["short"], words


def _joined_from_elsewhere(circuit: Circuit) -> Iterator[_Raw]:
    """Line voltage on control wiring, and a second supply on the first one's leg."""
    weight = priors().weight
    transformers = [part for part in circuit.series if part.winding is not None]
    for part in transformers:
        if part.winding is not None and part.winding.secondary_volts < CONTROL_VOLTS:
            yield from _crossed(circuit, part)
    for part in circuit.series if transformers else ():
        if part.normally_closed and circuit.root(part).entry.role is PartRole.SOURCE:
            for lane in circuit.lanes_of(part):
                words = say("faults.line_voltage_from_comes", lane=lane, name=part.name)
                yield FaultKind.CROSSED, part.id, lane, weight["crossed"], words
    for source in (part for part in circuit.series[1:] if part.entry.role is PartRole.SOURCE):
        words = say("faults.leg_joined_second_supply", name=source.name, legs=circuit.legs[0])
        yield FaultKind.BRIDGED, source.id, None, weight["bridged"], words


def _crossed(circuit: Circuit, transformer: Part) -> Iterator[_Raw]:
    """Line voltage on each control conductor, on both sides of every contact in it."""
    lines = [lane for lane in circuit.primary_lanes(transformer) if lane != NEUTRAL]
    behind = [part for part in circuit.series if circuit.root(part) is transformer and part is not transformer]
    sites = [(part, lane) for part in (transformer, *behind) for lane in circuit.lanes_of(part)]
    weight = priors().weight["crossed"] / len(sites)
    for line in lines:
        for part, lane in sites:
            words = say("faults.line_voltage_from_has", line=line, lane=lane, name=part.name)
            yield FaultKind.CROSSED, part.id, f"{line}-{lane}", weight, words


def _of_switches(circuit: Circuit) -> Iterator[_Raw]:
    for switch in circuit.switches:
        part = next((p for p in circuit.series if p.switch == switch.id and FailureMode.WELD in p.entry.may), None)
        if part is not None:
            words = say("faults.contact_welded_shut", name=part.name)
            yield FaultKind.WELDED, part.id, None, priors().weight["welded"], words


def _reversed(circuit: Circuit) -> Iterator[_Raw]:
    """Two legs swapped where three were landed, ahead of a motor that then turns backwards."""
    for part in circuit.series:
        landed = part.entry.role is PartRole.SOURCE or part.conductor is not None
        turns_one = any(part in circuit.path(motor) for motor in circuit.three_phase_motors)
        if not landed or not circuit.turning_legs(part) or not turns_one:
            continue
        where = (
            say("faults.swapped_along", name=part.name)
            if part.conductor is not None
            else say("faults.swapped_ahead_of_panel")
        )
        words = say("faults.two_legs_are_swapped", where=where)
        yield FaultKind.REVERSED, part.id, None, priors().weight["reversed"], words


def _ways_of(part: Part) -> tuple[float, float, float]:
    try:
        return priors().way[part.entry.way]
    except KeyError:
        raise BadInput(say("faults.parts_kind_fail_way", kind=part.kind, way=part.entry.way), "circuit.parts") from None
