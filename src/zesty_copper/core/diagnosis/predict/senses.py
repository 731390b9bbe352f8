"""What is seen, heard, felt or told by simple testers: phase sequence, a beep, what runs or hums, and heat."""

import cmath
import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.catalogue import FailureMode
from zesty_copper.core.circuit.measurement import Around, Between, Measurement, Near, Turning, Warmth, Watching
from zesty_copper.core.circuit.model import GROUND, NEUTRAL, Circuit, Part
from zesty_copper.core.diagnosis.predict.compiled import Block, CompiledCircuit, State
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.scales import on_scale

__all__ = ["sensed"]

TURNS_FROM_VOLTS = 10.0
"""Below about so much nothing turns [V]; common practice, no source."""
BEEPS_FROM_VOLTS = 60.0
"""Voltage to ground from which a non-contact tester likelier beeps than not [V]: makers say from 50 or 90 V; common
practice, no source."""
BEEP_WIDTH = 0.3
"""How gradually it begins to, in nepers of voltage."""
RUNS_FROM = 0.25
"""Share of its current from which a load is seen to do something; common practice, no source."""
HUMS_FROM = 2.5
"""Multiple of its current from which a motor stands and hums: locked rotors draw four to six times."""
DEGREES_A_WATT = 9.0
"""What a watt makes of a joint the size of a fingertip in a box [°F/W]; common practice, no source."""

_Found = Callable[[Block], NDArray[np.float64]]


def sensed(compiled: CompiledCircuit, state: State, measurement: Measurement) -> Prediction:
    """Predict what is no phasor in every network row, on the scale of its unit."""
    place = measurement.place
    match place:
        case Turning():
            back = np.array([_swapped_before(compiled.circuit, place, row.swapped_at) for row in compiled.edits.rows])
            sign = np.where(back, -1.0, 1.0)[:, None]
            return _in_blocks(compiled, state, lambda block: sign[block.rows] * _sequence(compiled, block, place))
        case Near():
            return _in_blocks(compiled, state, lambda block: _beep(compiled, block, place))
        case Watching():
            return _watched(compiled, state, place)
        case Warmth():
            return _in_blocks(compiled, state, lambda block: _warmth(compiled, block, place))
        case Between() | Around():
            raise ValueError("volts and amps are phasors")


def _in_blocks(compiled: CompiledCircuit, state: State, found: _Found) -> Prediction:
    """Gather what each block shows into rows and samples."""
    shape = (len(compiled.edits.rows), compiled.samples)
    settled, after = np.zeros(shape), np.zeros(shape)
    for block in state.blocks:
        shown = found(block)
        for whole, mask in ((settled, block.here), (after, block.next)):
            row, sample = np.nonzero(mask)
            whole[block.rows[row], sample] = shown[row, sample]
    none, flat = np.broadcast_to(0.0, shape), np.broadcast_to(0.0, (*shape, len(DIMENSIONS)))
    moved_on = Prediction(after, flat, none, state.chatters) if state.chatters.any() else None
    return Prediction(settled, flat, none, state.chatters, moved_on)


def _sequence(compiled: CompiledCircuit, block: Block, place: Turning) -> NDArray[np.float64]:
    """Return which way three legs follow each other: (V₁² − V₂²)/(V₁² + V₂²), positive against negative sequence.

    Symmetrical components (Fortescue, Trans. AIEE 37 (1918) 1027-1140); 0 where next to nothing is there to turn.
    """
    part = compiled.circuit.part(place.part)
    nodes = [compiled.netlist.nodes[f"{leg}@{part.id}"] for leg in compiled.circuit.turning_legs(part)]
    operator = cmath.rect(1, 2 * math.pi / 3)
    first, second, third = (block.edited.solution_at(node) for node in nodes)
    forward = np.abs(first + operator * second + operator**2 * third) ** 2 / 9
    backward = np.abs(first + operator**2 * second + operator * third) ** 2 / 9
    return np.asarray((forward - backward) / (forward + backward + TURNS_FROM_VOLTS**2))


def _swapped_before(circuit: Circuit, place: Turning, swapped_at: str | None) -> bool:
    return swapped_at is not None and circuit.part(swapped_at) in circuit.path(circuit.part(place.part))


def _beep(compiled: CompiledCircuit, block: Block, place: Near) -> NDArray[np.float64]:
    """How likely a tester beeps at what a conductor is at, ghosts included: it loads nothing."""
    volts = np.abs(block.edited.solution_at(compiled.netlist.nodes[place.point]))
    return np.asarray(1 / (1 + (BEEPS_FROM_VOLTS / np.maximum(volts, 1e-3)) ** (1 / BEEP_WIDTH)))


def _watched(compiled: CompiledCircuit, state: State, place: Watching) -> Prediction:
    """Return what a load or a contactor is seen to do: 0 nothing, 1 runs or is in, 2 hums or chatters."""
    part = compiled.circuit.part(place.part)
    if part not in compiled.circuit.loads:
        found = _in_blocks(compiled, state, lambda block: _is_in(block, part))
        buzzing = np.where(state.chatters & _moves(state, part), 2.0, found.value)
        return Prediction(buzzing, found.slope, found.wander, np.zeros_like(state.chatters))
    return _in_blocks(compiled, state, lambda block: _does(compiled, block, part))


def _is_in(block: Block, part: Part) -> NDArray[np.float64]:
    out = part.switch in block.edited.topology.solved.open_switches
    return np.full(block.here.shape, 0.0 if out else 1.0)


def _moves(state: State, part: Part) -> "NDArray[np.bool_]":
    """Where a part's contact is not the same in the two positions between which a coil chatters."""
    out = np.array([part.switch in block.edited.topology.solved.open_switches for block in state.blocks])
    return np.asarray(out[state.block] != out[state.next_block])


def _does(compiled: CompiledCircuit, block: Block, part: Part) -> NDArray[np.float64]:
    assert part.load is not None  # loads have plates
    amps = np.stack(
        [
            np.abs(block.edited.solution_at(len(compiled.netlist.nodes) + b))
            for key, b in compiled.netlist.branches.items()
            if key[0] == part.id
        ]
    )
    usual = part.load.rated_amps / (math.sqrt(3) if len(amps) == 3 and FailureMode.STALL not in part.entry.may else 1)
    # The busiest winding says whether it does anything at all.
    share = amps.max(axis=0) / usual
    stands = block.edited.topology.standing.get(part.id, np.False_)
    hums = ((share > HUMS_FROM) | (stands & (share > RUNS_FROM))) & (FailureMode.STALL in part.entry.may)
    return np.where(hums, 2.0, np.where(share > RUNS_FROM, 1.0, 0.0))


def _warmth(compiled: CompiledCircuit, block: Block, place: Warmth) -> NDArray[np.float64]:
    """How much hotter than its coolest mate, from the watts each burns."""
    circuit = compiled.circuit
    part = circuit.part(place.part)
    mates = [lane for lane in circuit.lanes_of(part) if lane not in (GROUND, NEUTRAL)]
    burnt = {lane: _watts(compiled, block, part, lane) for lane in dict.fromkeys((place.leg, *mates))}
    coolest = np.min([burnt[lane] for lane in burnt], axis=0) if len(burnt) > 1 else 0.0
    return on_scale(DEGREES_A_WATT * (burnt[place.leg] - coolest), "degF")


def _watts(compiled: CompiledCircuit, block: Block, part: Part, lane: str) -> NDArray[np.float64]:
    """What one pole of a part turns into heat [W]."""
    ahead = compiled.circuit.upstream_point(part, lane)
    nodes = compiled.netlist.nodes
    across = block.edited.solution_at(nodes[ahead or ""]) - block.edited.solution_at(nodes[f"{lane}@{part.id}"])
    amps = block.edited.solution_at(compiled.netlist.branch_row(part.id, lane))
    return np.asarray((across * np.conj(amps)).real)
