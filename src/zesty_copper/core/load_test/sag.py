"""Volts lost for each ampere, from every step of the load: source, wire and joints together."""

import math
from collections.abc import Sequence

import numpy as np
from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.bins import Binned
from zesty_copper.core.load_test.steps import LoadStep, level_steps, window_of

__all__ = ["Sag", "sag_of"]

SURE_TIMES = 2.0
"""Half width of a 95 % interval in standard deviations."""


class Sag(Frozen):
    """How far a voltage falls for each ampere of the load."""

    lanes: tuple[str, ...]
    ohm: float = Field(description="volts between the two conductors for each ampere")
    uncertainty_ohm: float = Field(description="half width of the 95 % interval")
    amps: float = Field(description="of the largest step")
    steps: int


def sag_of(bins: Binned, volts: int, amps: int, lanes: tuple[str, str], amps_steps: Sequence[LoadStep]) -> Sag | None:
    """Weigh what a voltage does at each step of the amps; none where nothing steps.

    Parameters
    ----------
    volts, amps
        Places of the two channels.

    The supply drifts by itself: what it does over the same span where nothing steps is the uncertainty of each step.
    """
    if not amps_steps:
        return None
    window = window_of(bins)
    row = bins.values[volts]
    before, after = level_steps(row, window)
    at = np.array([step.at for step in amps_steps])
    # Both over the same bins: what is left of an inrush in them sags the volts too.
    lower, higher = level_steps(bins.values[amps], window)
    change = higher[at] - lower[at]
    lost = before[at] - after[at]
    quiet = np.ones(len(row), dtype=bool)
    for moment in at:
        quiet[max(0, moment - 2 * window) : moment + 2 * window + 1] = False
    wander = (before - after)[quiet]
    noise = float(np.std(wander)) if len(wander) > 1 else 0.0
    squared = float((change**2).sum())
    ohm = float((change * lost).sum() / squared)
    # What steps disagree about is uncertainty too: a joint that moves, or another load on the same supply.
    scatter = float(np.sqrt(((lost - ohm * change) ** 2).sum() / max(len(change) - 1, 1)))
    return Sag(
        lanes=lanes,
        ohm=ohm,
        uncertainty_ohm=SURE_TIMES * max(noise, scatter if len(change) > 1 else 0.0) / math.sqrt(squared),
        amps=float(np.abs(change).max()),
        steps=len(change),
    )
