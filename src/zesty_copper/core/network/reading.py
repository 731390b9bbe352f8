"""What a meter reads in an edited network, and how that moves with every element, fault and source.

With t a measurement's tap, X′ the edited inverse and x′ the edited unknowns, the open-circuit reading is t·x′ and the
meter sees the impedance t·X′·tᵀ. The sensitivities are exact to first order (Director and Rohrer, IEEE Trans. Circuit
Theory 16 (1969) 318-323): a reading's change with the system matrix A is −(t·X′)·dA·y, where y are the unknowns as the
meter loads them.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.network.elements import GROUPS, Elements
from zesty_copper.core.network.elimination import Program, solve_direction, solve_in_place, solve_transposed_in_place
from zesty_copper.core.network.lowrank import Edit, Response
from zesty_copper.core.network.meter import Tap
from zesty_copper.core.network.topology import Topology

__all__ = ["Sensed", "read_taps", "resistance"]


class _Taps(NamedTuple):
    """Taps as arrays, see `Tap`: rows and signs (taps, width), siemens (taps,)."""

    rows: NDArray[np.int64]
    signs: NDArray[np.float64]
    siemens: NDArray[np.float64]


class _Varying(NamedTuple):
    """Elements as arrays, see `Elements`; bounds (groups + 1,)."""

    left_plus: NDArray[np.uint32]
    left_minus: NDArray[np.uint32]
    right_plus: NDArray[np.uint32]
    right_minus: NDArray[np.uint32]
    weight: NDArray[np.complex128]
    bounds: NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Sensed:
    """What some taps read under each pair of hypothesis and sample; every array begins with (pairs, taps).

    Attributes
    ----------
    phasor
        What the meter shows [V or A].
    source_ohm
        Impedance that the meter sees [ohm].
    ends
        (…, 2): voltage of the two probes to the panel's ground, meter not connected [V].
    by_group
        (…, groups): change of the phasor with the logarithm of each group's factor.
    by_source
        (…, sources): change of the phasor with each source's voltage, its own row of t·X′.
    by_fault
        Change of the phasor with the logarithm of the fault's own resistance.
    """

    phasor: NDArray[np.complex128]
    source_ohm: NDArray[np.complex128]
    ends: NDArray[np.complex128]
    by_group: NDArray[np.complex128]
    by_source: NDArray[np.complex128]
    by_fault: NDArray[np.complex128]


def read_taps(
    topology: Topology,
    edit: Edit,
    response: Response,
    dlog: NDArray[np.complex128],
    taps: Sequence[Tap],
    elements: Elements,
    ground_row: int,
) -> Sensed:
    """Read some taps in one topology.

    Parameters
    ----------
    dlog
        (pairs, rank): derivative of δ by the logarithm of the fault's own resistance [S or −ohm].
    elements
        Those whose sensitivities are wanted.
    ground_row
        Row of the panel's ground.
    """
    solved = topology.solved
    sources = np.array([solved.netlist.branch_row(*key) for key in solved.netlist.sources])
    listed = _Taps(
        np.array([tap.rows for tap in taps], dtype=np.int64),
        np.array([tap.signs for tap in taps]),
        np.array([tap.siemens for tap in taps]),
    )
    pairs, right = elements.left, elements.right
    # Unsigned, with the earth as the last unknown: compiled code then looks for no negative numbers.
    last = solved.elimination.size + 1
    left_plus, left_minus, right_plus, right_minus = (
        (each % last).astype(np.uint32) for each in (pairs.plus, pairs.minus, right.plus, right.minus)
    )
    bounds = np.array(elements.bounds, dtype=np.int64)
    varying = _Varying(left_plus, left_minus, right_plus, right_minus, elements.weight, bounds)
    own = -dlog / np.where(edit.delta == 0, 1, edit.delta**2)
    sensed = _read(
        solved.factors,
        solved.elimination.program,
        edit,
        response.core,
        response.coefficients,
        own,
        topology.driven,
        listed,
        varying,
        sources,
        ground_row,
    )
    phasor, source_ohm, ends, by_element, by_source, by_fault = sensed
    by_element *= topology.factors[edit.sample][:, None]
    by_group = by_element[..., :-1].copy()
    # What couples conductors couples across gaps too.
    by_group[..., GROUPS.index("between")] += by_element[..., -1]
    return Sensed(phasor, source_ohm, ends, by_group, by_source, by_fault)


def resistance(
    topology: Topology, edit: Edit, response: Response, dlog: NDArray[np.complex128], tap: Tap
) -> tuple[NDArray[np.complex128], NDArray[np.complex128]]:
    """Impedance between the probes of one tap, and its derivative by ln of the fault's own resistance, (pairs,) [ohm].

    Parameters
    ----------
    dlog
        (pairs, rank): derivative of δ by the same logarithm [S or −ohm].
    """
    plus, minus = (np.array([end], dtype=np.int64) for end in tap.rows[:2])
    column, row = (
        columns[:, 0] for columns in (topology.solved.columns(plus, minus), topology.solved.rows(plus, minus))
    )
    healthy = column[:, plus[0]] - column[:, minus[0]]
    along = edit.used, edit.sample[:, None]
    # (pairs, rank): what each direction does at the probes, and what a current at the probes does to it.
    on, under = ((columns[:, edit.plus] - columns[:, edit.minus])[along[1], along[0]] for columns in (row, column))
    left, right = (on[:, None] @ response.core)[:, 0], (response.core @ under[..., None])[..., 0]
    seen = healthy[edit.sample] + (left * under).sum(axis=-1)
    # Of a series path −dδ = dz, of a parallel one dδ = dy: what is left of each product is divided by δ².
    delta = np.where(edit.delta == 0, 1, edit.delta)
    return seen, -(left * right * dlog / delta**2).sum(axis=-1)


@njit(cache=True, nogil=True, error_model="numpy")
def _read(  # type: ignore[no-untyped-def]
    factors: NDArray[np.complex128],
    program: Program,
    edit: Edit,
    core: NDArray[np.complex128],
    coefficients: NDArray[np.complex128],
    own: NDArray[np.complex128],
    driven: NDArray[np.complex128],
    taps: _Taps,
    varying: _Varying,
    sources: NDArray[np.int64],
    ground_row: int,
):
    pairs, rank = edit.used.shape
    size, count, groups = len(program.row), len(taps.siemens), len(varying.bounds) - 1
    phasor = np.zeros((pairs, count), dtype=np.complex128)
    source_ohm = np.zeros((pairs, count), dtype=np.complex128)
    ends = np.zeros((pairs, count, 2), dtype=np.complex128)
    by_group = np.zeros((pairs, count, groups), dtype=np.complex128)
    by_source = np.zeros((pairs, count, len(sources)), dtype=np.complex128)
    by_fault = np.zeros((pairs, count), dtype=np.complex128)

    columns = np.zeros((len(edit.plus), size + 1), dtype=np.complex128)
    rows = np.zeros((len(edit.plus), size + 1), dtype=np.complex128)
    solved_in = np.full(len(edit.plus), -1)
    tap_columns = np.zeros((count, size + 1), dtype=np.complex128)
    tap_rows = np.zeros((count, size + 1), dtype=np.complex128)
    taps_in = -1
    scratch = np.zeros(size + 1, dtype=np.complex128)
    unknowns = np.zeros(size + 1, dtype=np.complex128)
    left = np.zeros(size + 1, dtype=np.complex128)
    loaded = np.zeros(size + 1, dtype=np.complex128)
    on = np.zeros(rank, dtype=np.complex128)
    under = np.zeros(rank, dtype=np.complex128)
    left_amount = np.zeros(rank, dtype=np.complex128)
    right_amount = np.zeros(rank, dtype=np.complex128)

    for p in range(pairs):
        m = edit.sample[p]
        if taps_in != m:
            taps_in = m
            for t in range(count):
                for transposed in range(2):
                    scratch[:] = 0
                    for i in range(taps.rows.shape[1]):
                        scratch[taps.rows[t, i]] += taps.signs[t, i]
                    scratch[size] = 0
                    if transposed:
                        solve_transposed_in_place(factors[m], program, scratch, tap_rows[t])
                    else:
                        solve_in_place(factors[m], program, scratch, tap_columns[t])
        used = 0
        for k in range(rank):
            d = edit.used[p, k]
            if edit.plus[d] == edit.minus[d]:
                continue
            used = k + 1
            if solved_in[d] != m:
                solved_in[d] = m
                solve_direction(factors[m], program, edit.plus[d], edit.minus[d], False, scratch, columns[d])
                solve_direction(factors[m], program, edit.plus[d], edit.minus[d], True, scratch, rows[d])
        unknowns[:] = driven[edit.drive[p], m]
        for k in range(used):
            d, share = edit.used[p, k], coefficients[p, k]
            for i in range(size):
                unknowns[i] += share * columns[d, i]
        for t in range(count):
            siemens = taps.siemens[t]
            for k in range(used):
                d = edit.used[p, k]
                on[k] = tap_rows[t, edit.plus[d]] - tap_rows[t, edit.minus[d]]
                under[k] = tap_columns[t, edit.plus[d]] - tap_columns[t, edit.minus[d]]
            left[:] = tap_rows[t]
            loaded[:] = tap_columns[t]
            for k in range(used):
                left_amount[k] = 0
                right_amount[k] = 0
                for j in range(used):
                    left_amount[k] += on[j] * core[p, j, k]
                    right_amount[k] += core[p, k, j] * under[j]
                d = edit.used[p, k]
                for i in range(size):
                    left[i] += left_amount[k] * rows[d, i]
                    loaded[i] += right_amount[k] * columns[d, i]
            open_circuit = 0j
            sees = 0j
            for i in range(taps.rows.shape[1]):
                open_circuit += unknowns[taps.rows[t, i]] * taps.signs[t, i]
                sees += loaded[taps.rows[t, i]] * taps.signs[t, i]
            shrink = 1 / (1 + siemens * sees)
            shown = open_circuit * shrink
            drawn = siemens * shown
            phasor[p, t] = shown
            source_ohm[p, t] = sees
            for i in range(2):
                ends[p, t, i] = unknowns[taps.rows[t, i]] - unknowns[ground_row]
            for i in range(size):
                loaded[i] = unknowns[i] - drawn * loaded[i]
            for g in range(groups):
                total = 0j
                for e in range(varying.bounds[g], varying.bounds[g + 1]):
                    total += (
                        varying.weight[e]
                        * (left[varying.left_plus[e]] - left[varying.left_minus[e]])
                        * (loaded[varying.right_plus[e]] - loaded[varying.right_minus[e]])
                    )
                by_group[p, t, g] = total * shrink
            for s in range(len(sources)):
                by_source[p, t, s] = -left[sources[s]] * shrink
            for k in range(used):
                by_fault[p, t] += left_amount[k] * (coefficients[p, k] - drawn * right_amount[k]) * own[p, k] * shrink
    return phasor, source_ohm, ends, by_group, by_source, by_fault
