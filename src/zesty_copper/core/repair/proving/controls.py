"""Control volts after a repair: the secondary itself, and each of its conductors to ground."""

from collections.abc import Iterator

from zesty_copper.core.repair.control_volts import FAN, controls_of
from zesty_copper.core.repair.proving.items import Judged, NumberAsked, ProofStanding, Subject
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.words import say

__all__ = ["controls"]


def controls(subject: Subject) -> Iterator[NumberAsked]:
    """What is asked of the controls that this branch circuit feeds: between hot and common, and each to ground."""
    for secondary in controls_of(subject.circuit):
        if subject.start not in subject.circuit.path(subject.circuit.part(secondary.transformer)):
            continue
        within = say("proof.control_volts_within", least=secondary.least_volts, most=secondary.most_volts)
        yield NumberAsked(
            ProofKey.of("control", secondary.transformer, secondary.hot, "C"),
            "volts",
            say("proof.control_volts", hot=secondary.hot),
            "V",
            within,
            lambda value, secondary=secondary: _within(value, secondary.least_volts, secondary.most_volts),  # type: ignore[misc]
        )
        for letter in secondary.letters:
            yield NumberAsked(
                ProofKey.of("control", secondary.transformer, letter, "G"),
                "volts",
                say("proof.control_to_ground", letter="thermostat G" if letter == FAN else letter),
                "V",
                say("proof.at_most_volts", most=secondary.most_volts),
                lambda value, secondary=secondary: _own(value, secondary.most_volts),  # type: ignore[misc]
            )


def _within(value: float, least: float, most: float) -> Judged:
    if least <= value <= most:
        return Judged(ProofStanding.MET, "")
    return Judged(ProofStanding.NOT_MET, say("proof.control_volts_out", least=least, most=most))


def _own(value: float, most: float) -> Judged:
    if value <= most:
        return Judged(ProofStanding.MET, "")
    return Judged(ProofStanding.NOT_MET, say("proof.line_on_controls"))
