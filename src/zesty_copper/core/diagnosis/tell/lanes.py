"""Which stretches are live, dead or floating in the leading explanation, in each state of the switches."""

import numpy as np

from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.diagnosis.infer.posterior import Posterior
from zesty_copper.core.diagnosis.model.answer import LaneState, PointShown, PointStanding
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.noise import SOFT_OHM
from zesty_copper.core.diagnosis.predict.states import state_of

__all__ = ["lane_state", "lane_states"]

LIVE_VOLTS = 5.0
"""Voltage to ground from which a point that is held counts as live [V]."""


def lane_states(compiled: CompiledCircuit, posterior: Posterior) -> tuple[LaneState, ...]:
    """Say of every point what it is under the likeliest fault in its likeliest sample, state by state."""
    fault = int(posterior.weight.sum(axis=1).argmax())
    sample = int(posterior.weight[fault].argmax())
    row = int(compiled.row[fault])
    return tuple(lane_state(compiled, row, sample, state) for state in reachable_states(compiled.circuit))


def lane_state(compiled: CompiledCircuit, row: int, sample: int, open_switches: frozenset[str]) -> LaneState:
    """Say of every point what it is in one row and sample, in one state of the switches."""
    circuit, netlist = compiled.circuit, compiled.netlist
    state = state_of(compiled, open_switches)
    placement = state.settled
    topology = state.topologies[placement.topology[row, sample]]
    used, core = compiled.used[row], placement.core[row, sample]
    every_node = np.arange(len(netlist.nodes))
    solved, its_sample = topology.solved, slice(sample, sample + 1)
    plus, minus = compiled.directions.plus[used], compiled.directions.minus[used]
    own_ohm = np.diagonal(solved.columns(every_node, samples=its_sample)[0])
    right, left = (solve_for(plus, minus, its_sample)[0] for solve_for in (solved.columns, solved.rows))
    volts = topology.driven[compiled.drive[row], sample] + placement.coefficients[row, sample] @ right
    held_by = np.abs(own_ohm + np.einsum("kn,kl,ln->n", right, core, left)[: len(every_node)])
    points = {}
    for point in circuit.points():
        if point == GROUND:
            continue
        node, ground = netlist.nodes[point], netlist.nodes[circuit.ground_at(circuit.split_point(point)[1])]
        to_ground = abs(volts[node] - volts[ground])
        standing = PointStanding.LIVE if to_ground >= LIVE_VOLTS else PointStanding.DEAD
        if held_by[node] > SOFT_OHM:
            standing = PointStanding.FLOATING
        points[point] = PointShown(standing=standing, volts=round(float(to_ground), 1))
    return LaneState(
        open_switches=open_switches,
        points=points,
        pulled_in=tuple(s.id for s in circuit.switches if s.coil and s.id not in topology.solved.open_switches),
        chatters=bool(state.chatters[row, sample]),
    )
