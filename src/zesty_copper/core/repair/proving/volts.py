"""Volts at the unit, at rest and under load: against the plate, against each other, and for each ampere."""

from collections.abc import Iterator, Mapping

from zesty_copper.core.circuit.parts.ohms import way_ohm
from zesty_copper.core.circuit.unbalance import MOST_VOLTS_PERCENT, unbalance_percent
from zesty_copper.core.repair.proving.items import Judged, NumberAsked, ProofStanding, Subject, at_most
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.words import say

__all__ = ["lost_under_load", "volts"]

PLATE_SHARE = 0.10
"""By how much volts may be off the plate's; common practice, no source."""
MOST_DROP, DESIGN_DROP = 0.05, 0.03
"""Of service and branch together, and of the branch alone (NEC 210.19 and 215.2, informational notes: advice)."""
DRIFT_VOLTS = 2.0
"""By so much the supply itself drifts between two readings; common practice, no source."""
SAG_SLACK_OHM = 0.05
"""What the utility's side and the panel may add to the wire's own ohms; common practice, no source."""


def lost_under_load(numbers: Mapping[ProofKey, float]) -> Iterator[tuple[str, tuple[str, ...], float]]:
    """Where, on which pair, and how much the volts sank from rest to load [% of the volts at rest]."""
    for key, rest_volts in numbers.items():
        load = numbers.get(ProofKey.of("load", key.part_id, *key.lanes)) if key.what == "rest" else None
        if load is not None and rest_volts:
            yield key.part_id, key.lanes, 100 * (rest_volts - load) / rest_volts


def volts(subject: Subject) -> Iterator[NumberAsked]:
    """What is asked of the volts at the unit."""
    rated = [load.load.rated_volts for load in subject.loads if load.load]
    least = (1 - PLATE_SHARE) * (subject.sheet.plate.least_volts or min(rated))
    most = (1 + PLATE_SHARE) * (subject.sheet.plate.most_volts or max(rated))
    must = say("proof.volts_within", least=least, most=most)
    for pair in subject.pairs:
        a, b = pair
        rest = subject.key("rest", a, b)
        yield NumberAsked(
            rest,
            "volts",
            say("proof.volts_at_rest", a=a, b=b),
            "V",
            must,
            lambda value: _within(value, least, most),
        )
        yield NumberAsked(
            subject.key("load", a, b),
            "volts",
            say("proof.volts_under_load", a=a, b=b),
            "V",
            must,
            lambda value, rest=rest: _under_load(value, subject.numbers.get(rest), least, most),  # type: ignore[misc]
        )
        yield from _sag(subject, a, b)
    yield from _unbalance(subject)


def _within(value: float, least: float, most: float) -> Judged:
    if least <= value <= most:
        return Judged(ProofStanding.MET, "")
    return Judged(ProofStanding.NOT_MET, say("proof.volts_out", least=least, most=most))


def _under_load(value: float, rest: float | None, least: float, most: float) -> Judged:
    """Judge volts under load by the plate, and by what was lost since rest."""
    judged = _within(value, least, most)
    if judged.standing is ProofStanding.NOT_MET or not rest:
        return judged
    share = 1 - value / rest
    says = say("proof.drop_is", lost=rest - value, percent=100 * share)
    if share > MOST_DROP:
        return Judged(ProofStanding.NOT_MET, says + " " + say("proof.drop_too_much", percent=100 * MOST_DROP))
    if share > DESIGN_DROP:
        says += " " + say("proof.drop_above_design", percent=100 * DESIGN_DROP)
    return Judged(ProofStanding.MET, says)


def _sag(subject: Subject, a: str, b: str) -> Iterator[NumberAsked]:
    """Volts lost for each ampere: two numbers at the unit and a clamp tell of every joint and wire ahead of it."""
    rest, load = (subject.numbers.get(subject.key(number_name, a, b)) for number_name in ("rest", "load"))
    amps = sum(subject.numbers.get(ProofKey.of("amps", part.id, a), 0.0) for part in subject.loads)
    if rest is None or load is None or not amps:
        return
    lost = rest - load
    expected = sum(way_ohm(subject.circuit, subject.loads[0], lane) for lane in (a, b))
    too_many = lost / amps - expected

    def judge(_: float) -> Judged:
        words = say("proof.sag_is", lost=lost, amps=amps, expected=expected)
        if lost > DRIFT_VOLTS and too_many > max(SAG_SLACK_OHM, expected / 2):
            more = say("proof.sag_too_much", volts=too_many * amps, watts=too_many * amps**2)
            return Judged(ProofStanding.NOT_MET, words + " " + more)
        return Judged(ProofStanding.MET, words)

    key, label = subject.key("sag", a, b), say("proof.sag_per_ampere", a=a, b=b)
    yield NumberAsked(key, "volts", label, "ohm", "", judge, found=max(0.0, lost / amps))


def _unbalance(subject: Subject) -> Iterator[NumberAsked]:
    """How far the volts of three pairs lie apart."""
    volts_typed = [subject.numbers.get(subject.key("load", *pair)) for pair in subject.pairs]
    volts_read = [value for value in volts_typed if value is not None]
    if len(volts_read) != 3 or not any(volts_read):
        return
    yield NumberAsked(
        subject.key("unbalance"),
        "volts",
        say("proof.volts_unbalance"),
        "%",
        say("proof.at_most_percent", percent=MOST_VOLTS_PERCENT),
        at_most(MOST_VOLTS_PERCENT, say("proof.volts_unbalance_out")),
        found=unbalance_percent(volts_read),
    )
