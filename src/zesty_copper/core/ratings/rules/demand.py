"""What the equipment asks of its circuit, from its plate or built up from its motors and heat."""

from collections.abc import Sequence

from zesty_copper.core.ratings.formulas import phase_amps
from zesty_copper.core.ratings.inputs.sheet import Plate, Sheet, Use
from zesty_copper.core.ratings.inputs.tables import last_to
from zesty_copper.core.ratings.worked import Step, Worked, computed, given, number
from zesty_copper.core.ratings.worked import share as share_words

__all__ = [
    "as_supplied",
    "circuit_amps",
    "device_most_amps",
    "heat_of",
    "is_compressor",
    "least_of_motors",
    "load_amps",
    "most_of_motors",
]

CONTINUOUS = 1.25
"""Factor on loads that last three hours or more, fixed electric heat among them."""
LEAST_DEVICE_AMPS = 15.0


def is_compressor(plate: Plate) -> bool:
    """Whether the rules for motor-compressor equipment hold."""
    return plate.use is Use.COMPRESSOR


def as_supplied(sheet: Sheet) -> Sheet:
    """Return the sheet with its plate as it stands on this supply: phases, and heat at the volts it is run on.

    The kilowatts of a plate belong to one of its rated volts, the higher unless it says otherwise. An element is a
    resistance: at V it draws V/V_rated of its amps and (V/V_rated)² of its watts.
    """
    plate, volts = sheet.plate, sheet.nominal_volts
    update: dict[str, object] = {}
    if plate.phases is None and sheet.three_phase:
        update["phases"] = 3
    rated = plate.heat_volts or plate.most_volts or plate.least_volts
    listed = [one for one in (plate.least_volts, plate.most_volts) if one is not None]
    if rated is not None and volts is not None and len(set(listed)) > 1:
        here = min(listed, key=lambda one: abs(one - volts))
        if plate.heat_kw is not None:
            update["heat_kw"] = plate.heat_kw * (here / rated) ** 2
        if plate.heat_amps is not None:
            update["heat_amps"] = plate.heat_amps * here / rated
        update["heat_volts"] = here
    return sheet.model_copy(update={"plate": plate.model_copy(update=update)}) if update else sheet


def heat_of(plate: Plate) -> Worked | None:
    """Return the amps of all heat at its rated volts, per conductor [A]; None where there is none, or no volts."""
    volts = plate.heat_volts or plate.most_volts or plate.least_volts
    if plate.heat_kw is not None and volts is not None:
        return phase_amps(plate.heat_kw, volts, plate.phases or 1)
    if plate.heat_amps is None:
        return None
    return Worked(steps=(given("heat, by its plate", plate.heat_amps, "A"),))


def load_amps(plate: Plate) -> Worked | None:
    """Return the amps that motors and heat draw together [A]; None where neither is known."""
    heat = heat_of(plate)
    if not plate.motors and heat is None:
        return None
    if not plate.motors:
        return heat
    steps = [given(f"{motor.name}, by its plate", motor.amps, "A") for motor in plate.motors]
    parts = [motor.amps for motor in plate.motors]
    if heat is not None:
        steps += heat.steps
        parts.append(heat.value)
    if len(parts) == 1:
        return Worked(steps=tuple(steps))
    total, text = sum(parts), " + ".join(map(number, parts))
    return Worked(steps=(*steps, computed("together", text, total, "A")))


def circuit_amps(plate: Plate) -> Worked | None:
    """Return the least ampacity that the equipment asks of its conductors [A]; None where it cannot be told.

    The plate's MCA; else 125 % of heat with its fan (NEC 424.4(B)), or 125 % of the largest motor and the others as
    they are (440.33).
    """
    if plate.mca_amps is not None:
        return Worked(steps=(given("minimum circuit ampacity on the plate", plate.mca_amps, "A"),))
    load = load_amps(plate)
    if load is None:
        return None
    if heat_of(plate) is not None or not plate.motors:
        value = CONTINUOUS * load.value
        return load.then(computed("125 %, as it lasts", f"1.25 × {number(load.value)}", value, "A"))
    return load.then(least_of_motors(*_largest_and_others(plate)))


def least_of_motors(largest: float, others: Sequence[float]) -> Step:
    """Return 125 % of the largest motor and the others as they are (NEC 440.33, 430.24) [A]."""
    words = "125 % of the largest motor" + (", the others as they are" if others else "")
    text = " + ".join([f"1.25 × {number(largest)}", *map(number, others)])
    return computed(words, text, CONTINUOUS * largest + sum(others), "A")


def most_of_motors(largest: float, others: Sequence[float], share: float) -> tuple[Step, Step]:
    """Return the largest device for motors, before and after it is brought down to a standard size [A]."""
    value = share * largest + sum(others)
    text = " + ".join([f"{number(share)} × {number(largest)}", *map(number, others)])
    words = f"{share_words(share)} of the largest motor" + (", the others as they are" if others else "")
    down = max(last_to("standard_sizes", value) or LEAST_DEVICE_AMPS, LEAST_DEVICE_AMPS)
    return computed(words, text, value, "A"), given("down to a standard size, 15 A at least", down, "A")


def device_most_amps(plate: Plate, share: float) -> Worked | None:
    """Return the largest device for motors without a plate's maximum [A], down to a standard size.

    Parameters
    ----------
    share
        1.75 to begin with, 2.25 if it will not start (NEC 440.22(A)); the others as they are (440.22(B)).
    """
    if not plate.motors:
        return None
    largest, others = _largest_and_others(plate)
    heat = heat_of(plate)
    others = [*others, *([heat.value] if heat else [])]
    steps = [given(f"{motor.name}, by its plate", motor.amps, "A") for motor in plate.motors]
    return Worked(steps=(*steps, *most_of_motors(largest, others, share)))


def _largest_and_others(plate: Plate) -> tuple[float, list[float]]:
    amps = sorted((motor.amps for motor in plate.motors), reverse=True)
    return amps[0], amps[1:]
