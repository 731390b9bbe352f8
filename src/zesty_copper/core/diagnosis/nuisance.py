"""What is not known besides the fault: a well-spread set of samples, each a small Gaussian of its own.

The prior of every unknown is cut into `SAMPLES` centres from a Sobol sequence. Around its centre each sample keeps a
Gaussian whose width makes the mixture as wide as the prior again; readings see that width through their sensitivities.
So a sharp reading never falls between two samples, and few samples are enough. See docs/method.md.
"""

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri
from scipy.stats import qmc

from zesty_copper.core.network.lowrank import LOADS
from zesty_copper.core.network.solve import Conditions

__all__ = ["DIMENSIONS", "SAMPLES", "Dimension", "Nuisance", "nuisance"]

SAMPLES = 32

BETWEEN_SPREAD = 0.6
GROUND_SPREAD = 0.6
LOAD_SPREAD = 0.12
IDLE_SPREAD = 0.5
JOINT_SPREAD = 0.5
SOURCE_SPREAD = 0.5
"""Standard deviations of the natural logarithm of each factor; reasons in docs/method.md."""

KERNEL = 0.6
"""Width of a sample's own Gaussian, as a share of the prior's standard deviation."""
LOAD_KERNEL = 0.85
"""The same for loads: each has its Gaussian to itself, and only what is left of the spread is common to all."""
FAULT_KERNEL = 0.3
"""Width around each sample's fault resistance, in nepers; about the spacing of the centres."""


class Dimension:
    """Order of the Gaussian unknowns that a reading is sensitive to."""

    LEVEL, VOLT_GAIN, AMP_GAIN, FAULT = range(4)
    BALANCE = slice(4, 7)
    """One leg against another, the third against both, and a further supply against the first."""
    GROUPS = slice(7, 16)
    """In the order of `lowrank.GROUPS`."""


DIMENSIONS = np.array(
    [
        0.025,  # level of all legs: ANSI C84.1 range A is ±5 % at the service; taken as two deviations
        0.005,  # volt gain: the meter's 1 %, taken as two deviations, common to all its readings
        0.010,  # clamp gain, likewise, with the conductor's place in the jaws
        FAULT_KERNEL,
        0.004,  # one leg against another; common practice, no source
        0.004,
        0.020,  # a further supply's level against the first's
        *[LOAD_KERNEL * LOAD_SPREAD] * len(LOADS),
        KERNEL * IDLE_SPREAD,
        KERNEL * JOINT_SPREAD,
        KERNEL * SOURCE_SPREAD,
        KERNEL * BETWEEN_SPREAD,
        KERNEL * GROUND_SPREAD,
    ]
)
"""Standard deviation of each Gaussian unknown within one sample."""


@dataclass(frozen=True, eq=False)
class Nuisance:
    """The samples: conditions of the circuit, and where each sample's fault lies in its spread, (samples,)."""

    conditions: Conditions
    fault_quantile: NDArray[np.float64]


@cache
def nuisance(samples: int = SAMPLES) -> Nuisance:
    """Spread the samples; the same every time."""
    # The seed only picks one of many equally good scramblings: answers must not change from one run to the next.
    points = qmc.Sobol(7, scramble=True, rng=np.random.default_rng(8420)).random(samples)
    # Strata for the fault's own quantile: its spacing matters most.
    order = np.argsort(np.argsort(points[:, 0]))
    spreads = np.array([BETWEEN_SPREAD, GROUND_SPREAD, LOAD_SPREAD, IDLE_SPREAD, JOINT_SPREAD, SOURCE_SPREAD])
    kernels = np.array([KERNEL, KERNEL, LOAD_KERNEL, KERNEL, KERNEL, KERNEL])
    factors = np.exp(spreads * np.sqrt(1 - kernels**2) * ndtri(points[:, 1:])).T
    return Nuisance(Conditions(*factors), (order + 0.5) / samples)
