"""What a fault trips, and how soon: by the current that the network says flows."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.network.lowrank import Edit, respond
from zesty_copper.core.network.netlist import EARTH, Netlist, build_netlist
from zesty_copper.core.network.solve import Solved, nominal, open_impedance, solve
from zesty_copper.core.network.topology import Topology
from zesty_copper.core.words import say

__all__ = ["SHORT_RANGE_OHM", "SHORT_TYPICAL_OHM", "TRIP_STEPS", "Soon", "Trip", "trips_by_sample", "trips_of"]

SHORT_RANGE_OHM = (0.01, 0.5)
"""Two conductors that touch, after what it tripped; log-uniform [ohm]."""
SHORT_TYPICAL_OHM = 0.07
"""Their geometric mean, by which it is judged what trips [ohm]."""

AT_ONCE_MULTIPLE = 8.0
TRIP_MULTIPLE = 2.5
"""Multiples of its rating at which a breaker or fuse opens at once, and within a minute or so; common practice, no
source (the magnetic release of a small breaker acts at some 5 to 10 times its rating)."""
MOST_DEVICES = 4
TRIP_STEPS = 3
"""How many resistances of a touch are tried."""
RACE_SHARE = 0.6
"""Of two devices in series the other may be the first to open from this share of the worse one's multiple on; common
practice, no source."""


class Soon:
    """When it opens, in words."""

    AT_ONCE, WITHIN_MINUTES = "at once", say("faults.within_minute_so")


@dataclass(frozen=True)
class Trip:
    """One overcurrent device that opens: all poles of a breaker, one conductor's fuse."""

    part: str
    lane: str
    switch: str | None
    when: str


def trips_by_sample(
    circuit: Circuit, ends: tuple[Point, Point], quantile: NDArray[np.float64], bonded: NDArray[np.bool_]
) -> tuple[tuple[Trip, ...], ...]:
    """Return what has opened in each sample, by how hard it touches there.

    Parameters
    ----------
    ends
        The points that touch.
    quantile
        (samples,): where each sample's resistance lies in `SHORT_RANGE_OHM`, 0 to 1.
    bonded
        (samples,): whether control secondaries of which that is not known are grounded.
    """
    low, high = SHORT_RANGE_OHM
    hung = _touches_controls(circuit, ends)
    trips = []
    for q, grounded in zip(quantile.tolist(), bonded.tolist(), strict=True):
        step = int(q * TRIP_STEPS)
        ohm = round(low * (high / low) ** ((step + 0.5) / TRIP_STEPS), 6)
        # Which of two in series opens first is a race; of the middle step the upper one wins it.
        trips.append(trips_of(circuit, *ends, ohm, bonded=grounded or not hung, upper=step == TRIP_STEPS // 2))
    return tuple(trips)


def _touches_controls(circuit: Circuit, ends: tuple[Point, Point]) -> bool:
    parts = [circuit.split_point(point)[1] for point in ends]
    return any(part.winding is not None or circuit.root(part).winding is not None for part in parts)


@lru_cache(maxsize=4096)
def trips_of(
    circuit: Circuit, a: Point, b: Point, ohm: float, *, bonded: bool = True, upper: bool = False
) -> tuple[Trip, ...]:
    """Return what opens when two points touch, everything called for, in the order in which it opens.

    Parameters
    ----------
    a, b
        The points.
    ohm
        Resistance where they touch [ohm].
    bonded
        Whether control secondaries of which that is not known are grounded.
    upper
        Whether of two devices that carry about as much the one further from the fault is the first.
    """
    netlist = build_netlist(circuit)
    trips: list[Trip] = []
    for _ in range(MOST_DEVICES):
        worst = _worst(
            _solved(netlist, frozenset(t.switch for t in trips if t.switch), bonded), trips, (a, b, ohm), upper=upper
        )
        if worst is None or worst[0] < TRIP_MULTIPLE:
            break
        times, part, lane = worst
        when = Soon.AT_ONCE if times >= AT_ONCE_MULTIPLE else Soon.WITHIN_MINUTES
        trips.append(Trip(part.id, lane, part.switch, when))
    return tuple(trips)


@lru_cache(maxsize=64)
def _solved(netlist: Netlist, open_switches: frozenset[str], bonded: bool) -> Solved:
    return solve(netlist, nominal(bonded=bonded), open_switches)


def _worst(
    solved: Solved, opened: list[Trip], touch: tuple[Point, Point, float], *, upper: bool
) -> tuple[float, Part, str] | None:
    """Return the device that carries most for its rating; of equals, the one nearest the fault, or furthest from it."""
    (a, b, ohm), netlist = touch, solved.netlist
    blown = [netlist.branches[trip.part, trip.lane] for trip in opened if not trip.switch]
    plus = [netlist.point_row(a), *(len(netlist.nodes) + branch for branch in blown)]
    minus = [netlist.point_row(b), *(EARTH for _ in blown)]
    delta = np.array([[1 / complex(ohm), *(-complex(open_impedance(netlist, branch)) for branch in blown)]])
    lanes = [
        (part, lane)
        for part in reversed(netlist.circuit.series)
        if part.entry.overcurrent and part.rating_amps
        for lane in netlist.circuit.lanes_of(part)
        if lane not in (GROUND, NEUTRAL)
    ]
    single = np.zeros(1, dtype=np.int64)
    edit = Edit(np.array(plus), np.array(minus), single, np.arange(len(plus))[None], single, delta)
    watch = np.array([netlist.branch_row(part.id, lane) for part, lane in lanes], dtype=np.int64)
    topology = Topology(solved, np.ones((1, 1, len(netlist.sources)), dtype=complex))
    _, amps = respond(topology, edit, watch)
    loads = [
        (round(abs(flows) / (part.rating_amps or 1.0), 3), part, lane)
        for flows, (part, lane) in zip(amps[0].tolist(), lanes, strict=True)
    ]
    worst = max(loads, key=lambda load: load[0], default=None)
    if upper and worst is not None:
        return [load for load in loads if load[0] >= RACE_SHARE * worst[0]][-1]
    return worst
