"""Edits of a solved network by a few directions, without solving it again.

A fault adds δ·q·qᵀ to the system matrix. An impedance in series with a branch has q the unit vector of that branch's
row and δ = −Δz; a path between two points has q the difference of their rows and δ its admittance. With X the inverse,
Woodbury's identity gives X − X·Q·Δ·(1 + G·Δ)⁻¹·Qᵀ·X, G = Qᵀ·X·Q. Because branches enter by impedance, −G of a branch is
the admittance that the inserted impedance sees, and for one branch nothing cancels. Opening a whole switch at once can
leave nothing but stray currents, which are then lost in the digits of G: that is solved afresh, as another topology.
"""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.network.elimination import Program, solve_direction
from zesty_copper.core.network.selected import meeting, selected_inverse
from zesty_copper.core.network.topology import Topology

__all__ = ["Edit", "Response", "respond", "unknowns_at"]

LEAST_EXACT = 1e-9
"""Share by which an answer may be off through rounding; where it may be more, the direction is solved for."""


class Edit(NamedTuple):
    """What is edited in a network, one entry for each pair of hypothesis and sample.

    Attributes
    ----------
    plus, minus
        (directions,): the directions q that are spoken of; one that is earth minus earth edits nothing.
    sample
        (pairs,): the sample, in ascending order, so that directions are solved for once in each.
    used
        (pairs, rank): the directions that each pair edits.
    drive
        (pairs,): what its sources do.
    delta
        (pairs, rank): by how much, δ [S or −ohm].
    """

    plus: NDArray[np.int64]
    minus: NDArray[np.int64]
    sample: NDArray[np.int64]
    used: NDArray[np.int64]
    drive: NDArray[np.int64]
    delta: NDArray[np.complex128]


@dataclass(frozen=True, eq=False)
class Response:
    """How a network answers to its edits.

    Attributes
    ----------
    core
        (pairs, rank, rank): −Δ·(1 + G·Δ)⁻¹.
    coefficients
        (pairs, rank): by how much each direction X·q moves the unknowns.
    """

    core: NDArray[np.complex128]
    coefficients: NDArray[np.complex128]


def respond(topology: Topology, edit: Edit, watch: NDArray[np.int64]) -> tuple[Response, NDArray[np.complex128]]:
    """Find how one topology answers to edits, and what some of its unknowns become, meter not connected [V or A].

    Parameters
    ----------
    watch
        Numbers of those unknowns, (watched,); they are returned as (pairs, watched).
    """
    solved = topology.solved
    program, met_at = solved.elimination.program, solved.elimination.met_at(edit.plus, edit.minus)
    core, coefficients, watched = _respond(solved.factors, program, edit, met_at, topology.driven, watch)
    return Response(core, coefficients), watched


@njit(cache=True, nogil=True, error_model="numpy")
def _respond(  # type: ignore[no-untyped-def]
    factors: NDArray[np.complex128],
    program: Program,
    edit: Edit,
    met_at: NDArray[np.int64],
    driven: NDArray[np.complex128],
    watch: NDArray[np.int64],
):
    pairs, rank = edit.used.shape
    size = len(program.row)
    core = np.zeros((pairs, rank, rank), dtype=np.complex128)
    coefficients = np.zeros((pairs, rank), dtype=np.complex128)
    watched = np.zeros((pairs, len(watch)), dtype=np.complex128)
    inverse = np.zeros(factors.shape[1] + 1, dtype=np.complex128)
    doubt = np.zeros(factors.shape[1] + 1)
    rows = np.zeros((len(watch), size + 1), dtype=np.complex128)
    columns = np.zeros((len(edit.plus), size + 1), dtype=np.complex128)
    solved_in = np.full(len(edit.plus), -1)
    right = np.zeros(size + 1, dtype=np.complex128)
    before = -1
    for p in range(pairs):
        m, unknowns = edit.sample[p], driven[edit.drive[p], edit.sample[p]]
        if m != before:
            before = m
            selected_inverse(factors[m], program, inverse, doubt)
            for w in range(len(watch)):
                solve_direction(factors[m], program, watch[w], size, True, right, rows[w])
        count = 0
        for k in range(rank):
            if edit.plus[edit.used[p, k]] != edit.minus[edit.used[p, k]]:
                count = k + 1
        by_itself, off = 0j, np.inf
        if count == 1:
            by_itself, off = meeting(inverse, doubt, met_at[:, edit.used[p, 0]])
        moved = 1 + edit.delta[p, 0] * by_itself if count else 1 + 0j
        if count == 1 and abs(edit.delta[p, 0]) * off < LEAST_EXACT * abs(moved):
            core[p, 0, 0] = -edit.delta[p, 0] / moved
        else:
            for k in range(count):
                d = edit.used[p, k]
                if solved_in[d] != m:
                    solved_in[d] = m
                    solve_direction(factors[m], program, edit.plus[d], edit.minus[d], False, right, columns[d])
            _small_core(edit, p, count, columns, core[p])
        for k in range(count):
            for j in range(count):
                d = edit.used[p, j]
                coefficients[p, k] += core[p, k, j] * (unknowns[edit.plus[d]] - unknowns[edit.minus[d]])
        for w in range(len(watch)):
            total = unknowns[watch[w]]
            for k in range(count):
                d = edit.used[p, k]
                total += coefficients[p, k] * (rows[w, edit.plus[d]] - rows[w, edit.minus[d]])
            watched[p, w] = total
    return core, coefficients, watched


@njit(cache=True, nogil=True, error_model="numpy")
def _small_core(  # type: ignore[no-untyped-def]
    edit: Edit, p: int, count: int, columns: NDArray[np.complex128], core: NDArray[np.complex128]
):
    """Put −Δ·(1 + G·Δ)⁻¹ of one pair into its place."""
    if count == 1:
        d, delta = edit.used[p, 0], edit.delta[p, 0]
        core[0, 0] = -delta / (1 + delta * (columns[d, edit.plus[d]] - columns[d, edit.minus[d]]))
    elif count > 1:
        meeting = np.eye(count, dtype=np.complex128)
        for k in range(count):
            d = edit.used[p, k]
            for j in range(count):
                column = columns[edit.used[p, j]]
                meeting[k, j] += (column[edit.plus[d]] - column[edit.minus[d]]) * edit.delta[p, j]
        inverse = np.linalg.inv(meeting)
        for k in range(count):
            for j in range(count):
                core[k, j] = -edit.delta[p, k] * inverse[k, j]


def unknowns_at(
    topology: Topology, edit: Edit, coefficients: NDArray[np.complex128], watch: NDArray[np.int64]
) -> NDArray[np.complex128]:
    """Some unknowns under edits whose coefficients are known, meter not connected, (watched, pairs) [V or A]."""
    solved = topology.solved
    return np.asarray(
        _unknowns_at(solved.factors, solved.elimination.program, edit, coefficients, topology.driven, watch)
    )


@njit(cache=True, nogil=True, error_model="numpy")
def _unknowns_at(  # type: ignore[no-untyped-def]
    factors: NDArray[np.complex128],
    program: Program,
    edit: Edit,
    coefficients: NDArray[np.complex128],
    driven: NDArray[np.complex128],
    watch: NDArray[np.int64],
):
    pairs, rank = edit.used.shape
    size = len(program.row)
    unknowns = np.zeros((len(watch), pairs), dtype=np.complex128)
    rows = np.zeros((len(watch), size + 1), dtype=np.complex128)
    right = np.zeros(size + 1, dtype=np.complex128)
    before = -1
    for p in range(pairs):
        m = edit.sample[p]
        if m != before:
            before = m
            for w in range(len(watch)):
                solve_direction(factors[m], program, watch[w], size, True, right, rows[w])
        for w in range(len(watch)):
            total = driven[edit.drive[p], m, watch[w]]
            for k in range(rank):
                d = edit.used[p, k]
                total += coefficients[p, k] * (rows[w, edit.plus[d]] - rows[w, edit.minus[d]])
            unknowns[w, p] = total
    return unknowns
