"""Three-phase motors on a lost leg: each by itself turns, stands, or is off on its own protector."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.part import Part
from zesty_copper.core.network.machines import BLOCKED_OHM, held_ohm, on_two_legs

__all__ = ["single_phasing"]

TURNING_SHARE, STANDING_SHARE = 0.5, 0.25
"""How many go on turning, and how many stand; the others are off on their protector. Common practice, no source."""
LOAD_RANGE = (0.15, 1.0)
"""What a motor that goes on turning has to turn, as a share of its rated torque: a fan of a little to a compressor of
all; whichever cannot, stands."""
STRIDES = (5, 11, 13, 19, 23, 29)
"""Steps in which each motor goes through the samples, so that no two decide alike."""


@lru_cache(maxsize=64)
def single_phasing(motor: Part, number: int, samples: int) -> tuple[NDArray[np.complex128], NDArray[np.complex128]]:
    """Return the impedances that a motor's forward and backward field see, (samples,) each [ohm].

    Parameters
    ----------
    number
        Which of the circuit's three-phase motors it is, from 0.
    """
    assert motor.load is not None  # a motor has its plate
    low, high = LOAD_RANGE
    motors = []
    for sample in range(samples):
        place = (sample * STRIDES[number % len(STRIDES)] + number) % samples / samples
        fields = None
        if place < TURNING_SHARE:
            fields = on_two_legs(motor.load, low + (high - low) * place / TURNING_SHARE)
        elif place >= TURNING_SHARE + STANDING_SHARE:
            fields = (complex(BLOCKED_OHM),) * 2
        motors.append(fields or (held_ohm(motor.load),) * 2)
    forward, backward = np.array(motors).T
    return forward, backward
