"""A circuit made ready for diagnosis: its network, faults and samples, and each state of its switches once solved."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.catalogue import FailureMode, Role, ShuntModel
from zesty_copper.core.circuit.hands import FREE, Hands, own_ends
from zesty_copper.core.circuit.model import GROUND, Circuit, Part
from zesty_copper.core.diagnosis.predict.nuisance import Nuisance, nuisance
from zesty_copper.core.diagnosis.predict.single_phasing import single_phasing
from zesty_copper.core.faults.catalogue import Fault, faults_of
from zesty_copper.core.faults.edits import Edits, Variant, rows_of
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.network.lowrank import Edited, Pairs, Topology, elements_of
from zesty_copper.core.network.netlist import BranchKey, Netlist, build_netlist
from zesty_copper.core.network.solve import solve

__all__ = ["Block", "CompiledCircuit", "State", "compile_circuit", "dead_state_of", "in_hands", "state_of"]

PICK_UP = 0.75
"""Share of its rated volts from which a coil pulls in; common practice, no source (makers say 0.75 to 0.85)."""
DROP_OUT = 0.4
"""Share of its rated volts below which a coil that is in lets go; common practice, no source."""
STARTS_FROM, START_SPREAD = 0.6, 0.16
"""Share of its rated volts, while it draws its locked amps, from which a single-phase motor starts, from here up by so
much; common practice, no source (torque goes with the square of the volts)."""
STALLS_BELOW = 0.08
"""How far below that it stalls again once it turns."""
NOTHING_SHARE = 0.08
"""Below this it has no volts to hum by."""

THREE_LEGS_APART = 2.5
"""How much further three legs stand apart than two: single-phase loads pull them unequal; 1 % unbalance is usual and
ANSI C84.1 allows 3 % (from memory)."""


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

    @cached_property
    def rank(self) -> NDArray[np.int64]:
        """How many directions each row edits, (rows,)."""
        return np.array([len(row.directions) for row in self.edits.rows])

    @cached_property
    def directions(self) -> Pairs:
        """All directions."""
        return self.edits.directions

    @cached_property
    def drives(self) -> NDArray[np.complex128]:
        """All drives, (drives, samples, sources)."""
        return self.edits.drives

    @cached_property
    def drive(self) -> NDArray[np.int64]:
        """The drive of each row, (rows,)."""
        return np.array([row.drive for row in self.edits.rows])

    @cached_property
    def source_rows(self) -> NDArray[np.int64]:
        """Row of each source's branch among the unknowns, (sources,)."""
        return np.array([self.netlist.branch_row(*key) for key in self.netlist.sources])

    @cached_property
    def ground_row(self) -> int:
        """Row of the panel's ground: what strays hang on, and what a lost neutral lifts off the earth."""
        return self.netlist.nodes[f"{GROUND}@{self.circuit.series[0].id}"]

    @cached_property
    def source_volts(self) -> NDArray[np.complex128]:
        """Nominal phasor of each source, (sources,) [V]."""
        return np.asarray(self.netlist.emf_volts.sum(axis=1))

    def of_rows(self, edits: Edits, faults: Sequence[Fault], log_prior: NDArray[np.float64]) -> "CompiledCircuit":
        """Return a compiled of other rows of the same circuit, a fault and a place for each."""
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
        )

    @property
    def samples(self) -> int:
        """How many samples there are of what is not known."""
        return len(self.nuisance.fault_quantile)


@dataclass(frozen=True, eq=False)
class Block:
    """Rows of the compiled that are edits of one topology.

    Attributes
    ----------
    rows
        (rows,): their numbers in the compiled.
    here
        (rows, samples): where they are in this position of the switches; elsewhere they stand in another block.
    next
        (rows, samples): where they move on to this position; the same as `here` but where a coil never rests.
    """

    edited: Edited
    rows: NDArray[np.int64]
    here: NDArray[np.bool_]
    next: NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class State:
    """Every row in one state of the switches that are moved by hand; the others follow their coils.

    Attributes
    ----------
    block
        (rows, samples): the block in which each is found.
    at
        (rows, samples): its place among that block's rows.
    chatters
        (rows, samples): where a coil pulls in and lets go again, so that no position stays.
    next_block, next_at
        The same as `block` and `at`, where it chatters those of the position to which it moves on.
    """

    compiled: CompiledCircuit
    blocks: tuple[Block, ...]
    block: NDArray[np.int64]
    at: NDArray[np.int64]
    chatters: NDArray[np.bool_]
    next_block: NDArray[np.int64]
    next_at: NDArray[np.int64]

    @cached_property
    def planned(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Block and place by which tests are planned: of what chatters, every other sample is caught moved on."""
        moved_on = self.chatters & (np.arange(self.chatters.shape[1]) % 4 >= 2)
        return np.where(moved_on, self.next_block, self.block), np.where(moved_on, self.next_at, self.at)


@lru_cache(maxsize=16)
def compile_circuit(circuit: Circuit) -> CompiledCircuit:
    """Make a circuit ready for diagnosis."""
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


@lru_cache(maxsize=16)
def in_hands(compiled: CompiledCircuit, hands: Hands, out: str | None = None) -> CompiledCircuit:
    """Return the compiled as it is while hands hold contacts, keep leads off or have parts taken out.

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
        leads = {(part_id, lane) for lane, _, part_id in (point.partition("@") for point in hands.lifted)}
        lifted = frozenset(key for key in compiled.netlist.branches if key[0] in hands.removed or key in leads)
    edits = compiled.edits.with_rows(list(compiled.edits.rows))
    faults = {int(compiled.row[f]): fault for f, fault in enumerate(compiled.faults) if not compiled.intermittent[f]}
    starved = frozenset(motor.id for motor in circuit.three_phase_motors if _has_lead_off(circuit, motor, hands))
    for row, fault in faults.items():
        if (fault.part != out) if out is not None else any(_goes_with(circuit, fault, part) for part in gone):
            edits.rows[row] = compiled.edits.rows[compiled.healthy]
        if starved:
            variants = tuple(
                replace(one, single_phasing=one.single_phasing | starved) for one in edits.rows[row].variants
            )
            edits.rows[row] = replace(edits.rows[row], variants=variants)
    return replace(compiled, hands=hands, lifted=lifted, edits=edits)


def _goes_with(circuit: Circuit, fault: Fault, part: Part) -> bool:
    """Whether a fault leaves the circuit with a part that is taken out: those between its leads, or to its frame."""
    joins = {FaultKind.SHORT, FaultKind.LOAD_GROUND, FaultKind.LEAK, FaultKind.COIL_SHORT, FaultKind.CROSSED}
    return fault.part == part.id and fault.kind in joins and bool(own_ends(circuit, part))


def _has_lead_off(circuit: Circuit, motor: Part, hands: Hands) -> bool:
    """Whether some but not all of a motor's leads are off."""
    lanes = circuit.lanes_of(motor)
    off = {lane for lane in lanes if any(f"{lane}@{part.id}" in hands.lifted for part in circuit.path(motor))}
    return bool(off) and off != set(lanes)


def _contrast(circuit: Circuit, netlist: Netlist) -> NDArray[np.float64]:
    """One leg against another, the third against both, a further supply against the first, (3, sources)."""
    contrast = np.zeros((3, len(netlist.sources)))
    sources = [part.id for part in circuit.series if part.entry.role is Role.SOURCE]
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


def _topology_of(compiled: CompiledCircuit, open_switches: frozenset[str], variant: Variant) -> Topology:
    """Solve one position of all switches; what an open switch isolates is not told apart, so that more is shared."""
    circuit = compiled.circuit
    held, lost = (
        frozenset(
            motor
            for motor in motors
            if not _isolated(circuit, motor, open_switches) and motor not in compiled.hands.removed
        )
        for motors in (variant.held, variant.single_phasing - variant.held)
    )
    tapped = variant.other_tap
    tapped = None if tapped and _isolated(circuit, tapped, open_switches) else tapped
    return _topology(compiled, open_switches, held, lost, tapped)


def _isolated(circuit: Circuit, part_id: str, open_switches: frozenset[str]) -> bool:
    """Whether an open switch with a pole on each of its legs stands between a part and its supply."""
    part = circuit.part(part_id)
    lanes = {point.partition("@")[0] for point in circuit.terminals(part)}
    return any(
        one.switch in open_switches and not one.normally_closed and lanes <= set(circuit.lanes_of(one))
        for one in circuit.path(part)
    )


@lru_cache(maxsize=48)
def _topology(
    compiled: CompiledCircuit,
    open_switches: frozenset[str],
    held: frozenset[str],
    lost: frozenset[str],
    other_tap: str | None,
) -> Topology:
    """Solve one position of all switches, shared by every state and row that comes to it."""
    netlist = build_netlist(compiled.circuit, held, other_tap).with_lifted(compiled.lifted)
    motors = compiled.circuit.three_phase_motors
    turning = {
        motor.id: single_phasing(motor, i, compiled.samples) for i, motor in enumerate(motors) if motor.id in lost
    }
    solved = solve(netlist, compiled.nuisance.conditions, open_switches, turning)
    standing = dict.fromkeys(held, np.ones(compiled.samples, dtype=np.bool_))
    standing |= {motor: forward == backward for motor, (forward, backward) in turning.items()}
    return Topology(solved, elements_of(netlist, open_switches), compiled.drives, standing)


@lru_cache(maxsize=24)
def state_of(compiled: CompiledCircuit, open_switches: frozenset[str]) -> State:
    """Solve one state of the switches with every fault in place."""
    pieces: dict[tuple[int, int], list[Block]] = defaultdict(list)
    for (variants, rank), rows in _by_variants(compiled).items():
        for variant in dict.fromkeys(variants):
            samples = np.array([one == variant for one in variants])
            for found in _settled(compiled, variant, rows, open_switches, samples):
                pieces[id(found.edited.topology), rank].append(found)
    return _gathered(compiled, [_joined(compiled, parts) for parts in pieces.values()])


@lru_cache(maxsize=12)
def dead_state_of(compiled: CompiledCircuit, open_switches: frozenset[str]) -> State:
    """Solve one state of the switches as an ohmmeter sees it: direct current, every coil out, nothing turning."""
    coiled = frozenset(switch.id for switch in compiled.circuit.switches if switch.coil)
    pieces: dict[tuple[int, int], list[Block]] = defaultdict(list)
    for (variants, rank), rows in _by_variants(compiled).items():
        # Whether a motor would turn says nothing to an ohmmeter.
        opens = [_positions(compiled, one, open_switches | coiled) for one in variants]
        for opened in dict.fromkeys(opens):
            edited = _edited(compiled, _dead_topology(compiled, opened), rows)
            here = np.broadcast_to([one == opened for one in opens], (len(rows), compiled.samples))
            pieces[id(edited.topology), rank].append(Block(edited, rows, here, here))
    return _gathered(compiled, [_joined(compiled, parts) for parts in pieces.values()])


@lru_cache(maxsize=24)
def _dead_topology(compiled: CompiledCircuit, open_switches: frozenset[str]) -> Topology:
    """Solve one position of all switches for direct current."""
    netlist = build_netlist(compiled.circuit, direct=True).with_lifted(compiled.lifted)
    solved = solve(netlist, compiled.nuisance.conditions, open_switches)
    return Topology(solved, elements_of(netlist, open_switches), compiled.drives)


def _gathered(compiled: CompiledCircuit, blocks: list[Block]) -> State:
    """Say of every row and sample in which block it stands."""
    shape = (len(compiled.edits.rows), compiled.samples)
    block, at = np.zeros(shape, dtype=np.int64), np.zeros(shape, dtype=np.int64)
    next_block, next_at = np.zeros(shape, dtype=np.int64), np.zeros(shape, dtype=np.int64)
    chatters = np.zeros(shape, dtype=np.bool_)
    for i, found in enumerate(blocks):
        row, sample = np.nonzero(found.here)
        block[found.rows[row], sample] = i
        at[found.rows[row], sample] = row
        row, sample = np.nonzero(found.next)
        next_block[found.rows[row], sample] = i
        next_at[found.rows[row], sample] = row
        chatters[found.rows] |= found.next & ~found.here
    return State(compiled, tuple(blocks), block, at, chatters, next_block, next_at)


def _joined(compiled: CompiledCircuit, parts: list[Block]) -> Block:
    """Make one block of several that came to the same topology: fewer, larger arrays."""
    if len(parts) == 1:
        return parts[0]
    rows = np.concatenate([part.rows for part in parts])
    here, after = (np.concatenate(masks) for masks in zip(*((part.here, part.next) for part in parts), strict=True))
    return Block(_edited(compiled, parts[0].edited.topology, rows), rows, here, after)


def _by_variants(compiled: CompiledCircuit) -> dict[tuple[tuple[Variant, ...], int], NDArray[np.int64]]:
    """Rows that share a rank, and their variants in every sample."""
    found: dict[tuple[tuple[Variant, ...], int], list[int]] = defaultdict(list)
    for r, row in enumerate(compiled.edits.rows):
        found[row.variants, len(row.directions)].append(r)
    return {key: np.array(rows) for key, rows in found.items()}


def _settled(
    compiled: CompiledCircuit,
    variant: Variant,
    rows: NDArray[np.int64],
    open_switches: frozenset[str],
    samples: NDArray[np.bool_],
) -> Iterator[Block]:
    """Let coils pull in and let go, and motors stall, until nothing moves any more, or it is plain that it never rests.

    Every coil begins without voltage and every single-phase motor standing, as when the call has just been made. Only
    some samples are asked for.
    """
    by_hand = _positions(compiled, variant, open_switches)
    forced = variant.opened | variant.closed | compiled.hands.pushed_in | compiled.hands.held_out
    follows = [s for s in compiled.circuit.switches if s.coil and s.id not in forced]
    stalls = [m.id for m in compiled.circuit.loads if _may_stall(m) and m.id not in variant.held]
    begin = (2 ** len(stalls) - 1) << len(follows)
    code = np.full((len(rows), compiled.samples), begin, dtype=np.int64)
    starts_from = STARTS_FROM + START_SPREAD * compiled.nuisance.fault_quantile[::-1]
    found: dict[int, Edited] = {}

    def at_position(position: int) -> Edited:
        if position not in found:
            out = {s.id for i, s in enumerate(follows) if not position >> i & 1}
            held = {m for i, m in enumerate(stalls, len(follows)) if position >> i & 1}
            here = replace(variant, held=variant.held | held)
            found[position] = _edited(compiled, _topology_of(compiled, by_hand | out, here), rows)
        return found[position]

    following = code
    for _ in range(3 * (len(follows) + len(stalls)) + 1):
        code, following = following, following.copy()
        for position in np.unique(code[:, samples]).tolist():
            here = (code == position) & samples
            edited = at_position(position)
            for i, switch in enumerate(follows):
                share = _winding_share(compiled, edited, switch.coil or "", "")
                was_in = bool(position >> i & 1)
                now_in = share >= (DROP_OUT if was_in else PICK_UP)
                following[here & (now_in != was_in)] ^= 1 << i
            for i, motor in enumerate(stalls, len(follows)):
                share = _winding_share(compiled, edited, motor, compiled.netlist.first_winding[motor])
                was_held = bool(position >> i & 1)
                now_held = (share > NOTHING_SHARE) & (share < starts_from - (0.0 if was_held else STALLS_BELOW))
                following[here & (now_held != was_held)] ^= 1 << i
        if (following == code).all():
            break
    for position in np.unique([code[:, samples], following[:, samples]]).tolist():
        here, after = (code == position) & samples, (following == position) & samples
        keep = (here | after).any(axis=1)
        whole = at_position(position)
        yield Block(whole if keep.all() else whole.only(keep), rows[keep], here[keep], after[keep])


def _positions(compiled: CompiledCircuit, variant: Variant, open_switches: frozenset[str]) -> frozenset[str]:
    """Switches that are open: what is welded stays in whoever pulls at it, what is stuck yields to a push."""
    opened = open_switches | variant.opened | compiled.hands.held_out
    return opened - variant.closed - compiled.hands.pushed_in


def _may_stall(load: Part) -> bool:
    """Whether a load is a single-phase motor, which too few volts bring to a stand."""
    return FailureMode.STALL in load.entry.may and load.entry.model is not ShuntModel.INDUCTION


def _winding_share(compiled: CompiledCircuit, edited: Edited, part_id: str, name: str) -> NDArray[np.float64]:
    """Voltage on a winding against its part's rating, (rows, samples): none where the winding itself is open."""
    part = compiled.circuit.part(part_id)
    amps = edited.solution_at(compiled.netlist.branch_row(part_id, name))
    own_ohm = edited.topology.solved.impedance_ohm[:, compiled.netlist.branches[part_id, name]]
    rated = part.load.rated_volts if part.load else 24.0
    return np.asarray(np.abs(amps * own_ohm) / rated)


def _edited(compiled: CompiledCircuit, topology: Topology, rows: NDArray[np.int64]) -> Edited:
    listed = [compiled.edits.rows[r] for r in rows]
    directions = np.array([row.directions for row in listed], dtype=np.int64).reshape(len(rows), -1)
    used, inverse = np.unique(directions, return_inverse=True)
    return Edited(
        topology,
        Pairs(compiled.directions.plus[used], compiled.directions.minus[used]),
        inverse.reshape(directions.shape),
        compiled.drive[rows],
        np.stack([row.delta for row in listed]),
        np.stack([row.slope for row in listed]),
    )
