"""Volts where none belong: on control wiring, and on metal that hands touch; and what clears them."""

from collections.abc import Sequence

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.observations.modes import MeterMode

__all__ = ["LOW_VOLTAGE", "SHOCK_VOLTS", "control_limit", "is_metal", "is_real", "not_cleared"]

CONTROL_MULTIPLE = 1.6
"""Multiple of a low-voltage secondary's volts that none of its conductors reaches to ground by itself: 24 V may be
29 V, with one side grounded or not, and is never 38 V. Common practice, no source."""
LOW_VOLTAGE = 60.0
"""Highest rated voltage of a secondary whose wiring is handled as control wiring [V]."""
SHOCK_VOLTS = 30.0
"""Voltage on a metal part that is dangerous to touch outdoors [V]; common practice, no source (OSHA's line is 50 V)."""


def not_cleared(circuit: Circuit, readings: Sequence[Reading]) -> tuple[Reading, ...]:
    """Return readings without those volts that a later reading of the same kind, at the same spot and state, cleared.

    Line voltage on a control wire, or metal that is live, is dangerous as long as nothing says otherwise; what says so
    is the same low-impedance reading once more, after the repair.
    """
    standing: list[Reading] = []
    for reading in readings:
        limit = _danger_limit(circuit, reading)
        if limit is not None and reading.value <= limit:
            standing = [
                each_reading
                for each_reading in standing
                if each_reading.measurement != reading.measurement or each_reading.value <= limit
            ]
        standing.append(reading)
    return tuple(standing)


def _danger_limit(circuit: Circuit, reading: Reading) -> float | None:
    """Volts above which a reading is dangerous by itself; none where it never is."""
    place = reading.measurement.place
    if not isinstance(place, Between) or not reading.is_volts or not is_real(reading, place):
        return None
    return SHOCK_VOLTS if is_metal(place) else control_limit(circuit, place)


def is_real(reading: Reading, place: Between) -> bool:
    """Whether volts on controls or metal are no ghost: read in low impedance, or between two conductors."""
    between = GROUND not in (place.a.lane, place.b.lane)
    return between or reading.measurement.meter is MeterMode.LO_Z


def is_metal(place: Between) -> bool:
    """Whether both probes are on what should be at ground: two places of the grounding conductor."""
    ends = [point.lane for point in (place.a, place.b)]
    return all(end == GROUND for end in ends)


def control_limit(circuit: Circuit, place: Between) -> float | None:
    """Return the volts that a control conductor never has to ground, nor to its mate; None at any other place."""
    volts = []
    for point in (place.a, place.b):
        if point.lane == GROUND:
            continue
        lane, part = circuit.split_point(point)
        secondary_lanes = part.makes if part.winding is not None else ()
        root = part if lane in secondary_lanes else circuit.root(part)
        volts.append(root.winding.secondary_volts if root.winding is not None else None)
    control_volts = [value for value in volts if value is not None and value < LOW_VOLTAGE]
    return CONTROL_MULTIPLE * control_volts[0] if volts and len(control_volts) == len(volts) else None
