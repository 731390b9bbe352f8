"""What the equipment asks of its circuit, from its plate or built up from its motors and heat."""

from zesty_copper.core.ratings.formulas import phase_amps
from zesty_copper.core.ratings.sheet import Plate, Use
from zesty_copper.core.ratings.tables import last_to
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.ratings.worked import share as share_words

__all__ = ["circuit_amps", "device_most_amps", "heat_of", "is_compressor", "load_amps"]

CONTINUOUS = 1.25
"""Factor on loads that last three hours or more, fixed electric heat among them."""
LEAST_DEVICE_AMPS = 15.0


def is_compressor(plate: Plate) -> bool:
    """Whether the rules for motor-compressor equipment hold."""
    return plate.use is Use.COMPRESSOR


def heat_of(plate: Plate) -> Worked | None:
    """Return the amps of all heat at its rated volts, per conductor [A]; None where there is none, or no volts."""
    volts = plate.most_volts or plate.least_volts
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
    largest, others = _largest_and_others(plate)
    words = "125 % of the largest motor" + (", the others as they are" if others else "")
    text = " + ".join([f"1.25 × {number(largest)}", *map(number, others)])
    return load.then(computed(words, text, CONTINUOUS * largest + sum(others), "A"))


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
    value = share * largest + sum(others)
    steps = [given(f"{motor.name}, by its plate", motor.amps, "A") for motor in plate.motors]
    text = " + ".join([f"{number(share)} × {number(largest)}", *map(number, others)])
    words = f"{share_words(share)} of the largest motor" + (", the others as they are" if others else "")
    steps.append(computed(words, text, value, "A"))
    down = max(last_to("standard_sizes", value) or LEAST_DEVICE_AMPS, LEAST_DEVICE_AMPS)
    steps.append(given("down to a standard size, 15 A at least", down, "A"))
    return Worked(steps=tuple(steps))


def _largest_and_others(plate: Plate) -> tuple[float, list[float]]:
    amps = sorted((motor.amps for motor in plate.motors), reverse=True)
    return amps[0], amps[1:]
