"""The meter: which unknowns it takes the difference of, and how it loads them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Around, Measurement, MeterMode
from zesty_copper.core.circuit.model import GROUND
from zesty_copper.core.network.netlist import Netlist

__all__ = ["INPUT_SIEMENS", "Tap", "loaded", "tap"]

INPUT_SIEMENS = {MeterMode.HI_Z: 1 / 10e6, MeterMode.LO_Z: 1 / 3e3}
"""Input admittance of the voltmeter [S]: 10 MΩ, and about 3 kΩ in its low-impedance mode."""


@dataclass(frozen=True)
class Tap:
    """Rows of the unknowns a measurement takes the difference of, and its loading [S].

    Row −1 is ground, or nothing: the last of a vector of unknowns to which a zero was appended.
    """

    plus: int
    minus: int
    siemens: float


def tap(netlist: Netlist, measurement: Measurement) -> Tap:
    """Where a measurement taps the network."""
    place = measurement.place
    if isinstance(place, Around):
        return Tap(netlist.branch_row(place.part, place.leg), -1, 0.0)
    a, b = (-1 if point == GROUND else netlist.nodes[point] for point in (place.a, place.b))
    return Tap(*((a, b) if a >= 0 else (b, a)), INPUT_SIEMENS[measurement.meter])


def loaded(
    open_circuit: NDArray[np.complexfloating],
    source_ohm: NDArray[np.complexfloating],
    siemens: float | NDArray[np.floating],
) -> NDArray[np.complexfloating]:
    """Return the open-circuit phasor [V] as loaded by the meter through the impedance it sees [ohm]."""
    return open_circuit / (1 + siemens * source_ohm)
