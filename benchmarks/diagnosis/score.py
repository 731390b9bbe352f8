"""Running cases and scoring them."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from benchmarks.diagnosis.habits import run_habit
from benchmarks.diagnosis.world import World
from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.looking import HANDLE
from zesty_copper.core.diagnosis.model import Diagnosis, Job, LookAsked, Scope, Standing, Tool
from zesty_copper.core.faults.catalogue import Fault, faults_of
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look

CAP = 25
CONDEMNED = 0.90
SOUND = {FaultKind.NOTHING_WRONG, FaultKind.NONE_OF_THESE}


@dataclass
class Outcome:
    """How one case went."""

    circuit: str
    truth: tuple[Fault, ...]
    answer: str
    right: bool
    kind_right: bool
    standing: str
    readings: int
    minutes: float
    held_sound_guilty: bool
    wrong_verdict: bool
    log_score: float
    said: list[tuple[float, bool]] = field(default_factory=list)
    """Every probability given to every suspect after every reading, and whether it was the truth."""


class Technician(StrEnum):
    """What is used: meter and clamp alone; or ohms on what is locked out, eyes and ears too."""

    VOLTS_AND_AMPS = "volts and amps"
    WHOLE = "looks and measures dead too"


TOOLS = {
    Technician.VOLTS_AND_AMPS: frozenset({Tool.LOZ, Tool.SEQUENCE}),
    Technician.WHOLE: frozenset({Tool.LOZ, Tool.SEQUENCE, Tool.OHMS, Tool.EYES}),
}


class Way(StrEnum):
    """How the truth of a case is drawn, and what else is wrong."""

    BY_PRIOR = "by prior"
    UNIFORM = "uniform"
    TWO_FAULTS = "two faults"
    MISTYPED = "by prior, one number mistyped"


RUN = 10
"""Cases in a row on one circuit, so that each is made ready once."""


def draw_truth(circuit: Circuit, rng: np.random.Generator, *, uniform: bool) -> Fault:
    """Draw the fault: by its prior, or every entry of part × leg × kind alike."""
    faults = [fault for fault in faults_of(circuit) if fault.kind is not FaultKind.NONE_OF_THESE]
    if uniform:
        return faults[rng.integers(len(faults))]
    prior = np.array([fault.prior for fault in faults])
    return faults[rng.choice(len(faults), p=prior / prior.sum())]


def world_of(seed: int, case: int, way: Way) -> World:
    """The world of one case; the same whatever is allowed."""
    rng = np.random.default_rng([seed, case, list(Way).index(way)])
    circuits = list(ready_made().values())
    circuit = circuits[case // RUN % len(circuits)]
    first = draw_truth(circuit, rng, uniform=way is Way.UNIFORM)
    if way is not Way.TWO_FAULTS:
        return World(circuit, first, rng)
    while True:
        pair = [draw_truth(circuit, rng, uniform=False) for _ in range(2)]
        if pair[0].place != pair[1].place and FaultKind.NOTHING_WRONG not in {fault.kind for fault in pair}:
            return World(circuit, pair, rng)


def mistype(value: float, unit: str, rng: np.random.Generator) -> float:
    """Slip a decimal, swap two digits, or read another line of the notebook."""
    if unit == "seq":
        return -value
    if unit == "run":
        return float(rng.integers(3))
    if unit == "ohm":
        return value * 10
    way = rng.integers(3)
    if way == 0:
        return round(value / 10 if value >= 10 else value * 10, 1)
    digits = f"{value:.1f}"
    if way == 1 and value >= 10:
        return float(digits[1] + digits[0] + digits[2:])
    return round(float(rng.uniform(0, 250)), 1)


def run_case(
    seed: int, case: int, *, way: Way, panel: bool, technician: Technician = Technician.VOLTS_AND_AMPS
) -> Outcome:
    """Let the next-test rule choose until it is sure, gives up, or reaches the cap."""
    world = world_of(seed, case, way)
    truths = {truth.key for truth in world.faults}
    rng = np.random.default_rng([seed, case, 99])
    slip = int(rng.integers(4)) if way is Way.MISTYPED else -1
    readings: list[Reading] = []
    # What is told on the telephone costs no time.
    looks = world.told() if technician is Technician.WHOLE else []
    minutes = 0.0
    scope = Scope(panel_may_be_opened=panel, tools=TOOLS[technician])
    said: list[tuple[float, bool]] = []
    held_guilty = False
    while True:
        answer = diagnose(Job(circuit=world.circuit, readings=tuple(readings), looks=tuple(looks), scope=scope))
        if readings or looks:
            said += [(suspect.probability, set(suspect.key.split("+")) <= truths) for suspect in answer.suspects]
            held_guilty |= _holds_sound_guilty(answer, world.faults)
        if answer.next_test is None or _numbers(readings) >= CAP:
            break
        minutes += answer.next_test.minutes
        if (asked := answer.next_test.look) is not None:
            looks += looked(world, asked, len(looks))
            continue
        for measurement in answer.next_test.measurements[: CAP - _numbers(readings)]:
            value = world.read(measurement)
            value = mistype(value, measurement.unit, rng) if len(readings) == slip else value
            readings.append(Reading(id=str(len(readings)), measurement=measurement, value=value, unit=measurement.unit))
    named = {key for keys in answer.verdict.suspects for key in keys.split("+")}
    standing = answer.verdict.standing
    settled = standing in (Standing.SURE, Standing.INSEPARABLE)
    true_probability = sum(s.probability for s in answer.suspects if set(s.key.split("+")) <= truths)
    leading = answer.suspects[0]
    wrong = standing is Standing.SURE and answer.verdict.probability >= CONDEMNED and not truths & named
    return Outcome(
        circuit=world.circuit.name,
        truth=world.faults,
        answer=f"{leading.key} {leading.probability:.2f}",
        right=settled and bool(truths & named),
        kind_right=standing is Standing.SURE and set(leading.key.split("+")) <= truths,
        standing=standing,
        readings=_numbers(readings),
        minutes=minutes,
        held_sound_guilty=held_guilty,
        wrong_verdict=wrong,
        log_score=float(np.log2(max(true_probability, 1e-12))),
        said=said,
    )


def _numbers(readings: Sequence[Reading]) -> int:
    """How many were read with a meter; what is seen and heard counts in minutes only."""
    return sum(reading.unit != "run" for reading in readings)


def looked(world: World, asked: LookAsked, count: int) -> list[Look]:
    """What a look over a box is said to have found."""
    found = world.handles_off(asked.zone) if asked.sign == HANDLE else world.look_over(asked.zone)
    if not found:
        return [Look(id=f"look {count}", sign=asked.sign, zone=asked.zone, seen=False)]
    return [Look(id=f"look {count + i}", sign=asked.sign, part=part, leg=leg) for i, (part, leg) in enumerate(found)]


def run_habit_case(seed: int, case: int, *, panel: bool, halving: bool) -> tuple[bool, int] | None:
    """Whether a fixed habit named the truth's place, and with how many readings; None where it does not apply."""
    world = world_of(seed, case, Way.BY_PRIOR)
    if len(world.circuit.legs) != 2 or len(world.circuit.loads) != 1 or len(world.circuit.by_hand) < 2:
        return None
    accused, taken = run_habit(world.circuit, world.read, panel=panel, halving=halving)
    return tuple(map(str, world.fault.place)) in {tuple(map(str, place)) for place in accused}, taken


def _holds_sound_guilty(answer: Diagnosis, truths: Sequence[Fault]) -> bool:
    """Whether a part that is sound is held guilty with 90 %."""
    places: dict[str, float] = {}
    for suspect in answer.suspects:
        if suspect.kind not in SOUND and suspect.part:
            places[suspect.place] = places.get(suspect.place, 0) + suspect.probability
    guilty = [":".join(text for text in truth.place if text) for truth in truths]
    return any(p >= CONDEMNED and not any(_one_within_other(place, g) for g in guilty) for place, p in places.items())


def _one_within_other(place: str, other: str) -> bool:
    """Whether two places are one, or one is a conductor of the part that the other is as a whole."""
    return place == other or place.startswith(f"{other}:") or other.startswith(f"{place}:")


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
