"""How far a number on the meter may stray from the truth, apart from the gain that all its numbers share."""

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.predict.scales import SCALE_RANGE

__all__ = [
    "DEVIATION",
    "OUTLIER_SHARE",
    "PICK_UP_VOLTS",
    "UNLISTED_HOT",
    "UNLISTED_WIDTH",
    "ghost_wander",
    "noise_variance",
    "range_density",
    "typed_step",
]

DIGIT = {"V": 0.1, "A": 0.1, "seq": 1.0, "run": 1.0, "beep": 1.0, "ohm": 0.1, "degF": 1.0}
"""Last digit of the meter and of the clamp [V, A]."""
ACCURACY_DIGITS = 3
DRIFT = {"V": 0.005, "A": 0.015}
"""Wander of supply and load from one reading to the next, as a share; common practice, no source."""

DEVIATION = {
    "seq": 0.2,  # a lost leg turns by less than all
    "run": 0.3,  # one watcher in a thousand takes a hum for running
    "beep": 0.5,  # shielding, insulation and ground nearby keep testers silent about one time in ten
    "degF": 0.6,  # what a watt makes of a joint hangs on its size and its air, within a factor of two
}
"""How far what is no number, or only roughly one, strays on its scale; common practice, no source."""
OHM_DEVIATION = 0.12
"""The same of ohms: the meter, and windings that are known from their plates alone."""
LEADS_DEVIATION_OHM = 0.2
"""What is left of the leads once they are zeroed, and how probes bite [ohm]; common practice, no source."""

SOFT_OHM = 200e3
"""Impedance seen by the meter from which a reading hangs on stray coupling more than on the circuit [ohm]."""
WANDER_SHARE = 0.25
"""How far a ghost strays from the model, as a share of what the probes float at: it moves with hands and damp."""
NEIGHBOUR_OHM = 1.5e6
"""Impedance of the stray between a dead run and a live one of another circuit, some 20 m side by side [ohm]."""
PICK_UP_VOLTS = 0.5
"""What a floating conductor shows anyway, whatever the model says: no test is worth taking for so small a ghost [V].
Common practice, no source."""

OUTLIER_SHARE = 0.01
"""Share of numbers that are mistyped or taken in another state than said; common practice, no source."""
UNLISTED_HOT = 0.2
"""Share of unlisted faults that make a joint hotter than its mates by any amount; common practice, no source."""
UNLISTED_WIDTH = 0.04
"""Half-width, as a share of the leg-to-leg voltage, of where an unlisted fault's readings gather."""


ROUND_FROM_VOLTS = 100.0
ROUND_STEP = 5.0
"""From here on a number of whole tens is taken to be remembered to about so much [V]; common practice, no source."""


def typed_step(value: float, unit: str) -> float:
    """Step to which the number was typed [V or A]: a whole number may have been rounded to it.

    Tens of volts are what people type who remember a number: 120, 240.

    >>> typed_step(240.0, "V"), typed_step(241.0, "V"), typed_step(239.6, "V")
    (5.0, 1.0, 0.1)
    """
    if unit == "V" and value >= ROUND_FROM_VOLTS and value % 10 == 0:
        return ROUND_STEP
    return 1.0 if value == int(value) and value > 0 else DIGIT[unit]


def noise_variance(
    predicted: NDArray[np.floating], wander: NDArray[np.floating] | float, unit: str, step: float | None = None
) -> NDArray[np.floating]:
    """Variance of one reading about its prediction on the scale of its unit, gain apart [V², A² or 1].

    The meter's three digits are taken as two standard deviations; rounding is uniform over the step.

    Parameters
    ----------
    predicted
        What the meter should show, on the scale of its unit.
    wander
        Standard deviation of what hangs on stray coupling, from `ghost_wander` [V], or of what else strays there.
    step
        Step to which the number was typed; by default the meter's own digit.
    """
    if unit == "ohm":
        leads = LEADS_DEVIATION_OHM * np.exp(-np.asarray(predicted))
        return np.asarray(OHM_DEVIATION**2 + leads**2 + np.square(wander))
    if (deviation := DEVIATION.get(unit)) is not None:
        return np.full(np.shape(predicted), deviation**2) + np.square(wander)
    digits = ACCURACY_DIGITS * DIGIT[unit] / 2
    rounding = (step or DIGIT[unit]) ** 2 / 12
    return np.asarray(digits**2 + rounding + (DRIFT[unit] * predicted) ** 2 + np.square(wander))


def ghost_wander(
    seen_ohm: NDArray[np.complexfloating],
    plus_volts: NDArray[np.inexact],
    minus_volts: NDArray[np.inexact],
    siemens: NDArray[np.floating],
    *,
    floor_volts: float = 0.0,
    beside_volts: NDArray[np.floating] | float = 0.0,
) -> NDArray[np.float64]:
    """Standard deviation of a voltage as far as it hangs on stray coupling [V].

    Parameters
    ----------
    seen_ohm
        Impedance that the meter sees between its probes [ohm].
    plus_volts, minus_volts
        What the two probes float at, to the panel's ground, meter not connected [V]: phasors, or their magnitudes.
    siemens
        How the meter loads them [S]; 0 for a clamp, which sees no ghosts.
    floor_volts
        What a floating conductor strays by at least [V].
    beside_volts
        What live wires of other circuits beside it drive, one standard deviation [V].

    Examples
    --------
    Hardly anything on a fed point, much of a ghost at 10 MΩ, and nothing of it once 3 kΩ have pulled it down.

    >>> seen_ohm, siemens = np.array([0.1, 2e6, 2e6]), np.array([1e-7, 1e-7, 1 / 3e3])
    >>> ghost_wander(seen_ohm, np.full(3, 100.0), np.zeros(3), siemens).round(1).tolist()
    [0.0, 18.9, 0.0]
    """
    soft = 1 - 1 / (1 + np.abs(seen_ohm) / SOFT_OHM)
    left = np.where(siemens > 0, 1 / np.abs(1 + siemens * seen_ohm), 0)
    floats_at = np.maximum(np.abs(plus_volts), np.abs(minus_volts))
    own = soft * np.hypot(WANDER_SHARE * floats_at, floor_volts)
    beside = beside_volts / (1 + NEIGHBOUR_OHM / np.maximum(np.abs(seen_ohm), 1e-9))
    return np.asarray(left * np.hypot(own, beside))


def range_density(unit: str, line_volts: float, rated_amps: float) -> float:
    """Density of a number that could be anything the meter might show here, on the scale of its unit [1/V, 1/A, 1]."""
    if unit in SCALE_RANGE:
        return 1 / SCALE_RANGE[unit]
    return 1 / (1.2 * line_volts) if unit == "V" else 1 / (3 * rated_amps)
