"""What a fault trips, and how soon: by the current that the network says flows."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zesty_copper.core.circuit.model import GROUND, NEUTRAL, Circuit, Part
from zesty_copper.core.network.netlist import Netlist, build_netlist
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
    inverse, unknowns = solved.inverse[0], solved.unknowns.sum(axis=0)[0]
    q = np.zeros(netlist.size + 1)
    q[[netlist.point_row(a), netlist.point_row(b)]] = 1, -1
    # One after the other: the path between the points, then each blown fuse.
    edits: list[tuple[np.ndarray, complex]] = [(q, 1 / complex(ohm))]
    for trip in opened:
        if not trip.switch:
            branch = netlist.branches[trip.part, trip.lane]
            row = np.zeros(netlist.size + 1)
            row[len(netlist.nodes) + branch] = 1
            edits.append((row, -complex(open_impedance(netlist, branch))))
    for vector, delta in edits:
        column, left = inverse @ vector, vector @ inverse
        scale = delta / (1 + delta * (vector @ column))
        unknowns = unknowns - scale * column * (vector @ unknowns)
        inverse = inverse - scale * np.outer(column, left)
    loads = [
        (round(abs(unknowns[netlist.branch_row(part.id, lane)]) / part.rating_amps, 3), part, lane)
        for part in reversed(netlist.circuit.series)
        if part.entry.overcurrent and part.rating_amps
        for lane in netlist.circuit.lanes_of(part)
        if lane not in (GROUND, NEUTRAL)
    ]
    return max(loads, key=lambda load: load[0], default=None)
