"""Those entries of a network's inverse that lie on the pattern of its factors.

How a network meets an edit at the edit's own ends is a few such entries. All of them together cost about as much as
the elimination itself, and no column is solved for (Takahashi, Fagan and Chen, 1973; Erisman and Tinney, Comm. ACM 18
(1975) 177: from memory, and derived here). From A·X = 1 at the equation of step k, and X·A = 1 at its unknown, with the
multiples l and the rest u of its equation:

    X[k, i] = −(1/pivot)·Σ u·X[·, i],   X[j, k] = −Σ X[j, ·]·l,   X[k, k] = (1/pivot)·(1 − Σ u·X[·, k])

and the entries asked for on the right are those that step k has changed.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.network.elimination import Program

__all__ = ["meeting", "selected_inverse"]

ROUNDING = 2.0**-52
"""By what share of itself a number may be off that was rounded."""


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _size(value: complex) -> float:
    """Return a bound on a number's magnitude, for the price of no square root."""
    return abs(value.real) + abs(value.imag)


@njit(cache=True, nogil=True, error_model="numpy")
def selected_inverse(
    held: NDArray[np.complex128],
    program: Program,
    found: NDArray[np.complex128],
    doubt: NDArray[np.float64],
) -> None:
    """Put the inverse of one sample into `found`, (slots + 1,): at the slot of (r, c), X[c, r]; the last is the earth.

    Behind an open gap an entry is the small difference of large ones, so how far each may be off is kept beside it.

    Parameters
    ----------
    held
        (slots,): the sample's factors.
    doubt
        (slots + 1,): what the rounding of every step may come to.
    """
    found[-1] = 0
    doubt[-1] = 0
    for k in range(len(program.row) - 1, -1, -1):
        inverse = held[program.pivot[k]]
        first, last = program.upper_at[k], program.upper_at[k + 1]
        at = program.target_at[k]
        for j in range(first, last):
            found[program.upper_slot[j]] = 0
            doubt[program.upper_slot[j]] = 0
        for i in range(program.lower_at[k], program.lower_at[k + 1]):
            total = 0j
            off = 0.0
            share = held[program.lower_slot[i]]
            share_size = _size(share)
            for j in range(first, last):
                entry = found[program.target[at]]
                entry_off = doubt[program.target[at]] + ROUNDING * _size(entry)
                total += held[program.upper_slot[j]] * entry
                off += _size(held[program.upper_slot[j]]) * entry_off
                found[program.upper_slot[j]] -= share * entry
                doubt[program.upper_slot[j]] += share_size * entry_off
                at += 1
            found[program.lower_slot[i]] = -inverse * total
            doubt[program.lower_slot[i]] = _size(inverse) * off
        total = 1 + 0j
        off = ROUNDING
        for j in range(first, last):
            entry = found[program.upper_slot[j]]
            total -= held[program.upper_slot[j]] * entry
            off += _size(held[program.upper_slot[j]]) * (doubt[program.upper_slot[j]] + ROUNDING * _size(entry))
        found[program.pivot[k]] = inverse * total
        doubt[program.pivot[k]] = _size(inverse) * off


@njit(cache=True, nogil=True, error_model="numpy")
def meeting(
    inverse: NDArray[np.complex128], doubt: NDArray[np.float64], at: NDArray[np.int64]
) -> tuple[complex, float]:
    """Return qᵀ·X·q of one direction, and by how much it may be off: infinitely where it is not on the pattern.

    Of two nodes [ohm], of a branch [S].

    Parameters
    ----------
    at
        (4,): from `Elimination.met_at`.
    """
    if at.min() < 0:
        return 0j, np.inf
    here = inverse[at[0]] - inverse[at[1]] - inverse[at[2]] + inverse[at[3]]
    off = 0.0
    for slot in at:
        off += doubt[slot] + ROUNDING * _size(inverse[slot])
    return here, off
