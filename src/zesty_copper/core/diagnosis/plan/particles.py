"""The posterior as a few weighted combinations of fault and sample, by which tests are planned."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.infer.posterior import Posterior
from zesty_copper.core.diagnosis.infer.two_state import BAD_SHARE
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS, Dimension

__all__ = ["Particles", "particles_of"]

PARTICLES = 192
"""How many steps of probability the posterior is cut into; fewer combinations stand for it where it is peaked."""


@dataclass(frozen=True, eq=False)
class Particles:
    """Combinations of fault and sample that stand for the posterior.

    Attributes
    ----------
    weight
        (particles,): sums to one.
    fault, row, sample
        (particles,): which fault it is, and where it reads its predictions.
    label
        (particles,): number of the place it accuses.
    scale, scale_variance
        (particles,): by what the readings so far have shown the predictions to be off, and how surely.
    shift, covariance
        (particles, dimensions[, dimensions]): the same for every Gaussian unknown, in standard deviations.
    """

    weight: NDArray[np.float64]
    fault: NDArray[np.int64]
    row: NDArray[np.int64]
    sample: NDArray[np.int64]
    label: NDArray[np.int64]
    scale: NDArray[np.float64]
    scale_variance: NDArray[np.float64]
    shift: NDArray[np.float64]
    covariance: NDArray[np.float64]

    def among(self, labels: NDArray[np.int64]) -> "Particles":
        """Only those that accuse one of these places."""
        keep = np.isin(self.label, labels)
        weight = self.weight[keep]
        return Particles(
            weight / weight.sum(),
            self.fault[keep],
            self.row[keep],
            self.sample[keep],
            self.label[keep],
            self.scale[keep],
            self.scale_variance[keep],
            self.shift[keep],
            self.covariance[keep],
        )


def particles_of(compiled: CompiledCircuit, posterior: Posterior, count: int = PARTICLES) -> Particles:
    """Pick combinations that stand for the posterior; one that comes and goes is split into its good and its bad time.

    Systematic resampling (Kitagawa, J. Comp. Graph. Stat. 5 (1996) 1-25, appendix) along faults and, within each, along
    the spread of its severity: even steps of probability, so the pick is spread well and the same every time.
    """
    faults, samples = posterior.weight.shape
    weight = np.where(compiled.intermittent[:, None], posterior.weight * BAD_SHARE, posterior.weight)
    flickering = np.flatnonzero(compiled.intermittent)
    weight = np.concatenate([weight, posterior.weight[flickering] * (1 - BAD_SHARE)]).ravel()
    fault = np.repeat(np.concatenate([np.arange(faults), flickering]), samples)
    row = np.concatenate([np.repeat(compiled.row, samples), np.full(len(flickering) * samples, compiled.healthy)])
    sample = np.tile(np.arange(samples), faults + len(flickering))
    along = np.lexsort((compiled.nuisance.fault_quantile[sample], fault))
    total = np.cumsum(weight[along])
    picked = along[np.searchsorted(total, (np.arange(count) + 0.5) / count * total[-1])]
    best, times = np.unique(picked, return_counts=True)
    common = np.array([Dimension.LEVEL, Dimension.VOLT_GAIN])
    width = DIMENSIONS[common]
    shift, covariance = posterior.unknowns_at(fault[best], sample[best])
    return Particles(
        weight=times / count,
        fault=fault[best],
        row=row[best],
        sample=sample[best],
        label=compiled.place[fault[best]],
        # A linear model may overshoot where a particle fits badly; a reading keeps its sign.
        scale=np.clip(1 + shift[:, common] @ width, 0.5, 1.5),
        scale_variance=np.einsum("d,pde,e->p", width, covariance[:, common[:, None], common], width),
        shift=shift,
        covariance=covariance,
    )
