"""How far a number on the meter may stray from the truth, apart from the gain that all its numbers share."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["OUTLIER_SHARE", "PICK_UP_VOLTS", "ghost_wander"]

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
    share_left = np.where(siemens > 0, 1 / np.abs(1 + siemens * seen_ohm), 0)
    floats_at = np.maximum(np.abs(plus_volts), np.abs(minus_volts))
    own_volts = soft * np.hypot(WANDER_SHARE * floats_at, floor_volts)
    beside = beside_volts / (1 + NEIGHBOUR_OHM / np.maximum(np.abs(seen_ohm), 1e-9))
    return np.asarray(share_left * np.hypot(own_volts, beside))
