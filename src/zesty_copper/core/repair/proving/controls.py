"""Control volts after a repair: the secondary itself, and each of its conductors to ground."""

from collections.abc import Iterator

from zesty_copper.core.repair.control_volts import FAN, controls_of
from zesty_copper.core.repair.proving.items import Ask, Judged, Standing, Subject
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.words import say

__all__ = ["controls"]


def controls(subject: Subject) -> Iterator[Ask]:
    """What is asked of the controls that this branch circuit feeds: between hot and common, and each to ground."""
    for one in controls_of(subject.circuit):
        if subject.start not in subject.circuit.path(subject.circuit.part(one.transformer)):
            continue
        within = say("proof.control_volts_within", least=one.least_volts, most=one.most_volts)
        yield Ask(
            ProofKey.of("control", one.transformer, one.hot, "C"),
            "volts",
            say("proof.control_volts", hot=one.hot),
            "V",
            within,
            lambda value, one=one: _within(value, one.least_volts, one.most_volts),  # type: ignore[misc]
        )
        for letter in one.letters:
            yield Ask(
                ProofKey.of("control", one.transformer, letter, "G"),
                "volts",
                say("proof.control_to_ground", letter="thermostat G" if letter == FAN else letter),
                "V",
                say("proof.at_most_volts", most=one.most_volts),
                lambda value, one=one: _own(value, one.most_volts),  # type: ignore[misc]
            )


def _within(value: float, least: float, most: float) -> Judged:
    if least <= value <= most:
        return Judged(Standing.MET, "")
    return Judged(Standing.NOT_MET, say("proof.control_volts_out", least=least, most=most))


def _own(value: float, most: float) -> Judged:
    if value <= most:
        return Judged(Standing.MET, "")
    return Judged(Standing.NOT_MET, say("proof.line_on_controls"))
