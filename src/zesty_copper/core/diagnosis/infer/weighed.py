"""What the readings and looks of a job leave of every suspect, and of every place where a hand may go."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.infer.looks import log_inspection_ratio_of
from zesty_copper.core.diagnosis.infer.pairs import two_at_once
from zesty_copper.core.diagnosis.infer.posterior import Posterior, weigh
from zesty_copper.core.diagnosis.model.job import Job, PriorFactor
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, compile_circuit, kept
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.faults.signs import Look, signs
from zesty_copper.core.observations.measurement import Reading

__all__ = ["Weighed", "speaks_of", "weigh_job"]


@dataclass(frozen=True, eq=False)
class Weighed:
    """What the readings and looks leave.

    Attributes
    ----------
    by_fault
        (faults,): probability of each.
    places
        (places,): of each place.
    log_inspection_ratio
        (faults,): how much the looks speak for each [nat].
    log_known
        (faults,): how much likelier what is known beforehand, or was found itself, makes each [nat].
    """

    compiled: CompiledCircuit
    posterior: Posterior
    by_fault: NDArray[np.float64]
    places: NDArray[np.float64]
    log_inspection_ratio: NDArray[np.float64]
    log_known: NDArray[np.float64]

    @property
    def nbytes(self) -> int:
        """What the arrays hold [byte]."""
        return self.posterior.nbytes


def weigh_job(job: Job) -> Weighed:
    """Weigh every suspect of a job; only readings of what runs steadily are counted."""
    return _weighed(compile_circuit(job.circuit), job.readings, job.looks, job.prior_factors)


@kept
def _weighed(
    compiled: CompiledCircuit,
    readings: tuple[Reading, ...],
    looks: tuple[Look, ...],
    prior_factors: tuple[PriorFactor, ...],
) -> Weighed:
    findings = [look for look in looks if signs()[look.sign].finding]
    log_inspection_ratio = log_inspection_ratio_of(compiled, [look for look in looks if look not in findings])
    log_known = _log_known(compiled, prior_factors) + log_inspection_ratio_of(compiled, findings)
    posterior = weigh(compiled, readings, log_inspection_ratio + log_known)
    if (pairs := two_at_once(compiled, posterior, readings)) is not None:
        compiled, posterior = pairs
        log_inspection_ratio = log_known = np.zeros(len(compiled.faults))
    by_fault = posterior.weight.sum(axis=1)
    places = np.bincount(compiled.place, by_fault).astype(float)
    return Weighed(compiled, posterior, by_fault, places, log_inspection_ratio, log_known)


def _log_known(compiled: CompiledCircuit, factors: Sequence[PriorFactor]) -> NDArray[np.float64]:
    """Logarithm of what is known beforehand of each fault, (faults,)."""
    return np.array(
        [sum(math.log(factor.factor) for factor in factors if speaks_of(factor, f)) for f in compiled.faults]
    )


def speaks_of(factor: PriorFactor, fault: Fault) -> bool:
    """Whether what is known beforehand speaks of a fault."""
    return FaultKey(fault.key).is_among(factor.key)
