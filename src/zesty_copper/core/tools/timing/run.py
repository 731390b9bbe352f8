"""A circuit in time: what hands and thermostats do, and contacts that follow their coils after a while.

Between two clicks nothing moves, and the network is solved as it stands. A coil that gets its volts starts its
contact's delay; one that loses them before it is over stops it.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from zesty_copper.core.circuit.hands import Hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Switch
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, in_hands
from zesty_copper.core.diagnosis.predict.states import DROP_OUT, PICK_UP, State, state_of, unknowns_in
from zesty_copper.core.tools.timing.delays import Pace, delay_of
from zesty_copper.core.tools.timing.model import CallStep

__all__ = ["At", "TimedRun", "followed"]

RUNS_SHARE = 0.3
"""Share of its plate's amps from which a load runs."""
MOST_CLICKS = 200
SOON = 1e-6
CHATTER_S = 0.02
"""A contact that starves its own coil is out again so soon [s]; about a cycle, only to let time go on."""


@dataclass(frozen=True)
class At:
    """The circuit from a moment on."""

    at_s: float
    open_switches: frozenset[str]
    pulled_in: frozenset[str]
    moved: tuple[tuple[str, bool], ...]
    """Contacts that moved just then, and whether they closed."""


@dataclass(frozen=True)
class TimedRun:
    """How it went."""

    course: tuple[At, ...]
    chatters: bool

    def moves(self) -> Iterator[tuple[str, bool, float]]:
        """Every contact that moved, whether it closed, and when [s]."""
        for at in self.course:
            for switch, closes in at.moved:
                yield switch, closes, at.at_s


class ContactsHeld:
    """What a row of a circuit does with its contacts where they are told to be."""

    def __init__(self, compiled: CompiledCircuit, row: int, sample: int) -> None:
        """Take one hypothesis and one sample of what is not known."""
        self.compiled, self.row, self.sample = compiled, row, sample
        self.coiled = [switch for switch in compiled.circuit.switches if switch.coil is not None]

    def _state(self, open_switches: frozenset[str], pulled_in: frozenset[str]) -> tuple[CompiledCircuit, State]:
        out = frozenset(switch.id for switch in self.coiled) - pulled_in
        compiled = in_hands(self.compiled, Hands(pushed_in=pulled_in, held_out=out))
        return compiled, state_of(compiled, open_switches)

    def _unknowns(self, at: At, rows: Sequence[int]) -> list[complex]:
        compiled, state = self._state(at.open_switches, at.pulled_in)
        unknowns = unknowns_in(compiled, state, state.settled, rows)
        return [complex(unknown) for unknown in unknowns[:, self.row, self.sample]]

    def coil_shares(self, at: At) -> dict[str, float]:
        """Volts of each coil over those it is made for, by the switch that it moves."""
        if not self.coiled:
            return {}
        netlist = self.compiled.netlist
        branches = [netlist.branches[switch.coil or "", ""] for switch in self.coiled]
        compiled, state = self._state(at.open_switches, at.pulled_in)
        topology = state.topologies[int(state.settled.topology[self.row, self.sample])]
        amps = unknowns_in(compiled, state, state.settled, [len(netlist.nodes) + branch for branch in branches])
        own_ohm = topology.solved.impedance_ohm[self.sample, branches]
        shares = {}
        for i, switch in enumerate(self.coiled):
            load = self.compiled.circuit.part(switch.coil or "").load
            volts = abs(amps[i, self.row, self.sample] * own_ohm[i])
            shares[switch.id] = float(volts / (load.rated_volts if load else 24.0))
        return shares

    def running(self, at: At) -> tuple[str, ...]:
        """Loads that draw their amps."""
        circuit, netlist = self.compiled.circuit, self.compiled.netlist
        loads = [load for load in circuit.loads if load.load is not None and load.id in netlist.first_winding]
        amps = self._unknowns(at, [netlist.branch_row(load.id, netlist.first_winding[load.id]) for load in loads])
        return tuple(
            load.id
            for load, flows in zip(loads, amps, strict=True)
            if load.load and abs(flows) > RUNS_SHARE * load.load.rated_amps
        )

    def clamped(self, at: At, part: Part) -> dict[str, float]:
        """Amps of each conductor of a part [A]."""
        lanes = _carried(self.compiled.circuit, part)
        amps = self._unknowns(at, [self.compiled.netlist.branch_row(part.id, lane) for lane in lanes])
        return {lane: abs(flows) for lane, flows in zip(lanes, amps, strict=True)}

    def to_ground(self, at: At, part: Part) -> dict[str, float]:
        """Volts of each conductor behind a part to ground [V]."""
        lanes = _carried(self.compiled.circuit, part)
        rows = [self.compiled.netlist.point_row(Point.at(lane, part.id)) for lane in lanes]
        ground = self.compiled.netlist.point_row(self.compiled.circuit.ground_at(part))
        *volts, base = self._unknowns(at, [*rows, ground])
        return {lane: abs(point_volts - base) for lane, point_volts in zip(lanes, volts, strict=True)}


def _carried(circuit: Circuit, part: Part) -> list[str]:
    return [lane for lane in circuit.lanes_of(part) if lane != GROUND]


def followed(stands: ContactsHeld, steps: Sequence[CallStep], until_s: float, pace: Pace) -> TimedRun:
    """Follow a run from all contacts out, with all delays at one pace.

    Parameters
    ----------
    steps
        What hands and thermostats do, in order; before the first nothing is told, and nothing is called.
    """
    circuit = stands.compiled.circuit
    switches = {switch.id: switch for switch in stands.coiled}
    now = At(steps[0].at_s, steps[0].open_switches, frozenset(), ())
    coming, pending = list(steps[1:]), dict[str, tuple[float, bool]]()
    course, clicks, chatters = [now], 0, False
    while clicks < MOST_CLICKS:
        pending = _waiting(circuit, switches, stands.coil_shares(now), now, pending, pace)
        dues = [due for due, _ in pending.values()] + [step.at_s for step in coming[:1]]
        if not dues or min(dues) > until_s:
            break
        at_s = min(dues)
        moved = tuple(sorted((switch_id, closes) for switch_id, (due, closes) in pending.items() if due <= at_s + SOON))
        opens = now.open_switches
        while coming and coming[0].at_s <= at_s + SOON:
            opens = coming.pop(0).open_switches
        chatters |= any(
            switch == before and at_s - now.at_s < CHATTER_S for switch, _ in moved for before, _ in now.moved
        )
        closed = frozenset(switch_id for switch_id, closes in moved if closes)
        now = At(
            at_s, opens, (now.pulled_in | closed) - {switch_id for switch_id, closes in moved if not closes}, moved
        )
        pending = {switch_id: change for switch_id, change in pending.items() if change[0] > at_s + SOON}
        clicks += len(moved)
        course.append(now)
        if chatters:
            break
    return TimedRun(tuple(course), chatters or clicks >= MOST_CLICKS)


def _waiting(  # noqa: PLR0917 - what stands, and what was waiting
    circuit: Circuit,
    switches: Mapping[str, Switch],
    shares: Mapping[str, float],
    now: At,
    pending: Mapping[str, tuple[float, bool]],
    pace: Pace,
) -> dict[str, tuple[float, bool]]:
    """Return when each contact that no longer stands as its coil wants it will move, and which way."""
    by_switch = {}
    for text, switch in switches.items():
        is_in = text in now.pulled_in
        is_wanted = shares[text] >= (DROP_OUT if is_in else PICK_UP)
        if is_wanted == is_in:
            continue
        waiting = pending.get(text)
        if waiting is not None and waiting[1] == is_wanted:
            by_switch[text] = waiting
        else:
            by_switch[text] = (now.at_s + pace.of(delay_of(circuit, switch, pulls_in=is_wanted)), is_wanted)
    return by_switch
