"""Rules about the supply: volts against plate and service ranges, and their unbalance."""

from collections.abc import Iterator

import numpy as np

from zesty_copper.core.ratings.inputs.sheet import Plate, Sheet
from zesty_copper.core.ratings.inputs.tables import exactly, table
from zesty_copper.core.ratings.rules.finding import Finding, Relation, Ruling, as_worked
from zesty_copper.core.ratings.rules.plate.equipment import unbalance
from zesty_copper.core.ratings.worked import Worked, computed, given, number, share
from zesty_copper.core.words import say

__all__ = ["plate_window", "service_range", "supply_window", "unbalance_derating", "volts_unbalance"]

LEAST_SHARE, MOST_SHARE = 0.9, 1.1
LOST_SHARE = 0.5
BASE_VOLTS = 120.0
STOP_PERCENT = 5.0
"""Above it a motor is not to be run (NEMA MG 1 14.36)."""
FULL_PERCENT = 1.0


def plate_window(plate: Plate) -> tuple[Worked, Worked] | None:
    """Return the least and most volts of a plate [V]: 90 % of its lower and 110 % of its higher rating."""
    if plate.least_volts is None and plate.most_volts is None:
        return None
    low = plate.least_volts or plate.most_volts or 0.0
    high = plate.most_volts or plate.least_volts or 0.0
    return (
        as_worked(computed("90 % of the plate's volts", f"0.9 × {number(low)}", LEAST_SHARE * low, "V")),
        as_worked(computed("110 % of the plate's volts", f"1.1 × {number(high)}", MOST_SHARE * high, "V")),
    )


def supply_window(sheet: Sheet) -> Iterator[Finding]:
    """Judge the lowest and highest volts measured at the equipment against its plate.

    A pair that reads less than half is no low supply: something is open or off, which the diagnosis is there for.
    """
    measured = sheet.measured.volts
    if not measured:
        return
    window = plate_window(sheet.plate)
    if window is None:
        yield Ruling("supply_window", sheet.edition, "equipment").wants("the plate's volts")
        return
    volts = [each_value for each_value in measured if each_value >= LOST_SHARE * window[0].value]
    if not volts:
        return
    sides = ((min(volts), window[0], Relation.AT_LEAST), (max(volts), window[1], Relation.AT_MOST))
    for value, need, relation in sides:
        side = "lowest" if relation is Relation.AT_LEAST else "highest"
        step = given(f"{side} measured", value, "V")
        word = "least" if relation is Relation.AT_LEAST else "most"
        words = say("ratings.volts_against_range", number=number(value), value=need.value, word=word)
        yield Ruling("supply_window", sheet.edition, f"equipment, {side}").compared(words, step, relation, need)


def service_range(sheet: Sheet) -> Iterator[Finding]:
    """Judge the volts at the service against range A, on the nominal volts' own base."""
    volts, nominal = sheet.measured.service_volts, sheet.nominal_volts
    if not volts or nominal is None:
        return
    for column, relation, value in (
        ("service least", Relation.AT_LEAST, min(volts)),
        ("service most", Relation.AT_MOST, max(volts)),
    ):
        ruling = Ruling("service_range", sheet.edition, column)
        base = exactly("service_voltage", column, "A")
        assert base is not None  # the table has both
        need = computed(
            f"range A, {column}",
            f"{number(base)} × {number(nominal)} ÷ {number(BASE_VOLTS)}",
            base * nominal / BASE_VOLTS,
            "V",
        )
        step = given("measured at the service", value, "V")
        words = say(
            "ratings.v_service_v", number=number(value), value=need.value, column=column.removeprefix("service ")
        )
        yield ruling.compared(words, step, relation, need)


def unbalance_derating(percent: float) -> float | None:
    """Return the share of its rating that a motor may give at an unbalance [%]; None above 5 %.

    Between the points of the figure it is read along the line between them.

    >>> unbalance_derating(0.6), round(unbalance_derating(2.4), 3), unbalance_derating(6)
    (1.0, 0.922, None)
    """
    percents, factors = ([float(row[i]) for row in table("unbalance").rows] for i in (0, 1))
    return None if percent > percents[-1] else float(np.interp(percent, percents, factors))


def volts_unbalance(sheet: Sheet) -> Iterator[Finding]:
    """Judge the unbalance of three legs' volts: 1 % for the full rating; derated to 5 %; above that stop."""
    volts = sheet.measured.volts
    if not sheet.three_phase or len(volts) != 3:
        return
    unbalanced = unbalance(volts, "V")
    factor = unbalance_derating(unbalanced.value)
    if unbalanced.value <= FULL_PERCENT:
        words = say("ratings.volts_differ_from_their", value=unbalanced.value)
    elif factor is not None:
        words = say("ratings.volts_differ_from_their_mean", value=unbalanced.value, share=share(factor))
    else:
        words = say("ratings.volts_differ_from_their_mean_above", value=unbalanced.value)
    need = given("for the full rating", FULL_PERCENT, "%")
    yield Ruling("volts_unbalance", sheet.edition, "equipment").at_most(words, unbalanced, need)
