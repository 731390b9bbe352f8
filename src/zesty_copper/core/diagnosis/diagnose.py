"""The whole of a diagnosis: readings in, suspects, verdict and next test out."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.measurement import Measurement, MeterMode
from zesty_copper.core.circuit.model import NEUTRAL, Circuit, Zone
from zesty_copper.core.circuit.words import place_words, state_words
from zesty_copper.core.diagnosis.candidates import zone_of
from zesty_copper.core.diagnosis.evidence import Posterior, weigh
from zesty_copper.core.diagnosis.explain import contradictions, evidence_on, spread
from zesty_copper.core.diagnosis.lanes import lane_states
from zesty_copper.core.diagnosis.model import (
    Diagnosis,
    Evidence,
    Job,
    NextTest,
    Predicted,
    Range,
    Standing,
    Suspect,
    Verdict,
)
from zesty_copper.core.diagnosis.next_test import (
    Card,
    Particles,
    best_card,
    particles_of,
    readings_of,
    separation_bits,
)
from zesty_copper.core.diagnosis.study import Study, study_of
from zesty_copper.core.diagnosis.two_faults import two_at_once
from zesty_copper.core.faults.catalogue import Fault
from zesty_copper.core.faults.kinds import FaultKind

__all__ = ["INSEPARABLE_BITS", "SURE", "diagnose"]

SURE = 0.95
"""Probability of one place from which the tool says so and asks no more."""
INSEPARABLE_BITS = 0.1
"""Information below which a test is not worth taking: what is left is not told apart in reasonable time."""
WORTHLESS_BITS = 0.01
"""Information below which not even one more reading towards certainty is worth taking."""
EXPLAINED_SUSPECTS = 6
"""How many suspects get their evidence spelled out."""


def diagnose(job: Job) -> Diagnosis:
    """Rank the suspects, say where the diagnosis stands, and choose the next test.

    Raises
    ------
    NumericalError
        If the circuit's network has no solution.
    """
    study = study_of(job.circuit)
    panel = job.scope.panel_may_be_opened
    posterior = weigh(study, job.readings)
    if (pairs := two_at_once(study, posterior, job.readings)) is not None:
        study, posterior = pairs
    by_fault = posterior.weight.sum(axis=1)
    places = np.bincount(study.place, by_fault).astype(float)
    taken = [reading.measurement for reading in job.readings]
    card: Card | None = None
    particles = particles_of(study, posterior)
    standing = Standing.UNEXPLAINED if posterior.unlisted > 0.5 else Standing.OPEN
    if places.max() >= SURE:
        standing = Standing.SURE
    else:
        card = best_card(study, particles, taken, panel=panel)
        if standing is Standing.OPEN and (
            card is None or _nothing_left(study, particles, places, card, taken, panel=panel)
        ):
            standing, card = Standing.INSEPARABLE, None
    order = np.argsort(-by_fault, kind="stable")
    explained = evidence_on(study, posterior, job.readings, order[:EXPLAINED_SUSPECTS].tolist())
    suspects = [
        _suspect(study.faults[f], float(by_fault[f]), explained[rank] if rank < EXPLAINED_SUSPECTS else ())
        for rank, f in enumerate(order)
    ]
    suspects.append(_suspect(study.unlisted, posterior.unlisted, ()))
    suspects.sort(key=lambda suspect: -suspect.probability)
    return Diagnosis(
        verdict=_verdict(study, standing, by_fault, places, posterior),
        suspects=tuple(suspects),
        next_test=None if card is None else _next_test(study, particles, by_fault, card, taken[-1] if taken else None),
        contradictions=contradictions(study, posterior, job.readings),
        lanes=lane_states(study, posterior),
    )


def leading_places(places: NDArray[np.float64], unlisted: float) -> NDArray[np.int64]:
    """Return the fewest places that together are as sure as `SURE`; all of them where that cannot be reached."""
    order = np.argsort(-places, kind="stable")
    needed = int(np.searchsorted(np.cumsum(places[order]), SURE * (1 - unlisted))) + 1
    return order[:needed]


def _nothing_left(
    study: Study,
    particles: Particles,
    places: NDArray[np.float64],
    card: Card,
    taken: Sequence[Measurement],
    *,
    panel: bool,
) -> bool:
    """Whether no allowed test tells the leading places apart, whatever it may say about the unlikely rest."""
    # The doubtful rest holds at most 1 - SURE, so it can add no more than its own entropy to what the set may yield.
    rest_bits = 0.3
    if card.bits > INSEPARABLE_BITS + rest_bits:
        return False
    if card.bits < WORTHLESS_BITS:
        return True
    named = leading_places(places, 1 - places.sum())
    if len(named) == 1:
        return False  # one place, not yet sure: more readings still settle it
    leading = particles.among(named)
    return separation_bits(study, leading, taken, panel=panel) < INSEPARABLE_BITS


def _suspect(fault: Fault, probability: float, evidence: tuple[Evidence, ...]) -> Suspect:
    return Suspect(
        key=fault.key,
        kind=fault.kind,
        part=fault.part,
        leg=fault.leg,
        place=":".join(text for text in fault.place if text),
        words=fault.words,
        probability=probability,
        evidence=evidence,
    )


def _verdict(
    study: Study,
    standing: Standing,
    by_fault: NDArray[np.float64],
    places: NDArray[np.float64],
    posterior: Posterior,
) -> Verdict:
    named = leading_places(places, posterior.unlisted) if standing is Standing.INSEPARABLE else [int(places.argmax())]
    members = [int(f) for place in named for f in np.argsort(-by_fault, kind="stable") if study.place[f] == place]
    chief = [next(f for f in members if study.place[f] == place) for place in named]
    first = study.faults[chief[0]]
    probability = float(sum(places[place] for place in named))
    sayings = [study.faults[f].words for f in chief]
    match standing:
        case Standing.SURE:
            words = sayings[0] + "."
            advice = _advice(study.circuit, first)
        case Standing.OPEN:
            words = f"Likeliest so far: {sayings[0]}."
            advice = "Take the next test before you decide."
        case Standing.INSEPARABLE:
            words = "The allowed tests do not tell these apart: " + "; ".join(sayings) + "."
            dead = {study.faults[f].kind for f in chief} <= {FaultKind.SUPPLY_DEAD, FaultKind.NOT_CLOSED}
            within = any(_in_panel(study.circuit, study.faults[f].part) for f in chief)
            advice = (
                ("Prove the meter on a known live source. " if dead else "")
                + "Hand over to an electrician with these readings: what is left lies towards the panel."
                if within
                else "Make it dead, lock it out, and look at each of these by eye and by ohms."
            )
        case Standing.UNEXPLAINED:
            words, probability, members = "No single fault on the list explains these readings.", posterior.unlisted, []
            advice = "Prove the meter, check the switch states said, and read the doubtful ones again."
    return Verdict(
        standing=standing,
        suspects=tuple(study.faults[f].key for f in members) or (study.unlisted.key,),
        part=first.part if standing is Standing.SURE else None,
        leg=first.leg if standing is Standing.SURE else None,
        probability=probability,
        words=words,
        advice=advice,
    )


def _in_panel(circuit: Circuit, part_id: str | None) -> bool:
    """Whether a fault is reached in the panel, or before it; the branch wires begin there."""
    return part_id is None or circuit.part(part_id).zone is Zone.PANEL


def _advice(circuit: Circuit, fault: Fault) -> str:  # noqa: PLR0911, PLR0912 - one for each kind
    part = circuit.part(fault.part) if fault.part else None
    at_source = part is not None and part.entry.role is Role.SOURCE
    match fault.kind:
        case FaultKind.TWO_AT_ONCE:
            return "No single fault explains it. Switch off, lock out, prove dead; mend one and measure again."
        case FaultKind.NOTHING_WRONG:
            return "The supply is good as far as it was measured under load: look beyond it."
        case FaultKind.SUPPLY_DEAD:
            return "Prove the meter on a known live source. Then leave it off and call an electrician or the utility."
        case FaultKind.OPEN | FaultKind.RESISTIVE | FaultKind.INTERMITTENT if at_source and fault.leg == NEUTRAL:
            return (
                "Stop: a failing service neutral burns what it feeds. Main off, and the utility or an electrician now."
            )
        case FaultKind.PRIMARY_LOST:
            return "Stop every three-phase motor at once: it is burning. Leave it off and call the utility."
        case FaultKind.SAME_LEG | FaultKind.SUPPLY_LOW | FaultKind.WRONG_SUPPLY | FaultKind.HIGH_LEG:
            return "This lies ahead of the branch: leave it off and call an electrician or the utility."
        case FaultKind.CROSSED:
            return "Stop: kill it at the panel before anyone touches a control wire. Suspect the thermostat too."
        case FaultKind.BRIDGED:
            return "Two supplies feed this box: open and lock both, and prove every conductor dead before hands go in."
        case FaultKind.NOT_CLOSED:
            return "Prove the meter, then find out why it is not closed: one reset at most onto an unexplained trip."
        case FaultKind.SHORT | FaultKind.LOAD_GROUND:
            return "Do not reset it again: off, locked and proved dead, then find by ohms what touches, piece by piece."
        case FaultKind.STALLED:
            return "Stop it at once: a motor that stands burns. Then find out what holds it or keeps it from starting."
        case _ if _in_panel(circuit, fault.part):
            return "Inside the panel: an electrician's work unless you are licensed for it. Leave it off."
        case _:
            return (
                "Switch off, lock out, prove dead on every conductor, then open it up and confirm by eye and by ohms."
            )


def _next_test(
    study: Study,
    particles: Particles,
    by_fault: NDArray[np.float64],
    card: Card,
    last: Measurement | None,
) -> NextTest:
    circuit = study.circuit
    state = card.measurements[0].open_switches
    mean, deviation = readings_of(study, particles, card.measurements)
    predictions: list[Predicted] = []
    for f in np.argsort(-by_fault, kind="stable")[:EXPLAINED_SUSPECTS]:
        fault = study.faults[f]
        mine = particles.fault == f
        if by_fault[f] < 0.01 or not mine.any():
            continue
        times = [mine & (particles.row == row) for row in dict.fromkeys((int(study.row[f]), study.healthy))]
        ranges = tuple(
            _distinct(
                [
                    spread(mean[at, c], deviation[at, c], particles.weight[at], measurement.unit)
                    for at in times
                    if at.any()
                ]
            )
            for c, measurement in enumerate(card.measurements)
        )
        _add_alike(predictions, Predicted(suspects=(fault.key,), words=(fault.words,), ranges=ranges))
    label_mass = np.bincount(particles.label, particles.weight)
    label_mass = label_mass[label_mass > 0]
    return NextTest(
        measurements=card.measurements,
        words=tuple(
            place_words(circuit, m.place) + (", meter in LoZ" if m.meter is MeterMode.LO_Z else "")
            for m in card.measurements
        ),
        state=state_words(circuit, state),
        steps=_steps(circuit, last.open_switches if last else frozenset(), state),
        bits=card.bits,
        doubt_bits=float(-(label_mass * np.log2(label_mass)).sum()),
        minutes=card.minutes,
        predictions=tuple(predictions),
        caution=_caution(circuit, card.measurements[0]),
    )


def _add_alike(groups: list[Predicted], one: Predicted) -> None:
    """Put a prediction to those it would be read alike with; their ranges grow to hold it."""
    for i, group in enumerate(groups):
        pairs = list(zip(group.ranges, one.ranges, strict=True))
        if all(len(a) == len(b) and all(_alike(x, y) for x, y in zip(a, b, strict=True)) for a, b in pairs):
            groups[i] = Predicted(
                suspects=group.suspects + one.suspects,
                words=group.words + one.words,
                ranges=tuple(
                    tuple(Range(low=min(x.low, y.low), high=max(x.high, y.high)) for x, y in zip(a, b, strict=True))
                    for a, b in pairs
                ),
            )
            return
    groups.append(one)


def _alike(a: Range, b: Range) -> bool:
    """Whether two ranges share more than half of what they cover together; a volt is added for the meter's digits."""
    shared = min(a.high, b.high) - max(a.low, b.low) + 1
    return shared > 0.5 * (max(a.high, b.high) - min(a.low, b.low) + 1)


def _distinct(ranges: list[Range]) -> tuple[Range, ...]:
    """Drop a range that lies within another's reach."""
    kept: list[Range] = []
    for one in ranges:
        if not any(one.low <= other.high and other.low <= one.high for other in kept):
            kept.append(one)
    return tuple(kept)


def _steps(circuit: Circuit, before: frozenset[str], after: frozenset[str]) -> tuple[str, ...]:
    """Say the switches to move: open from the load up, close from the source down, so never under load."""
    opened = [f"{s.name}: {s.open}" for s in reversed(circuit.switches) if s.id in after - before]
    closed = [f"{s.name}: {s.closed}" for s in circuit.switches if s.id in before - after]
    return tuple(opened + closed)


def _caution(circuit: Circuit, measurement: Measurement) -> str:
    if zone_of(circuit, measurement) is Zone.PANEL:
        return "Inside the panel only if you are licensed for it: its lugs stay live with the breaker off."
    if measurement.unit == "A":
        return "One conductor alone in the jaws; keep hands clear of what turns."
    if measurement.open_switches:
        return "An open switch does not prove dead: treat every point as live until the meter says otherwise."
    return "Live at both probes: meter proved first, one probe clipped, one in hand."
