"""Where every hypothesis stands in one state of the switches that hands move: the others follow their coils.

Which contacts are pulled in and which motors stand is found for every row and sample by letting them move until nothing
does any more. Each pair of row and sample then stands in one topology, as an edit of a few directions.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode, ShuntModel
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, kept
from zesty_copper.core.diagnosis.predict.single_phasing import single_phasing
from zesty_copper.core.faults.edits import Variant
from zesty_copper.core.network.lowrank import Edit, respond, unknowns_at
from zesty_copper.core.network.netlist import build_netlist
from zesty_copper.core.network.solve import solve
from zesty_copper.core.network.topology import Topology

__all__ = ["Placement", "State", "dead_state_of", "edit_of", "state_of", "unknowns_in"]

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


@dataclass(frozen=True, eq=False)
class Placement:
    """The topology in which each row stands in each sample, and how that answers to the row's edit.

    Attributes
    ----------
    topology
        (rows, samples): number of the topology.
    core, coefficients
        (rows, samples, rank, rank) and (rows, samples, rank), see `Response`.
    """

    topology: NDArray[np.int64]
    core: NDArray[np.complex128]
    coefficients: NDArray[np.complex128]

    @property
    def nbytes(self) -> int:
        """What the arrays hold [byte]."""
        return self.topology.nbytes + self.core.nbytes + self.coefficients.nbytes


@dataclass(frozen=True, eq=False)
class State:
    """Every row in one state of the switches that are moved by hand.

    Attributes
    ----------
    topologies
        Every position of all switches that some row comes to.
    settled
        Where each row stands.
    chatters
        (rows, samples): where a coil pulls in and lets go again, or a motor starts and stalls, so that no position
        stays.
    moved_on
        The same as `settled`, but where it chatters the position to which it moves on; none where nothing chatters.
    """

    topologies: tuple[Topology, ...]
    settled: Placement
    chatters: NDArray[np.bool_]
    moved_on: Placement | None = None

    @property
    def nbytes(self) -> int:
        """What the arrays hold but those of the topologies, which are kept by themselves [byte]."""
        own_bytes = self.settled.nbytes + self.chatters.nbytes
        return own_bytes + (2 * self.moved_on.nbytes if self.moved_on else 0)

    @cached_property
    def planned(self) -> Placement:
        """Where tests are planned: of what chatters, every other sample is caught moved on."""
        if self.moved_on is None:
            return self.settled
        caught = self.chatters & (np.arange(self.chatters.shape[1]) % 4 >= 2)
        placement, moved_on = self.settled, self.moved_on
        return Placement(
            np.where(caught, moved_on.topology, placement.topology),
            np.where(caught[..., None, None], moved_on.core, placement.core),
            np.where(caught[..., None], moved_on.coefficients, placement.coefficients),
        )


def edit_of(compiled: CompiledCircuit, row: NDArray[np.int64], sample: NDArray[np.int64]) -> Edit:
    """What pairs of row and sample edit, (pairs,) each; the samples must ascend."""
    return Edit(
        compiled.directions.plus,
        compiled.directions.minus,
        sample,
        compiled.used[row],
        compiled.drive[row],
        compiled.delta[row, sample],
    )


def unknowns_in(
    compiled: CompiledCircuit, state: State, placement: Placement, unknowns: Sequence[int]
) -> NDArray[np.complex128]:
    """Some unknowns of the network in every row, meter not connected, (unknowns, rows, samples) [V or A]."""
    watch = np.array(unknowns, dtype=np.int64)
    values = np.zeros((len(watch), *placement.topology.shape), dtype=complex)
    for number, topology in enumerate(state.topologies):
        row, sample = _by_sample(*np.nonzero(placement.topology == number))
        if len(row):
            edit = edit_of(compiled, row, sample)
            values[:, row, sample] = unknowns_at(topology, edit, placement.coefficients[row, sample], watch)
    return values


@kept
def state_of(compiled: CompiledCircuit, open_switches: frozenset[str]) -> State:
    """Let every row settle in one state of the switches.

    Every coil begins without voltage and every single-phase motor standing, as when the call has just been made; then
    coils pull in and let go, and motors start and stall, until nothing moves any more, or it is plain that it never
    rests.
    """
    moving = _Moving(compiled, open_switches)
    shape = compiled.variant.shape
    code = np.broadcast_to(moving.begin[compiled.variant], shape).copy()
    following, last = code.copy(), moving.most_steps[compiled.variant]
    settled = _nowhere(compiled)
    row, sample = _by_sample(*np.nonzero(np.ones(shape, dtype=np.bool_)))
    for step in range(int(last.max()) + 1):
        code[row, sample] = following[row, sample]
        following[row, sample] = moving.step(settled, row, sample, code[row, sample])
        # What has had its time is left between the two positions: it chatters.
        goes_on = (following[row, sample] != code[row, sample]) & (step + 1 <= last[row, sample])
        row, sample = row[goes_on], sample[goes_on]
        if not len(row):
            break
    chatters = following != code
    if not chatters.any():
        return State(tuple(moving.topologies), settled, chatters)
    moved_on = Placement(settled.topology.copy(), settled.core.copy(), settled.coefficients.copy())
    row, sample = _by_sample(*np.nonzero(chatters))
    moving.step(moved_on, row, sample, following[row, sample])
    return State(tuple(moving.topologies), settled, chatters, moved_on)


@kept
def dead_state_of(compiled: CompiledCircuit, open_switches: frozenset[str]) -> State:
    """Solve one state of the switches as an ohmmeter sees it: direct current, every coil out, nothing turning."""
    coiled = frozenset(switch.id for switch in compiled.circuit.switches if switch.coil)
    # Whether a motor would turn says nothing to an ohmmeter.
    opens = [_open_in(compiled, variant, open_switches | coiled) for variant in compiled.variants]
    positions = list(dict.fromkeys(opens))
    topologies = tuple(_dead_topology(compiled, opened) for opened in positions)
    numbers = np.array([positions.index(opened) for opened in opens])
    placement = _nowhere(compiled)
    placement.topology[:] = numbers[compiled.variant]
    row, sample = _by_sample(*np.nonzero(placement.topology >= 0))
    _place(compiled, topologies, placement, row, sample, np.empty(0, dtype=np.int64))
    return State(topologies, placement, np.zeros(placement.topology.shape, dtype=np.bool_))


def _nowhere(compiled: CompiledCircuit) -> Placement:
    rows, samples, rank = compiled.delta.shape
    core, coefficients = (np.zeros((rows, samples, *shape), dtype=complex) for shape in ((rank, rank), (rank,)))
    return Placement(np.zeros((rows, samples), dtype=np.int64), core, coefficients)


def _by_sample(row: NDArray[np.int64], sample: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Order pairs of row and sample by their sample."""
    order = np.argsort(sample, kind="stable")
    return row[order], sample[order]


def _place(  # noqa: PLR0917 - where, and which pairs
    compiled: CompiledCircuit,
    topologies: Sequence[Topology],
    placement: Placement,
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
    watch: NDArray[np.int64],
) -> NDArray[np.complex128]:
    """Find how the topologies answer to some pairs, and what some unknowns become, (pairs, unknowns watched)."""
    watched = np.zeros((len(row), len(watch)), dtype=complex)
    number = placement.topology[row, sample]
    for topology in np.unique(number).tolist():
        at = np.flatnonzero(number == topology)
        response, watched[at] = respond(topologies[topology], edit_of(compiled, row[at], sample[at]), watch)
        placement.core[row[at], sample[at]] = response.core
        placement.coefficients[row[at], sample[at]] = response.coefficients
    return watched


class _Moving:
    """What moves by itself in one state: coils pull in, motors stall; a position of it all is one number, bit by bit.

    Attributes
    ----------
    begin, most_steps
        (variants,): the position in which all begins, and how many steps are tried before it is said to chatter.
    topologies
        Those met so far.
    """

    def __init__(self, compiled: CompiledCircuit, open_switches: frozenset[str]) -> None:
        self.compiled = compiled
        self.open_switches = open_switches
        self.coils = [switch for switch in compiled.circuit.switches if switch.coil]
        self.motors = [load for load in compiled.circuit.loads if _may_stall(load)]
        by_hand = compiled.hands.pushed_in | compiled.hands.held_out
        # Which of them a variant holds, bit by bit: those never move.
        self.held = np.array(
            [
                sum(1 << i for i, s in enumerate(self.coils) if s.id in variant.opened | variant.closed | by_hand)
                | sum(1 << i for i, m in enumerate(self.motors, len(self.coils)) if m.id in variant.held)
                for variant in compiled.variants
            ]
        )
        standing = sum(1 << i for i in range(len(self.coils), len(self.coils) + len(self.motors)))
        self.begin = standing & ~self.held
        count = len(self.coils) + len(self.motors)
        free = [count - bin(held).count("1") for held in self.held.tolist()]
        self.most_steps = np.array([3 * moving for moving in free])
        self.topologies: list[Topology] = []
        self._numbers: dict[_Key, int] = {}
        self._at: dict[tuple[int, int], int] = {}
        netlist = compiled.netlist
        wound = [(switch.coil or "", "") for switch in self.coils]
        wound += [(motor.id, netlist.first_winding[motor.id]) for motor in self.motors]
        self.branches = np.array([netlist.branches[key] for key in wound], dtype=np.int64)
        rated = [compiled.circuit.part(part).load for part, _ in wound]
        self.rated_volts = np.array([load.rated_volts if load else 24.0 for load in rated])

    def step(
        self, placement: Placement, row: NDArray[np.int64], sample: NDArray[np.int64], code: NDArray[np.int64]
    ) -> NDArray[np.int64]:
        """Place some pairs at their positions, and return the positions to which these move on, (pairs,)."""
        variant = self.compiled.variant[row, sample]
        positions = 1 << len(self.branches)
        met, inverse = np.unique(variant * positions + code, return_inverse=True)
        numbers = [self._topology(*divmod(position, positions)) for position in met.tolist()]
        placement.topology[row, sample] = np.array(numbers)[inverse]
        amps = _place(
            self.compiled, self.topologies, placement, row, sample, len(self.compiled.netlist.nodes) + self.branches
        )
        own_ohm = np.stack([topology.solved.impedance_ohm[:, self.branches] for topology in self.topologies])
        share = np.abs(amps * own_ohm[placement.topology[row, sample], sample]) / self.rated_volts
        starts_from = STARTS_FROM + START_SPREAD * self.compiled.nuisance.fault_quantile[::-1][sample]
        following = code.copy()
        for i in range(len(self.branches)):
            was = (code >> i & 1).astype(np.bool_)
            if i < len(self.coils):
                now = share[:, i] >= np.where(was, DROP_OUT, PICK_UP)
            else:
                now = (share[:, i] > NOTHING_SHARE) & (share[:, i] < starts_from - np.where(was, 0.0, STALLS_BELOW))
            free = (self.held[variant] >> i & 1) == 0
            following[free & (now != was)] ^= 1 << i
        return following

    def _topology(self, variant: int, code: int) -> int:
        """Number of the topology of a variant at a position."""
        if (variant, code) not in self._at:
            changed = self.compiled.variants[variant]
            free = code & ~int(self.held[variant])
            out = {
                switch.id
                for i, switch in enumerate(self.coils)
                if not free >> i & 1 and not self.held[variant] >> i & 1
            }
            held_motors = {motor.id for i, motor in enumerate(self.motors, len(self.coils)) if free >> i & 1}
            opened = _open_in(self.compiled, changed, self.open_switches) | out
            key = _key_of(self.compiled, opened, changed, changed.held | held_motors)
            if key not in self._numbers:
                self._numbers[key] = len(self.topologies)
                self.topologies.append(_topology(self.compiled, *key))
            self._at[variant, code] = self._numbers[key]
        return self._at[variant, code]


def _open_in(compiled: CompiledCircuit, variant: Variant, open_switches: frozenset[str]) -> frozenset[str]:
    """Switches that are open: what is welded stays in whoever pulls at it, what is stuck yields to a push."""
    opened = open_switches | variant.opened | compiled.hands.held_out
    return opened - variant.closed - compiled.hands.pushed_in


def _may_stall(load: Part) -> bool:
    """Whether a load is a single-phase motor, which too few volts bring to a stand."""
    return FailureMode.STALL in load.entry.may and load.entry.model is not ShuntModel.INDUCTION


_Key = tuple[frozenset[str], frozenset[str], frozenset[str], str | None]
"""Open switches, motors that stand, three-phase motors on a lost leg, a transformer on another tap."""


def _key_of(compiled: CompiledCircuit, open_switches: frozenset[str], variant: Variant, held: frozenset[str]) -> _Key:
    """Tell one topology from another; what an open switch isolates is not told apart, so that more is shared."""
    circuit = compiled.circuit
    standing, lost = (
        frozenset(
            motor
            for motor in motors
            if motor not in compiled.hands.removed and not _isolated(circuit, motor, open_switches)
        )
        for motors in (held, variant.single_phasing - held)
    )
    tapped = variant.other_tap
    return open_switches, standing, lost, None if tapped and _isolated(circuit, tapped, open_switches) else tapped


def _isolated(circuit: Circuit, part_id: str, open_switches: frozenset[str]) -> bool:
    """Whether an open switch with a pole on each of its legs stands between a part and its supply."""
    part = circuit.part(part_id)
    lanes = {point.lane for point in circuit.terminals(part)}
    return any(
        each_part.switch in open_switches
        and not each_part.normally_closed
        and lanes <= set(circuit.lanes_of(each_part))
        for each_part in circuit.path(part)
    )


@kept
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
    return Topology(solved, compiled.drives, standing)


@kept
def _dead_topology(compiled: CompiledCircuit, open_switches: frozenset[str]) -> Topology:
    """Solve one position of all switches for direct current."""
    netlist = build_netlist(compiled.circuit, direct=True).with_lifted(compiled.lifted)
    return Topology(solve(netlist, compiled.nuisance.conditions, open_switches), compiled.drives)
