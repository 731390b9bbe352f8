"""Whether a level climbs, falls or stays: a straight line through block means, with honest uncertainty.

Samples of a logger are not independent: what was read a moment ago is mostly read again. Means of blocks are nearly so,
and what correlation is left widens the uncertainty by √((1+ρ)/(1−ρ)) (effective sample size of an AR(1) process; Bayley
and Hammersley, J. R. Stat. Soc. Suppl. 8 (1946) 184-197).
"""

from enum import StrEnum

import numpy as np
from pydantic import Field
from scipy.special import stdtrit

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.trace import Series

__all__ = ["CLIMB_SHARE", "HEAT_CLIMB_SHARE", "Drift", "Slope", "slope_of"]

MOST_BLOCKS, LEAST_POINTS = 24, 4
FEW_BLOCKS = 8
"""Fewer were typed by hand, minutes apart: nothing of one is left in the next."""
SURE, SURE_OF_FEW = 0.999, 0.995
"""A level is said to climb or fall only when it is so sure."""
HEAT_CLIMB_SHARE, CLIMB_SHARE = 0.01, 0.05
"""A resistive load must not climb by more; a motor's amps follow its load (common practice, no source)."""


class Drift(StrEnum):
    """What a level does."""

    STEADY = "steady"
    CLIMBS = "climbs"
    FALLS = "falls"
    UNCLEAR = "unclear"


class Slope(Frozen):
    """How a level changes over a stretch."""

    per_minute: float = Field(description="[V/min or A/min]")
    uncertainty: float = Field(description="half width of the 95 % interval, same unit")
    change_percent: float = Field(description="over the whole stretch, of its mean")
    change_uncertainty_percent: float
    drift: Drift


def slope_of(seconds: Series, values: Series, share: float) -> Slope | None:
    """Fit a line to one stretch; none where it has too few points.

    Parameters
    ----------
    seconds, values
        (samples,), missing values left out [s, V or A].
    share
        A change of more than this share of the level counts.
    """
    if len(values) < LEAST_POINTS or not (level := float(np.mean(values))):
        return None
    blocks = min(MOST_BLOCKS, len(values))
    edges = np.linspace(0, len(values), blocks, endpoint=False).astype(np.int64)
    sizes = np.diff([*edges, len(values)])
    times = np.add.reduceat(seconds, edges) / sizes
    means = np.add.reduceat(values, edges) / sizes
    centered = times - times.mean()
    spread = float((centered**2).sum())
    slope = float((centered * means).sum() / spread)
    residual = means - means.mean() - slope * centered
    freedom = blocks - 2
    error = float(np.sqrt((residual**2).sum() / freedom / spread))
    rho = float((residual[1:] * residual[:-1]).sum() / max((residual**2).sum(), 1e-300))
    # A fit of few points hides some of the correlation; what is left of it is put back (Kendall's bias, (1+3ρ)/n).
    rho = float(np.clip(rho + (1 + 3 * rho) / blocks, 0.0, 0.9))
    few = blocks < FEW_BLOCKS
    if not few:
        error *= float(np.sqrt((1 + rho) / (1 - rho)))
    span = float(seconds[-1] - seconds[0])
    change, half = slope * span / level, error * span / abs(level)
    sure = float(stdtrit(freedom, SURE_OF_FEW if few else SURE)) * half
    about = float(stdtrit(freedom, 0.975))
    if change - sure > share:
        drift = Drift.CLIMBS
    elif change + sure < -share:
        drift = Drift.FALLS
    elif abs(change) + about * half <= share:
        drift = Drift.STEADY
    else:
        drift = Drift.UNCLEAR
    return Slope(
        per_minute=60 * slope,
        uncertainty=60 * about * error,
        change_percent=100 * change,
        change_uncertainty_percent=100 * about * half,
        drift=drift,
    )
