"""What is not known besides the fault: a well-spread set of samples, each a small Gaussian of its own.

The prior of every unknown is cut into `SAMPLES` centres from a Sobol sequence. Around its centre each sample keeps a
Gaussian whose width makes the mixture as wide as the prior again; readings see that width through their sensitivities.
So a sharp reading never falls between two samples, and few samples are enough. See docs/method.md.
"""

from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from zesty_copper.core.network import elements
from zesty_copper.core.network.solve import UNBONDED, Conditions

__all__ = ["DIMENSIONS", "SAMPLES", "Dimension", "Nuisance", "nuisance", "stir_variance"]

SAMPLES = 32

BETWEEN_SPREAD = 0.6
GROUND_SPREAD = 0.6
LOAD_SPREAD = 0.2
IDLE_SPREAD = 0.5
JOINT_SPREAD = 0.5
SOURCE_SPREAD = 0.5
HOUSE_SPREAD = 0.8
HOUSE_SPLIT_SPREAD = 0.7
"""Standard deviations of the natural logarithm of each factor; reasons in docs/method.md."""

KERNEL = 0.6
"""Width of a sample's own Gaussian, as a share of the prior's standard deviation."""
HOUSE_KERNEL = 0.12
"""Width of each house load's own Gaussian, in nepers; about the spacing of the centres of their split."""
HOUSE_STIR = (0.02, 0.1, 0.8)
"""By how much each changes from one reading to the next, in nepers: while nothing is switched, in a quiet house, in a
lively one where refrigerators and ovens come and go; common practice, no source."""
NEIGHBOUR_VOLTS = (0.0, 0.0, 5.0, 40.0)
"""What live wires of other circuits beside a dead run drive, one standard deviation [V]: none in half of all places,
else a few volts to tens of volts on a meter of 10 MΩ, different on each conductor; common practice, no source."""
TURNS_SPREAD = 0.065
"""Standard deviation of a control transformer's turns and regulation: 22 to 29 V on a healthy 24 V side; common
practice, no source."""
LOAD_KERNEL = 0.85
"""The same for loads: each has its Gaussian to itself, and only what is left of the spread is common to all."""
FAULT_KERNEL = 0.3
"""Width around each sample's fault resistance, in nepers; about the spacing of the centres."""


class Dimension:
    """Order of the Gaussian unknowns that a reading is sensitive to."""

    LEVEL, VOLT_GAIN, AMP_GAIN, FAULT = range(4)
    BALANCE = slice(4, 7)
    """One leg against another, the third against both, and a further supply against the first."""
    GROUPS = slice(7, 7 + len(elements.GROUPS))
    """In the order of `elements.GROUPS`."""
    HOUSE = slice(7 + elements.GROUPS.index(elements.HOUSE[0]), 7 + elements.GROUPS.index(elements.HOUSE[-1]) + 1)


DIMENSIONS = np.array(
    [
        0.025,  # level of all legs: ANSI C84.1 range A is ±5 % at the service; taken as two deviations
        0.005,  # volt gain: the meter's 1 %, taken as two deviations, common to all its readings
        0.010,  # clamp gain, likewise, with the conductor's place in the jaws
        FAULT_KERNEL,
        0.004,  # one leg against another; common practice, no source
        0.004,
        0.020,  # a further supply's level against the first's
        *[LOAD_KERNEL * LOAD_SPREAD] * len(elements.LOADS),
        KERNEL * IDLE_SPREAD,
        KERNEL * JOINT_SPREAD,
        KERNEL * SOURCE_SPREAD,
        HOUSE_KERNEL,
        HOUSE_KERNEL,
        TURNS_SPREAD,
        KERNEL * BETWEEN_SPREAD,
        KERNEL * GROUND_SPREAD,
    ]
)
"""Standard deviation of each Gaussian unknown within one sample."""


@dataclass(frozen=True, eq=False)
class Nuisance:
    """The samples; every array is (samples,).

    Attributes
    ----------
    conditions
        Factors on what the circuit is made of.
    fault_quantile
        Where each sample's fault lies in its spread.
    house_stir
        By how much the house's other loads change from one reading to the next, in nepers.
    bonded
        Whether control secondaries are grounded of which that is not known.
    neighbour_volts
        What live wires of other circuits beside a dead run drive [V].
    """

    conditions: Conditions
    fault_quantile: NDArray[np.float64]
    house_stir: NDArray[np.float64]
    bonded: NDArray[np.bool_]
    neighbour_volts: NDArray[np.float64]


@cache
def nuisance() -> Nuisance:
    """Spread the samples; the same every time."""
    points = np.loadtxt(files(__package__).joinpath("sobol.csv").read_text("utf-8").splitlines(), delimiter=",")
    samples = len(points)
    # Strata for the fault's own quantile and for how the house lies on its legs: their spacing matters most.
    order, split = ((np.argsort(np.argsort(points[:, k])) + 0.5) / samples for k in (0, 8))
    spreads = np.array([BETWEEN_SPREAD, GROUND_SPREAD, LOAD_SPREAD, IDLE_SPREAD, JOINT_SPREAD, SOURCE_SPREAD])
    kernels = np.array([KERNEL, KERNEL, LOAD_KERNEL, KERNEL, KERNEL, KERNEL])
    factors: NDArray[np.float64] = np.exp(spreads * np.sqrt(1 - kernels**2) * ndtri(points[:, 1:7])).T
    together, apart = HOUSE_SPREAD * ndtri(points[:, 7]), HOUSE_SPLIT_SPREAD * ndtri(split)
    by_split, by_fault = np.argsort(np.argsort(split)), np.argsort(np.argsort(order))
    bonded = by_fault // len(NEIGHBOUR_VOLTS) % 2 == 0
    bond = np.where(bonded, 1.0, UNBONDED)
    return Nuisance(
        conditions=Conditions(*factors, *np.exp([together + apart, together - apart]), *[bond]),
        fault_quantile=order,
        house_stir=np.array(HOUSE_STIR)[by_split % len(HOUSE_STIR)],
        bonded=bonded,
        neighbour_volts=np.array(NEIGHBOUR_VOLTS)[by_fault % len(NEIGHBOUR_VOLTS)],
    )


def stir_variance(slope: NDArray[np.floating], stir: NDArray[np.float64]) -> NDArray[np.float64]:
    """Variance of a reading because the house's other loads come and go meanwhile [V², A²].

    Parameters
    ----------
    slope
        (…, dimensions): change of the reading with one deviation of each Gaussian unknown.
    stir
        (…): by how much they change, in nepers.
    """
    return np.asarray((slope[..., Dimension.HOUSE] ** 2).sum(axis=-1) * (stir / HOUSE_KERNEL) ** 2)
