"""Edits of a solved network by a few directions, without solving it again, and how a reading moves with its elements.

A fault adds δ·q·qᵀ to the system matrix. An impedance in series with a branch has q the unit vector of that branch's
row and δ = −Δz; a path between two points has q the difference of their rows and δ its admittance. With X the inverse,
Woodbury's identity gives X − X·Q·Δ·(1 + G·Δ)⁻¹·Qᵀ·X, G = Qᵀ·X·Q. Because branches enter by impedance, −G of a branch is
the admittance that the inserted impedance sees, and for one branch nothing cancels. Opening a whole switch at once can
leave nothing but stray currents, which are then lost in the digits of G: that is solved afresh, as another state.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.network.netlist import EARTH, OMEGA, Branch, Netlist, Sort
from zesty_copper.core.network.solve import Solved

__all__ = ["GROUPS", "HOUSE", "LOADS", "Edited", "Elements", "Pairs", "Topology", "core_of", "elements_of"]

LOADS = ("load", "second_load", "third_load", "other_loads")
ELEMENT_SHARE = 0.3
"""Spread of an element against a motor's: its ohms are its own, a motor's amps are what it turns."""
HOUSE = ("house", "other_house")
GROUPS = (*LOADS, "idle", "joint", "source", *HOUSE, "turns", "between", "ground")
"""Sets of elements that vary together: the largest loads each by itself, the turns of control transformers, and the
rest by their factor in `Conditions`."""
FEW = (*LOADS, "idle", "source", *HOUSE, "turns")
_GROUP_OF = {
    Sort.IDLE: "idle",
    Sort.JOINT: "joint",
    Sort.SOURCE: "source",
    Sort.HOUSE: "house",
    Sort.OTHER_HOUSE: "other_house",
}


@dataclass(frozen=True, eq=False)
class Pairs:
    """Directions q: the unknown taken, and the one taken from it (the earth: none); both (directions,)."""

    plus: NDArray[np.int64]
    minus: NDArray[np.int64]

    def of(self, vector: NDArray[np.complex128]) -> NDArray[np.complex128]:
        """Return qᵀ·vector over the last axis, (…, directions)."""
        return np.asarray(vector[..., self.plus] - vector[..., self.minus])


@dataclass(frozen=True, eq=False)
class Elements:
    """Every impedance and stray that varies: a reading's change with one is weight·(w·left)·(right·x).

    Sorted by group; `bounds` holds where each group begins, and the end.
    """

    left: Pairs
    right: Pairs
    weight: NDArray[np.complex128]
    bounds: tuple[int, ...]

    def few(self) -> "Elements":
        """Only loads, idle paths and sources: what moves a reading most, and a tenth of all elements."""
        keep = np.concatenate([np.arange(self.bounds[g], self.bounds[g + 1]) for g in map(GROUPS.index, FEW)])
        sizes = [self.bounds[g + 1] - self.bounds[g] if name in FEW else 0 for g, name in enumerate(GROUPS)]
        pick = np.append(keep, len(self.weight) - 1)
        return Elements(
            Pairs(self.left.plus[pick], self.left.minus[pick]),
            Pairs(self.right.plus[pick], self.right.minus[pick]),
            self.weight[pick],
            tuple(np.cumsum([0, *sizes]).tolist()),
        )

    def by_group(self, product: NDArray[np.complex128]) -> NDArray[np.complex128]:
        """Sum over each group, (…, elements) to (…, groups)."""
        sums = np.add.reduceat(product, self.bounds[:-1], axis=-1)
        # reduceat gives the next element where a group is empty.
        empty = [g for g in range(len(GROUPS)) if self.bounds[g] == self.bounds[g + 1]]
        sums[..., empty] = 0
        return np.asarray(sums)


def elements_of(netlist: Netlist, open_switches: frozenset[str]) -> Elements:
    """List what varies, the gaps of open switches among it."""
    n = len(netlist.nodes)
    alone = _largest_loads(netlist.circuit)
    found: list[tuple[int, int, int, int, int, complex]] = []
    for b, branch in enumerate(netlist.listed):
        if branch.sort not in (Sort.WIRE, Sort.BOND):
            spread = ELEMENT_SHARE if branch.sort == Sort.ELEMENT else 1.0
            found.append((_group(branch, alone), n + b, EARTH, n + b, EARTH, spread * branch.impedance_ohm))
        if branch.is_open(open_switches):
            # A gap's impedance falls as its coupling rises; its leakage is too small to count.
            gap = -1 / (1j * OMEGA * branch.gap_farad)
            found.append((GROUPS.index("between"), n + b, EARTH, n + b, EARTH, gap))
    for b, other, ohm in netlist.coupled:
        found.append((_group(netlist.listed[b], alone), n + b, EARTH, n + other, EARTH, ohm))
    found += _turns(netlist)
    for stray in netlist.strays:
        group = GROUPS.index("between" if stray.between else "ground")
        found.append((group, stray.a, stray.b, stray.a, stray.b, -1j * OMEGA * stray.farad))
    found.sort(key=lambda one: one[0])
    columns = list(zip(*found, strict=True))
    groups = np.array(columns[0])
    bounds = tuple(int(b) for b in np.searchsorted(groups, range(len(GROUPS) + 1)))
    left, right = (Pairs(np.array(columns[i]), np.array(columns[i + 1])) for i in (1, 3))
    # A last element of no weight keeps reduceat's bounds inside the array where the last groups are empty.
    pad = Pairs(np.append(left.plus, EARTH), np.append(left.minus, EARTH))
    pad_right = Pairs(np.append(right.plus, EARTH), np.append(right.minus, EARTH))
    return Elements(pad, pad_right, np.append(np.array(columns[5]), 0), bounds)


def _turns(netlist: Netlist) -> list[tuple[int, int, int, int, int, complex]]:
    """What moves with a transformer's turns: its mutual impedance, and twice as fast that of its secondary."""
    n, found, group = len(netlist.nodes), [], GROUPS.index("turns")
    for part in netlist.circuit.series:
        if part.winding is None or netlist.direct:
            continue
        primary, secondary = (netlist.branches[part.id, name] for name in ("primary", "secondary"))
        found.append((group, n + secondary, EARTH, n + secondary, EARTH, 2 * netlist.listed[secondary].impedance_ohm))
        found += [
            (group, n + b, EARTH, n + other, EARTH, ohm)
            for b, other, ohm in netlist.coupled
            if {b, other} == {primary, secondary}
        ]
    return found


def _largest_loads(circuit: Circuit) -> dict[str, str]:
    """Return the groups of the loads that vary each by itself, by part."""
    sized = [load for load in circuit.loads if load.load is not None]
    sized.sort(key=lambda part: -(part.load.rated_volts * part.load.rated_amps if part.load else 0))
    return {part.id: group for part, group in zip(sized, LOADS[:-1], strict=False)}


def _group(branch: Branch, alone: dict[str, str]) -> int:
    if branch.sort in (Sort.LOAD, Sort.ELEMENT):
        return GROUPS.index(alone.get(branch.key[0], LOADS[-1]))
    return GROUPS.index(_GROUP_OF[branch.sort])


@dataclass(frozen=True, eq=False)
class Topology:
    """A solved network, what its sources may do, and what in it varies.

    Attributes
    ----------
    drives
        (drives, samples, sources): factors on the sources.
    standing
        (samples,) for each motor that does not turn, in some sample or in all.
    """

    solved: Solved
    elements: Elements
    drives: NDArray[np.complex128]
    standing: Mapping[str, NDArray[np.bool_]] = field(default_factory=dict)

    @cached_property
    def few_elements(self) -> Elements:
        """The elements that move a reading most."""
        return self.elements.few()

    @cached_property
    def driven(self) -> NDArray[np.complex128]:
        """Unknowns for each drive, nothing edited, (drives, samples, unknowns + 1)."""
        return np.asarray(np.einsum("dms,smn->dmn", self.drives, self.solved.unknowns, optimize=True))

    @cached_property
    def driven_elements(self) -> NDArray[np.complex128]:
        """What each drive does to each element, weighed, (drives, samples, elements)."""
        return np.asarray(self.elements.right.of(self.driven) * self.elements.weight)

    @cached_property
    def factors(self) -> NDArray[np.float64]:
        """Each group's factor, (samples, groups)."""
        named = {**dict.fromkeys(LOADS, "load"), "turns": "idle"}
        conditions = self.solved.conditions
        return np.stack([getattr(conditions, named.get(name, name)) for name in GROUPS], axis=1)


@dataclass(frozen=True, eq=False)
class Edited:
    """Rows that edit one topology, each in as many directions.

    Attributes
    ----------
    directions
        Those that are used here.
    used
        (rows, rank): which of them each row edits.
    drive
        (rows,): what its sources do.
    delta, ddelta_dlog_r
        (rows, samples, rank): by how much, and the derivative of that by the logarithm of the fault's own resistance.
    """

    topology: Topology
    directions: Pairs
    used: NDArray[np.int64]
    drive: NDArray[np.int64]
    delta: NDArray[np.complex128]
    ddelta_dlog_r: NDArray[np.complex128]

    @cached_property
    def right(self) -> NDArray[np.complex128]:
        """X·q, (samples, unknowns + 1, directions)."""
        return self.directions.of(self.topology.solved.inverse)

    @cached_property
    def left(self) -> NDArray[np.complex128]:
        """qᵀ·X, (samples, directions, unknowns + 1)."""
        inverse = self.topology.solved.inverse
        return np.asarray(inverse[:, self.directions.plus] - inverse[:, self.directions.minus])

    @cached_property
    def core(self) -> NDArray[np.complex128]:
        """The small matrix of the update, (rows, samples, rank, rank)."""
        met = self.directions.of(self.left)
        return core_of(np.moveaxis(met[:, self.used[:, :, None], self.used[:, None, :]], 0, 1), self.delta)

    @cached_property
    def amount(self) -> NDArray[np.complex128]:
        """By how much each direction moves the unknowns, (rows, samples, rank)."""
        taken = self.directions.of(self.topology.driven)[self.drive[:, None], :, self.used]  # (rows, rank, samples)
        return np.asarray((self.core @ np.swapaxes(taken, 1, 2)[..., None])[..., 0])

    def solution_at(self, unknown: int) -> NDArray[np.complex128]:
        """One unknown in every row, meter not connected, (rows, samples) [V or A]."""
        moved = np.moveaxis(self.right[:, unknown][:, self.used], 0, 1)
        return np.asarray(self.topology.driven[self.drive, :, unknown] + (moved * self.amount).sum(axis=-1))

    @cached_property
    def left_elements(self) -> NDArray[np.complex128]:
        """What each element does to each direction, (samples, directions, elements)."""
        return self.topology.elements.left.of(self.left)

    @cached_property
    def right_elements(self) -> NDArray[np.complex128]:
        """What each direction does to each element, weighed, (samples, elements, directions)."""
        taken = self.right[:, self.topology.elements.right.plus] - self.right[:, self.topology.elements.right.minus]
        return np.asarray(taken * self.topology.elements.weight[:, None])

    @cached_property
    def left_on_driven(self) -> NDArray[np.complex128]:
        """Each direction's hold on the sources as they should be, group by group, (samples, directions, groups)."""
        return self.topology.elements.by_group(self.left_elements * self.topology.driven_elements[0][:, None])

    @cached_property
    def left_on_right(self) -> NDArray[np.complex128]:
        """Hold of each row's directions on each other, group by group, (rank, rank, samples, rows, groups)."""
        right = np.swapaxes(self.right_elements, 1, 2)
        rank = self.used.shape[1]
        return np.array(
            [
                [
                    self.topology.elements.by_group(self.left_elements[:, self.used[:, k]] * right[:, self.used[:, j]])
                    for j in range(rank)
                ]
                for k in range(rank)
            ]
        )

    def only(self, keep: NDArray[np.bool_]) -> "Edited":
        """Some of the rows, with the directions that they use."""
        used, inverse = np.unique(self.used[keep], return_inverse=True)
        return Edited(
            self.topology,
            Pairs(self.directions.plus[used], self.directions.minus[used]),
            inverse.reshape(int(keep.sum()), self.used.shape[1]),
            self.drive[keep],
            self.delta[keep],
            self.ddelta_dlog_r[keep],
        )


def core_of(meeting: NDArray[np.complex128], delta: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """Return −Δ·(1 + G·Δ)⁻¹, (…, rank, rank).

    Parameters
    ----------
    meeting
        (…, rank, rank): G.
    delta
        (…, rank): the diagonal of Δ.
    """
    rank = delta.shape[-1]
    if rank == 1:
        return np.asarray(-delta[..., None] / (1 + meeting * delta[..., None]))
    return np.asarray(-delta[..., :, None] * np.linalg.inv(np.eye(rank) + meeting * delta[..., None, :]))
