"""What looks say for and against each fault.

Signs of one place have their chances in `signs.toml`. What is told of the equipment as a whole, that nothing runs or
that it hums, follows from the network instead: every fault has the share of samples in which it is so.
"""

import math
from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.diagnosis.infer.two_state import BAD_SHARE
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, kept
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.states import state_of, unknowns_in
from zesty_copper.core.faults.signs import Follows, Look, chances_of, signs
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement

__all__ = ["log_inspection_ratio_of"]

TOLD = 0.75
"""How often what is so is told, or told of; common practice, no source."""
WEAK = (0.25, 0.85)
"""Share of its amps between which a load runs weakly; common practice, no source."""
BLANK = 0.6
"""Share of its volts below which a control transformer leaves a thermostat blank; common practice, no source."""
MOST_FOR = math.log(20)
"""The most that all looks together speak for one fault [nat]: marks raise a probability, they do not convict."""
MOST_AGAINST = math.log(6)
"""The most they speak against one: what is hidden shows nothing."""


def log_inspection_ratio_of(compiled: CompiledCircuit, looks: Sequence[Look]) -> NDArray[np.float64]:
    """How much all looks together speak for each fault, against its being none of these, (faults,) [nat].

    Signs of one place have one cause: the most telling counts whole, every other by a third. What all looks say
    together is bounded on both sides, each in proportion, but for what is the fault itself.
    """
    marks, findings = (
        _added_up(compiled, [look for look in looks if signs()[look.sign].finding is so]) for so in (False, True)
    )
    return _bounded(marks) + findings


def _bounded(marks: NDArray[np.float64]) -> NDArray[np.float64]:
    """Bound what marks say, all in proportion: what eyes told apart stays apart, and one look more never levels it.

    >>> _bounded(np.array([6.0, 3.0, 0.0, -1.0])).round(2).tolist()
    [3.0, 1.5, 0.0, -1.0]
    """
    most, least = max(marks.max(initial=0.0), MOST_FOR), max(-marks.min(initial=0.0), MOST_AGAINST)
    return np.asarray(np.where(marks > 0, marks * MOST_FOR / most, marks * MOST_AGAINST / least))


def _added_up(compiled: CompiledCircuit, looks: Sequence[Look]) -> NDArray[np.float64]:
    """Add up what looks say, place by place, (faults,) [nat]."""
    by_place: dict[tuple[str | None, str | None], list[NDArray[np.float64]]] = defaultdict(list)
    for look in looks:
        otherwise = signs()[look.sign].otherwise
        chance = _chances(compiled, look)
        log_ratio = np.log(chance / otherwise) if look.seen else np.log((1 - chance) / (1 - otherwise))
        by_place[look.part, look.zone].append(log_ratio)
    total = np.zeros(len(compiled.faults))
    for told_there in by_place.values():
        stacked = np.stack(told_there)
        strongest = np.take_along_axis(stacked, np.abs(stacked).argmax(axis=0)[None], axis=0)[0]
        total += strongest + (stacked.sum(axis=0) - strongest) / 3
    return total


def _chances(compiled: CompiledCircuit, look: Look) -> NDArray[np.float64]:
    sign = signs()[look.sign]
    if sign.follows is None:
        return chances_of(compiled.circuit, compiled.faults, look)
    return sign.otherwise + (TOLD - sign.otherwise) * _shares(compiled, sign.follows)


@kept
def _shares(compiled: CompiledCircuit, follows: Follows) -> NDArray[np.float64]:
    """Share of samples in which it is so under each fault, everything called for, (faults,)."""
    by_row = _so(compiled, follows).mean(axis=1)
    share = by_row[compiled.row]
    good = by_row[compiled.healthy]
    return np.asarray(np.where(compiled.intermittent, BAD_SHARE * share + (1 - BAD_SHARE) * good, share))


def _so(compiled: CompiledCircuit, follows: Follows) -> NDArray[np.bool_]:
    """Where it is so, (rows, samples)."""
    circuit, state = compiled.circuit, state_of(compiled, frozenset())
    does = np.stack(
        [predict(compiled, Measurement(place=Watching(part=load.id))).value for load in circuit.loads], axis=-1
    )
    match follows:
        case Follows.NOTHING_RUNS:
            return np.asarray((does < 1).all(axis=-1))
        case Follows.PARTLY:
            return np.asarray((does < 1).any(axis=-1) & (does >= 1).any(axis=-1))
        case Follows.HUMS:
            return np.asarray((does > 1).any(axis=-1))
        case Follows.CHATTERS:
            return state.chatters
        case Follows.WEAK:
            return _weak(compiled)
        case Follows.BLANK:
            return _blank(compiled)


def _weak(compiled: CompiledCircuit) -> NDArray[np.bool_]:
    """Where a load runs on much less than its amps."""
    state, netlist = state_of(compiled, frozenset()), compiled.netlist
    weak = np.zeros_like(state.chatters)
    for load in compiled.circuit.loads:
        rows = [netlist.branch_row(*key) for key in netlist.branches if key[0] == load.id]
        amps = np.abs(unknowns_in(compiled, state, state.settled, rows)).max(axis=0)
        share = amps / (load.load.rated_amps if load.load else 1.0)
        weak |= (share > WEAK[0]) & (share < WEAK[1])
    return weak


def _blank(compiled: CompiledCircuit) -> NDArray[np.bool_]:
    """Where a control transformer gives too little."""
    state = state_of(compiled, frozenset())
    blank = np.zeros_like(state.chatters)
    for part in compiled.circuit.series:
        if part.entry.role is not PartRole.TRANSFORMER or part.winding is None:
            continue
        ends = [compiled.netlist.nodes[Point.at(lane, part.id)] for lane in part.makes]
        plus, minus = unknowns_in(compiled, state, state.settled, ends)
        blank |= np.abs(plus - minus) < BLANK * part.winding.secondary_volts
    return blank
