"""The whole of a diagnosis: readings and looks in, suspects, verdict and next test out."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.diagnosis.infer.posterior import Posterior, weigh
from zesty_copper.core.diagnosis.infer.weighed import Weighed, weigh_job
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Evidence, NextTest, Stop, Suspect, Verdict
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.diagnosis.plan.next_test import Card
from zesty_copper.core.diagnosis.plan.outcomes import CardOutcome, outcomes_of
from zesty_copper.core.diagnosis.plan.particles import Particles, particles_of
from zesty_copper.core.diagnosis.plan.standing import NextStep, first_standing, next_step
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.states import state_of
from zesty_copper.core.diagnosis.safety.guards import guards_on, guards_on_starts
from zesty_copper.core.diagnosis.safety.stops import stop_for
from zesty_copper.core.diagnosis.safety.stray_volts import not_cleared
from zesty_copper.core.diagnosis.tell.evidence import contradictions, evidence_of_looks, evidence_on
from zesty_copper.core.diagnosis.tell.lanes import lane_states
from zesty_copper.core.diagnosis.tell.procedure import card_told, look_told
from zesty_copper.core.diagnosis.tell.verdict import suspect_told, verdict_told
from zesty_copper.core.faults.fault import no_suspect
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.kinds.watching import Watching

__all__ = ["Foreseen", "anticipate", "diagnose", "first_answer", "foresee", "stop_at", "why_not"]

EXPLAINED_SUSPECTS = 6
"""How many suspects get their evidence spelled out."""


def diagnose(job: Job) -> Diagnosis:
    """Rank the suspects, say where the diagnosis stands, and choose the next test.

    Raises
    ------
    NumericalError
        If the circuit's network has no solution.
    """
    weighed, stop = _weighed(job)
    particles = particles_of(weighed.compiled, weighed.posterior)
    step = next_step(weighed, particles, _steady(job), stop)
    return _told(job, weighed, stop, step, particles)


def first_answer(job: Job) -> Diagnosis:
    """Return what the readings say, at once: `diagnose` adds the test that follows, and whether one is left.

    Raises
    ------
    NumericalError
        If the circuit's network has no solution.
    """
    weighed, stop = _weighed(job)
    return _told(job, weighed, stop, NextStep(first_standing(weighed, _steady(job), stop)), None)


@dataclass(frozen=True)
class Foreseen:
    """What would be said of a job, without its reasons, and how the test that follows may come out.

    Attributes
    ----------
    suspected
        Every fault, in no order, without evidence.
    outcomes
        Of the next test's numbers; none where there is no next test, or it is a look.
    """

    verdict: Verdict
    suspected: tuple[Suspect, ...]
    stop: Stop | None
    next_test: NextTest | None
    outcomes: tuple[CardOutcome, ...]


def foresee(job: Job, least: float) -> Foreseen:
    """Diagnose what has not been read yet: the same verdict, stop and next test as `diagnose`, in less time.

    Parameters
    ----------
    least
        Outcomes of the next test that are less likely are left out.

    Raises
    ------
    NumericalError
        If the circuit's network has no solution.
    """
    weighed, stop = _weighed(job)
    compiled, steady = weighed.compiled, _steady(job)
    particles = particles_of(compiled, weighed.posterior)
    step = next_step(weighed, particles, steady, stop)
    card = step.card if step.look is None else None
    return Foreseen(
        verdict=verdict_told(weighed, steady, step.standing, carried=step.carried),
        suspected=(
            *(suspect_told(fault, float(weighed.by_fault[f]), (), job) for f, fault in enumerate(compiled.faults)),
            suspect_told(compiled.unlisted, weighed.posterior.unlisted, (), job),
        ),
        stop=stop,
        next_test=_test_told(weighed, steady, stop, step, particles),
        outcomes=() if card is None else tuple(outcomes_of(compiled, particles, card.measurements, least)),
    )


def stop_at(job: Job) -> Stop | None:
    """Return what stops the work, alone."""
    return _weighed(job)[1]


def anticipate(job: Job, diagnosis: Diagnosis) -> None:
    """Make ready for the next reading while somebody walks there: the circuit's states, and what is asked."""
    compiled = _weighed(job)[0].compiled
    for state in reachable_states(compiled.circuit):
        state_of(compiled, state)
    for measurement in diagnosis.next_test.measurements if diagnosis.next_test is not None else ():
        predict(compiled, measurement)


def why_not(job: Job, key: str) -> Suspect:
    """Return one suspect with every reading's and look's word on it: what it would have shown instead.

    Raises
    ------
    BadInput
        If the circuit has no such suspect.
    """
    weighed = weigh_job(job.model_copy(update={"readings": ()}))
    f = next((i for i, fault in enumerate(weighed.compiled.faults) if fault.key == key), None)
    if f is None:
        raise no_suspect("key")
    job = _steady(job)
    # Of single faults, whatever pairs the readings may ask for.
    posterior = weigh(weighed.compiled, job.readings, weighed.log_inspection_ratio + weighed.log_known)
    (evidence,) = _evidence(replace(weighed, posterior=posterior), job, [f])
    return suspect_told(weighed.compiled.faults[f], float(posterior.weight[f].sum()), evidence, job)


def _steady(job: Job) -> Job:
    """Return the job with the readings that stand: starts are judged apart, and a danger that was cleared is past."""
    steady = [reading for reading in job.readings if reading.is_steady]
    return job.model_copy(update={"readings": not_cleared(job.circuit, steady)})


def _weighed(job: Job) -> tuple[Weighed, Stop | None]:
    """Weigh a job's suspects, and find what stops the work."""
    job = _steady(job)
    weighed = weigh_job(job)
    unwatched = _unwatched(weighed.posterior, job)
    compiled = weighed.compiled
    stop = stop_for(compiled.circuit, compiled.faults, weighed.by_fault, job.readings, job.looks, unwatched=unwatched)
    return weighed, stop


def _unwatched(posterior: Posterior, job: Job) -> list[NDArray[np.float64]]:
    """Return the probability of each fault without each thing watched, (faults,)."""
    by_fault = []
    for i, reading in enumerate(job.readings):
        if isinstance(reading.measurement.place, Watching):
            weight = np.exp(posterior.log_without[..., i] - logsumexp(posterior.log_without[..., i]))
            by_fault.append(weight.sum(axis=1))
    return by_fault


def _told(job: Job, weighed: Weighed, stop: Stop | None, step: NextStep, particles: Particles | None) -> Diagnosis:
    """Put a diagnosis into words; without particles the next test is still to come."""
    compiled, posterior = weighed.compiled, weighed.posterior
    starts = tuple(reading for reading in job.readings if not reading.is_steady)
    job = _steady(job)
    order = np.argsort(-weighed.by_fault, kind="stable")
    explained = _evidence(weighed, job, order[:EXPLAINED_SUSPECTS].tolist())
    suspects = [
        suspect_told(
            compiled.faults[f],
            float(weighed.by_fault[f]),
            explained[rank] if rank < EXPLAINED_SUSPECTS else (),
            job,
        )
        for rank, f in enumerate(order)
    ]
    suspects.append(suspect_told(compiled.unlisted, posterior.unlisted, (), job))
    suspects.sort(key=lambda suspect: -suspect.probability)
    return Diagnosis(
        verdict=verdict_told(weighed, job, step.standing, carried=step.carried),
        suspects=tuple(suspects),
        planning=particles is None,
        next_test=None if particles is None else _test_told(weighed, job, stop, step, particles),
        handover=_card_told(weighed, job, stop, step.handover, particles),
        stop=stop,
        guards=(*guards_on(compiled, posterior, job.readings), *guards_on_starts(job.circuit, starts)),
        contradictions=contradictions(compiled, posterior, job.readings),
        lanes=lane_states(compiled, posterior),
    )


def _test_told(weighed: Weighed, job: Job, stop: Stop | None, step: NextStep, particles: Particles) -> NextTest | None:
    """Put the next test into words: a look, or a card."""
    if step.look is None:
        return _card_told(weighed, job, stop, step.card, particles)
    return look_told(particles, *step.look, stop)


def _card_told(
    weighed: Weighed, job: Job, stop: Stop | None, card: Card | None, particles: Particles | None
) -> NextTest | None:
    if card is None or particles is None:
        return None
    last = job.readings[-1].measurement if job.readings else None
    return card_told(weighed.compiled, particles, weighed.by_fault, card, last, stop=stop)


def _evidence(weighed: Weighed, job: Job, faults: Sequence[int]) -> list[tuple[Evidence, ...]]:
    """Every reading's and look's word on each of these faults."""
    compiled = weighed.compiled
    read = evidence_on(compiled, weighed.posterior, job.readings, faults)
    if not job.looks or compiled.faults[0].kind is FaultKind.TWO_AT_ONCE:
        return read
    seen = evidence_of_looks(compiled, job.looks, faults)
    return [of_readings + of_looks for of_readings, of_looks in zip(read, seen, strict=True)]
