"""What a piece of equipment measured over its visits, like compared with like, and what is getting worse."""

from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import Literal

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.unbalance import unbalance_percent
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.ratings.inputs.from_circuit import measured_on, sheets_of
from zesty_copper.core.ratings.sizing.staircase import staircase
from zesty_copper.core.words import say

__all__ = ["LostVolts", "Trend", "TrendPoint", "Visited", "trends_of"]

WORSE_TIMES = 1.3
"""So many times the first: less is what states, weather and meters differ by; common practice, no source."""
LIKE_AMPS = 0.2
"""Amps that differ by more than this share are another load; common practice, no source."""
LEAST = {"V": 0.1, "ohm": 0.005, "A": 0.5, "%": 0.5, "megohm": 0.0}
"""A change of less than this is the meter's."""

TrendUnit = Literal["V", "ohm", "A", "%", "megohm"]


class LostVolts(Frozen):
    """How much the volts sank from rest to load, as the proof of a repair has it."""

    part: str = Field(description="where the branch circuit begins")
    lanes: tuple[str, ...]
    percent: float = Field(description="of the volts at rest")


class Visited(Frozen):
    """One visit: when, on which circuit, what was read, and what its proof lost under load."""

    at: datetime
    circuit: Circuit
    readings: tuple[Reading, ...]
    lost: tuple[LostVolts, ...] = ()


class TrendPoint(Frozen):
    """One value of one visit."""

    at: datetime
    value: float
    under: str = Field(default="", description="the load it was read under")


class Trend(Frozen):
    """One thing over the visits, in the states and under the loads that can be compared."""

    key: str
    name: str
    unit: TrendUnit
    points: tuple[TrendPoint, ...]
    worse: bool
    says: str


def trends_of(visits: Sequence[Visited]) -> tuple[Trend, ...]:
    """Set the visits to one piece of equipment side by side, what is getting worse first.

    A joint's drop is told in ohms, so that visits under different loads compare; volts lost and amps are compared only
    where the load was alike.
    """
    by_key: dict[str, tuple[str, TrendUnit, list[TrendPoint]]] = {}
    for visit in sorted(visits, key=lambda one: one.at):
        for key, name, unit, point in _measured(visit):
            by_key.setdefault(key, (name, unit, []))[2].append(point)
    trends = [_judged(key, *series) for key, series in by_key.items() if len(series[2]) > 1]
    return tuple(sorted(trends, key=lambda trend: not trend.worse))


def _measured(visit: Visited) -> Iterator[tuple[str, str, TrendUnit, TrendPoint]]:
    circuit = visit.circuit
    names = {part.id: part.name for part in circuit.parts}
    for tread in staircase(circuit, visit.readings):
        if tread.measured_volts is not None and tread.amps_by != "plates" and tread.amps:
            first, last = names[tread.parts[0]], names[tread.parts[-1]]
            where = last if len(tread.parts) == 1 else f"{first} to {last}"
            key = f"ohm:{tread.lane}:{'-'.join(tread.parts)}"
            point = TrendPoint(at=visit.at, value=tread.measured_volts / tread.amps, under=f"{tread.amps:.1f} A")
            yield key, say("tools.trend_ohm", lane=tread.lane, where=where), "ohm", point
    for source in sheets_of(circuit):
        measured = measured_on(circuit, source, visit.readings)
        for i, value in enumerate(measured.amps):
            yield f"amps:{source}:{i}", say("tools.trend_amps", leg=i + 1), "A", TrendPoint(at=visit.at, value=value)
        if len(measured.volts) == 3:
            value = unbalance_percent(measured.volts)
            yield f"unbalance:{source}", say("tools.trend_unbalance"), "%", TrendPoint(at=visit.at, value=value)
    yield from _proven(visit)
    yield from _insulation(visit)


def _proven(visit: Visited) -> Iterator[tuple[str, str, TrendUnit, TrendPoint]]:
    """Volts that were lost from rest to load."""
    for lost in visit.lost:
        name = say("tools.trend_drop", pair=" to ".join(lost.lanes))
        yield ":".join(("drop", lost.part, *lost.lanes)), name, "%", TrendPoint(at=visit.at, value=lost.percent)


def _insulation(visit: Visited) -> Iterator[tuple[str, str, TrendUnit, TrendPoint]]:
    """The lowest insulation to ground of a visit."""
    tested = [
        reading.value / 1e6
        for reading in visit.readings
        if reading.measurement.meter is MeterMode.INSULATION
        and isinstance(place := reading.measurement.place, Between)
        and GROUND in (place.a, place.b)
    ]
    if tested:
        yield "insulation", say("tools.trend_insulation"), "megohm", TrendPoint(at=visit.at, value=min(tested))


def _judged(key: str, name: str, unit: TrendUnit, points: list[TrendPoint]) -> Trend:
    values = [point.value for point in points]
    first, last = values[0], values[-1]
    falls = unit == "megohm"
    if unit == "A":
        # Amps say how it was loaded: more of them is told, not judged.
        alike = abs(last - first) <= LIKE_AMPS * max(first, last)
        words = say("tools.trend_alike") if alike else say("tools.trend_other_load", first=first, last=last)
        return Trend(key=key, name=name, unit=unit, points=tuple(points), worse=False, says=words)
    over = first / max(last, 1e-9) if falls else last / max(first, 1e-9)
    beyond = abs(last - first) >= LEAST[unit]
    extreme = last <= min(values) if falls else last >= max(values)
    worse = over >= WORSE_TIMES and beyond and extreme
    words = say("tools.trend_worse", times=over, visits=len(points)) if worse else say("tools.trend_same")
    return Trend(key=key, name=name, unit=unit, points=tuple(points), worse=worse, says=words)
