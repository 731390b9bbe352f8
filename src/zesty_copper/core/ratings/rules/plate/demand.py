"""What the equipment asks of its circuit, from its plate or built up from its motors and heat."""

from collections.abc import Iterable, Sequence

from zesty_copper.core.ratings.formulas import phase_amps
from zesty_copper.core.ratings.inputs.sheet import Motor, Plate, Runs, Sheet, Use
from zesty_copper.core.ratings.inputs.tables import exactly, first_from, last_to, table
from zesty_copper.core.ratings.worked import Step, Worked, computed, given, number
from zesty_copper.core.ratings.worked import share as share_words

__all__ = [
    "LEAST_DEVICE_AMPS",
    "as_supplied",
    "circuit_amps",
    "device_most_amps",
    "heat_of",
    "heating_amps",
    "is_compressor",
    "least_of_motors",
    "load_amps",
    "marked_amps",
    "most_of_motors",
    "motor_table_amps",
]

CONTINUOUS = 1.25
"""Factor on loads that last three hours or more, fixed electric heat among them."""
LEAST_DEVICE_AMPS = 15.0
COLUMN_SHARE = 0.1
"""Share of a supply's volts within which a column of a plate or a table is for it."""


def is_compressor(plate: Plate) -> bool:
    """Whether the rules for motor-compressor equipment hold."""
    return plate.use is Use.COMPRESSOR


def as_supplied(sheet: Sheet) -> Sheet:
    """Return the sheet with its plate as it stands on this supply: phases, its column, motors' amps, and heat.

    The kilowatts of a plate belong to one of its rated volts, the higher unless it says otherwise. An element is a
    resistance: at V it draws V/V_rated of its amps and (V/V_rated)² of its watts.
    """
    plate, volts = sheet.plate, sheet.nominal_volts
    if plate.phases is None and sheet.three_phase:
        plate = plate.model_copy(update={"phases": 3})
    if volts is not None:
        plate = _by_table(_of_column(_heat_at(plate, volts), volts), volts)
    return sheet if plate is sheet.plate else sheet.model_copy(update={"plate": plate})


def _heat_at(plate: Plate, volts: float) -> Plate:
    """Return the plate with its heat at the rated voltage nearest a supply's."""
    rated = plate.heat_volts or plate.most_volts or plate.least_volts
    listed = [value for value in (plate.least_volts, plate.most_volts) if value is not None]
    if rated is None or len(set(listed)) < 2:
        return plate
    here = min(listed, key=lambda one: abs(one - volts))
    update: dict[str, object] = {"heat_volts": here}
    if plate.heat_kw is not None:
        update["heat_kw"] = plate.heat_kw * (here / rated) ** 2
    if plate.heat_amps is not None:
        update["heat_amps"] = plate.heat_amps * here / rated
    return plate.model_copy(update=update)


def _of_column(plate: Plate, volts: float) -> Plate:
    """Return the plate with what it marks at the voltage nearest a supply's, where one is near enough."""
    near = [each_column for each_column in plate.at_volts if abs(each_column.volts - volts) <= COLUMN_SHARE * volts]
    if not near:
        return plate
    column = min(near, key=lambda one: abs(one.volts - volts))
    update: dict[str, object] = {}
    if column.mca_amps is not None:
        update["mca_amps"] = column.mca_amps
    if column.mocp_amps is not None:
        update["mocp_amps"] = column.mocp_amps
    if column.heat_kw is not None:
        update |= {"heat_kw": column.heat_kw, "heat_volts": column.volts, "heat_amps": None}
    return plate.model_copy(update=update) if update else plate


def _by_table(plate: Plate, volts: float) -> Plate:
    """Return the plate with the code's amps for motors marked in horsepower (NEC 430.6(A)(1))."""
    if plate.use is not Use.MOTOR or not any(motor.hp for motor in plate.motors):
        return plate
    motors = tuple(
        motor.model_copy(update={"table_amps": motor_table_amps(motor.hp, volts, plate.phases or 1)})
        if motor.hp is not None
        else motor
        for motor in plate.motors
    )
    return plate.model_copy(update={"motors": motors})


def motor_table_amps(horsepower: float, volts: float, phases: int) -> float | None:
    """Return a motor's full-load amps by the code's tables [A]; None where they have no such motor.

    Tables 430.248 and 430.250; their 115, 230 and 460 V stand for systems of 110 to 120, 220 to 240 and 440 to 480 V.

    >>> motor_table_amps(1, 240, 1), motor_table_amps(5, 480, 3)
    (8.0, 7.6)
    """
    motors = table("motors_three_phase" if phases == 3 else "motors_single_phase")
    columns = [float(name) for name in motors.columns[1:]]
    nearest = min(columns, key=lambda rated: abs(rated - volts))
    if abs(nearest - volts) > COLUMN_SHARE * volts:
        return None
    return exactly(motors.key, f"{nearest:g}", horsepower)


def heat_of(plate: Plate) -> Worked | None:
    """Return the amps of all heat at its rated volts, per conductor [A]; None where there is none, or no volts."""
    volts = plate.heat_volts or plate.most_volts or plate.least_volts
    if plate.heat_kw is not None and volts is not None:
        return phase_amps(plate.heat_kw, volts, plate.phases or 1)
    if plate.heat_amps is None:
        return None
    return Worked(steps=(given("heat, by its plate", plate.heat_amps, "A"),))


def _scenarios(plate: Plate) -> list[Plate]:
    """Return the plate as it may run: all at once, or in cooling and in heating where they never run together.

    Of loads that do not coincide the larger counts (NEC 220.60).
    """
    if not plate.never_together:
        return [plate]
    cooling = tuple(motor for motor in plate.motors if motor.runs is not Runs.HEATING)
    heating = tuple(motor for motor in plate.motors if motor.runs is not Runs.COOLING)
    return [
        plate.model_copy(update={"motors": cooling, "heat_kw": None, "heat_amps": None}),
        plate.model_copy(update={"motors": heating}),
    ]


def _largest(found: Iterable[Worked | None]) -> Worked | None:
    return max((term for term in found if term is not None), key=lambda one: one.value, default=None)


def load_amps(plate: Plate) -> Worked | None:
    """Return the amps that motors and heat draw together [A]; None where neither is known."""
    return _largest(_load_amps(scenario) for scenario in _scenarios(plate))


def heating_amps(plate: Plate) -> Worked | None:
    """Return the amps while it heats [A]: of what never runs together, heat and what runs with it."""
    return _load_amps(_scenarios(plate)[-1])


def marked_amps(plate: Plate) -> Worked | None:
    """Return the amps of motors and heat by their own plates [A], whatever a table says of their horsepower."""
    motors = tuple(motor.model_copy(update={"table_amps": None}) for motor in plate.motors)
    return load_amps(plate.model_copy(update={"motors": motors}))


def _load_amps(plate: Plate) -> Worked | None:
    heat = heat_of(plate)
    if not plate.motors and heat is None:
        return None
    if not plate.motors:
        return heat
    steps = [_motor_step(motor) for motor in plate.motors]
    parts = [step.value for step in steps]
    if heat is not None:
        steps += heat.steps
        parts.append(heat.value)
    if len(parts) == 1:
        return Worked(steps=tuple(steps))
    total, text = sum(parts), " + ".join(map(number, parts))
    return Worked(steps=(*steps, computed("together", text, total, "A")))


def _motor_step(motor: Motor) -> Step:
    by = f"{number(motor.hp)} hp by the code's table" if motor.table_amps and motor.hp else "by its plate"
    return given(f"{motor.name}, {by}", motor.sizing_amps, "A")


def circuit_amps(plate: Plate) -> Worked | None:
    """Return the least ampacity that the equipment asks of its conductors [A]; None where it cannot be told.

    The plate's MCA; else 125 % of heat with its fan (NEC 424.4(B)), or 125 % of the largest motor and the others as
    they are (430.24, 440.33).
    """
    if plate.mca_amps is not None:
        return Worked(steps=(given("minimum circuit ampacity on the plate", plate.mca_amps, "A"),))
    return _largest(_circuit_amps(scenario) for scenario in _scenarios(plate))


def _circuit_amps(plate: Plate) -> Worked | None:
    load = _load_amps(plate)
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
    most, need = _largest(_device_most_amps(scenario, share) for scenario in _scenarios(plate)), circuit_amps(plate)
    if most is None or need is None or heat_of(plate) is None or need.value <= most.value:
        return most
    # Heat with its fan lasts: the device carries 125 % of it, whatever the motors alone would give (424.4(B)).
    up = first_from("standard_sizes", need.value)
    return need if up is None else need.then(given("up to a standard size, since it lasts", float(up), "A"))


def _device_most_amps(plate: Plate, share: float) -> Worked | None:
    if not plate.motors:
        return None
    largest, others = _largest_and_others(plate)
    heat = heat_of(plate)
    others = [*others, *([heat.value] if heat else [])]
    steps = [_motor_step(motor) for motor in plate.motors]
    return Worked(steps=(*steps, *most_of_motors(largest, others, share)))


def _largest_and_others(plate: Plate) -> tuple[float, list[float]]:
    amps = sorted((motor.sizing_amps for motor in plate.motors), reverse=True)
    return amps[0], amps[1:]
