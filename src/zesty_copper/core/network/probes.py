"""What many pairs of probes see at once, roughly enough to rank tests by: no sensitivities, single precision."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.network.elimination import Program, solve_direction
from zesty_copper.core.network.lowrank import Edit, Response
from zesty_copper.core.network.selected import meeting, selected_inverse
from zesty_copper.core.network.topology import Topology

__all__ = ["probe_ohm", "probed"]

ROUGH = 1e-4
"""Share by which an impedance may be off that tests are only ranked by."""

Ends = tuple[NDArray[np.int64], NDArray[np.int64]]


def probe_ohm(topology: Topology, plus: NDArray[np.int64], minus: NDArray[np.int64]) -> NDArray[np.complex128]:
    """Impedance between pairs of unknowns, nothing edited, (samples, pairs) [ohm]."""
    solved = topology.solved
    met_at = solved.elimination.met_at(plus, minus)
    ends, number = np.unique(np.stack([plus, minus]), return_inverse=True)
    column = number.reshape(2, -1)
    return np.asarray(_probe_ohm(solved.factors, solved.elimination.program, met_at, ends, column))


def probed(
    topology: Topology, edit: Edit, response: Response, ends: Ends, healthy_ohm: NDArray[np.complex128]
) -> tuple[NDArray[np.complex64], NDArray[np.complex64]]:
    """All unknowns, and the impedance between pairs of probes, under some edits.

    Parameters
    ----------
    ends
        (pairs of probes,) each: the unknowns where both stand.
    healthy_ohm
        (samples, pairs of probes): from `probe_ohm`.

    Returns
    -------
    unknowns
        (pairs, unknowns + 1) [V or A].
    seen
        (pairs, pairs of probes) [ohm].
    """
    solved = topology.solved
    return _probed(  # type: ignore[no-any-return] # compiled code tells no types
        solved.factors,
        solved.elimination.program,
        edit,
        response.core,
        response.coefficients,
        topology.driven,
        *ends,
        healthy_ohm,
    )


@njit(cache=True, nogil=True, error_model="numpy")
def _probe_ohm(  # type: ignore[no-untyped-def]
    factors: NDArray[np.complex128],
    program: Program,
    met_at: NDArray[np.int64],
    ends: NDArray[np.int64],
    column: NDArray[np.int64],
):
    size, pairs = len(program.row), met_at.shape[1]
    ohm = np.zeros((factors.shape[0], pairs), dtype=np.complex128)
    columns = np.zeros((len(ends), size + 1), dtype=np.complex128)
    solved_in = np.full(len(ends), -1)
    scratch = np.zeros(size + 1, dtype=np.complex128)
    inverse = np.zeros(factors.shape[1] + 1, dtype=np.complex128)
    doubt = np.zeros(factors.shape[1] + 1)
    for m in range(factors.shape[0]):
        selected_inverse(factors[m], program, inverse, doubt)
        for pair in range(pairs):
            ohm[m, pair], off = meeting(inverse, doubt, met_at[:, pair])
            if off < ROUGH * abs(ohm[m, pair]):
                continue
            for end in column[:, pair]:
                if solved_in[end] != m:
                    solved_in[end] = m
                    solve_direction(factors[m], program, ends[end], size, False, scratch, columns[end])
            a, b = column[0, pair], column[1, pair]
            on_a, on_b = columns[a], columns[b]
            ohm[m, pair] = (on_a[ends[a]] - on_a[ends[b]]) - (on_b[ends[a]] - on_b[ends[b]])
    return ohm


@njit(cache=True, nogil=True, error_model="numpy")
def _probed(  # type: ignore[no-untyped-def]
    factors: NDArray[np.complex128],
    program: Program,
    edit: Edit,
    core: NDArray[np.complex128],
    coefficients: NDArray[np.complex128],
    driven: NDArray[np.complex128],
    plus: NDArray[np.int64],
    minus: NDArray[np.int64],
    healthy_ohm: NDArray[np.complex128],
):
    pairs, rank = edit.used.shape
    size, count = len(program.row), len(plus)
    unknowns = np.zeros((pairs, size + 1), dtype=np.complex64)
    seen_ohm = np.zeros((pairs, count), dtype=np.complex64)
    columns = np.zeros((rank, size + 1), dtype=np.complex128)
    rows = np.zeros((rank, size + 1), dtype=np.complex128)
    scratch = np.zeros(size + 1, dtype=np.complex128)
    for p in range(pairs):
        m = edit.sample[p]
        used = 0
        for k in range(rank):
            d = edit.used[p, k]
            if edit.plus[d] == edit.minus[d]:
                continue
            used = k + 1
            solve_direction(factors[m], program, edit.plus[d], edit.minus[d], False, scratch, columns[k])
            solve_direction(factors[m], program, edit.plus[d], edit.minus[d], True, scratch, rows[k])
        for i in range(size):
            total = driven[edit.drive[p], m, i]
            for k in range(used):
                total += coefficients[p, k] * columns[k, i]
            unknowns[p, i] = total
        for pair in range(count):
            a, b = plus[pair], minus[pair]
            total = healthy_ohm[m, pair]
            for k in range(used):
                on = columns[k, a] - columns[k, b]
                for j in range(used):
                    total += on * core[p, k, j] * (rows[j, a] - rows[j, b])
            seen_ohm[p, pair] = total
    return unknowns, seen_ohm
