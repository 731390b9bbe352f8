"""Running cases and scoring them."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from benchmarks.diagnosis.habits import run_habit
from benchmarks.diagnosis.world import World
from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model import Diagnosis, Job, Scope, Standing
from zesty_copper.core.faults.catalogue import Fault, faults_of
from zesty_copper.core.faults.kinds import FaultKind

CAP = 15
CONDEMNED = 0.90
SOUND = {FaultKind.NOTHING_WRONG, FaultKind.NONE_OF_THESE}


@dataclass
class Outcome:
    """How one case went."""

    circuit: str
    truth: Fault
    answer: str
    right: bool
    kind_right: bool
    standing: str
    readings: int
    condemned_sound: bool
    log_score: float
    said: list[tuple[float, bool]] = field(default_factory=list)
    """Every probability given to every suspect after every reading, and whether it was the truth."""


def draw_truth(circuit: Circuit, rng: np.random.Generator, *, uniform: bool) -> Fault:
    """Draw the fault: by its prior, or every entry of part × leg × kind alike."""
    faults = [fault for fault in faults_of(circuit) if fault.kind is not FaultKind.NONE_OF_THESE]
    if uniform:
        return faults[rng.integers(len(faults))]
    prior = np.array([fault.prior for fault in faults])
    return faults[rng.choice(len(faults), p=prior / prior.sum())]


def world_of(seed: int, case: int, *, uniform: bool) -> World:
    """The world of one case; the same for every way of working."""
    rng = np.random.default_rng([seed, case, int(uniform)])
    circuits = list(ready_made().values())
    circuit = circuits[rng.integers(len(circuits))]
    return World(circuit, draw_truth(circuit, rng, uniform=uniform), rng)


def run_case(seed: int, case: int, *, uniform: bool, panel: bool) -> Outcome:
    """Let the next-test rule choose until it is sure, gives up, or reaches the cap."""
    world = world_of(seed, case, uniform=uniform)
    truth = world.fault
    readings: list[Reading] = []
    said: list[tuple[float, bool]] = []
    condemned = False
    while True:
        job = Job(circuit=world.circuit, readings=tuple(readings), scope=Scope(panel_may_be_opened=panel))
        answer = diagnose(job)
        if readings:
            said += [(suspect.probability, suspect.key == truth.key) for suspect in answer.suspects]
            condemned |= _condemns_sound(answer, truth)
        if answer.next_test is None or len(readings) >= CAP:
            break
        for measurement in answer.next_test.measurements[: CAP - len(readings)]:
            value = world.read(measurement)
            readings.append(Reading(id=str(len(readings)), measurement=measurement, value=value, unit=measurement.unit))
    named = set(answer.verdict.suspects)
    standing = answer.verdict.standing
    settled = standing in (Standing.SURE, Standing.INSEPARABLE)
    true_probability = next(s.probability for s in answer.suspects if s.key == truth.key)
    return Outcome(
        circuit=world.circuit.name,
        truth=truth,
        answer=f"{answer.suspects[0].key} {answer.suspects[0].probability:.2f}",
        right=settled and truth.key in named,
        kind_right=standing is Standing.SURE and answer.suspects[0].key == truth.key,
        standing=standing,
        readings=len(readings),
        condemned_sound=condemned,
        log_score=float(np.log2(max(true_probability, 1e-12))),
        said=said,
    )


def run_habit_case(seed: int, case: int, *, uniform: bool, panel: bool, halving: bool) -> tuple[bool, int]:
    """Whether a fixed habit named the truth's place, and with how many readings."""
    world = world_of(seed, case, uniform=uniform)
    accused, taken = run_habit(world.circuit, world.read, panel=panel, halving=halving)
    return tuple(map(str, world.fault.place)) in {tuple(map(str, place)) for place in accused}, taken


def _condemns_sound(answer: Diagnosis, truth: Fault) -> bool:
    """Whether a part that is sound is held guilty with 90 %."""
    places: dict[tuple[str | None, str | None], float] = {}
    for suspect in answer.suspects:
        if suspect.kind not in SOUND and suspect.part:
            place = (suspect.part, suspect.leg)
            places[place] = places.get(place, 0) + suspect.probability
    return any(p >= CONDEMNED and place != (truth.part, truth.leg) for place, p in places.items())


def calibration(said: Sequence[tuple[float, bool]], bins: int = 10) -> tuple[float, list[tuple[float, float, int]]]:
    """Expected calibration error over equal-width bins, and each bin's mean probability, share true and count."""
    probability = np.array([p for p, _ in said])
    true = np.array([t for _, t in said], dtype=float)
    which = np.minimum((probability * bins).astype(int), bins - 1)
    rows, error = [], 0.0
    for b in range(bins):
        at = which == b
        if at.any():
            rows.append((float(probability[at].mean()), float(true[at].mean()), int(at.sum())))
            error += at.mean() * abs(probability[at].mean() - true[at].mean())
    return float(error), rows
