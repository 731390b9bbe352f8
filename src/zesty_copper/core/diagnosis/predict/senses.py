"""What is seen, heard, felt or told by simple testers, in every row: each kind senses where the contacts rest."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.states import Placement, State, unknowns_in
from zesty_copper.core.network.topology import Topology
from zesty_copper.core.observations.measurement import Measurement

__all__ = ["sensed"]


@dataclass(frozen=True, eq=False)
class _SettledRows:
    """The rows where they have settled, or where what chatters has moved on to."""

    compiled: CompiledCircuit
    state: State
    placement: Placement

    @property
    def circuit(self) -> Circuit:
        """The circuit."""
        return self.compiled.circuit

    def volts_at(self, *points: Point) -> NDArray[np.complex128]:
        """Volts of points to the panel's ground, (points, rows, samples) [V]."""
        return self._taken(*(self.compiled.netlist.nodes[point] for point in points))

    def amps_in(self, part: Part, lane: str | None = None) -> NDArray[np.complex128]:
        """Amps in each branch of a part, or in one conductor of it, (branches, rows, samples) [A]."""
        netlist = self.compiled.netlist
        keys = [key for key in netlist.branches if key[0] == part.id and lane in (None, key[1])]
        return self._taken(*(netlist.branch_row(*key) for key in keys))

    def is_open(self, switch: str | None) -> NDArray[np.bool_]:
        """Where a switch is open, (rows, samples)."""
        return self._of_topology(lambda topology: switch in topology.solved.open_switches)

    def stands(self, part: Part) -> NDArray[np.bool_]:
        """Where a motor stands though it is fed, (rows, samples)."""
        return self._of_topology(lambda topology: topology.standing.get(part.id, False))

    def is_swapped_ahead(self, part: Part) -> NDArray[np.bool_]:
        """In which rows two legs are swapped at a part or ahead of it, (rows, 1)."""
        path = {above.id for above in self.circuit.path(part)}
        return np.array([row.swapped_at in path for row in self.compiled.edits.rows])[:, None]

    def _taken(self, *unknowns: int) -> NDArray[np.complex128]:
        """Some unknowns of the network, (unknowns, rows, samples) [V or A]."""
        return unknowns_in(self.compiled, self.state, self.placement, unknowns)

    def _of_topology(self, asked: Callable[[Topology], NDArray[Any] | bool]) -> NDArray[Any]:
        """What is true of a whole topology, sample by sample, (rows, samples)."""
        samples = self.state.chatters.shape[1]
        by_topology = np.stack([np.broadcast_to(asked(topology), samples) for topology in self.state.topologies])
        return np.asarray(by_topology[self.placement.topology, np.arange(samples)])


def sensed(compiled: CompiledCircuit, state: State, measurement: Measurement) -> Prediction:
    """Predict what is no phasor in every row, on the scale of its kind, and where what chatters moves on to."""
    kind, place, chatters = measurement.observation, measurement.place, state.chatters
    none, flat = np.broadcast_to(0.0, chatters.shape), np.broadcast_to(0.0, (*chatters.shape, len(DIMENSIONS)))
    settled = kind.sense(_SettledRows(compiled, state, state.settled), place)
    if state.moved_on is None:
        return Prediction(settled, flat, none, chatters)
    after = kind.sense(_SettledRows(compiled, state, state.moved_on), place)
    at_once = kind.sense_chatter(compiled.circuit, place, (settled, after), chatters)
    if at_once is not None:
        return Prediction(at_once, flat, none, np.zeros_like(chatters))
    return Prediction(settled, flat, none, chatters, Prediction(after, flat, none, chatters))
