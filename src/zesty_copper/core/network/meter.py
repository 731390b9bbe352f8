"""The meter: which unknowns it takes together, and how it loads them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.network.machines import inside
from zesty_copper.core.network.netlist import EARTH, OMEGA, Netlist
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.modes import MeterMode

__all__ = ["INPUT_SIEMENS", "TAP_WIDTH", "Tap", "loaded", "tap"]

INPUT_SIEMENS = {MeterMode.HI_Z: 1 / 10e6, MeterMode.LO_Z: 1 / 3e3}
"""Input admittance of the voltmeter [S]: 10 MΩ, and about 3 kΩ in its low-impedance mode."""
BETWEEN_SHARE = 0.4
"""How much of what lies beside a run differs between two of its conductors; common practice, no source."""
ALONG_SHARE = 0.7
"""The same for two stretches of one conductor with a gap between: another cable lies beside each of them. Where the
conductor is whole the probes see next to no ohms between them, and nothing of it is left. Common practice, no source.
"""
TAP_WIDTH = 4
"""Most unknowns that one measurement takes together: four conductors in the jaws."""


@dataclass(frozen=True)
class Tap:
    """Rows of the unknowns a measurement adds up, the sign of each, and its loading [S]; unused rows are the earth.

    `beside` is how much of what lies beside a run is read: all of it to ground, little between two conductors, since
    it lies beside both, most of it across a gap in one.
    """

    rows: tuple[int, ...]
    signs: tuple[float, ...]
    siemens: float
    beside: float = 0.0


def tap(netlist: Netlist, measurement: Measurement) -> Tap:
    """Where a measurement taps the network; ground is the nearest to the other probe."""
    place = measurement.place
    circuit = netlist.circuit
    if isinstance(place, Around):
        part = circuit.part(place.part)
        jaws = [jaw for lane in place.lanes for jaw in _in_jaws(netlist, part, lane)]
        jaws += [(EARTH, 0.0)] * (TAP_WIDTH - len(jaws))
        rows, signs = zip(*jaws, strict=True)
        return Tap(rows, signs, 0.0)
    assert isinstance(place, Between)  # nothing else is a sum of unknowns
    ends = [_in_network(circuit, place.a), _in_network(circuit, place.b)]
    for i, point in enumerate(ends):
        if point == GROUND:
            _, part = circuit.split_point(ends[1 - i])
            ends[i] = circuit.ground_at(part)
    a, b = (netlist.nodes[point] for point in ends)
    lanes = {point.lane for point in ends}
    beside = ALONG_SHARE if len(lanes) == 1 else 1.0 if GROUND in lanes else BETWEEN_SHARE
    return Tap((a, b, EARTH, EARTH), (1.0, -1.0, 0.0, 0.0), INPUT_SIEMENS.get(measurement.meter, 0.0), beside)


def _in_network(circuit: Circuit, point: Point) -> Point:
    """Where a point is in the network: a load's own lead, once it is off, where it was landed."""
    if point == GROUND:
        return point
    lane, part = circuit.split_point(point)
    if part.has_points:
        return point
    return circuit.terminals(part)[circuit.lanes_of(part).index(lane)]


def _in_jaws(netlist: Netlist, part: Part, lane: str) -> list[tuple[int, float]]:
    """Branches whose currents add up in one conductor, with their signs: of a load, those that end on its lead."""
    if part.has_points:
        return [(netlist.branch_row(part.id, lane), 1.0)]
    lanes = netlist.circuit.lanes_of(part)
    end = lanes.index(lane)
    branches = []
    for name, leaves, enters in inside(part, lanes, OMEGA).branches:
        if end in (leaves, enters):
            branches.append((netlist.branch_row(part.id, name), 1.0 if leaves == end else -1.0))
    return branches


def loaded(
    open_circuit: NDArray[np.complexfloating],
    source_ohm: NDArray[np.complexfloating],
    siemens: float | NDArray[np.floating],
) -> NDArray[np.complexfloating]:
    """Return the open-circuit phasor [V] as loaded by the meter through the impedance it sees [ohm]."""
    return open_circuit / (1 + siemens * source_ohm)
