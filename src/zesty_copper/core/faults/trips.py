"""What a fault trips, and how soon: by the current that the network says flows."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zesty_copper.core.circuit.model import GROUND, NEUTRAL, Circuit, Part
from zesty_copper.core.network.lowrank import Base, Edited, Pairs, elements_of
from zesty_copper.core.network.netlist import EARTH, Netlist, build_netlist
from zesty_copper.core.network.solve import Solved, nominal, open_impedance, solve

__all__ = ["Soon", "Trip", "trips_of"]

AT_ONCE_MULTIPLE = 8.0
TRIP_MULTIPLE = 2.5
"""Multiples of its rating at which a breaker or fuse opens at once, and within a minute or so; common practice, no
source (the magnetic release of a small breaker acts at some 5 to 10 times its rating)."""
MOST_DEVICES = 4


class Soon:
    """When it opens, in words."""

    AT_ONCE, WITHIN_MINUTES = "at once", "within a minute or so"


@dataclass(frozen=True)
class Trip:
    """One overcurrent device that opens: all poles of a breaker, one conductor's fuse."""

    part: str
    lane: str
    switch: str | None
    when: str


@lru_cache(maxsize=256)
def trips_of(circuit: Circuit, a: str, b: str, ohm: float) -> tuple[Trip, ...]:
    """Return what opens when two points touch, everything called for, in the order in which it opens.

    Parameters
    ----------
    a, b
        The points.
    ohm
        Resistance where they touch [ohm].
    """
    netlist = build_netlist(circuit)
    found: list[Trip] = []
    for _ in range(MOST_DEVICES):
        worst = _worst(netlist, found, a, b, ohm)
        if worst is None or worst[0] < TRIP_MULTIPLE:
            break
        times, part, lane = worst
        when = Soon.AT_ONCE if times >= AT_ONCE_MULTIPLE else Soon.WITHIN_MINUTES
        found.append(Trip(part.id, lane, part.switch, when))
    return tuple(found)


@lru_cache(maxsize=64)
def _solved(netlist: Netlist, open_switches: frozenset[str]) -> Solved:
    return solve(netlist, nominal(), open_switches)


def _worst(netlist: Netlist, opened: list[Trip], a: str, b: str, ohm: float) -> tuple[float, Part, str] | None:
    """Return the device that carries most for its rating; of equals, the one nearest the fault."""
    solved = _solved(netlist, frozenset(trip.switch for trip in opened if trip.switch))
    blown = [netlist.branches[trip.part, trip.lane] for trip in opened if not trip.switch]
    plus = [netlist.point_row(a), *(len(netlist.nodes) + branch for branch in blown)]
    minus = [netlist.point_row(b), *(EARTH for _ in blown)]
    delta = np.array([[[1 / complex(ohm), *(-complex(open_impedance(netlist, branch)) for branch in blown)]]])
    base = Base(
        solved, elements_of(netlist, solved.open_switches), np.ones((1, 1, len(netlist.sources)), dtype=complex)
    )
    touched = Edited(
        base,
        Pairs(np.array(plus), np.array(minus)),
        used=np.arange(len(plus))[None],
        drive=np.zeros(1, dtype=np.int64),
        delta=delta,
        by_log=np.zeros_like(delta),
    )
    loads = [
        (round(abs(touched.taken(netlist.branch_row(part.id, lane))[0, 0]) / part.rating_amps, 3), part, lane)
        for part in reversed(netlist.circuit.series)
        if part.entry.overcurrent and part.rating_amps
        for lane in netlist.circuit.lanes_of(part)
        if lane not in (GROUND, NEUTRAL)
    ]
    return max(loads, key=lambda load: load[0], default=None)
