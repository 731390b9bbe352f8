"""How far a number on the meter may stray from the truth, apart from the gain that all its numbers share."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["OUTLIER_SHARE", "UNLISTED_WIDTH", "noise_variance", "range_density", "typed_step"]

DIGIT = {"V": 0.1, "A": 0.1}
"""Last digit of the meter and of the clamp [V, A]."""
ACCURACY_DIGITS = 3
DRIFT = {"V": 0.005, "A": 0.015}
"""Wander of supply and load from one reading to the next, as a share; common practice, no source."""

OUTLIER_SHARE = 0.004
"""Share of numbers that are mistyped or taken in another state than said; common practice, no source."""
UNLISTED_WIDTH = 0.04
"""Half-width, as a share of the leg-to-leg voltage, of where an unlisted fault's readings gather."""


def typed_step(value: float, unit: str) -> float:
    """Step to which the number was typed [V or A]: a whole number may have been rounded to it.

    >>> typed_step(240.0, "V"), typed_step(239.6, "V")
    (1.0, 0.1)
    """
    return 1.0 if value == int(value) and value > 0 else DIGIT[unit]


def noise_variance(predicted: NDArray[np.float64], unit: str, step: float) -> NDArray[np.float64]:
    """Variance of one reading about its prediction, gain apart [V² or A²].

    The meter's three digits are taken as two standard deviations; rounding is uniform over the step.
    """
    digits = ACCURACY_DIGITS * DIGIT[unit] / 2
    return np.asarray(digits**2 + step**2 / 12 + (DRIFT[unit] * predicted) ** 2)


def range_density(unit: str, line_volts: float, rated_amps: float) -> float:
    """Density of a number that could be anything the meter might show here [1/V or 1/A]."""
    return 1 / (1.2 * line_volts) if unit == "V" else 1 / (3 * rated_amps)
