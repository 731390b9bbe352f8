"""What was repaired, under load; stages in time; and what is seen to be so before anybody leaves."""

from collections.abc import Iterator

from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.words import mark_words
from zesty_copper.core.ratings.formulas import infrared_class
from zesty_copper.core.ratings.sizing.staircase import FAHRENHEIT_STEP, HIGH_TIMES, HIGH_VOLTS
from zesty_copper.core.repair.proving.items import Judged, NumberAsked, ProofStanding, Subject, at_most
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.words import say

__all__ = ["joints", "last", "stages", "upkeep"]

STAGE_S = 180.0
"""A sequencer's stage comes on, and goes off, within so many seconds; common practice, no source."""
DEAD_VOLTS = 5.0
"""What a low-impedance meter may still show where nothing is [V]; common practice, no source."""


def joints(subject: Subject) -> Iterator[NumberAsked]:
    """What is asked of each part that was worked on: volts across it under load, and its heat."""
    for part in subject.parts:
        if part.entry.role is not PartRole.SERIES or part.conductor is not None:
            continue
        lanes = [lane for lane in subject.circuit.lanes_of(part) if lane != GROUND]
        new = (part.entry.resistance_mohm or 0.0) / 1000 * subject.circuit.carried_amps(part)
        most = max(HIGH_TIMES * new, new + HIGH_VOLTS)
        for lane in lanes:
            yield NumberAsked(
                ProofKey.of("across", part.id, lane),
                "joints",
                say("proof.across", where=mark_words(part, lane), name=part.name),
                "V",
                say("proof.across_most", volts=most),
                at_most(most, say("proof.across_high")),
            )
        yield NumberAsked(
            ProofKey.of("warm", part.id),
            "joints",
            say("proof.warm", name=part.name),
            "degF",
            say("proof.warm_most"),
            _warmth,
        )


def _warmth(over_mate_f: float) -> Judged:
    """Judge how much hotter the hottest leg of a part is than its coolest (NETA MTS, Table 100.18)."""
    name, words = infrared_class(max(0.0, over_mate_f) / FAHRENHEIT_STEP)
    return Judged(ProofStanding.MET if name in ("none", "possible") else ProofStanding.NOT_MET, words)


def stages(subject: Subject) -> Iterator[NumberAsked]:
    """What is asked of sequencers, and of the fan behind them."""
    staged = {part.id: part for load in subject.loads for part in subject.circuit.path(load) if part.entry.stages}
    for part in staged.values():
        for key, label in (
            (ProofKey.of("on", part.id), say("proof.stage_on", name=part.name)),
            (ProofKey.of("off", part.id), say("proof.stage_off", name=part.name)),
        ):
            must, late = say("proof.within_seconds", seconds=STAGE_S), say("proof.stage_late")
            yield NumberAsked(key, "stages", label, "s", must, at_most(STAGE_S, late))
    if staged:
        yield NumberAsked(subject.key("fan_outlasts"), "stages", say("proof.fan_outlasts"))


def upkeep(subject: Subject) -> Iterator[NumberAsked]:
    """What a maintenance visit sees to besides."""
    if subject.is_maintenance:
        yield NumberAsked(subject.key("torque"), "joints", say("proof.torque_done"))
        yield NumberAsked(subject.key("contacts"), "joints", say("proof.contacts_seen"))


def last(subject: Subject) -> Iterator[NumberAsked]:
    """What is seen to be so at the end."""
    circuit = subject.circuit
    if any(circuit.turning_legs(part) for load in subject.loads for part in circuit.path(load)):
        turning = [load.name for load in subject.loads if load in circuit.three_phase_motors]
        if turning:
            yield NumberAsked(subject.key("turns"), "last", say("proof.turns_right", names=", ".join(turning)))
    switched = [part for load in subject.loads for part in circuit.path(load) if part.entry.moved_by == "call"]
    if any(part.switch is not None for part in switched):
        must, still = say("proof.dead_most", volts=DEAD_VOLTS), say("proof.still_live")
        yield NumberAsked(
            subject.key("dead"), "last", say("proof.dead_after_call"), "V", must, at_most(DEAD_VOLTS, still)
        )
    if any(not load.entry.is_heat for load in subject.loads):
        yield NumberAsked(subject.key("panels_on"), "last", say("proof.panels_on"))
    yield NumberAsked(ProofKey("covers"), "last", say("proof.covers_on"))
    yield NumberAsked(ProofKey("labels"), "last", say("proof.labels_on"))
    yield NumberAsked(ProofKey("settings"), "last", say("proof.settings_back"))
