"""The verdict in words, and each suspect as it is shown."""

import numpy as np

from zesty_copper.core.diagnosis.infer.weighed import Weighed, speaks_of
from zesty_copper.core.diagnosis.model.answer import Evidence, Standing, Suspect, Verdict
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.diagnosis.plan.standing import named_places
from zesty_copper.core.faults.catalogue import advice_on
from zesty_copper.core.faults.family import in_panel
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.words import asked_words
from zesty_copper.core.words import say

__all__ = ["ONE_FAULT", "suspect_told", "verdict_told"]

TOLD_BESIDE = 6
"""How many of those are named."""
ONE_FAULT = say("diagnosis.if_only_one_measure")


def suspect_told(fault: Fault, probability: float, evidence: tuple[Evidence, ...], job: Job) -> Suspect:
    """Return a suspect as it is shown."""
    return Suspect(
        key=fault.key,
        kind=fault.kind,
        part=fault.part,
        leg=fault.leg,
        place=":".join(text for text in fault.place if text),
        words=fault.words,
        probability=probability,
        evidence=evidence,
        likelier_by=tuple(factor.reason for factor in job.prior_factors if speaks_of(factor, fault)),
    )


def _likeliest_wrong(weighed: Weighed, job: Job) -> str:
    """Say the reading that the others speak most against."""
    i = int(weighed.posterior.outlier.argmax())
    return asked_words(job.circuit, job.readings[i].measurement)


def verdict_told(weighed: Weighed, job: Job, standing: Standing, *, carried: bool) -> Verdict:
    """Say what the diagnosis comes to, and what to do about it."""
    compiled, posterior, by_fault, places = weighed.compiled, weighed.posterior, weighed.by_fault, weighed.places
    named = named_places(weighed, job) if standing is Standing.INSEPARABLE else [int(places.argmax())]
    members = [int(f) for place in named for f in np.argsort(-by_fault, kind="stable") if compiled.place[f] == place]
    chief = [next(f for f in members if compiled.place[f] == place) for place in named]
    first = compiled.faults[chief[0]]
    probability = float(sum(places[place] for place in named))
    sayings = [compiled.faults[f].words for f in chief]
    reads_dead = all(compiled.faults[f].kind in (FaultKind.SUPPLY_DEAD, FaultKind.NOT_CLOSED) for f in chief)
    prove_meter = say("diagnosis.prove_meter_known_live", meter="") + " " if reads_dead and job.readings else ""
    match standing:
        case Standing.SURE:
            words = sayings[0] + "."
            advice = advice_on(compiled.circuit, first)
            if first.kind not in (FaultKind.NOTHING_WRONG, FaultKind.TWO_AT_ONCE):
                advice = f"{advice} {ONE_FAULT}"
        case Standing.OPEN:
            words = say("diagnosis.most_likely", sayings=sayings[0])
            advice = prove_meter + (
                say("diagnosis.one_number_what_was") if carried else say("diagnosis.take_next_test_before")
            )
        case Standing.INSEPARABLE if first.kind is FaultKind.NOTHING_WRONG:
            further_words = (
                say("diagnosis.and_more_places", count=len(sayings) - 1 - TOLD_BESIDE)
                if len(sayings) - 1 > TOLD_BESIDE
                else ""
            )
            words = say(
                "diagnosis.nothing_found_wrong_not", sayings="; ".join(sayings[1 : TOLD_BESIDE + 1]), more=further_words
            )
            advice = say("diagnosis.let_run_measure_again")
            if job.circuit.supply.unseen_phasors:
                advice = f"{say('diagnosis.neutral_may_hide')} {advice}"
        case Standing.INSEPARABLE:
            words = say("diagnosis.cant_narrow_further_tests", places="; ".join(sayings))
            within = any(in_panel(compiled.circuit, compiled.faults[f].part) for f in chief)
            advice = (
                prove_meter + say("diagnosis.hand_over_electrician_these")
                if within
                else say("diagnosis.make_dead_lock_out")
            )
        case Standing.UNEXPLAINED:
            words, probability, members = say("diagnosis.no_single_fault_list"), posterior.unlisted, []
            again = _likeliest_wrong(weighed, job)
            advice = say("diagnosis.prove_meter_check_switch", again=again)
    return Verdict(
        standing=standing,
        suspects=tuple(compiled.faults[f].key for f in members) or (compiled.unlisted.key,),
        part=first.part if standing is Standing.SURE else None,
        leg=first.leg if standing is Standing.SURE else None,
        probability=probability,
        words=words,
        advice=advice,
    )
