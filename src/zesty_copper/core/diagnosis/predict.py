"""What every fault would make the meter show, and how that moves with what is not known."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.diagnosis.noise import ghost_wander
from zesty_copper.core.diagnosis.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.study import StateOfFaults, Study, state_of_faults
from zesty_copper.core.network.meter import Tap, tap
from zesty_copper.core.network.netlist import Sort

__all__ = ["Prediction", "predict", "predict_at"]


@dataclass(frozen=True, eq=False)
class Prediction:
    """The reading of one measurement in every network row.

    Attributes
    ----------
    value
        (rows, samples): what the meter would show [V or A].
    slope
        (rows, samples, dimensions): its change with one standard deviation of each Gaussian unknown [V or A].
    wander
        (rows, samples): standard deviation of what of it hangs on stray coupling [V].
    """

    value: NDArray[np.float64]
    slope: NDArray[np.float64]
    wander: NDArray[np.float64]


@lru_cache(maxsize=512)
def predict(study: Study, measurement: Measurement) -> Prediction:
    """Predict one measurement in every network row.

    The sensitivities are exact to first order and cost one adjoint vector (Director and Rohrer, IEEE Trans. Circuit
    Theory 16 (1969) 318-323): with the system matrix symmetric, dv = −wᵀ·dA·x, where w is the response to a unit source
    at the probes and x the unknowns.
    """
    state = state_of_faults(study, measurement.open_switches)
    where = tap(study.netlist, measurement)
    row, sample = np.arange(state.unknowns.shape[0])[:, None], np.arange(state.unknowns.shape[1])[None]
    return _read(state, where, state.respond(_direct(state, where)[None]), state.unknowns, row=row, sample=sample)


def predict_at(study: Study, measurement: Measurement, row: NDArray[np.int64], sample: NDArray[np.int64]) -> Prediction:
    """Predict one measurement for chosen pairs of row and sample alone: arrays are (pairs,) and (pairs, dimensions)."""
    state = state_of_faults(study, measurement.open_switches)
    where = tap(study.netlist, measurement)
    adjoint = state.respond_at(_direct(state, where), row, sample)
    return _read(state, where, adjoint, state.unknowns[row, sample], row=row, sample=sample)


def _direct(state: StateOfFaults, where: Tap) -> NDArray[np.complex128]:
    """Response of the healthy network to a unit source at the probes, (samples, unknowns)."""
    inverse = state.solved.inverse
    return np.asarray(inverse[:, :, where.plus] - (inverse[:, :, where.minus] if where.minus >= 0 else 0))


def _read(
    state: StateOfFaults,
    where: Tap,
    adjoint: NDArray[np.complex128],
    unknowns: NDArray[np.complex128],
    *,
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
) -> Prediction:
    """Load the network with the meter, read it, and differentiate; `row` and `sample` broadcast to the leading axes."""

    def across(vector: NDArray[np.complex128]) -> NDArray[np.complex128]:
        return np.asarray(vector[..., where.plus] - (vector[..., where.minus] if where.minus >= 0 else 0))

    phasor = across(unknowns)
    wander = np.zeros(phasor.shape)
    if where.siemens:
        seen = across(adjoint)
        minus = unknowns[..., where.minus] if where.minus >= 0 else np.zeros_like(phasor)
        wander = ghost_wander(seen, unknowns[..., where.plus], minus)
        shrink = 1 / (1 + where.siemens * seen)
        unknowns = unknowns - adjoint * (where.siemens * shrink * phasor)[..., None]
        adjoint = adjoint * shrink[..., None]
        phasor = phasor * shrink
    magnitude = np.abs(phasor)
    slope = _slopes(state, adjoint, unknowns, row, sample)
    slope[..., Dimension.LEVEL] = phasor
    slope[..., Dimension.VOLT_GAIN if where.siemens else Dimension.AMP_GAIN] = phasor
    direction = np.conj(phasor) / np.maximum(magnitude, 1e-12)
    return Prediction(magnitude, np.real(direction[..., None] * slope) * DIMENSIONS, wander)


def _slopes(
    state: StateOfFaults,
    adjoint: NDArray[np.complex128],
    unknowns: NDArray[np.complex128],
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
) -> NDArray[np.complex128]:
    """Return the derivative of the phasor by each Gaussian unknown that acts inside the network."""
    netlist, edits, conditions = state.study.netlist, state.study.edits, state.solved.conditions
    n = len(netlist.nodes)
    slope = np.zeros((*adjoint.shape[:-1], len(DIMENSIONS)), dtype=complex)
    # A source enters the right-hand side as −E on its branch's row.
    halves = np.array([0.5, -0.5])[:, None] * netlist.emf_volts
    sources = edits.sources[row, sample]
    slope[..., Dimension.LEG_BALANCE] = -((adjoint[..., n:] @ halves.T) * sources).sum(axis=-1)
    # An impedance enters the diagonal as −z, so dv = w·i·dz.
    product = adjoint[..., n:] * unknowns[..., n:]
    branches = np.broadcast_to(edits.branches[row], (*product.shape[:-1], edits.branches.shape[1]))
    edited = np.take_along_axis(product, branches, axis=-1)
    slope[..., Dimension.FAULT] = (edited * edits.slope_ohm[row, sample]).sum(axis=-1)
    closed = netlist.impedance_ohm
    for dimension, sort, factor in (
        (Dimension.LOAD, Sort.LOAD, conditions.load),
        (Dimension.IDLE, Sort.IDLE, conditions.idle),
        (Dimension.JOINT, Sort.JOINT, conditions.joint),
        (Dimension.SOURCE, Sort.SOURCE, conditions.source),
    ):
        chosen = netlist.sort == sort
        slope[..., dimension] = (product[..., chosen] @ closed[chosen]) * factor[sample]
    for dimension, stray, factor in (
        (Dimension.BETWEEN, netlist.between_siemens, conditions.between),
        (Dimension.GROUND, netlist.ground_siemens, conditions.ground),
    ):
        slope[..., dimension] = -((adjoint[..., :n] @ stray) * unknowns[..., :n]).sum(axis=-1) * factor[sample]
    return slope
