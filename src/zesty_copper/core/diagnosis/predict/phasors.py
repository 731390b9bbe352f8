"""Volts and amps: what every fault would make the meter show, and how that moves with what is not known."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.noise import ghost_wander
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.states import Placement, State, edit_of
from zesty_copper.core.network.lowrank import Response
from zesty_copper.core.network.meter import Tap, tap
from zesty_copper.core.network.reading import Sensed, read_taps
from zesty_copper.core.observations.measurement import Measurement

__all__ = ["phasors", "phasors_at"]


def phasors(compiled: CompiledCircuit, state: State, measurement: Measurement) -> Prediction:
    """Predict one measurement in every row, (rows, samples)."""
    row, sample = np.nonzero(np.ones_like(state.chatters).T)[::-1]
    shape = state.chatters.shape

    def read(placement: Placement) -> Prediction:
        prediction = phasors_at(compiled, state, placement, [measurement], row, sample)
        value, slope, wander = (
            np.empty((*shape, *array.shape[2:])) for array in (prediction.value, prediction.slope, prediction.wander)
        )
        value[row, sample], slope[row, sample], wander[row, sample] = (
            prediction.value[:, 0],
            prediction.slope[:, 0],
            prediction.wander[:, 0],
        )
        return Prediction(value, slope, wander, state.chatters)

    settled = read(state.settled)
    if state.moved_on is None:
        return settled
    moved_on = read(state.moved_on)
    return Prediction(settled.value, settled.slope, settled.wander, state.chatters, moved_on)


def phasors_at(  # noqa: PLR0917 - where, what, and for which pairs
    compiled: CompiledCircuit,
    state: State,
    placement: Placement,
    measurements: Sequence[Measurement],
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
    *,
    strays: bool = True,
    floor_volts: float = 0.0,
) -> Prediction:
    """Predict measurements of one state for chosen pairs of row and sample, (pairs, measurements[, dimensions]).

    Parameters
    ----------
    strays
        Without it the slopes by joints and strays are left at zero: they move a fed point by less than its noise.
    floor_volts
        What a floating conductor strays by at least [V].
    """
    taps = [tap(compiled.netlist, measurement) for measurement in measurements]
    shape = (len(row), len(taps))
    phasor, wander = np.zeros(shape, dtype=complex), np.zeros(shape)
    slope = np.zeros((*shape, len(DIMENSIONS)), dtype=complex)
    number = placement.topology[row, sample]
    for at_topology in np.unique(number).tolist():
        at = np.flatnonzero(number == at_topology)
        at = at[np.argsort(sample[at], kind="stable")]
        topology = state.topologies[at_topology]
        sensed = read_taps(
            topology,
            edit_of(compiled, row[at], sample[at]),
            Response(placement.core[row[at], sample[at]], placement.coefficients[row[at], sample[at]]),
            compiled.dlog[row[at], sample[at]],
            taps,
            topology.elements if strays else topology.few_elements,
            compiled.ground_row,
        )
        sources = compiled.drives[compiled.drive[row[at]], sample[at]] * compiled.source_volts
        phasor[at] = sensed.phasor
        slope[at] = _slope(compiled, sensed, sources, taps)
        wander[at] = _wander(compiled, sensed, sample[at], taps, floor_volts)
    return _shown(phasor, slope, wander, state.chatters[row, sample])


def _slope(
    compiled: CompiledCircuit, sensed: Sensed, sources: NDArray[np.complex128], taps: Sequence[Tap]
) -> NDArray[np.complex128]:
    """Change of a phasor with each unknown as it stands, (pairs, taps, dimensions); `sources` (pairs, sources) [V]."""
    slope = np.zeros((*sensed.phasor.shape, len(DIMENSIONS)), dtype=complex)
    loads = np.array([tap.siemens > 0 for tap in taps])
    slope[..., Dimension.GROUPS] = sensed.by_group
    slope[..., Dimension.BALANCE] = (sensed.by_source * sources[:, None]) @ compiled.contrast.T
    slope[..., Dimension.FAULT] = sensed.by_fault
    slope[..., Dimension.LEVEL] = sensed.phasor
    slope[..., Dimension.VOLT_GAIN] = np.where(loads, sensed.phasor, 0)
    slope[..., Dimension.AMP_GAIN] = np.where(loads, 0, sensed.phasor)
    return slope


def _wander(
    compiled: CompiledCircuit, sensed: Sensed, sample: NDArray[np.int64], taps: Sequence[Tap], floor_volts: float
) -> NDArray[np.float64]:
    """Standard deviation of what hangs on stray coupling, (pairs, taps) [V]."""
    siemens = np.array([tap.siemens for tap in taps])
    beside = compiled.nuisance.neighbour_volts[sample][:, None] * np.array([tap.beside for tap in taps])
    return ghost_wander(
        sensed.source_ohm,
        sensed.ends[..., 0],
        sensed.ends[..., 1],
        siemens,
        floor_volts=floor_volts,
        beside_volts=beside,
    )


def _shown(
    phasor: NDArray[np.complex128],
    slope: NDArray[np.complex128],
    wander: NDArray[np.float64],
    chatters: NDArray[np.bool_],
) -> Prediction:
    """Return a phasor's magnitude, and what it moves by with one deviation of each unknown.

    What moves the phasor sideways lengthens it only where it is short: near nothing the magnitude strays by all of it.
    """
    magnitude = np.abs(phasor)
    direction = np.conj(phasor) / np.maximum(magnitude, 1e-12)
    moved = direction[..., None] * slope * DIMENSIONS
    sideways = (moved.imag**2).sum(axis=-1)
    strays = sideways**2 / (sideways + 2 * magnitude**2 + 1e-30)
    return Prediction(magnitude, moved.real, np.sqrt(wander**2 + strays), chatters)
