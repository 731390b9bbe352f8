"""What varies in a network: every impedance and stray, by the groups that vary together."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.network.netlist import EARTH, OMEGA, Branch, Netlist, Sort

__all__ = ["GROUPS", "HOUSE", "LOADS", "Elements", "Pairs", "elements_of"]

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
        """Return qᵀ·vector over the last axis, (…, directions), in the vector's unit."""
        return np.asarray(vector[..., self.plus] - vector[..., self.minus])


@dataclass(frozen=True, eq=False)
class Elements:
    """Every impedance and stray that varies: a reading's change with one is weight·(w·left)·(right·x).

    Sorted by group; `bounds` holds where each group begins, and the end. Behind the groups come the gaps of open
    switches, whose impedance falls as the coupling between conductors rises.
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
            tuple(np.cumsum([0, *sizes, 0]).tolist()),
        )


def elements_of(netlist: Netlist, open_switches: frozenset[str]) -> Elements:
    """List what varies, the gaps of open switches among it."""
    n = len(netlist.nodes)
    alone = _largest_loads(netlist.circuit)
    rows: list[tuple[int, int, int, int, int, complex]] = []
    for b, branch in enumerate(netlist.listed):
        if branch.sort not in (Sort.WIRE, Sort.BOND):
            spread = ELEMENT_SHARE if branch.sort == Sort.ELEMENT else 1.0
            rows.append((_group(branch, alone), n + b, EARTH, n + b, EARTH, spread * branch.impedance_ohm))
        if branch.is_open(open_switches):
            # Its leakage is too small to count.
            gap = -1 / (1j * OMEGA * branch.gap_farad)
            rows.append((len(GROUPS), n + b, EARTH, n + b, EARTH, gap))
    for b, mate, ohm in netlist.coupled:
        rows.append((_group(netlist.listed[b], alone), n + b, EARTH, n + mate, EARTH, ohm))
    rows += _turns(netlist)
    for stray in netlist.strays:
        group = GROUPS.index("between" if stray.between else "ground")
        rows.append((group, stray.a, stray.b, stray.a, stray.b, -1j * OMEGA * stray.farad))
    rows.sort(key=lambda one: one[0])
    columns = list(zip(*rows, strict=True))
    groups = np.array(columns[0])
    bounds = tuple(int(b) for b in np.searchsorted(groups, range(len(GROUPS) + 2)))
    pairs, right = (Pairs(np.array(columns[i]), np.array(columns[i + 1])) for i in (1, 3))
    # A last element of no weight keeps reduceat's bounds inside the array where the last groups are empty.
    pad = Pairs(np.append(pairs.plus, EARTH), np.append(pairs.minus, EARTH))
    pad_right = Pairs(np.append(right.plus, EARTH), np.append(right.minus, EARTH))
    return Elements(pad, pad_right, np.append(np.array(columns[5]), 0), bounds)


def _turns(netlist: Netlist) -> list[tuple[int, int, int, int, int, complex]]:
    """What moves with a transformer's turns: its mutual impedance, and twice as fast that of its secondary."""
    n, turns, group = len(netlist.nodes), [], GROUPS.index("turns")
    for part in netlist.circuit.series:
        if part.winding is None or netlist.direct:
            continue
        primary, secondary = (netlist.branches[part.id, name] for name in ("primary", "secondary"))
        turns.append((group, n + secondary, EARTH, n + secondary, EARTH, 2 * netlist.listed[secondary].impedance_ohm))
        turns += [
            (group, n + b, EARTH, n + other_branch, EARTH, ohm)
            for b, other_branch, ohm in netlist.coupled
            if {b, other_branch} == {primary, secondary}
        ]
    return turns


def _largest_loads(circuit: Circuit) -> dict[str, str]:
    """Return the groups of the loads that vary each by itself, by part."""
    sized = [load for load in circuit.loads if load.load is not None]
    sized.sort(key=lambda part: -(part.load.rated_volts * part.load.rated_amps if part.load else 0))
    return {part.id: group for part, group in zip(sized, LOADS[:-1], strict=False)}


def _group(branch: Branch, alone: dict[str, str]) -> int:
    if branch.sort in (Sort.LOAD, Sort.ELEMENT):
        return GROUPS.index(alone.get(branch.key[0], LOADS[-1]))
    return GROUPS.index(_GROUP_OF[branch.sort])
