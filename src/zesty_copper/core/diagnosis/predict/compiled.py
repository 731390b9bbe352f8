"""A circuit made ready for diagnosis: its network, its faults and its nuisance samples."""

from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, wraps
from threading import RLock
from typing import Concatenate, ParamSpec, TypeVar

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import FREE, Hands, own_ends
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.diagnosis.predict.nuisance import Nuisance, nuisance
from zesty_copper.core.faults.catalogue import faults_of, rows_of
from zesty_copper.core.faults.edits import Edits, Variant
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.memory import Memory
from zesty_copper.core.network.elements import Pairs
from zesty_copper.core.network.netlist import EARTH, BranchKey, Netlist, build_netlist
from zesty_copper.core.patience import check_patience

__all__ = ["CompiledCircuit", "compile_circuit", "in_hands", "kept", "release"]

CIRCUIT_BYTES = 96_000_000
"""How much is kept of one circuit [byte]."""
ALL_BYTES = 1_000_000_000
"""How much is kept of all circuits together [byte]."""

THREE_LEGS_APART = 2.5
"""How much further three legs stand apart than two: single-phase loads pull them unequal; 1 % unbalance is usual and
ANSI C84.1 allows 3 % (from memory)."""

_Arguments = ParamSpec("_Arguments")
_Result = TypeVar("_Result")


@dataclass(frozen=True, eq=False)
class CompiledCircuit:
    """What a diagnosis needs of a circuit before any reading.

    A fault has a *row* among the networks that are solved: an intermittent fault shares the row of the open it is when
    it is bad.

    Attributes
    ----------
    faults
        All but `none_of_these`, which is kept apart.
    log_prior
        (faults,): natural logarithm of the priors.
    row
        (faults,): the row of each.
    intermittent
        (faults,): which of them come and go.
    place
        (faults,): number of the place where the hand goes; faults of one part on one leg share it.
    healthy
        Row of `nothing_wrong`, which is also what an intermittent fault reads when it is good.
    contrast
        (3, sources): how each source moves with the unknowns of `Dimension.BALANCE`.
    hands
        What is held or off by hand, see `in_hands`.
    lifted
        Branches that this takes off.
    changed
        What makes this differ from the circuit as it is drawn, for telling results apart in the memory.
    memory
        What has been computed of this circuit, however its leads lie.
    """

    circuit: Circuit
    netlist: Netlist
    faults: tuple[Fault, ...]
    unlisted: Fault
    log_prior: NDArray[np.float64]
    row: NDArray[np.int64]
    intermittent: NDArray[np.bool_]
    place: NDArray[np.int64]
    healthy: int
    nuisance: Nuisance
    edits: Edits
    contrast: NDArray[np.float64]
    hands: Hands = FREE
    lifted: frozenset[BranchKey] = frozenset()
    changed: Hashable = ()
    memory: Memory = field(default_factory=lambda: Memory(CIRCUIT_BYTES))

    @cached_property
    def directions(self) -> Pairs:
        """All directions, and a last one that edits nothing."""
        pairs = self.edits.directions
        return Pairs(np.append(pairs.plus, EARTH), np.append(pairs.minus, EARTH))

    @cached_property
    def used(self) -> NDArray[np.int64]:
        """The directions that each row edits, (rows, rank); rows of a lower rank also edit nothing."""
        used = np.full((len(self.edits.rows), self._rank), len(self.directions.plus) - 1)
        for r, row in enumerate(self.edits.rows):
            used[r, : len(row.directions)] = row.directions
        return used

    @cached_property
    def _rank(self) -> int:
        return max(1, *(len(row.directions) for row in self.edits.rows))

    def _padded(self, amounts: Sequence[NDArray[np.complex128]]) -> NDArray[np.complex128]:
        padded = np.zeros((len(amounts), self.samples, self._rank), dtype=complex)
        for r, amount in enumerate(amounts):
            padded[r, :, : amount.shape[1]] = amount
        return padded

    @cached_property
    def delta(self) -> NDArray[np.complex128]:
        """By how much each row edits its directions, (rows, samples, rank) [S or −ohm]."""
        return self._padded([row.delta for row in self.edits.rows])

    @cached_property
    def dlog(self) -> NDArray[np.complex128]:
        """Derivative of `delta` by the logarithm of the fault's own resistance, (rows, samples, rank) [S or −ohm]."""
        return self._padded([row.dlog for row in self.edits.rows])

    @cached_property
    def variants(self) -> tuple[Variant, ...]:
        """Every variant of the network that some row has in some sample."""
        return tuple(dict.fromkeys(self._each_variant.values()))

    @cached_property
    def variant(self) -> NDArray[np.int64]:
        """The number of each row's variant, (rows, samples)."""
        number = {variant: i for i, variant in enumerate(self.variants)}
        by_object = {key: number[variant] for key, variant in self._each_variant.items()}
        return np.array([[by_object[id(variant)] for variant in row.variants] for row in self.edits.rows])

    @cached_property
    def _each_variant(self) -> dict[int, Variant]:
        """Variants by their object: most samples share one, and telling objects apart is much faster than values."""
        return {id(variant): variant for row in self.edits.rows for variant in row.variants}

    @cached_property
    def drives(self) -> NDArray[np.complex128]:
        """All drives, (drives, samples, sources)."""
        return self.edits.drives

    @cached_property
    def drive(self) -> NDArray[np.int64]:
        """The drive of each row, (rows,)."""
        return np.array([row.drive for row in self.edits.rows])

    @cached_property
    def ground_row(self) -> int:
        """Row of the panel's ground: what strays hang on, and what a lost neutral lifts off the earth."""
        return self.netlist.nodes[Point.at(GROUND, self.circuit.series[0].id)]

    @cached_property
    def source_volts(self) -> NDArray[np.complex128]:
        """Nominal phasor of each source, (sources,) [V]."""
        return np.asarray(self.netlist.emf_volts.sum(axis=1))

    def of_rows(
        self, edits: Edits, faults: Sequence[Fault], log_prior: NDArray[np.float64], changed: Hashable
    ) -> "CompiledCircuit":
        """Return the same circuit with other rows, a fault and a place for each; `changed` tells them from others."""
        count = len(edits.rows)
        return replace(
            self,
            faults=tuple(faults),
            log_prior=log_prior,
            row=np.arange(count),
            intermittent=np.zeros(count, dtype=np.bool_),
            place=np.arange(count),
            healthy=0,
            edits=edits,
            changed=(self.changed, changed),
        )

    @property
    def samples(self) -> int:
        """How many samples there are of what is not known."""
        return len(self.nuisance.fault_quantile)


def kept(
    function: Callable[Concatenate[CompiledCircuit, _Arguments], _Result],
) -> Callable[Concatenate[CompiledCircuit, _Arguments], _Result]:
    """Keep what a function finds in its circuit's memory; all arguments but the circuit are hashed."""

    @wraps(function)
    def remembered(compiled: CompiledCircuit, *args: _Arguments.args, **kwargs: _Arguments.kwargs) -> _Result:
        check_patience()
        key = (function, compiled.changed, args, tuple(kwargs.items()))
        return compiled.memory.kept(key, lambda: function(compiled, *args, **kwargs))

    return remembered  # type: ignore[return-value] # it takes what the function takes


_ready: OrderedDict[Circuit, CompiledCircuit] = OrderedDict()
_lock = RLock()


def compile_circuit(circuit: Circuit) -> CompiledCircuit:
    """Make a circuit ready for diagnosis; those used last are kept, all within `ALL_BYTES`."""
    with _lock:
        if circuit in _ready:
            _ready.move_to_end(circuit)
            return _ready[circuit]
    compiled = _compiled(circuit)
    with _lock:
        _ready[circuit] = compiled
        while len(_ready) > 1 and sum(ready.memory.bytes for ready in _ready.values()) > ALL_BYTES:
            _ready.popitem(last=False)
    return compiled


def release() -> None:
    """Let go of every circuit that is kept."""
    with _lock:
        _ready.clear()


def _compiled(circuit: Circuit) -> CompiledCircuit:
    *faults, unlisted = faults_of(circuit)
    netlist = build_netlist(circuit)
    samples = nuisance()
    networks = [fault for fault in faults if fault.kind is not FaultKind.INTERMITTENT]
    rows = {(fault.kind, fault.part, fault.leg): row for row, fault in enumerate(networks)}
    places = {place: i for i, place in enumerate(dict.fromkeys(fault.place for fault in faults))}
    return CompiledCircuit(
        circuit=circuit,
        netlist=netlist,
        faults=tuple(faults),
        unlisted=unlisted,
        log_prior=np.log([fault.prior for fault in faults]),
        row=np.array(
            [
                rows[FaultKind.OPEN if fault.kind is FaultKind.INTERMITTENT else fault.kind, fault.part, fault.leg]
                for fault in faults
            ]
        ),
        intermittent=np.array([fault.kind is FaultKind.INTERMITTENT for fault in faults]),
        place=np.array([places[fault.place] for fault in faults]),
        healthy=next(row for row, fault in enumerate(networks) if fault.kind is FaultKind.NOTHING_WRONG),
        nuisance=samples,
        edits=rows_of(netlist, networks, samples.fault_quantile, samples.conditions.between, samples.bonded),
        contrast=_contrast(circuit, netlist),
    )


@kept
def in_hands(compiled: CompiledCircuit, hands: Hands, out: str | None = None) -> CompiledCircuit:
    """Return the circuit as it is while hands hold contacts, keep leads off or have parts taken out.

    Parameters
    ----------
    out
        A part that was taken out and is measured by itself: nothing else is joined to it, and of all faults only its
        own are there.
    """
    if hands == FREE:
        return compiled
    circuit = compiled.circuit
    gone = [circuit.part(part_id) for part_id in sorted(hands.removed)]
    if out is not None:
        lifted = frozenset(key for key in compiled.netlist.branches if key[0] != out)
    else:
        leads = {(point.part_id, point.lane) for point in hands.lifted}
        lifted = frozenset(key for key in compiled.netlist.branches if key[0] in hands.removed or key in leads)
    edits = compiled.edits.with_rows(list(compiled.edits.rows))
    faults = {int(compiled.row[f]): fault for f, fault in enumerate(compiled.faults) if not compiled.intermittent[f]}
    starved = frozenset(motor.id for motor in circuit.three_phase_motors if _has_lead_off(circuit, motor, hands))
    for row, fault in faults.items():
        if (fault.part != out) if out is not None else any(_goes_with(circuit, fault, part) for part in gone):
            edits.rows[row] = compiled.edits.rows[compiled.healthy]
        if starved:
            variants = tuple(
                replace(variant, single_phasing=variant.single_phasing | starved)
                for variant in edits.rows[row].variants
            )
            edits.rows[row] = replace(edits.rows[row], variants=variants)
    return replace(compiled, hands=hands, lifted=lifted, edits=edits, changed=(compiled.changed, hands, out))


def _goes_with(circuit: Circuit, fault: Fault, part: Part) -> bool:
    """Whether a fault leaves the circuit with a part that is taken out: those between its leads, or to its frame."""
    joins = {FaultKind.SHORT, FaultKind.LOAD_GROUND, FaultKind.LEAK, FaultKind.COIL_SHORT, FaultKind.CROSSED}
    return fault.part == part.id and fault.kind in joins and bool(own_ends(circuit, part))


def _has_lead_off(circuit: Circuit, motor: Part, hands: Hands) -> bool:
    """Whether some but not all of a motor's leads are off."""
    lanes = circuit.lanes_of(motor)
    off = {lane for lane in lanes if any(Point.at(lane, part.id) in hands.lifted for part in circuit.path(motor))}
    return bool(off) and off != set(lanes)


def _contrast(circuit: Circuit, netlist: Netlist) -> NDArray[np.float64]:
    """One leg against another, the third against both, a further supply against the first, (3, sources)."""
    contrast = np.zeros((3, len(netlist.sources)))
    sources = [part.id for part in circuit.series if part.entry.role is PartRole.SOURCE]
    for supply in sources:
        mine = [s for s, (part, _) in enumerate(netlist.sources) if part == supply]
        if len(mine) > 1:
            contrast[0, mine[:2]] = 0.5, -0.5
        if len(mine) > 2:
            contrast[0] *= THREE_LEGS_APART
            contrast[1, mine[:3]] = 0.3 * THREE_LEGS_APART * np.array([1, 1, -2])
        if supply != sources[0]:
            contrast[2, mine] = 1.0
    return contrast
