"""The whole of a diagnosis: readings and looks in, suspects, verdict and next test out."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.circuit.reachable import zone_of
from zesty_copper.core.circuit.words import asked_words
from zesty_copper.core.diagnosis.infer.looks import log_inspection_ratio_of
from zesty_copper.core.diagnosis.infer.pairs import two_at_once
from zesty_copper.core.diagnosis.infer.posterior import Posterior, weigh
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Evidence, NextTest, Standing, Stop, Suspect, Verdict
from zesty_copper.core.diagnosis.model.job import Job, PriorFactor, Scope, Tool, Way
from zesty_copper.core.diagnosis.plan.inspection import best_handle, best_look
from zesty_copper.core.diagnosis.plan.next_test import Card, best_card, card_of, separation_bits
from zesty_copper.core.diagnosis.plan.owed import danger_to_confirm, spot_unread, worth_repeating
from zesty_copper.core.diagnosis.plan.particles import Particles, particles_of
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, compile_circuit
from zesty_copper.core.diagnosis.safety.guards import guards_on, guards_on_starts
from zesty_copper.core.diagnosis.safety.stops import stop_for
from zesty_copper.core.diagnosis.tell.evidence import contradictions, evidence_of_looks, evidence_on
from zesty_copper.core.diagnosis.tell.lanes import lane_states
from zesty_copper.core.diagnosis.tell.procedure import card_told, look_told
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.advice import advice_on, in_panel
from zesty_copper.core.faults.catalogue import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import signs

__all__ = ["INSEPARABLE_BITS", "SURE", "diagnose", "why_not"]

SURE = 0.98
"""Probability of one place from which the tool says so and asks no more."""
SURE_OF_NOTHING = 0.95
"""The same of nothing being wrong: it sends no hand anywhere, and what is left is looked for elsewhere first."""
HELD = 0.5
"""Probability that a verdict must keep whichever one reading is struck out: no part is condemned on one number."""
HELD_BY_EYE = 0.2
"""The same where what was seen speaks for the place too: eyes are a second witness."""
SPEAKS_NATS = 1.0
"""How much looks must say for a place to be a witness to it."""
LOOK_MARGIN = 1.5
"""By how much a look must tell more for its time than a number: a verdict needs the numbers anyway."""
SURE_ALONE = 0.95
"""Probability of one place from which it is told where no test is left that tells more: the rest are many and small."""
INSEPARABLE_BITS = 0.05
"""Information below which a test is not worth taking: what is left is not told apart in reasonable time."""
NOTHING_FOUND, NOTHING_BITS = 0.9, 0.2
"""Probability of nothing being wrong from which only a test that tells so much is still worth taking [bit]: what is
left is many and small, and is said beside it."""
TOLD_BESIDE = 6
"""How many of those are named."""
WORTHLESS_BITS = 0.01
"""Information below which not even one more reading towards certainty is worth taking."""
ONE_FAULT = "If it is the only one: measure again after the repair, since a second fault may hide behind the first."
EXPLAINED_SUSPECTS = 6
"""How many suspects get their evidence spelled out."""


@dataclass(frozen=True, eq=False)
class _Weighed:
    """What the readings and looks leave.

    Attributes
    ----------
    by_fault
        (faults,): probability of each.
    places
        (places,): of each place.
    log_inspection_ratio
        (faults,): how much the looks speak for each [nat].
    log_known
        (faults,): how much likelier what is known beforehand, or was found itself, makes each [nat].
    """

    compiled: CompiledCircuit
    posterior: Posterior
    particles: Particles
    by_fault: NDArray[np.float64]
    places: NDArray[np.float64]
    log_inspection_ratio: NDArray[np.float64]
    log_known: NDArray[np.float64]


def _weighed(job: Job) -> _Weighed:
    compiled = compile_circuit(job.circuit)
    findings = [look for look in job.looks if signs()[look.sign].finding]
    log_inspection_ratio = log_inspection_ratio_of(compiled, [look for look in job.looks if look not in findings])
    log_known = _log_known(compiled, job.prior_factors) + log_inspection_ratio_of(compiled, findings)
    posterior = weigh(compiled, job.readings, log_inspection_ratio + log_known)
    if (pairs := two_at_once(compiled, posterior, job.readings)) is not None:
        compiled, posterior = pairs
        log_inspection_ratio = log_known = np.zeros(len(compiled.faults))
    by_fault = posterior.weight.sum(axis=1)
    places = np.bincount(compiled.place, by_fault).astype(float)
    return _Weighed(
        compiled, posterior, particles_of(compiled, posterior), by_fault, places, log_inspection_ratio, log_known
    )


def _log_known(compiled: CompiledCircuit, factors: Sequence[PriorFactor]) -> NDArray[np.float64]:
    """Logarithm of what is known beforehand of each fault, (faults,)."""
    return np.array([sum(math.log(one.factor) for one in factors if _speaks_of(one, f)) for f in compiled.faults])


def _speaks_of(factor: PriorFactor, fault: Fault) -> bool:
    return f"{fault.key}:".startswith(f"{factor.key}:")


def diagnose(job: Job) -> Diagnosis:
    """Rank the suspects, say where the diagnosis stands, and choose the next test.

    Raises
    ------
    NumericalError
        If the circuit's network has no solution.
    """
    starts = tuple(reading for reading in job.readings if not reading.is_steady)
    job = job.model_copy(update={"readings": tuple(reading for reading in job.readings if reading.is_steady)})
    weighed = _weighed(job)
    compiled, posterior, particles = weighed.compiled, weighed.posterior, weighed.particles
    by_fault = weighed.by_fault
    taken = [reading.measurement for reading in job.readings]
    last = taken[-1] if taken else None
    stop = stop_for(
        compiled.circuit, compiled.faults, by_fault, job.readings, job.looks, unwatched=_unwatched(posterior, job)
    )
    owed = danger_to_confirm(job, stop)
    card, standing, carried = (
        (card_of(compiled, particles, owed, taken), Standing.OPEN, False)
        if owed
        else _where_it_stands(weighed, job, stop)
    )
    asked = None if card is None else card_told(compiled, particles, by_fault, card, last, stop=stop)
    if standing in (Standing.OPEN, Standing.INSEPARABLE) and not owed:
        asked = _prefer_inspection(weighed, job, asked, 0.0 if card is None else card.rate, stop)
        standing = Standing.OPEN if asked is not None else standing
    handover = None
    if standing is Standing.INSEPARABLE and not job.scope.panel_may_be_opened:
        handover = _handover(weighed, taken, job.scope, stop)
    order = np.argsort(-by_fault, kind="stable")
    explained = _evidence(weighed, job, order[:EXPLAINED_SUSPECTS].tolist())
    suspects = [
        _suspect(compiled.faults[f], float(by_fault[f]), explained[rank] if rank < EXPLAINED_SUSPECTS else (), job)
        for rank, f in enumerate(order)
    ]
    suspects.append(_suspect(compiled.unlisted, posterior.unlisted, (), job))
    suspects.sort(key=lambda suspect: -suspect.probability)
    return Diagnosis(
        verdict=_verdict(weighed, job, standing, carried=carried),
        suspects=tuple(suspects),
        next_test=asked,
        handover=handover,
        stop=stop,
        guards=(*guards_on(compiled, posterior, job.readings), *guards_on_starts(job.circuit, starts)),
        contradictions=contradictions(compiled, posterior, job.readings),
        lanes=lane_states(compiled, posterior),
    )


def _unwatched(posterior: Posterior, job: Job) -> list[NDArray[np.float64]]:
    """Return the probability of each fault without each thing watched, (faults,)."""
    found = []
    for i, reading in enumerate(job.readings):
        if reading.unit == "run":
            weight = np.exp(posterior.log_without[..., i] - logsumexp(posterior.log_without[..., i]))
            found.append(weight.sum(axis=1))
    return found


def why_not(job: Job, key: str) -> Suspect:
    """Return one suspect with every reading's and look's word on it: what it would have shown instead.

    Raises
    ------
    BadInput
        If the circuit has no such suspect.
    """
    weighed = _weighed(job.model_copy(update={"readings": ()}))
    f = next((i for i, fault in enumerate(weighed.compiled.faults) if fault.key == key), None)
    if f is None:
        raise BadInput("This circuit has no such suspect: choose one from its list.", "key")
    job = job.model_copy(update={"readings": tuple(reading for reading in job.readings if reading.is_steady)})
    # Of single faults, whatever pairs the readings may ask for.
    posterior = weigh(weighed.compiled, job.readings, weighed.log_inspection_ratio + weighed.log_known)
    (evidence,) = _evidence(replace(weighed, posterior=posterior), job, [f])
    return _suspect(weighed.compiled.faults[f], float(posterior.weight[f].sum()), evidence, job)


_Stands = tuple[Card | None, Standing, bool]
"""The next card, the standing, and whether one number, or looks, carry a place that would be sure."""


def _where_it_stands(weighed: _Weighed, job: Job, stop: Stop | None) -> _Stands:
    """Return where the diagnosis stands, and what to do next."""
    compiled, posterior, particles = weighed.compiled, weighed.posterior, weighed.particles
    taken = [reading.measurement for reading in job.readings]
    place = int(weighed.places.argmax())
    if weighed.places[place] >= _bar(compiled, place):
        return _nearly_sure(weighed, job, stop, place)
    card = best_card(compiled, particles, taken, job.scope, stop)
    if posterior.unlisted > 0.5:
        if card is None or card.bits < WORTHLESS_BITS:
            again = worth_repeating(posterior, job, stop, doubt=0.0)
            card = None if again is None else card_of(compiled, particles, [again], taken)
        return card, Standing.UNEXPLAINED, False
    if card is None or _nothing_left(weighed, card, taken, job.scope, stop):
        return _nothing_more(weighed, job, stop, place)
    return card, Standing.OPEN, False


def _nothing_more(weighed: _Weighed, job: Job, stop: Stop | None, place: int) -> _Stands:
    """Return where it stands with no test left: one place if it is far ahead of all others, else a set."""
    ahead = weighed.places[place] >= SURE_ALONE
    if not ahead or _leave_one_out(weighed, place) is not None:
        return None, Standing.INSEPARABLE, False
    if not _holds_without_inspections(weighed.compiled, weighed.posterior, place, weighed.log_inspection_ratio):
        return None, Standing.INSEPARABLE, False
    return _nearly_sure(weighed, job, stop, place)


def _nearly_sure(weighed: _Weighed, job: Job, stop: Stop | None, place: int) -> _Stands:
    """Return what is still owed to a place likely enough to be told: a number struck out, or one that carries it."""
    compiled, particles, log_inspection_ratio = weighed.compiled, weighed.particles, weighed.log_inspection_ratio
    taken = [reading.measurement for reading in job.readings]
    if (again := worth_repeating(weighed.posterior, job, stop)) is not None:
        return card_of(compiled, particles, [again], taken), Standing.OPEN, True
    chief = max(np.flatnonzero(compiled.place == place), key=lambda f: weighed.by_fault[f])
    if unread := spot_unread(job, compiled.faults[int(chief)], stop):
        return card_of(compiled, particles, unread, taken), Standing.OPEN, True
    others = _leave_one_out(weighed, place)
    if others is None and _holds_without_inspections(compiled, weighed.posterior, place, log_inspection_ratio):
        return None, Standing.SURE, False
    left = particles if others is None else particles_of(compiled, others)
    card = best_card(compiled, left, taken, job.scope, stop)
    if card is not None and card.bits >= INSEPARABLE_BITS:
        return card, Standing.OPEN, True
    return None, Standing.SURE if others is not None or not log_inspection_ratio.any() else Standing.INSEPARABLE, False


def _prefer_inspection(
    weighed: _Weighed, job: Job, asked: NextTest | None, rate: float, stop: Stop | None
) -> NextTest | None:
    """Return a look where that tells more for the effort: at a handle, or over a box.

    Along the way it is only the box one is at; where no number tells anything more, only a handle. The rate is that of
    the number by itself, whether or not it is to be recorded for minutes [bit/min].
    """
    last = job.readings[-1].measurement if job.readings else None
    compiled, particles = weighed.compiled, weighed.particles
    # A handle is moved off and on again to prove it: never while something says to leave it off.
    handle = best_handle(compiled, particles, job.looks, last) if stop is None else None
    if handle is not None and handle[1] >= INSEPARABLE_BITS and handle[1] / handle[2] > rate:
        return look_told(particles, *handle)
    if asked is None or Tool.EYES not in job.scope.tools:
        return asked
    look = best_look(compiled, particles, job.looks, last, panel=job.scope.panel_may_be_opened)
    if look is None or look[1] / look[2] <= LOOK_MARGIN * rate:
        return asked
    along = job.scope.way is not Way.FEWEST and asked.measurements
    if along and look[0].zone is not zone_of(compiled.circuit, asked.measurements[0]):
        return asked
    return look_told(particles, *look, stop)


def _holds_without_inspections(
    compiled: CompiledCircuit, posterior: Posterior, place: int, log_inspection_ratio: NDArray[np.float64]
) -> bool:
    """Whether a place keeps half without all that was seen: a look alone never convicts."""
    by_fault = posterior.weight.sum(axis=1) * np.exp(-log_inspection_ratio)
    return bool(by_fault[compiled.place == place].sum() >= HELD * (by_fault.sum() + posterior.unlisted))


def _handover(weighed: _Weighed, taken: Sequence[Measurement], scope: Scope, stop: Stop | None) -> NextTest | None:
    """Return the readings that an electrician should take in the panel; none where they would tell nothing."""
    beyond = scope.model_copy(update={"panel_may_be_opened": True, "way": Way.SOURCE_OUT})
    card = best_card(weighed.compiled, weighed.particles, taken, beyond, stop)
    if card is None or card.bits < INSEPARABLE_BITS:
        return None
    last = taken[-1] if taken else None
    return card_told(weighed.compiled, weighed.particles, weighed.by_fault, card, last, stop=stop)


def _evidence(weighed: _Weighed, job: Job, faults: Sequence[int]) -> list[tuple[Evidence, ...]]:
    """Every reading's and look's word on each of these faults."""
    compiled = weighed.compiled
    read = evidence_on(compiled, weighed.posterior, job.readings, faults)
    if not job.looks or compiled.faults[0].kind is FaultKind.TWO_AT_ONCE:
        return read
    seen = evidence_of_looks(compiled, job.looks, faults)
    return [of_readings + of_looks for of_readings, of_looks in zip(read, seen, strict=True)]


def _nothing_wrong(compiled: CompiledCircuit) -> int | None:
    """Return the place that stands for nothing being wrong; None among pairs of faults."""
    kinds = [fault.kind for fault in compiled.faults]
    return int(compiled.place[kinds.index(FaultKind.NOTHING_WRONG)]) if FaultKind.NOTHING_WRONG in kinds else None


def _bar(compiled: CompiledCircuit, place: int) -> float:
    """Probability of a place from which the tool says so."""
    return SURE_OF_NOTHING if place == _nothing_wrong(compiled) else SURE


def _leave_one_out(weighed: _Weighed, place: int) -> Posterior | None:
    """Return what is left without the one reading that carries a verdict; None where it stands without any of them."""
    compiled, posterior = weighed.compiled, weighed.posterior
    if posterior.outlier.max(initial=0.0) > 0.5:
        return None  # one number is struck out already
    log_weight = posterior.log_without
    weight = np.exp(log_weight - logsumexp(log_weight, axis=(0, 1)))  # (faults, samples, readings)
    held = weight[compiled.place == place].sum(axis=(0, 1))
    i = int(held.argmin())
    seen = weighed.log_inspection_ratio[compiled.place == place].max() >= SPEAKS_NATS
    return None if held[i] >= (HELD_BY_EYE if seen else HELD) else posterior.without(i)


def leading_places(places: NDArray[np.float64], unlisted: float) -> NDArray[np.int64]:
    """Return the fewest places that together are as sure as `SURE`; all of them where that cannot be reached."""
    order = np.argsort(-places, kind="stable")
    needed = int(np.searchsorted(np.cumsum(places[order]), SURE * (1 - unlisted))) + 1
    return order[:needed]


def _nothing_left(weighed: _Weighed, card: Card, taken: Sequence[Measurement], scope: Scope, stop: Stop | None) -> bool:
    """Whether no allowed test tells the leading places apart, whatever it may say about the unlikely rest."""
    # The doubtful rest holds at most 1 - SURE, so it can add no more than its own entropy to what the set may yield.
    rest_bits = 0.3
    if card.bits > INSEPARABLE_BITS + rest_bits:
        return False
    if card.bits < WORTHLESS_BITS:
        return True
    places = weighed.places
    nothing = _nothing_wrong(weighed.compiled)
    if nothing is not None and places[nothing] >= NOTHING_FOUND and card.bits < NOTHING_BITS:
        return True
    named = leading_places(places, 1 - places.sum())
    if len(named) == 1:
        return False  # one place, not yet sure: more readings still settle it
    leading = weighed.particles.among(named)
    return separation_bits(weighed.compiled, leading, taken, scope, stop) < INSEPARABLE_BITS


def _suspect(fault: Fault, probability: float, evidence: tuple[Evidence, ...], job: Job) -> Suspect:
    return Suspect(
        key=fault.key,
        kind=fault.kind,
        part=fault.part,
        leg=fault.leg,
        place=":".join(text for text in fault.place if text),
        words=fault.words,
        probability=probability,
        evidence=evidence,
        likelier_by=tuple(one.reason for one in job.prior_factors if _speaks_of(one, fault)),
    )


def _likeliest_wrong(weighed: _Weighed, job: Job) -> str:
    """Say the reading that the others speak most against."""
    i = int(weighed.posterior.outlier.argmax())
    return asked_words(job.circuit, job.readings[i].measurement)


def _verdict(weighed: _Weighed, job: Job, standing: Standing, *, carried: bool) -> Verdict:
    compiled, posterior, by_fault, places = weighed.compiled, weighed.posterior, weighed.by_fault, weighed.places
    named = leading_places(places, posterior.unlisted) if standing is Standing.INSEPARABLE else [int(places.argmax())]
    members = [int(f) for place in named for f in np.argsort(-by_fault, kind="stable") if compiled.place[f] == place]
    chief = [next(f for f in members if compiled.place[f] == place) for place in named]
    first = compiled.faults[chief[0]]
    probability = float(sum(places[place] for place in named))
    sayings = [compiled.faults[f].words for f in chief]
    reads_dead = all(compiled.faults[f].kind in (FaultKind.SUPPLY_DEAD, FaultKind.NOT_CLOSED) for f in chief)
    prove_meter = "Prove the meter on a known live source. " if reads_dead and job.readings else ""
    match standing:
        case Standing.SURE:
            words = sayings[0] + "."
            advice = advice_on(compiled.circuit, first)
            if first.kind not in (FaultKind.NOTHING_WRONG, FaultKind.TWO_AT_ONCE):
                advice = f"{advice} {ONE_FAULT}"
        case Standing.OPEN:
            words = f"Likeliest so far: {sayings[0]}."
            advice = prove_meter + (
                "One number, or what was seen, carries this: confirm it before you decide."
                if carried
                else "Take the next test before you decide."
            )
        case Standing.INSEPARABLE if first.kind is FaultKind.NOTHING_WRONG:
            more = f"; and {len(sayings) - 1 - TOLD_BESIDE} more" if len(sayings) - 1 > TOLD_BESIDE else ""
            words = f"Nothing found wrong. Not ruled out: {'; '.join(sayings[1 : TOLD_BESIDE + 1])}{more}."
            advice = "Let it run, and measure again when it fails: record the lowest and highest volts meanwhile."
        case Standing.INSEPARABLE:
            words = "The allowed tests do not tell these apart: " + "; ".join(sayings) + "."
            within = any(in_panel(compiled.circuit, compiled.faults[f].part) for f in chief)
            advice = (
                prove_meter + "Hand over to an electrician with these readings: what is left lies towards the panel."
                if within
                else "Make it dead, lock it out, and look at each of these by eye and by ohms."
            )
        case Standing.UNEXPLAINED:
            words, probability, members = "No single fault on the list explains these readings.", posterior.unlisted, []
            again = _likeliest_wrong(weighed, job)
            advice = f"Prove the meter, check the switch states said, and read again: {again}."
    return Verdict(
        standing=standing,
        suspects=tuple(compiled.faults[f].key for f in members) or (compiled.unlisted.key,),
        part=first.part if standing is Standing.SURE else None,
        leg=first.leg if standing is Standing.SURE else None,
        probability=probability,
        words=words,
        advice=advice,
    )
