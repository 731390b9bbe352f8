"""Faults as edits of the network: directions and amounts, what the sources do, and which switches are not as said."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.point import Point
from zesty_copper.core.faults.trips import SHORT_RANGE_OHM, trips_by_sample
from zesty_copper.core.network.elements import Pairs
from zesty_copper.core.network.netlist import EARTH, Netlist
from zesty_copper.core.network.solve import open_impedance

__all__ = ["Edits", "FaultChange", "Row", "Variant"]

GAP_RANGE_OHM = (10e3, 10e6)
"""Leakage of a dirty or charred gap, log-uniform [ohm]."""
CLEAN_SHARE = 0.5
"""Share of opens that do not leak; common practice, no source."""

_Amounts = NDArray[np.complex128]
"""(samples,) [S or ohm]."""


@dataclass(frozen=True)
class Variant:
    """Another network than the one on the drawing.

    Switches held open or closed, motors held still, three-phase motors on a lost leg, a transformer on another tap.
    """

    opened: frozenset[str] = frozenset()
    closed: frozenset[str] = frozenset()
    held: frozenset[str] = frozenset()
    single_phasing: frozenset[str] = frozenset()
    other_tap: str | None = None


@dataclass(frozen=True, eq=False)
class Row:
    """One network to predict: its variants, what its sources do, and what is edited in it.

    Attributes
    ----------
    variants
        One for each sample: a hard touch trips where a poor one does not, a motor stalls on a worse joint.
    directions
        Numbers of the directions edited.
    delta, dlog
        (samples, rank): how much, and its derivative by the logarithm of the fault's own resistance [S or −ohm].
    drive
        Number of what the sources do.
    swapped_at
        The part from which on two legs are swapped: volts and amps stay, the motors turn backwards.
    """

    variants: tuple[Variant, ...]
    directions: tuple[int, ...]
    delta: NDArray[np.complex128]
    dlog: NDArray[np.complex128]
    drive: int
    swapped_at: str | None = None


@dataclass(eq=False)
class Edits:
    """Every row, with the directions and drives they speak of; the arrays are (samples,), see `rows_of`."""

    netlist: Netlist
    quantile: NDArray[np.float64]
    coupling: NDArray[np.float64]
    bonded: NDArray[np.bool_]
    rows: list[Row] = field(default_factory=list)
    direction_numbers: dict[tuple[int, int], int] = field(default_factory=dict)
    _drives: list[NDArray[np.complex128]] = field(default_factory=list)

    def __post_init__(self) -> None:
        """The first drive is that of sources as they should be."""
        if not self._drives:
            self.drive({})

    @property
    def directions(self) -> Pairs:
        """All directions."""
        plus, minus = zip(*self.direction_numbers, strict=True)
        return Pairs(np.array(plus), np.array(minus))

    @property
    def drives(self) -> NDArray[np.complex128]:
        """(drives, samples, sources): factor on each source."""
        return np.stack(self._drives)

    def branch(self, part: str, name: str) -> int:
        """Direction in series with a branch."""
        return self.direction_numbers.setdefault(
            (self.netlist.branch_row(part, name), EARTH), len(self.direction_numbers)
        )

    def between(self, a: Point, b: Point) -> int:
        """Direction of a path between two points."""
        key = (self.netlist.point_row(a), self.netlist.point_row(b))
        return self.direction_numbers.setdefault(key, len(self.direction_numbers))

    def drive(self, factors: dict[tuple[str, str], complex | NDArray[np.complex128]]) -> int:
        """Number of a drive with these factors on sources, by part and leg."""
        array = np.ones((len(self.quantile), len(self.netlist.sources)), dtype=complex)
        for key, factor in factors.items():
            if key in self.netlist.sources:
                array[:, self.netlist.sources.index(key)] = factor
        self._drives.append(array)
        return len(self._drives) - 1

    def with_rows(self, rows: list[Row]) -> "Edits":
        """Return edits of other rows, which may speak of these directions and drives, and of more."""
        return Edits(
            self.netlist,
            self.quantile,
            self.coupling,
            self.bonded,
            rows,
            dict(self.direction_numbers),
            list(self._drives),
        )

    def within(self, low_high: tuple[float, float]) -> NDArray[np.float64]:
        """Each sample's value, log-uniform within a range and in its unit, (samples,)."""
        low, high = low_high
        return np.asarray(low * (high / low) ** self.quantile)

    def clean_gap(self, part: str, name: str) -> tuple[_Amounts, _Amounts]:
        """Impedance of an open that does not leak, and its derivative by what varies: none [ohm]."""
        gap = open_impedance(self.netlist, self.netlist.branches[part, name], self.coupling)
        return gap, np.zeros_like(gap)

    def gap(self, part: str, name: str) -> tuple[_Amounts, _Amounts]:
        """Impedance of an open, clean in some samples and leaky in the others, and its derivative by ln(leak) [ohm]."""
        leaky = self.quantile >= CLEAN_SHARE
        low, high = GAP_RANGE_OHM
        leak = np.where(leaky, high * (low / high) ** ((self.quantile - CLEAN_SHARE) / (1 - CLEAN_SHARE)), np.inf)
        gap, _ = self.clean_gap(part, name)
        through = 1 / (1 / gap + 1 / leak)
        return through, np.where(leaky, through**2 / leak, 0)


@dataclass(eq=False)
class FaultChange:
    """What one fault changes, put together by its family.

    Attributes
    ----------
    edits
        Where the directions and drives are numbered.
    variant
        The network that it makes of the drawn one, in every sample.
    single_phasing
        The three-phase motors that it leaves without a leg, in the samples from `lost_from` of its quantile on.
    drive
        Number of what the sources do.
    swapped_at
        The part from which on two legs are swapped.
    """

    edits: Edits
    variant: Variant = Variant()
    single_phasing: frozenset[str] = frozenset()
    lost_from: float = 0.0
    drive: int = 0
    swapped_at: str | None = None
    _tripped: tuple[frozenset[str], ...] = ()
    _steps: list[tuple[int, _Amounts, _Amounts]] = field(default_factory=list)

    def insert(self, part: str, name: str, ohm: _Amounts, dlog: _Amounts) -> None:
        """Put an impedance in series with a branch, with its derivative by the logarithm of what varies [ohm]."""
        self._steps.append((self.edits.branch(part, name), -ohm, -dlog))

    def join(self, ends: tuple[Point, Point], ohm: NDArray[np.float64]) -> None:
        """Put a resistance between two points [ohm]."""
        siemens = (1 / ohm).astype(complex)
        self._steps.append((self.edits.between(*ends), siemens, -siemens))

    def touch(self, ends: tuple[Point, Point]) -> None:
        """Let two points touch, and open what that trips."""
        edits = self.edits
        self.join(ends, edits.within(SHORT_RANGE_OHM))
        trips = trips_by_sample(edits.netlist.circuit, ends, edits.quantile, edits.bonded)
        self._tripped = tuple(frozenset(trip.switch for trip in step_trips if trip.switch) for step_trips in trips)
        blown = dict.fromkeys((t.part, t.lane) for step_trips in trips for t in step_trips if not t.switch)
        for part, lane in blown:
            gap, still = edits.clean_gap(part, lane)
            in_sample = np.array([any((t.part, t.lane) == (part, lane) for t in step_trips) for step_trips in trips])
            self.insert(part, lane, np.where(in_sample, gap, 0), still)

    def row(self) -> Row:
        """Return the network to predict."""
        samples = len(self.edits.quantile)
        none = np.zeros((samples, 0), dtype=complex)
        return Row(
            variants=self._by_sample(),
            directions=tuple(direction for direction, _, _ in self._steps),
            delta=np.stack([delta for _, delta, _ in self._steps], axis=1) if self._steps else none,
            dlog=np.stack([dlog for _, _, dlog in self._steps], axis=1) if self._steps else none,
            drive=self.drive,
            swapped_at=self.swapped_at,
        )

    def _by_sample(self) -> tuple[Variant, ...]:
        """Return the variant in each sample: what has tripped there, and whether motors are on a lost leg."""
        lost = (self.edits.quantile >= self.lost_from).tolist()
        tripped: Sequence[frozenset[str]] = self._tripped or (frozenset(),) * len(lost)
        variants: dict[tuple[frozenset[str], bool], Variant] = {}
        for opened, is_lost in zip(tripped, lost, strict=True):
            if (opened, is_lost) not in variants:
                variants[opened, is_lost] = replace(
                    self.variant,
                    opened=self.variant.opened | opened,
                    single_phasing=self.single_phasing if is_lost else frozenset(),
                )
        return tuple(variants[key] for key in zip(tripped, lost, strict=True))
