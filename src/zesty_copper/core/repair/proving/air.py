"""Air in and out: what heat should warm it by, what cooling should take from it, and when weather forbids the proof."""

import math
from collections.abc import Callable, Iterator

from zesty_copper.core.circuit.part import Part
from zesty_copper.core.ratings.formulas import air_rise, heat_delivered
from zesty_copper.core.ratings.inputs.sheet import Use
from zesty_copper.core.repair.proving.items import Judged, NumberAsked, ProofStanding, Subject
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.repair.proving.notes import Mode
from zesty_copper.core.words import say

__all__ = ["air"]

SPLITS_F = {Mode.COOLING: (15.0, 22.0), Mode.HEAT_PUMP: (15.0, 35.0)}
"""What air commonly loses across a cooling coil, or gains across a heat pump's [°F]; common practice, no source."""
LEAST_OUTDOOR_F = 60.0
"""Colder than this outside, cooling is not proven; common practice, no source."""
MOST_OUTDOOR_F = 70.0
"""Warmer than this outside, a heat pump's heating is not proven; common practice, no source."""
RISE_SHARE = 0.20
"""By how much the rise may miss what heat and airflow ask; common practice, no source."""
LEAST_RISE_F, MOST_RISE_F = 15.0, 85.0
"""Where the airflow is not known, a rise outside of this is wrong whatever the plate; common practice, no source."""


def air(subject: Subject) -> Iterator[NumberAsked]:
    """What is asked of the air, in each mode that this equipment has."""
    heaters = [load for load in subject.loads if load.entry.is_heat]
    if heaters:
        yield from _heat(subject, heaters)
    if subject.sheet.plate.use is Use.COMPRESSOR:
        yield from _refrigeration(subject)


def _later(words: str) -> Callable[[float], Judged]:
    return lambda _: Judged(ProofStanding.LATER, words)


def _heat(subject: Subject, heaters: list[Part]) -> Iterator[NumberAsked]:
    before, after, flow = (subject.key(number_name) for number_name in ("heat_in", "heat_out", "cfm"))
    yield NumberAsked(before, "air", say("proof.air_in_heat"), "degF")
    yield NumberAsked(after, "air", say("proof.air_out_heat"), "degF")
    yield NumberAsked(flow, "air", say("proof.airflow"), "cfm", say("proof.airflow_if_known"), needed=False)
    temperatures = [subject.numbers.get(proof_key) for proof_key in (before, after)]
    kilowatt = sum(_kilowatt(subject, heater) for heater in heaters)
    if temperatures[0] is None or temperatures[1] is None or not kilowatt:
        return
    cfm = subject.numbers.get(flow)
    key, label = subject.key("rise"), say("proof.rise")
    if cfm:
        expected = float(air_rise(kilowatt, cfm).value)
        must = say("proof.rise_expected", rise=expected, kw=kilowatt, cfm=cfm)
        least, most = (1 - RISE_SHARE) * expected, (1 + RISE_SHARE) * expected
    else:
        must = say("proof.rise_usual", least=LEAST_RISE_F, most=MOST_RISE_F)
        least, most = LEAST_RISE_F, MOST_RISE_F

    def judge(rise: float) -> Judged:
        if rise > most:
            return Judged(ProofStanding.NOT_MET, say("proof.rise_high"))
        if rise < least:
            return Judged(ProofStanding.NOT_MET, say("proof.rise_low"))
        if cfm:
            return Judged(ProofStanding.MET, "")
        flows = kilowatt / float(heat_delivered(rise, 1.0).value)
        return Judged(ProofStanding.MET, say("proof.rise_means_airflow", kw=kilowatt, cfm=flows))

    yield NumberAsked(key, "air", label, "degF", must, judge, found=temperatures[1] - temperatures[0])


def _kilowatt(subject: Subject, heater: Part) -> float:
    """Heat of an element by its measured volts and amps [kW]; 0 where its amps were not read."""
    lanes = subject.lanes_of(heater)
    amps_typed = [subject.numbers.get(ProofKey.of("amps", heater.id, lane)) for lane in lanes]
    amps_read = [value for value in amps_typed if value is not None]
    volts = subject.volts_of(heater) or (heater.load.rated_volts if heater.load else 0.0)
    if not amps_read:
        return 0.0
    return (math.sqrt(3) if len(lanes) == 3 else 1.0) * volts * sum(amps_read) / len(amps_read) / 1000


def _refrigeration(subject: Subject) -> Iterator[NumberAsked]:
    outdoor = subject.key("outdoor")
    before, after = (subject.key(number_name) for number_name in ("air_in", "air_out"))
    yield NumberAsked(outdoor, "air", say("proof.outdoor"), "degF", needed=False)
    degrees = subject.numbers.get(outdoor)
    cools = subject.mode is Mode.COOLING
    if degrees is not None and (degrees < LEAST_OUTDOOR_F if cools else degrees > MOST_OUTDOOR_F):
        words = (
            say("proof.too_cold_to_cool", degrees=degrees, least=LEAST_OUTDOOR_F)
            if cools
            else say("proof.too_warm_to_heat", degrees=degrees, most=MOST_OUTDOOR_F)
        )
        label = say("proof.split_later")
        yield NumberAsked(
            subject.key("later"), "air", label, "degF", "", lambda _: Judged(ProofStanding.LATER, words), found=degrees
        )
        return
    yield NumberAsked(before, "air", say("proof.air_in_coil"), "degF")
    yield NumberAsked(after, "air", say("proof.air_out_coil"), "degF")
    temperatures = [subject.numbers.get(proof_key) for proof_key in (before, after)]
    if temperatures[0] is None or temperatures[1] is None:
        return
    split = temperatures[0] - temperatures[1] if cools else temperatures[1] - temperatures[0]
    least, most = SPLITS_F[subject.mode]

    def judge(value: float) -> Judged:
        if least <= value <= most:
            return Judged(ProofStanding.MET, "")
        words = say("proof.split_low") if value < least else say("proof.split_high")
        return Judged(ProofStanding.NOT_MET, words)

    must = say("proof.split_usual", least=least, most=most)
    yield NumberAsked(subject.key("split"), "air", say("proof.split"), "degF", must, judge, found=split)
