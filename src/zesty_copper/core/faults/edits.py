"""Faults as edits of the network: directions and amounts, what the sources do, and which switches are not as said."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, Never, assert_never

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.faults.catalogue import UNDERSIZED_RANGE, Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.touching import SHORT_RANGE_OHM, touching
from zesty_copper.core.faults.trips import trips_by_sample
from zesty_copper.core.network.elements import Pairs
from zesty_copper.core.network.netlist import EARTH, ELECTRODE, ELECTRODE_OHM, Netlist
from zesty_copper.core.network.solve import open_impedance

__all__ = ["LEAK_RANGE_OHM", "LOW_RANGE", "RESISTANCE_RANGE_OHM", "Edits", "Row", "Variant", "least_ohm", "rows_of"]

RESISTANCE_RANGE_OHM = (0.05, 10e3)
"""A poor joint's resistance, log-uniform [ohm]."""
CONTROL_LEAST_OHM = 1.0
"""The least in control wiring: the half amp of a coil loses nothing worth a call in less [ohm]."""
LEAST_SHARE = 0.004
"""The least anywhere, as a share of what the loads behind it amount to: a volt of 240. Less brings no call."""
GAP_RANGE_OHM = (10e3, 10e6)
"""Leakage of a dirty or charred gap, log-uniform [ohm]."""
CLEAN_SHARE = 0.5
"""Share of opens that do not leak; common practice, no source."""
LOW_RANGE = (0.7, 0.92)
"""Level of a supply that is low, of nominal: below the utilisation range of ANSI C84.1 (from memory). What is lower
still has lost a leg, a phase or its neutral."""
PRIMARY_LEAN = 0.1
"""By how much the two windings left in series share their volts unequally, one standard deviation; common practice, no
source: the pair that should read nothing keeps up to some 30 V."""
LEAK_RANGE_OHM = (20.0, 600.0)
"""A track too poor to trip anything, log-uniform [ohm]."""
ELECTRODE_RANGE_OHM = (5.0, 100.0)
"""From the panel's ground through earth to the transformer, log-uniform [ohm]: rods and pipes in wet soil to one rod in
dry; around the 25 Ω that NEC 250.53 asks of one rod (from memory)."""
LOST_FROM = 0.5
"""Quantile of a poor joint's resistance from which a three-phase motor behind it counts as on a lost leg."""
COIL_SHORT_RANGE_OHM = (0.3, 2.0)
"""A shorted coil; 10 to 20 Ω are normal (common practice, no source)."""


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


def rows_of(
    netlist: Netlist,
    faults: Sequence[Fault],
    quantile: NDArray[np.float64],
    coupling: NDArray[np.float64],
    bonded: NDArray[np.bool_],
) -> Edits:
    """Turn faults into rows.

    Parameters
    ----------
    faults
        Those with a network of their own: not `none_of_these`, nor the intermittent, which are open when bad.
    quantile
        (samples,): where in its spread each sample's fault lies, in (0, 1).
    coupling
        (samples,): factor on the capacitance of a gap.
    bonded
        (samples,): whether a control secondary of which that is not known is grounded.
    """
    edits = Edits(netlist, quantile, coupling, bonded)
    for fault in faults:
        edits.rows.append(_row(edits, fault))
    edits.branch(netlist.circuit.series[0].id, netlist.circuit.legs[0])  # there is always a direction
    return edits


def _row(edits: Edits, fault: Fault) -> Row:  # noqa: PLR0912, PLR0915 - one case for each kind of fault
    circuit = edits.netlist.circuit
    samples = len(edits.quantile)
    variant, drive = Variant(), 0
    tripped: tuple[frozenset[str], ...] = (frozenset(),) * samples
    series: list[tuple[int, NDArray[np.complex128], NDArray[np.complex128]]] = []
    part = circuit.part(fault.part) if fault.part else circuit.series[0]
    leg = fault.leg or ""

    def insert(name: str, ohm: NDArray[np.complex128], dlog: NDArray[np.complex128]) -> None:
        series.append((edits.branch(part.id, name), -ohm, -dlog))

    def join(a: Point, b: Point, ohm: NDArray[np.float64]) -> None:
        siemens = (1 / ohm).astype(complex)
        series.append((edits.between(a, b), siemens, -siemens))

    match fault.kind:
        case FaultKind.OPEN if part.entry.role is PartRole.SOURCE and leg == NEUTRAL:
            insert(leg, *_clean_gap(edits, part.id, leg))
            # What flows then goes through earth, and by how much is what varies.
            earth = edits.within(ELECTRODE_RANGE_OHM).astype(complex)
            insert(ELECTRODE, earth - complex(ELECTRODE_OHM), earth)
        case FaultKind.OPEN | FaultKind.LOAD_OPEN:
            gap, dlog = _gap(edits, part.id, leg)
            insert(leg, gap, dlog)
        case FaultKind.RESISTIVE:
            ohm = edits.within((least_ohm(circuit, part), RESISTANCE_RANGE_OHM[1])).astype(complex)
            insert(leg, ohm, ohm)
        case FaultKind.UNDERSIZED:
            factor = edits.within(UNDERSIZED_RANGE).astype(complex)
            for lane in circuit.lanes_of(part):
                if lane != GROUND:
                    own = edits.netlist.listed[edits.netlist.branches[part.id, lane]].impedance_ohm
                    insert(lane, own * (factor - 1), own * factor)
        case FaultKind.NOT_CLOSED:
            variant = Variant(opened=frozenset({part.switch or ""}))
        case FaultKind.WELDED:
            variant = Variant(closed=frozenset({part.switch or ""}))
        case FaultKind.STALLED:
            variant = Variant(held=frozenset({part.id}))
        case FaultKind.WRONG_TAP:
            variant = Variant(other_tap=part.id)
        case FaultKind.SHORT | FaultKind.LOAD_GROUND | FaultKind.CROSSED | FaultKind.BRIDGED:
            ends = touching(circuit, fault.kind, part, leg)
            join(*ends, edits.within(SHORT_RANGE_OHM))
            trips = trips_by_sample(circuit, ends, edits.quantile, edits.bonded)
            tripped = tuple(frozenset(trip.switch for trip in step_trips if trip.switch) for step_trips in trips)
            blown = dict.fromkeys((t.part, t.lane) for step_trips in trips for t in step_trips if not t.switch)
            for part_id, lane in blown:
                gap, still = _clean_gap(edits, part_id, lane)
                here = np.array([any((t.part, t.lane) == (part_id, lane) for t in step_trips) for step_trips in trips])
                series.append((edits.branch(part_id, lane), np.where(here, -gap, 0), still))
        case FaultKind.LEAK:
            join(*touching(circuit, fault.kind, part, leg), edits.within(LEAK_RANGE_OHM))
        case FaultKind.COIL_SHORT:
            coil = circuit.terminals(part)
            join(coil[0], coil[1], edits.within(COIL_SHORT_RANGE_OHM))
        case FaultKind.NOTHING_WRONG | FaultKind.REVERSED:
            pass
        case (
            FaultKind.SUPPLY_DEAD
            | FaultKind.SUPPLY_LOW
            | FaultKind.SAME_LEG
            | FaultKind.PRIMARY_LOST
            | FaultKind.WRONG_SUPPLY
            | FaultKind.HIGH_LEG
        ):
            drive = edits.drive(_drive(circuit, fault, fault.kind, part, edits.quantile))
        case FaultKind.INTERMITTENT | FaultKind.TWO_AT_ONCE | FaultKind.NONE_OF_THESE:
            _no_network(fault)
        case _:
            assert_never(fault.kind)
    # A poor joint of little resistance leaves a motor running nearly as it should.
    lost = edits.quantile >= (LOST_FROM if fault.kind is FaultKind.RESISTIVE else 0.0)
    return Row(
        variants=_by_sample(variant, tripped, _single_phased_motors(circuit, fault, part), lost),
        directions=tuple(direction for direction, _, _ in series),
        delta=np.stack([delta for _, delta, _ in series], axis=1) if series else np.zeros((samples, 0), dtype=complex),
        dlog=np.stack([dlog for _, _, dlog in series], axis=1) if series else np.zeros((samples, 0), dtype=complex),
        drive=drive,
        swapped_at=part.id if fault.kind is FaultKind.REVERSED else None,
    )


def _no_network(fault: Fault) -> Never:
    raise ValueError(f"“{fault.key}” has no network of its own.")


def least_ohm(circuit: Circuit, part: Part) -> float:
    """Return the least resistance of a poor joint in a part that brings a call [ohm]."""
    control = CONTROL_LEAST_OHM if circuit.root(part).entry.role is PartRole.TRANSFORMER else 0.0
    amps = circuit.carried_amps(part)
    share = LEAST_SHARE * circuit.root_volts(part) / amps if amps else 0.0
    return max(RESISTANCE_RANGE_OHM[0], control, share)


def _by_sample(
    variant: Variant, tripped: Sequence[frozenset[str]], robbed: frozenset[str], lost: NDArray[np.bool_]
) -> tuple[Variant, ...]:
    """Return the variant in each sample: what has tripped there, and whether motors are on a lost leg."""
    none: frozenset[str] = frozenset()
    found: dict[tuple[frozenset[str], bool], Variant] = {}
    for opened, so in zip(tripped, lost.tolist(), strict=True):
        if (opened, so) not in found:
            single_phasing = robbed if so else none
            found[opened, so] = replace(variant, opened=variant.opened | opened, single_phasing=single_phasing)
    return tuple(found[key] for key in zip(tripped, lost.tolist(), strict=True))


def _single_phased_motors(circuit: Circuit, fault: Fault, part: Part) -> frozenset[str]:
    """Return the three-phase motors that a fault leaves without a leg."""
    motors = circuit.three_phase_motors
    match fault.kind:
        case FaultKind.PRIMARY_LOST:
            robbed = [motor for motor in motors if circuit.root(motor) == part]
        case FaultKind.LOAD_OPEN:
            robbed = [motor for motor in motors if motor == part]
        case FaultKind.OPEN | FaultKind.RESISTIVE if fault.leg != GROUND:
            robbed = [motor for motor in motors if part in circuit.path(motor) and fault.leg in circuit.lanes_of(motor)]
        case _:
            robbed = []
    return frozenset(motor.id for motor in robbed)


def _clean_gap(edits: Edits, part: str, name: str) -> tuple[NDArray[np.complex128], NDArray[np.complex128]]:
    """Impedance of an open that does not leak, and its derivative by what varies: none [ohm]."""
    gap = open_impedance(edits.netlist, edits.netlist.branches[part, name], edits.coupling)
    return gap, np.zeros_like(gap)


def _gap(edits: Edits, part: str, name: str) -> tuple[NDArray[np.complex128], NDArray[np.complex128]]:
    """Impedance of an open, clean in some samples and leaking in the others, and its derivative by ln(leak) [ohm]."""
    leaky = edits.quantile >= CLEAN_SHARE
    low, high = GAP_RANGE_OHM
    leak = np.where(leaky, high * (low / high) ** ((edits.quantile - CLEAN_SHARE) / (1 - CLEAN_SHARE)), np.inf)
    gap, _ = _clean_gap(edits, part, name)
    through = 1 / (1 / gap + 1 / leak)
    return through, np.where(leaky, through**2 / leak, 0)


_SourceKind = Literal[
    FaultKind.SUPPLY_DEAD,
    FaultKind.SUPPLY_LOW,
    FaultKind.SAME_LEG,
    FaultKind.PRIMARY_LOST,
    FaultKind.WRONG_SUPPLY,
    FaultKind.HIGH_LEG,
]


def _drive(
    circuit: Circuit, fault: Fault, kind: _SourceKind, source: Part, quantile: NDArray[np.float64]
) -> dict[tuple[str, str], complex | NDArray[np.complex128]]:
    """Return the factors on a supply's own sources."""
    supply = circuit.supply_of(source)
    own = supply.phasors
    factors: dict[str, complex | NDArray[np.complex128]]
    match kind:
        case FaultKind.SUPPLY_DEAD:
            factors = dict.fromkeys((*own, *supply.unseen), 0j)
        case FaultKind.SUPPLY_LOW:
            level = (LOW_RANGE[0] + (LOW_RANGE[1] - LOW_RANGE[0]) * quantile).astype(complex)
            factors = dict.fromkeys((*own, *supply.unseen), level)
        case FaultKind.SAME_LEG:
            first, second = own
            factors = {second: own[first] / own[second]}
        case FaultKind.PRIMARY_LOST:
            # A delta primary that lost one phase: two of its windings in series across the one pair that is left.
            # They share it as their loads have it, so a few volts may be left between them.
            lean = (PRIMARY_LEAN * ndtri(quantile)).astype(complex)
            halves = {leg: -own[fault.leg or ""] / 2 / volts for leg, volts in own.items() if leg != fault.leg}
            factors = {leg: half * (1 + sign * lean) for (leg, half), sign in zip(halves.items(), (1, -1), strict=True)}
        case FaultKind.WRONG_SUPPLY:
            other = supplies()[circuit.supply_of(source).other or ""].phasors
            factors = {leg: other[leg] / volts for leg, volts in own.items() if leg in other}
        case FaultKind.HIGH_LEG:
            high, leg = circuit.supply_of(source).high_leg or "", fault.leg or ""
            factors = {high: own[leg] / own[high], leg: own[high] / own[leg]}
        case _:
            assert_never(kind)
    return {(source.id, leg): factor for leg, factor in factors.items()}
