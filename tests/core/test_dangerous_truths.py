"""What is dangerous is never taken for something else: each is gone through to the end in the benchmark's world."""

import numpy as np
import pytest
from benchmarks.diagnosis.score import TOOLS, Technician, looked
from benchmarks.diagnosis.world import World

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.measurement import Reading

CAP = 15
SEED = 501


def dangerous(fault: Fault) -> bool:
    """A failing service neutral, a phase lost ahead, both legs on one side: what a wrong answer would make worse."""
    lost_neutral = (fault.part, fault.leg) == ("supply", "N") and fault.kind in (FaultKind.OPEN, FaultKind.RESISTIVE)
    return lost_neutral or fault.kind in (FaultKind.PRIMARY_LOST, FaultKind.SAME_LEG)


def dangers_of(circuit: Circuit) -> list[str]:
    """The dangerous faults of a circuit."""
    return [fault.key for fault in faults_of(circuit) if dangerous(fault)]


EVERY_CIRCUIT = [
    (key, fault, technician, SEED)
    for key, circuit in ready_made().items()
    for fault, technician in zip(dangers_of(circuit), [Technician.WHOLE, Technician.VOLTS_AND_AMPS] * 4, strict=False)
]
SEEDS = (601, 603, 605, 606, 612, 614, 618)
LONE_LEGS = [
    pytest.param(key, fault, technician, seed, marks=() if seed == SEEDS[0] else pytest.mark.night)
    for key, circuit in ready_made().items()
    if circuit.supply.unseen_phasors
    for fault in dangers_of(circuit)
    for technician in (Technician.WHOLE, Technician.VOLTS_AND_AMPS)
    for seed in SEEDS
]
"""Where the service's other leg is not in the circuit its neutral hides best: asked of many houses and resistances.

One of each on every change, the rest in the night.
"""
SLIDING = [("wall_heat", "open:supply:N", Technician.WHOLE, 602)]
"""Legs that stand right to each other all along, while the neutral that holds them is gone."""


def to_the_end(key: str, fault: str, technician: Technician, seed: int) -> Diagnosis:
    """Take every test that is asked for, until none is or the cap is reached."""
    circuit = ready_made()[key]
    truth = next(one for one in faults_of(circuit) if one.key == fault)
    world = World(circuit, truth, np.random.default_rng(seed))
    readings: list[Reading] = []
    looks = world.told() if technician is Technician.WHOLE else []
    scope = Scope(tools=TOOLS[technician])
    while True:
        answer = diagnose(Job(circuit=circuit, readings=tuple(readings), looks=tuple(looks), scope=scope))
        if answer.next_test is None or len(readings) >= CAP:
            return answer
        if (asked := answer.next_test.look) is not None:
            looks += looked(world, asked, len(looks))
        for measurement in answer.next_test.measurements:
            value = world.read(measurement)
            readings.append(Reading(id=str(len(readings)), measurement=measurement, value=value, unit=measurement.unit))


@pytest.mark.parametrize(("key", "fault", "technician", "seed"), [*EVERY_CIRCUIT, *LONE_LEGS, *SLIDING])
def test_a_dangerous_truth_is_named_or_left_open_and_the_work_is_stopped(
    key: str, fault: str, technician: Technician, seed: int
) -> None:
    diagnosis = to_the_end(key, fault, technician, seed)
    same_place = {s.place for s in diagnosis.suspects if s.key == fault}
    named = {s.place for s in diagnosis.suspects if s.key in diagnosis.verdict.suspects}
    if diagnosis.verdict.standing is Standing.SURE:
        assert named == same_place
    assert same_place & named or diagnosis.verdict.standing is Standing.OPEN, diagnosis.verdict.words
    stops = not fault.startswith(
        FaultKind.SAME_LEG
    )  # that one runs nothing: it is named, and no harm is done meanwhile
    if named == same_place and stops:
        assert diagnosis.stop is not None
