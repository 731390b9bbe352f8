"""Whether what was read off a nameplate can be true together: a misread digit shows where numbers belong together."""

from collections.abc import Iterator
from itertools import combinations

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.formulas import phase_amps
from zesty_copper.core.ratings.inputs.sheet import Motor, Plate, Sheet, Use
from zesty_copper.core.ratings.inputs.tables import table
from zesty_copper.core.ratings.rules.plate.demand import as_supplied, circuit_amps, heat_of, motor_table_amps
from zesty_copper.core.ratings.worked import number
from zesty_copper.core.words import say

__all__ = ["PlateCheck", "plausible"]

LEAST_LOCKED, MOST_LOCKED = 3.0, 9.0
"""Locked-rotor over running amps: four to six as a rule; common practice, no source."""
SQUARE_SLACK = 0.06
"""Kilowatts at two voltages are rounded to a tenth."""
HEAT_SLACK = 0.06
HP_SHARE = 0.4
"""By how much a plate's amps may miss the code's table for its horsepower; common practice, no source."""
MCA_SLACK = 0.05


class PlateCheck(Frozen):
    """Some fields that belong together, and whether they can."""

    fields: tuple[str, ...] = Field(description="as they are called on the plate")
    fits: bool
    words: str


def plausible(sheet: Sheet) -> tuple[PlateCheck, ...]:
    """Check a plate as a whole; what does not fit comes first."""
    plate = sheet.plate
    plate_checks = [
        *_columns(plate),
        *_maximum(plate),
        *_locked(plate),
        *_heat(plate),
        *_horsepower(plate, sheet.nominal_volts),
        *_whole(sheet),
    ]
    return tuple(sorted(plate_checks, key=lambda one: one.fits))


def _check(fields: tuple[str, ...], words: str, *, fits: bool) -> PlateCheck:
    return PlateCheck(fields=fields, fits=fits, words=words)


def _columns(plate: Plate) -> Iterator[PlateCheck]:
    """Kilowatts at two voltages go with the square of the volts."""
    heated = [column for column in plate.at_volts if column.heat_kw is not None]
    for first, second in combinations(heated, 2):
        assert first.heat_kw is not None  # filtered above
        assert second.heat_kw is not None
        due = first.heat_kw * (second.volts / first.volts) ** 2
        fits = abs(second.heat_kw - due) <= SQUARE_SLACK * due
        words = say(
            "ratings.plate_kw_at_volts",
            kw=number(first.heat_kw),
            volts=number(first.volts),
            due=due,
            volts_2=number(second.volts),
            kw_2=number(second.heat_kw),
        )
        yield _check((f"kW at {first.volts:g} V", f"kW at {second.volts:g} V"), words, fits=fits)


def _maximum(plate: Plate) -> Iterator[PlateCheck]:
    """A maximum is a standard size, not less than the MCA and, of a compressor, not more than 1.8 times it."""
    pairs = [("", plate.mca_amps, plate.mocp_amps)]
    pairs += [(f" at {column.volts:g} V", column.mca_amps, column.mocp_amps) for column in plate.at_volts]
    sizes = [float(row[0]) for row in table("standard_sizes").rows]
    for where, mca, mocp in pairs:
        if mocp is None:
            continue
        if mocp not in sizes:
            words = say("ratings.plate_odd_mocp", number=number(mocp))
            yield _check((f"MOCP{where}",), words, fits=False)
        if mca is None:
            continue
        # The next standard size above the MCA is always allowed, and 15 A to anything.
        most = max(1.8 * mca, next((size for size in sizes if size >= mca), mca), sizes[0])
        fits = mca <= mocp and (plate.use is not Use.COMPRESSOR or mocp <= most)
        words = say("ratings.plate_mca_mocp", mca=number(mca), mocp=number(mocp))
        yield _check((f"MCA{where}", f"MOCP{where}"), words, fits=fits)


def _locked(plate: Plate) -> Iterator[PlateCheck]:
    for motor in plate.motors:
        if motor.locked_amps is not None:
            times = motor.locked_amps / motor.amps
            words = say("ratings.plate_locked_times", name=motor.name, times=times)
            fits = LEAST_LOCKED <= times <= MOST_LOCKED
            yield _check((f"{motor.name} RLA or FLA", f"{motor.name} LRA"), words, fits=fits)


def _heat(plate: Plate) -> Iterator[PlateCheck]:
    volts = plate.heat_volts or plate.most_volts or plate.least_volts
    if plate.heat_kw is None or plate.heat_amps is None or volts is None:
        return
    due = phase_amps(plate.heat_kw, volts, plate.phases or 1).value
    words = say("ratings.plate_heat_amps", kw=number(plate.heat_kw), volts=number(volts), due=due)
    fits = abs(plate.heat_amps - due) <= HEAT_SLACK * due
    yield _check(("Heat kW", "Heat amps"), words, fits=fits)


def _horsepower(plate: Plate, nominal: float | None) -> Iterator[PlateCheck]:
    volts = nominal or plate.most_volts or plate.least_volts
    for motor in plate.motors:
        due = _table_amps(motor, volts, plate.phases or 1)
        if due is None:
            continue
        words = say("ratings.plate_hp_amps", hp=number(motor.hp or 0), due=due, amps=number(motor.amps))
        yield _check((f"{motor.name} hp", f"{motor.name} FLA"), words, fits=abs(motor.amps - due) <= HP_SHARE * due)


def _table_amps(motor: Motor, volts: float | None, phases: int) -> float | None:
    return None if motor.hp is None or volts is None else motor_table_amps(motor.hp, volts, phases)


def _whole(sheet: Sheet) -> Iterator[PlateCheck]:
    """The MCA against what motors and heat make together, at the voltage that it is marked for."""
    plate = as_supplied(sheet).plate
    built = circuit_amps(plate.model_copy(update={"mca_amps": None}))
    if plate.mca_amps is None or built is None:
        return
    least = built.value * (1 - MCA_SLACK)
    # A plate may count a blower or controls that are not listed: more than built is usual, less is not.
    fits = least <= plate.mca_amps <= max(1.5 * built.value, built.value + 6)
    parts = ("motors", "heat") if heat_of(plate) is not None else ("motors",)
    words = say("ratings.plate_mca_built", mca=number(plate.mca_amps), built=built.value)
    yield _check(("MCA", *parts), words, fits=fits)
