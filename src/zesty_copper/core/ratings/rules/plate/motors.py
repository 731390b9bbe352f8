"""Rules of Article 430 for motors that are no compressors: overload protection."""

from collections.abc import Iterator

from zesty_copper.core.ratings.inputs.sheet import Motor, Sheet, Use
from zesty_copper.core.ratings.rules.finding import Finding, Ruling
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["overload"]

HIGH_SHARE, USUAL_SHARE = 1.25, 1.15
"""Of the motor's own plate amps: with a service factor of 1.15 or more, and of all others (NEC 430.32(A)(1))."""
HIGH_SERVICE_FACTOR = 1.15


def overload(sheet: Sheet) -> Iterator[Finding]:
    """Judge each motor's overload by its plate's amps, never by the code's table (NEC 430.6(A)(2), 430.32)."""
    if sheet.plate.use is not Use.MOTOR:
        return
    for motor in sheet.plate.motors:
        ruling = Ruling("overload", sheet.edition, motor.name)
        if motor.overload_amps is None:
            continue
        words = say("ratings.overload_against_most", number=number(motor.overload_amps), value=_most(motor).value)
        yield ruling.at_most(words, given("overload, set or marked", motor.overload_amps, "A"), _most(motor))


def _most(motor: Motor) -> Worked:
    high = motor.service_factor is not None and motor.service_factor >= HIGH_SERVICE_FACTOR
    share = HIGH_SHARE if high else USUAL_SHARE
    words = "125 %, service factor 1.15 or more" if high else "115 %, service factor less or not known"
    return Worked(
        steps=(
            given(f"{motor.name}, by its plate", motor.amps, "A"),
            computed(words, f"{number(share)} × {number(motor.amps)}", share * motor.amps, "A"),
        )
    )
