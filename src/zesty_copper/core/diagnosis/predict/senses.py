"""What is seen, heard, felt or told by simple testers: phase sequence, a beep, what runs or hums, and heat."""

import cmath
import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.scales import on_scale
from zesty_copper.core.diagnosis.predict.states import Placement, State, unknowns_in
from zesty_copper.core.network.topology import Topology
from zesty_copper.core.observations.measurement import Around, Between, Measurement, Near, Turning, Warmth, Watching

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


@dataclass(frozen=True, eq=False)
class _Here:
    """The rows where they have settled, or where what chatters has moved on to."""

    compiled: CompiledCircuit
    state: State
    placement: Placement

    def taken(self, *unknowns: int) -> NDArray[np.complex128]:
        """Some unknowns of the network, (unknowns, rows, samples) [V or A]."""
        return unknowns_in(self.compiled, self.state, self.placement, unknowns)

    def of_topology(self, found: Callable[[Topology], NDArray[Any] | bool]) -> NDArray[Any]:
        """What is true of a whole topology, sample by sample, (rows, samples)."""
        samples = self.state.chatters.shape[1]
        each = np.stack([np.broadcast_to(found(topology), samples) for topology in self.state.topologies])
        return np.asarray(each[self.placement.topology, np.arange(samples)])


_Found = Callable[[_Here], NDArray[np.float64]]


def sensed(compiled: CompiledCircuit, state: State, measurement: Measurement) -> Prediction:
    """Predict what is no phasor in every row, on the scale of its unit."""
    place = measurement.place
    match place:
        case Turning():
            back = np.array([_swapped_before(compiled.circuit, place, row.swapped_at) for row in compiled.edits.rows])
            sign = np.where(back, -1.0, 1.0)[:, None]
            return _both(compiled, state, lambda here: sign * _sequence(here, place))
        case Near():
            return _both(compiled, state, lambda here: _beep(here, place))
        case Watching():
            return _watched(compiled, state, place)
        case Warmth():
            return _both(compiled, state, lambda here: _warmth(here, place))
        case Between() | Around():
            raise ValueError("volts and amps are phasors")


def _both(compiled: CompiledCircuit, state: State, found: _Found) -> Prediction:
    """What is found where the rows have settled, and where what chatters has moved on to."""
    shape = state.chatters.shape
    none, flat = np.broadcast_to(0.0, shape), np.broadcast_to(0.0, (*shape, len(DIMENSIONS)))
    settled = found(_Here(compiled, state, state.settled))
    if state.moved_on is None:
        return Prediction(settled, flat, none, state.chatters)
    after = found(_Here(compiled, state, state.moved_on))
    return Prediction(settled, flat, none, state.chatters, Prediction(after, flat, none, state.chatters))


def _sequence(here: _Here, place: Turning) -> NDArray[np.float64]:
    """Return which way three legs follow each other: (V₁² − V₂²)/(V₁² + V₂²), positive against negative sequence.

    Symmetrical components (Fortescue, Trans. AIEE 37 (1918) 1027-1140); 0 where next to nothing is there to turn.
    """
    circuit = here.compiled.circuit
    part = circuit.part(place.part)
    nodes = [here.compiled.netlist.nodes[Point.at(leg, part.id)] for leg in circuit.turning_legs(part)]
    operator = cmath.rect(1, 2 * math.pi / 3)
    first, second, third = here.taken(*nodes)
    forward = np.abs(first + operator * second + operator**2 * third) ** 2 / 9
    backward = np.abs(first + operator**2 * second + operator * third) ** 2 / 9
    return np.asarray((forward - backward) / (forward + backward + TURNS_FROM_VOLTS**2))


def _swapped_before(circuit: Circuit, place: Turning, swapped_at: str | None) -> bool:
    return swapped_at is not None and circuit.part(swapped_at) in circuit.path(circuit.part(place.part))


def _beep(here: _Here, place: Near) -> NDArray[np.float64]:
    """How likely a tester beeps at what a conductor is at, ghosts included: it loads nothing."""
    volts = np.abs(here.taken(here.compiled.netlist.nodes[place.point])[0])
    return np.asarray(1 / (1 + (BEEPS_FROM_VOLTS / np.maximum(volts, 1e-3)) ** (1 / BEEP_WIDTH)))


def _watched(compiled: CompiledCircuit, state: State, place: Watching) -> Prediction:
    """Return what a load or a contactor is seen to do: 0 nothing, 1 runs or is in, 2 hums or chatters."""
    part = compiled.circuit.part(place.part)
    if part in compiled.circuit.loads:
        return _both(compiled, state, lambda here: _does(here, part))
    prediction = _both(compiled, state, lambda here: _is_in(here, part))
    if prediction.moved_on is None:
        return prediction
    buzzing = np.where(state.chatters & (prediction.value != prediction.moved_on.value), 2.0, prediction.value)
    return Prediction(buzzing, prediction.slope, prediction.wander, np.zeros_like(state.chatters))


def _is_in(here: _Here, part: Part) -> NDArray[np.float64]:
    return here.of_topology(lambda topology: part.switch not in topology.solved.open_switches).astype(float)


def _does(here: _Here, part: Part) -> NDArray[np.float64]:
    assert part.load is not None  # loads have plates
    netlist = here.compiled.netlist
    amps = np.abs(here.taken(*(netlist.branch_row(*key) for key in netlist.branches if key[0] == part.id)))
    usual = part.load.rated_amps / (math.sqrt(3) if len(amps) == 3 and FailureMode.STALL not in part.entry.may else 1)
    # The busiest winding says whether it does anything at all.
    share = amps.max(axis=0) / usual
    stands = here.of_topology(lambda topology: topology.standing.get(part.id, False))
    hums = ((share > HUMS_FROM) | (stands & (share > RUNS_FROM))) & (FailureMode.STALL in part.entry.may)
    return np.where(hums, 2.0, np.where(share > RUNS_FROM, 1.0, 0.0))


def _warmth(here: _Here, place: Warmth) -> NDArray[np.float64]:
    """How much hotter than its coolest mate, from the watts each burns."""
    circuit = here.compiled.circuit
    part = circuit.part(place.part)
    mates = [lane for lane in circuit.lanes_of(part) if lane not in (GROUND, NEUTRAL)]
    burnt = {lane: _watts(here, part, lane) for lane in dict.fromkeys((place.leg, *mates))}
    coolest = np.min([burnt[lane] for lane in burnt], axis=0) if len(burnt) > 1 else 0.0
    return on_scale(DEGREES_A_WATT * (burnt[place.leg] - coolest), "degF")


def _watts(here: _Here, part: Part, lane: str) -> NDArray[np.float64]:
    """What one pole of a part turns into heat [W]."""
    circuit, netlist = here.compiled.circuit, here.compiled.netlist
    # A thermostat's Y begins at the thermostat: what flows in comes on R.
    into = next(into for into, made in circuit.pairs_of(part) if made == lane)
    ends = netlist.nodes[circuit.point_ahead(part, into)], netlist.nodes[Point.at(lane, part.id)]
    before, behind, amps = here.taken(*ends, netlist.branch_row(part.id, lane))
    return np.asarray(((before - behind) * np.conj(amps)).real)
