"""What every fault would make the meter show, and how that moves with what is not known."""

from collections.abc import Sequence
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
    # The one measurement is the axis before the last of what is read.
    adjoint = state.respond(where)[:, :, None]
    found = _read(state, [where], adjoint, state.unknowns[:, :, None], row=row[..., None], sample=sample[..., None])
    return Prediction(found.value[..., 0], found.slope[..., 0, :], found.wander[..., 0])


def predict_at(
    study: Study, measurements: Sequence[Measurement], row: NDArray[np.int64], sample: NDArray[np.int64]
) -> Prediction:
    """Predict measurements of one state for chosen pairs of row and sample alone.

    The arrays are (pairs, measurements), and (pairs, measurements, dimensions) for the slope.
    """
    state = state_of_faults(study, measurements[0].open_switches)
    taps = [tap(study.netlist, measurement) for measurement in measurements]
    adjoint = state.respond_at(taps, row, sample)
    unknowns = state.unknowns[row, sample][:, None]
    return _read(state, taps, adjoint, unknowns, row=row[:, None], sample=sample[:, None])


def _read(
    state: StateOfFaults,
    taps: Sequence[Tap],
    adjoint: NDArray[np.complex128],
    unknowns: NDArray[np.complex128],
    *,
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
) -> Prediction:
    """Load the network with the meter, read it, and differentiate.

    `adjoint` is (…, taps, unknowns + 1), `unknowns` the same or with one tap for all; `row` and `sample` broadcast to
    all axes but the last.
    """
    plus, minus = np.array([tap.plus for tap in taps]), np.array([tap.minus for tap in taps])
    siemens = np.array([tap.siemens for tap in taps])
    each = np.arange(len(taps))
    open_circuit = unknowns[..., 0, plus] - unknowns[..., 0, minus]
    seen = adjoint[..., each, plus] - adjoint[..., each, minus]
    strays = ghost_wander(seen, unknowns[..., 0, plus], unknowns[..., 0, minus], siemens)
    shrink = 1 / (1 + siemens * seen)
    phasor = open_circuit * shrink
    unknowns = unknowns - adjoint * (siemens * phasor)[..., None]
    adjoint = adjoint * shrink[..., None]
    magnitude = np.abs(phasor)
    slope = _slopes(state, adjoint, unknowns, row, sample)
    slope[..., Dimension.LEVEL] = phasor
    slope[..., Dimension.VOLT_GAIN] = np.where(siemens > 0, phasor, 0)
    slope[..., Dimension.AMP_GAIN] = np.where(siemens > 0, 0, phasor)
    direction = np.conj(phasor) / np.maximum(magnitude, 1e-12)
    by_deviation = np.real(direction[..., None] * slope) * DIMENSIONS
    return Prediction(magnitude, by_deviation, strays)


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
    slope[..., Dimension.LEG_BALANCE] = -((adjoint[..., n:-1] @ halves.T) * edits.sources[row, sample]).sum(axis=-1)
    # An impedance enters the diagonal as −z, so dv = w·i·dz.
    product = adjoint[..., n:-1] * unknowns[..., n:-1]
    branches = np.broadcast_to(edits.branches[row], (*product.shape[:-1], edits.branches.shape[1]))
    edited = np.take_along_axis(product, branches, axis=-1)
    slope[..., Dimension.FAULT] = (edited * edits.slope_ohm[row, sample]).sum(axis=-1)
    sorts = (
        (Dimension.LOAD, Sort.LOAD, conditions.load),
        (Dimension.IDLE, Sort.IDLE, conditions.idle),
        (Dimension.JOINT, Sort.JOINT, conditions.joint),
        (Dimension.SOURCE, Sort.SOURCE, conditions.source),
    )
    together = product @ np.stack([np.where(netlist.sort == s, netlist.impedance_ohm, 0) for _, s, _ in sorts], axis=1)
    for i, (dimension, _, factor) in enumerate(sorts):
        slope[..., dimension] = together[..., i] * factor[sample]
    for dimension, stray, factor in (
        (Dimension.BETWEEN, netlist.between_siemens, conditions.between),
        (Dimension.GROUND, netlist.ground_siemens, conditions.ground),
    ):
        slope[..., dimension] = -((adjoint[..., :n] @ stray) * unknowns[..., :n]).sum(axis=-1) * factor[sample]
    return slope
