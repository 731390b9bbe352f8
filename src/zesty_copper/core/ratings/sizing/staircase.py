"""The drop staircase: volts that each part should lose at the amps that flowed, against what it was read to lose."""

from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.ohms import closed_ohm
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.warmth import Warmth
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.ratings.formulas import FUSE_PERCENT, MATE_PERCENT, infrared_class

__all__ = ["FAHRENHEIT_STEP", "HIGH_TIMES", "HIGH_VOLTS", "Tread", "staircase"]

HIGH_TIMES = 3.0
"""A joint loses up to so many times what a new one does before it counts as high: joints vary so much."""
HIGH_VOLTS = 0.1
"""Less than this above what it should lose is the meter's last digit [V]."""
FAHRENHEIT_STEP = 1.8


class Tread(Frozen):
    """One part, or several that were read across together, on one conductor."""

    parts: tuple[str, ...] = Field(description="ids, from the source on")
    lane: str
    amps: float
    amps_by: Literal["clamp", "other leg", "plates"]
    expected_volts: float
    measured_volts: float | None = None
    excess_volts: float | None = None
    excess_ohm: float | None = None
    excess_watts: float | None = None
    over_mate_percent: float | None = Field(default=None, description="over its lowest mate on the other legs")
    mate_most_percent: float | None = None
    over_mate_f: float | None = Field(default=None, description="by infrared, over its coolest mate")
    infrared: str = Field(default="", description="class of that")
    load_volts_without: float | None = Field(default=None, description="at the load, if the excess were gone")
    standing: Literal["unread", "good", "high"] = "unread"


def staircase(circuit: Circuit, readings: Sequence[Reading]) -> tuple[Tread, ...]:
    """Return a tread for each part and leg on the way to a load, and for each stretch read across at once.

    Only readings with everything closed count; of two on one stretch the later.
    """
    closed = [reading for reading in readings if reading.measurement.as_it_stands]
    amps = _amps_read(circuit, closed)
    ways = {part.id for load in circuit.loads for part in circuit.path(load)}
    by_stretch: dict[tuple[str, tuple[str, ...]], Tread] = {}
    for part in circuit.series:
        if part.entry.role is not PartRole.SERIES or part.id not in ways or part.capacitance_uf is not None:
            continue
        for lane in circuit.lanes_of(part):
            if lane != GROUND:
                by_stretch[lane, (part.id,)] = _tread(circuit, (part,), lane, amps)
    for reading in closed:
        if (stretch := _stretch(circuit, reading)) is not None:
            lane, parts = stretch
            tread = by_stretch.get((lane, tuple(p.id for p in parts))) or _tread(circuit, parts, lane, amps)
            by_stretch[lane, tread.parts] = _with_reading(tread, reading.value)
    load_volts = _load_volts(circuit, closed)
    heat = {
        (r.measurement.place.leg, r.measurement.place.part): r.value
        for r in closed
        if isinstance(r.measurement.place, Warmth)
    }
    treads = list(by_stretch.values())
    return tuple(_compared(circuit, tread, treads, heat, load_volts) for tread in treads)


def _amps_read(circuit: Circuit, readings: Sequence[Reading]) -> dict[tuple[str, str], float]:
    """Amps by the clamp, by the section's root and the leg; the last of each."""
    return {
        (circuit.root(circuit.part(place.part)).id, place.leg): reading.value
        for reading in readings
        if isinstance(place := reading.measurement.place, Around) and len(place.lanes) == 1 and not place.start
    }


def _tread(circuit: Circuit, parts: tuple[Part, ...], lane: str, amps: dict[tuple[str, str], float]) -> Tread:
    root = circuit.root(parts[-1]).id
    amps_read = amps.get((root, lane))
    other_amps = [value for (source, _), value in amps.items() if source == root]
    by: Literal["clamp", "other leg", "plates"] = "clamp"
    if amps_read is not None:
        flows = amps_read
    elif other_amps:
        flows, by = max(other_amps), "other leg"
    else:
        flows, by = circuit.carried_amps(parts[-1]), "plates"
    expected = sum(closed_ohm(part) for part in parts) * flows
    return Tread(
        parts=tuple(part.id for part in parts),
        lane=lane,
        amps=flows,
        amps_by=by,
        expected_volts=expected,
    )


def _stretch(circuit: Circuit, reading: Reading) -> tuple[str, tuple[Part, ...]] | None:
    """The conductor and the parts that a voltage was read across; None for anything else."""
    place = reading.measurement.place
    if not isinstance(place, Between) or not reading.is_volts or GROUND in (place.a, place.b):
        return None
    (lane, part), (other_lane, another) = circuit.split_point(place.a), circuit.split_point(place.b)
    if lane != other_lane or lane == GROUND:
        return None
    near, far = (part, another) if part in circuit.path(another) else (another, part)
    path = circuit.path(far)
    if near not in path:
        return None
    between = [p for p in path[path.index(near) + 1 :] if lane in circuit.lanes_of(p)]
    return (lane, tuple(between)) if between else None


def _with_reading(tread: Tread, volts: float) -> Tread:
    excess = volts - tread.expected_volts
    high = volts > HIGH_TIMES * tread.expected_volts and excess > HIGH_VOLTS
    return tread.model_copy(
        update={
            "measured_volts": volts,
            "excess_volts": excess,
            "excess_ohm": excess / tread.amps if tread.amps else None,
            "excess_watts": excess * tread.amps,
            "standing": "high" if high else "good",
        }
    )


def _load_volts(circuit: Circuit, readings: Sequence[Reading]) -> float | None:
    """Volts read leg to leg nearest to a load; the last."""
    volts = None
    for reading in readings:
        place = reading.measurement.place
        if not isinstance(place, Between) or not reading.is_volts:
            continue
        if any({place.a, place.b} <= set(circuit.terminals(load)) for load in circuit.loads):
            volts = reading.value
    return volts


def _compared(
    circuit: Circuit,
    tread: Tread,
    treads: Sequence[Tread],
    heat: dict[tuple[str, str], float],
    load_volts: float | None,
) -> Tread:
    """Set a tread against its mates on the other legs, the infrared, and the load."""
    update: dict[str, object] = {}
    mates = [t.measured_volts for t in treads if t.parts == tread.parts and t.measured_volts]
    if tread.measured_volts and len(mates) > 1:
        lowest = min(mates)
        update["over_mate_percent"] = 100 * (tread.measured_volts - lowest) / lowest
        fuse = len(tread.parts) == 1 and circuit.part(tread.parts[0]).entry.is_fuse
        update["mate_most_percent"] = FUSE_PERCENT if fuse else MATE_PERCENT
    warmer = heat.get((tread.lane, tread.parts[-1]))
    if warmer is not None and len(tread.parts) == 1:
        update["over_mate_f"] = warmer
        update["infrared"] = infrared_class(warmer / FAHRENHEIT_STEP)[1]
    if load_volts is not None and tread.standing == "high" and tread.excess_volts is not None:
        update["load_volts_without"] = load_volts + tread.excess_volts
    return tread.model_copy(update=update) if update else tread
