"""Running cases and scoring them."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from benchmarks.diagnosis.circuits import drawn
from benchmarks.diagnosis.habits import run_habit
from benchmarks.diagnosis.world import Oddity, World
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Diagnosis, LookAsked, Standing, Stop
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.plan.inspection import HANDLE
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.watching import HUMS
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import Tool

CAP = 25
CONDEMNED = 0.90
SOUND = {FaultKind.NOTHING_WRONG, FaultKind.NONE_OF_THESE}


@dataclass
class Outcome:
    """How one case went."""

    circuit: str
    truth: tuple[Fault, ...]
    odd: str
    answer: str
    one_right: bool
    """One place was told, and it is the truth's."""
    right: bool
    """That, or a set of places that cannot be told apart, the truth's among them."""
    wrong: bool
    """One place that is not the truth's, or a set without it."""
    kind_right: bool
    standing: str
    places: int
    """How many places were told."""
    readings: int
    minutes: float
    held_sound_guilty: bool
    log_score: float
    dangerous: bool
    stopped_in_time: bool | None
    """Whether the card stood when the second reading that shows the danger was in; none where two never did."""
    stopped_in_one_go: bool | None
    """The same once the test was through that asked for this second reading: legs are clamped in one go."""
    false_stop: bool
    said: list[tuple[float, bool]] = field(default_factory=list)
    """Every probability given to every suspect after every reading, and whether it was the truth."""
    place_said: list[tuple[float, bool]] = field(default_factory=list)
    """The probability of the leading place after every reading, and whether it was the truth's."""


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
    MISREAD = "by prior, one taken in another state or place"
    ODD = "nothing that is listed"


RUN = 10
"""Cases in a row on one circuit, so that each is made ready once."""


def draw_truth(circuit: Circuit, rng: np.random.Generator, *, uniform: bool) -> Fault:
    """Draw the fault: by its prior, or every entry of part × leg × kind alike."""
    faults = [fault for fault in faults_of(circuit) if fault.kind is not FaultKind.NONE_OF_THESE]
    if uniform:
        return faults[rng.integers(len(faults))]
    prior = np.array([fault.prior for fault in faults])
    return faults[rng.choice(len(faults), p=prior / prior.sum())]


def circuit_of(seed: int, case: int, among: Sequence[str] = ()) -> Circuit:
    """The circuit of a case: one of those named; else every other run one that is shipped, or one from dice."""
    number = case // RUN
    if among:
        return ready_made()[among[number % len(among)]]
    shipped = list(ready_made().values())
    return shipped[number // 2 % len(shipped)] if number % 2 == 0 else drawn(seed + number)


def world_of(seed: int, case: int, way: Way, among: Sequence[str] = ()) -> World:
    """The world of one case; the same whatever is allowed."""
    rng = np.random.default_rng([seed, case, list(Way).index(way)])
    circuit = circuit_of(seed, case, among)
    if way is Way.ODD:
        nothing = next(fault for fault in faults_of(circuit) if fault.kind is FaultKind.NOTHING_WRONG)
        world = World(circuit, nothing, rng)
        world.make_odd(list(Oddity)[case % len(Oddity)])
        return world
    first = draw_truth(circuit, rng, uniform=way is Way.UNIFORM)
    if way is not Way.TWO_FAULTS:
        return World(circuit, first, rng)
    while True:
        pair = [draw_truth(circuit, rng, uniform=False) for _ in range(2)]
        if pair[0].place != pair[1].place and FaultKind.NOTHING_WRONG not in {fault.kind for fault in pair}:
            return World(circuit, pair, rng)


def misplaced(world: World, measurement: Measurement, rng: np.random.Generator) -> Measurement:
    """The same reading as it was not meant: in another state of the switches, or one point further on."""
    circuit, place = world.circuit, measurement.place
    if rng.random() < 0.5 or not isinstance(place, Between):
        states = [one for one in reachable_states(circuit) if one != measurement.open_switches]
        state = states[rng.integers(len(states))] if states and measurement.unit in "VA" else measurement.open_switches
        return measurement.model_copy(update={"open_switches": state})
    lane, part = circuit.split_point(place.a)
    ahead = circuit.upstream_point(part, lane)
    moved = place.model_copy(update={"a": ahead}) if ahead and ahead != place.b else place
    return measurement.model_copy(update={"place": moved})


def is_dangerous(circuit: Circuit, fault: Fault) -> bool:
    """Whether going on hurts somebody or ruins a motor."""
    if fault.kind in (FaultKind.PRIMARY_LOST, FaultKind.STALLED, FaultKind.REVERSED):
        return True
    if fault.kind is FaultKind.LOAD_OPEN:
        return circuit.part(fault.part or "").kind == "three_phase_motor"
    if fault.kind in (FaultKind.CROSSED, FaultKind.BRIDGED):
        return not fault.opens
    if fault.kind not in (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT) or fault.part is None:
        return False
    part = circuit.part(fault.part)
    if fault.leg == NEUTRAL:
        return part is circuit.series[0]
    motors = [m for m in circuit.loads if m.kind == "three_phase_motor" and part in circuit.path(m)]
    return fault.leg != GROUND and any(fault.leg in circuit.lanes_of(m) for m in motors)


def _tripped_danger(world: World) -> bool:
    """Whether a crossing has tripped its breaker, or a fuse blew on one leg of a three-phase motor."""
    crossed = any(fault.kind in (FaultKind.CROSSED, FaultKind.BRIDGED) for fault in world.faults)
    motors = [load for load in world.circuit.loads if load.kind == "three_phase_motor"]
    blown = [world.circuit.part(part) for part, _ in world.tripped]
    return crossed or any(fuse.switch is None and fuse in world.circuit.path(m) for fuse in blown for m in motors)


def shows(healthy: float, value: float, unit: str, volts: float) -> bool:
    """Whether a reading differs from what a sound circuit would show by more than meters and supplies stray."""
    if unit == "V":
        return abs(value - healthy) > max(0.08 * volts, 5.0 if healthy < 40 else 0.0)
    return unit == "A" and abs(value - healthy) > max(2.0, 0.35 * healthy)


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


@dataclass
class _StopCard:
    """Whether the stop card comes when it must, and only then."""

    dangerous: bool
    spared: bool
    """Whether a card is neither due nor false: line voltage had reached the controls until it tripped, or what tripped
    has lost a motor its leg."""
    shown: int = 0
    """How many readings have shown that something is wrong."""
    stands: bool = False
    in_time: bool | None = None
    in_one_go: bool | None = None
    false: bool = False

    def at_answer(self, stop: Stop | None) -> None:
        """Judge an answer between two tests."""
        if self.in_one_go is None and (self.shown >= 2 or (self.shown and stop is not None)):
            self.in_one_go = stop is not None
        if stop is None:
            return
        if self.in_time is None and self.shown:
            self.in_time = True
        if self.spared:
            return
        by_telephone = stop.suspect is None and not stop.readings
        # Whatever starves it, a motor that stands and hums burns.
        burns = self.stands and (stop.suspect or "").startswith(str(FaultKind.STALLED))
        self.false |= not self.dangerous and not by_telephone and not burns

    def at_reading(self, job: Job) -> None:
        """Judge at the very number that shows it a second time, though the test may ask for more in one go."""
        if self.dangerous and self.shown >= 2 and self.in_time is None:
            self.in_time = diagnose(job).stop is not None

    def told(self, found: bool | None) -> bool | None:
        """Return a finding; none where two readings never showed the danger."""
        return found if self.dangerous and self.shown >= 2 else None


def run_case(
    seed: int,
    case: int,
    *,
    way: Way,
    panel: bool,
    technician: Technician = Technician.VOLTS_AND_AMPS,
    among: Sequence[str] = (),
) -> Outcome:
    """Let the next-test rule choose until it is sure, gives up, or reaches the cap."""
    world = world_of(seed, case, way, among)
    twin, circuit = world.healthy(), world.circuit
    truths = {truth.key for truth in world.faults}
    true_places = {":".join(text for text in truth.place if text) for truth in world.faults}
    rng = np.random.default_rng([seed, case, 99])
    slip = int(rng.integers(4)) if way in (Way.MISTYPED, Way.MISREAD) else -1
    readings: list[Reading] = []
    # What is told on the telephone costs no time.
    looks = world.told() if technician is Technician.WHOLE else []
    minutes, held_guilty = 0.0, False
    dangerous = any(is_dangerous(circuit, truth) for truth in world.faults) and way is not Way.ODD
    card = _StopCard(dangerous, spared=not dangerous and _tripped_danger(world))
    scope = Scope(panel_may_be_opened=panel, tools=TOOLS[technician])
    said: list[tuple[float, bool]] = []
    place_said: list[tuple[float, bool]] = []
    job = Job(circuit=circuit, looks=tuple(looks), scope=scope)
    while True:
        job = job.model_copy(update={"readings": tuple(readings), "looks": tuple(looks)})
        answer = diagnose(job)
        if readings or looks:
            said += [(suspect.probability, set(suspect.key.split("+")) <= truths) for suspect in answer.suspects]
            place_said.append(_leading(answer, true_places))
            held_guilty |= _holds_sound_guilty(answer, world.faults)
        card.at_answer(answer.stop)
        if answer.next_test is None or _numbers(readings) >= CAP:
            break
        minutes += answer.next_test.minutes
        if (asked := answer.next_test.look) is not None:
            looks += looked(world, asked, len(looks))
            continue
        for measurement in answer.next_test.measurements[: CAP - _numbers(readings)]:
            taken = misplaced(world, measurement, rng) if way is Way.MISREAD and len(readings) == slip else measurement
            value = world.read(taken)
            card.stands |= measurement.unit == "run" and value == HUMS
            value = mistype(value, taken.unit, rng) if way is Way.MISTYPED and len(readings) == slip else value
            card.shown += shows(twin.read(measurement), value, measurement.unit, circuit.highest_volts)
            readings.append(Reading(id=str(len(readings)), measurement=measurement, value=value, unit=measurement.unit))
            card.at_reading(job.model_copy(update={"readings": tuple(readings)}))
    verdict = answer.verdict
    told = list(dict.fromkeys(s.place for s in answer.suspects if s.key in verdict.suspects))
    named = {key for keys in verdict.suspects for key in keys.split("+")}
    settled = verdict.standing in (Standing.SURE, Standing.INSEPARABLE)
    hit = bool(true_places & set(told) or truths & named)
    # Nothing found is one thing told, whatever else is named as not ruled out.
    nothing = str(FaultKind.NOTHING_WRONG)
    alone = verdict.standing is Standing.SURE or (verdict.suspects[:1] == (nothing,) and nothing in truths)
    return Outcome(
        circuit=circuit.name,
        truth=world.faults,
        odd=str(list(Oddity)[case % len(Oddity)]) if way is Way.ODD else "",
        answer=f"{answer.suspects[0].key} {answer.suspects[0].probability:.2f}",
        one_right=settled and alone and hit,
        right=settled and hit,
        wrong=settled and not hit,
        kind_right=verdict.standing is Standing.SURE and set(answer.suspects[0].key.split("+")) <= truths,
        standing=verdict.standing,
        places=len(told),
        readings=_numbers(readings),
        minutes=minutes,
        held_sound_guilty=held_guilty,
        log_score=float(
            np.log2(max(sum(s.probability for s in answer.suspects if set(s.key.split("+")) <= truths), 1e-12))
        ),
        dangerous=card.dangerous,
        stopped_in_time=card.told(card.in_time),
        stopped_in_one_go=card.told(card.in_one_go),
        false_stop=card.false,
        said=said,
        place_said=place_said,
    )


def _leading(answer: Diagnosis, true_places: set[str]) -> tuple[float, bool]:
    """The likeliest place, and whether it is the truth's."""
    shares: dict[str, float] = {}
    for suspect in answer.suspects:
        shares[suspect.place] = shares.get(suspect.place, 0.0) + suspect.probability
    place = max(shares, key=lambda share: shares[share])
    return shares[place], place in true_places


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
