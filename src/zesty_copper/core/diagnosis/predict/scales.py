"""The scale on which each kind of reading is compared: volts and amps as they are, ohms and warmth by their logarithm.

An ohmmeter's readings run from a few tenths, where the leads count, to tens of megohms; a joint's heat is known to a
factor at best. On these scales the spread of a reading is about the same wherever it lies.
"""

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.observations.measurement import METER_LIMIT_WARMTH, OHM_LIMIT, Reading

__all__ = ["LEADS_OHM", "SCALE_RANGE", "WARMTH_DEGREES", "off_scale", "on_scale", "scaled"]

LEADS_OHM = 0.5
"""What a pair of test leads may add: below it ohms are not told apart [ohm]; common practice, no source."""
WARMTH_DEGREES = 5.0
"""Below this a difference of temperature is not told from none [°F]; common practice, no source."""


def on_scale(value: NDArray[np.float64] | float, unit: str) -> NDArray[np.float64]:
    """Return values on the scale of their unit.

    >>> on_scale(240.0, "V").item(), round(on_scale(99.5, "ohm").item(), 3)
    (240.0, 4.605)
    """
    match unit:
        case "ohm":
            return np.asarray(np.log(np.asarray(value) + LEADS_OHM))
        case "degF":
            return np.asarray(np.log1p(np.clip(np.asarray(value), 0, METER_LIMIT_WARMTH) / WARMTH_DEGREES))
        case _:
            return np.asarray(value, dtype=float)


def off_scale(place: float, unit: str) -> float:
    """Return the value that lies at a place of the scale of its unit."""
    match unit:
        case "ohm":
            return float(max(np.exp(place) - LEADS_OHM, 0.0))
        case "degF":
            return float(max(np.expm1(place) * WARMTH_DEGREES, 0.0))
        case _:
            return place


def scaled(reading: Reading) -> float:
    """Return a reading on the scale of its unit."""
    return float(on_scale(reading.value, reading.unit))


SCALE_RANGE = {
    "ohm": float(on_scale(OHM_LIMIT, "ohm") - on_scale(0.0, "ohm")),
    "degF": float(on_scale(METER_LIMIT_WARMTH, "degF")),
    "seq": 3.0,
    "run": 3.0,
    "beep": 2.0,
}
"""How much of its scale a unit covers; of what is no number, how many words there are."""
