"""What every fault would make the meter show, and how that moves with what is not known."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.diagnosis.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.study import StateOfFaults, Study, state_of_faults
from zesty_copper.core.network.meter import tap
from zesty_copper.core.network.netlist import Sort

__all__ = ["Prediction", "predict"]


@dataclass(frozen=True, eq=False)
class Prediction:
    """The reading of one measurement in every network row.

    Attributes
    ----------
    value
        (rows, samples): what the meter would show [V or A].
    slope
        (rows, samples, dimensions): its change with one standard deviation of each Gaussian unknown [V or A].
    """

    value: NDArray[np.float64]
    slope: NDArray[np.float64]


@lru_cache(maxsize=512)
def predict(study: Study, measurement: Measurement) -> Prediction:
    """Predict one measurement in every network row.

    The sensitivities are exact to first order and cost one adjoint vector (Director and Rohrer, IEEE Trans. Circuit
    Theory 16 (1969) 318-323): with the system matrix symmetric, dv = −wᵀ·dA·x, where w is the response to a unit source
    at the probes and x the unknowns.
    """
    state = state_of_faults(study, measurement.open_switches)
    where = tap(study.netlist, measurement)
    inverse = state.solved.inverse
    direct = inverse[:, :, where.plus] - (inverse[:, :, where.minus] if where.minus >= 0 else 0)
    adjoint = state.respond(direct[None])
    unknowns = state.unknowns
    phasor = unknowns[..., where.plus] - (unknowns[..., where.minus] if where.minus >= 0 else 0)
    if where.siemens:
        seen = adjoint[..., where.plus] - (adjoint[..., where.minus] if where.minus >= 0 else 0)
        shrink = 1 / (1 + where.siemens * seen)
        unknowns = unknowns - adjoint * (where.siemens * shrink * phasor)[..., None]
        adjoint = adjoint * shrink[..., None]
        phasor = phasor * shrink
    magnitude = np.abs(phasor)
    slope = np.zeros((*magnitude.shape, len(DIMENSIONS)), dtype=complex)
    _fill_slopes(slope, state, adjoint, unknowns, phasor, in_amps=measurement.unit == "A")
    direction = np.conj(phasor) / np.maximum(magnitude, 1e-12)
    return Prediction(magnitude, np.real(direction[..., None] * slope) * DIMENSIONS)


def _fill_slopes(
    slope: NDArray[np.complex128],
    state: StateOfFaults,
    adjoint: NDArray[np.complex128],
    unknowns: NDArray[np.complex128],
    phasor: NDArray[np.complex128],
    *,
    in_amps: bool,
) -> None:
    """Fill in the derivative of the phasor by each Gaussian unknown."""
    netlist, edits, conditions = state.study.netlist, state.study.edits, state.solved.conditions
    n = len(netlist.nodes)
    slope[..., Dimension.LEVEL] = phasor
    slope[..., Dimension.AMP_GAIN if in_amps else Dimension.VOLT_GAIN] = phasor
    # A source enters the right-hand side as −E on its branch's row.
    halves = np.array([0.5, -0.5]) @ netlist.emf_volts
    weighted = -adjoint[..., n:] * halves
    second = netlist.emf_volts[1] != 0
    weighted[..., second] *= edits.sources[..., 1:2]
    weighted[..., ~second] *= edits.sources[..., 0:1]
    slope[..., Dimension.LEG_BALANCE] = weighted.sum(axis=-1)
    # An impedance enters the diagonal as −z, so dv = w·i·dz.
    product = adjoint[..., n:] * unknowns[..., n:]
    edited = np.take_along_axis(product, edits.branches[:, None, :], axis=2)
    slope[..., Dimension.FAULT] = (edited * edits.slope_ohm).sum(axis=-1)
    closed = netlist.impedance_ohm
    for dimension, sort, factor in (
        (Dimension.LOAD, Sort.LOAD, conditions.load),
        (Dimension.JOINT, Sort.JOINT, conditions.joint),
        (Dimension.SOURCE, Sort.SOURCE, conditions.source),
    ):
        chosen = netlist.sort == sort
        slope[..., dimension] = (product[..., chosen] @ closed[chosen]) * factor
    for dimension, stray, factor in (
        (Dimension.BETWEEN, netlist.between_siemens, conditions.between),
        (Dimension.GROUND, netlist.ground_siemens, conditions.ground),
    ):
        slope[..., dimension] = -np.einsum("fmi,ij,fmj->fm", adjoint[..., :n], stray, unknowns[..., :n], optimize=True) * factor
