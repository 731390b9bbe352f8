"""Amps of each conductor alone: against the plate, steady or climbing, the start, and three legs among each other."""

from collections.abc import Iterator
from dataclasses import dataclass

from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.loads import LoadData
from zesty_copper.core.circuit.unbalance import MOST_AMPS_PERCENT, unbalance_percent
from zesty_copper.core.load_test.tell import OVER_PLATE, SETTLES_S
from zesty_copper.core.repair.proving.items import Judged, NumberAsked, ProofStanding, Subject, at_most
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.words import say

__all__ = ["amps", "starts"]

ELEMENT_SHARE = 0.10
"""By how much an element's amps may be off what its volts ask; common practice, no source."""
UNLOADED = 0.40
"""Below this share of its plate a motor runs unloaded; common practice, no source."""
ELEMENT_CLIMBS, MOTOR_CLIMBS = 1.02, 1.05
"""From this on amps have climbed: an element's never do, a motor's follow its load; common practice, no source."""
OVER_LOCKED = 1.15
"""No start draws more than this much of locked-rotor amps; common practice, no source."""
INRUSH_TIMES = 8.0
"""The same of running amps, where the plate does not say: four to six times is usual; common practice, no source."""


@dataclass(frozen=True)
class _LoadPlate:
    """What a load's plate says, and what of it counts here."""

    load: Part
    plate: LoadData
    heats: bool
    varies: bool

    @classmethod
    def of(cls, load: Part) -> "_LoadPlate | None":
        if load.load is None:
            return None
        return cls(load, load.load, heats=load.entry.is_heat, varies=load.entry.electronic)


def amps(subject: Subject) -> Iterator[NumberAsked]:
    """What is asked of the amps: each conductor alone, again after ten minutes, and three legs alike."""
    for load in subject.loads:
        if (plate := _LoadPlate.of(load)) is None:
            continue
        lanes = subject.lanes_of(load)
        for lane in lanes:
            yield NumberAsked(
                ProofKey.of("amps", load.id, lane),
                "amps",
                say("proof.amps_on", name=load.name, lane=lane),
                "A",
                _amps_must(subject, plate),
                lambda value, plate=plate: _by_plate(subject, plate, value),  # type: ignore[misc]
            )
        first = subject.numbers.get(ProofKey.of("amps", load.id, lanes[0]))
        yield NumberAsked(
            ProofKey.of("steady", load.id),
            "amps",
            say("proof.amps_later", name=load.name, lane=lanes[0]),
            "A",
            say("proof.not_climbing"),
            lambda value, plate=plate, first=first: _steady(plate, value, first),  # type: ignore[misc]
        )
        yield from _balance(subject, load)


def _expected(subject: Subject, one: _LoadPlate) -> float:
    """Amps that an element draws at the volts it gets [A]."""
    volts = subject.volts_of(one.load) or one.plate.rated_volts
    return one.plate.rated_amps * volts / one.plate.rated_volts


def _amps_must(subject: Subject, one: _LoadPlate) -> str:
    if one.heats:
        return say("proof.element_amps", amps=_expected(subject, one), percent=100 * ELEMENT_SHARE)
    return say("proof.motor_amps", amps=one.plate.rated_amps)


def _by_plate(subject: Subject, one: _LoadPlate, value: float) -> Judged:
    if one.heats:
        expected = _expected(subject, one)
        if value < (1 - ELEMENT_SHARE) * expected:
            return Judged(ProofStanding.NOT_MET, say("proof.element_under"))
        if value > (1 + ELEMENT_SHARE) * expected:
            return Judged(ProofStanding.NOT_MET, say("proof.element_over"))
        return Judged(ProofStanding.MET, "")
    if value > OVER_PLATE * one.plate.rated_amps:
        return Judged(ProofStanding.NOT_MET, say("proof.motor_over"))
    # A drive turns as slowly as it is asked to.
    if value < UNLOADED * one.plate.rated_amps and not one.varies:
        return Judged(ProofStanding.NOT_MET, say("proof.motor_under"))
    return Judged(ProofStanding.MET, "")


def _steady(one: _LoadPlate, value: float, first: float | None) -> Judged:
    if first is None:
        return Judged(ProofStanding.MISSING, say("proof.first_amps_missing"))
    if value > (ELEMENT_CLIMBS if one.heats else MOTOR_CLIMBS) * first and not one.varies:
        words = say("proof.element_climbs") if one.heats else say("proof.motor_climbs")
        return Judged(ProofStanding.NOT_MET, words)
    return Judged(ProofStanding.MET, say("proof.changed_by", percent=100 * (value / first - 1) if first else 0.0))


def _balance(subject: Subject, load: Part) -> Iterator[NumberAsked]:
    """How far the amps of a load's three legs lie apart."""
    amps_typed = [subject.numbers.get(ProofKey.of("amps", load.id, lane)) for lane in subject.lanes_of(load)]
    amps_read = [value for value in amps_typed if value is not None]
    if len(amps_read) != 3 or not any(amps_read):
        return
    must, out = say("proof.at_most_percent", percent=MOST_AMPS_PERCENT), say("proof.amps_unbalance_out")
    label = say("proof.amps_unbalance", name=load.name)
    yield NumberAsked(
        ProofKey.of("balance", load.id),
        "amps",
        label,
        "%",
        must,
        at_most(MOST_AMPS_PERCENT, out),
        found=unbalance_percent(amps_read),
    )


def starts(subject: Subject) -> Iterator[NumberAsked]:
    """What is asked of the start of each motor that starts across the line."""
    for load in subject.loads:
        plate = _LoadPlate.of(load)
        if plate is None or plate.heats or plate.varies:
            continue
        locked = plate.plate.locked_amps
        most = OVER_LOCKED * locked if locked else INRUSH_TIMES * plate.plate.rated_amps
        must = say("proof.inrush_most", amps=most)
        label = say("proof.inrush_of", name=load.name)
        yield NumberAsked(
            ProofKey.of("inrush", load.id),
            "start",
            label,
            "A",
            must,
            at_most(most, say("proof.inrush_over")),
            needed=False,
        )
        yield NumberAsked(
            ProofKey.of("settles", load.id),
            "start",
            say("proof.settles_of", name=load.name),
            "s",
            say("proof.within_seconds", seconds=SETTLES_S),
            at_most(SETTLES_S, say("proof.settles_late")),
        )
