"""Gaussian elimination of a circuit's network along its tree of parts.

A circuit hangs together as a tree, so almost every entry of its modified nodal matrix is zero and stays so when the
leaves go first. What is eliminated in which order, and which entries that fills, is found once for a circuit
(`plan_elimination`); the numbers of every sample then run through the same plan (from memory: that eliminating a tree
from its leaves fills nothing is in every book on sparse matrices).

The matrix is symmetric in its pattern but has zeros on its diagonal, so pivots are pairs of equation and unknown. A
node is eliminated by the branch that feeds it: that branch's equation gives the node's voltage (pivot −1 or 1), and the
node's current balance then gives the branch's current (pivot 1 + Z·Y of what hangs on it). Nothing cancels, from a
milliohm to an open gap. A branch that closes a loop between two nodes, a load's say, goes by its own impedance.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

__all__ = [
    "Elimination",
    "Program",
    "factorise",
    "plan_elimination",
    "solve_columns",
    "solve_direction",
    "solve_in_place",
    "solve_rows",
    "solve_transposed_in_place",
]

Place = tuple[int, int]
"""Equation and unknown."""


class Program(NamedTuple):
    """The order of elimination as flat arrays, which compiled code reads; n steps.

    Unsigned: a number that may be negative is looked at twice.

    Attributes
    ----------
    row, column, pivot
        (n,): equation and unknown of each step, and the slot of its pivot.
    lower_at, upper_at, target_at
        (n + 1,): where each step's entries begin in the arrays below.
    lower_row, lower_slot
        Equations from which the step takes a multiple of its own, and the slots of their entries.
    upper_column, upper_slot
        Unknowns left in the step's equation, and the slots of their entries.
    target
        Slots that change, for each lower entry each upper one in turn.
    """

    row: NDArray[np.uint32]
    column: NDArray[np.uint32]
    pivot: NDArray[np.uint32]
    lower_at: NDArray[np.uint32]
    lower_row: NDArray[np.uint32]
    lower_slot: NDArray[np.uint32]
    upper_at: NDArray[np.uint32]
    upper_column: NDArray[np.uint32]
    upper_slot: NDArray[np.uint32]
    target_at: NDArray[np.uint32]
    target: NDArray[np.uint32]


@dataclass(frozen=True, eq=False)
class Elimination:
    """A pattern of entries and the order in which it is eliminated.

    Attributes
    ----------
    size
        Number of unknowns.
    slot
        Where each entry that is not zero, or becomes so, is held.
    """

    size: int
    slot: dict[Place, int]
    program: Program

    def slots_of(self, rows: Iterable[int], columns: Iterable[int]) -> NDArray[np.int64]:
        """Slots of some entries, −1 where an entry is always zero."""
        return np.array([self.slot.get(place, -1) for place in zip(rows, columns, strict=True)], dtype=np.int64)

    @cached_property
    def _sorted(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Every place as one ascending number, and its slot."""
        number = np.array([row * self.size + column for row, column in self.slot])
        order = np.argsort(number)
        return number[order], order

    def met_at(self, plus: NDArray[np.int64], minus: NDArray[np.int64]) -> NDArray[np.int64]:
        """Slots at which a direction meets itself, (4, directions): where plus and minus meet both of both.

        −1 where an entry is always zero; one more than the last slot where an end is the earth.
        """
        number, slot = self._sorted
        row, column = np.stack([plus, plus, minus, minus]), np.stack([plus, minus, plus, minus])
        number_asked = row * self.size + column
        at = np.minimum(np.searchsorted(number, number_asked), len(number) - 1)
        slots = np.where(number[at] == number_asked, slot[at], -1)
        return np.where((row < 0) | (column < 0), len(slot), slots)


def plan_elimination(size: int, entries: Iterable[Place], pivots: Sequence[Place]) -> Elimination:
    """Find which entries an order of elimination fills, and put it into arrays.

    Parameters
    ----------
    entries
        Places that are not zero.
    pivots
        Equation and unknown of each step; every one of both once.
    """
    slot: dict[Place, int] = {}
    columns_of: list[set[int]] = [set() for _ in range(size)]
    rows_of: list[set[int]] = [set() for _ in range(size)]

    def hold(row: int, column: int) -> int:
        columns_of[row].add(column)
        rows_of[column].add(row)
        return slot.setdefault((row, column), len(slot))

    for row, column in entries:
        hold(row, column)
    pivot, lower_row, lower_slot, upper_column, upper_slot, target = ([] for _ in range(6))
    lower_at, upper_at, target_at = [0], [0], [0]
    for row, column in pivots:
        lower, upper = sorted(rows_of[column] - {row}), sorted(columns_of[row] - {column})
        pivot.append(hold(row, column))
        lower_row += lower
        lower_slot += [slot[k, column] for k in lower]
        upper_column += upper
        upper_slot += [slot[row, k] for k in upper]
        target += [hold(below, beside) for below in lower for beside in upper]
        for ends, held in ((lower_at, lower_row), (upper_at, upper_slot), (target_at, target)):
            ends.append(len(held))
        # What is eliminated is out of the way of the steps that follow.
        for other in upper:
            rows_of[other].discard(row)
        for other in lower:
            columns_of[other].discard(column)
    row_of, column_of = zip(*pivots, strict=True)
    listed = (row_of, column_of, pivot, lower_at, lower_row, lower_slot, upper_at, upper_column, upper_slot)
    program = Program(*(np.array(numbers, dtype=np.uint32) for numbers in (*listed, target_at, target)))
    return Elimination(size, slot, program)


@njit(cache=True, nogil=True, error_model="numpy")
def factorise(values: NDArray[np.complex128], program: Program) -> None:
    """Eliminate in place, (samples, slots): pivots are left as their reciprocals."""
    for m in range(values.shape[0]):
        held = values[m]
        for k in range(len(program.row)):
            inverse = 1 / held[program.pivot[k]]
            held[program.pivot[k]] = inverse
            at = program.target_at[k]
            first, last = program.upper_at[k], program.upper_at[k + 1]
            for i in range(program.lower_at[k], program.lower_at[k + 1]):
                share = held[program.lower_slot[i]] * inverse
                held[program.lower_slot[i]] = share
                for j in range(first, last):
                    held[program.target[at]] -= share * held[program.upper_slot[j]]
                    at += 1


@njit(cache=True, nogil=True, error_model="numpy")
def solve_in_place(
    held: NDArray[np.complex128], program: Program, right: NDArray[np.complex128], found: NDArray[np.complex128]
) -> None:
    """Solve A·x = b in one sample: `right` holds b and is used up, x goes into `found`; (unknowns + 1,) each."""
    for k in range(len(program.row)):
        known = right[program.row[k]]
        if known != 0:
            for i in range(program.lower_at[k], program.lower_at[k + 1]):
                right[program.lower_row[i]] -= held[program.lower_slot[i]] * known
    for k in range(len(program.row) - 1, -1, -1):
        known = right[program.row[k]]
        for j in range(program.upper_at[k], program.upper_at[k + 1]):
            known -= held[program.upper_slot[j]] * found[program.upper_column[j]]
        found[program.column[k]] = known * held[program.pivot[k]]


@njit(cache=True, nogil=True, error_model="numpy")
def solve_transposed_in_place(
    held: NDArray[np.complex128], program: Program, right: NDArray[np.complex128], found: NDArray[np.complex128]
) -> None:
    """Solve Aᵀ·x = b in one sample: `right` holds b and is used up, x goes into `found`; (unknowns + 1,) each."""
    for k in range(len(program.row)):
        known = right[program.column[k]]
        if known != 0:
            known *= held[program.pivot[k]]
            for j in range(program.upper_at[k], program.upper_at[k + 1]):
                right[program.upper_column[j]] -= held[program.upper_slot[j]] * known
        found[program.row[k]] = known
    for k in range(len(program.row) - 1, -1, -1):
        known = found[program.row[k]]
        for i in range(program.lower_at[k], program.lower_at[k + 1]):
            known -= held[program.lower_slot[i]] * found[program.lower_row[i]]
        found[program.row[k]] = known


@njit(cache=True, nogil=True, error_model="numpy")
def solve_direction(  # noqa: PLR0917 - compiled code takes its arrays one by one
    held: NDArray[np.complex128],
    program: Program,
    plus: int,
    minus: int,
    transposed: bool,
    scratch: NDArray[np.complex128],
    found: NDArray[np.complex128],
) -> None:
    """Put X·q of one sample into `found`, or qᵀ·X if transposed; q is one unknown less another, −1 the earth."""
    scratch[:] = 0
    scratch[plus] += 1
    scratch[minus] -= 1
    if transposed:
        solve_transposed_in_place(held, program, scratch, found)
    else:
        solve_in_place(held, program, scratch, found)


@njit(cache=True, nogil=True, error_model="numpy")
def solve_columns(
    values: NDArray[np.complex128], program: Program, plus: NDArray[np.int64], minus: NDArray[np.int64]
) -> NDArray[np.complex128]:
    """Columns of the inverse, one minus another, (samples, columns, unknowns + 1); −1 is the earth, which has none."""
    size = len(program.row)
    columns = np.zeros((values.shape[0], len(plus), size + 1), dtype=np.complex128)
    right = np.zeros(size + 1, dtype=np.complex128)
    for m in range(values.shape[0]):
        for c in range(len(plus)):
            solve_direction(values[m], program, plus[c], minus[c], False, right, columns[m, c])
    return columns


@njit(cache=True, nogil=True, error_model="numpy")
def solve_rows(
    values: NDArray[np.complex128], program: Program, plus: NDArray[np.int64], minus: NDArray[np.int64]
) -> NDArray[np.complex128]:
    """Rows of the inverse, one minus another, (samples, rows, unknowns + 1); −1 is the earth, which has none."""
    size = len(program.row)
    rows = np.zeros((values.shape[0], len(plus), size + 1), dtype=np.complex128)
    right = np.zeros(size + 1, dtype=np.complex128)
    for m in range(values.shape[0]):
        for c in range(len(plus)):
            solve_direction(values[m], program, plus[c], minus[c], True, right, rows[m, c])
    return rows
