"""What a run of conductors may carry, where it runs and at its terminals."""

import math

from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.inputs.sheet import Edition, Insulation, Run, Sheet
from zesty_copper.core.ratings.inputs.tables import exactly, first_from
from zesty_copper.core.ratings.worked import Step, Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = [
    "at_best",
    "at_terminals",
    "at_worst",
    "derated",
    "is_rateable",
    "unread_marks",
    "unread_surroundings",
    "usable",
    "what_was_assumed",
    "with_rateable_runs",
]

ROOF_MM = {Edition.NEC_2017: 22.2, Edition.NEC_2020: 19.0, Edition.NEC_2023: 19.0}
"""Raceway in sun less than this above a roof: 7/8 in by the 2017 edition (310.15(B)(3)(c)), 3/4 in from 2020 on
(310.15(B)(2)); both from memory."""
ROOF_ADDER_C = 33.0
USUAL_AMBIENT_C = 30.0
WORST_AMBIENT_C, WORST_CARRYING = 50.0, 6
"""What a run may meet where nobody looked: an attic in summer, and two circuits in one conduit; common practice, no
source."""
USUAL_CARRYING = 3
TERMINALS_TO_AMPS = 100.0
TERMINALS_TO_AWG = 1
"""Up to 100 A and 1 AWG unmarked terminals count as 60 °C, above either as 75 °C (NEC 110.14(C)(1))."""


EQUIPMENT_C = 75
"""Highest temperature at which terminals of equipment are used [°C]."""


def base_amps(run: Run, celsius: int) -> float:
    """Return the ampacity by the table in one column [A].

    Raises
    ------
    BadInput
        If the table has no such conductor.
    """
    amps = exactly("ampacity", f"{celsius} °C", run.metal, run.size_awg)
    if amps is None:
        raise BadInput(
            say("ratings.ampacity_table_has_no", gauge=gauge_words(run.size_awg), metal=run.metal),
            "runs.size_awg",
        )
    return amps


def _classes(run: Run) -> tuple[int, int]:
    """Temperature that the insulation is derated from, and at which it may be used [°C]."""
    kind = run.insulation or Insulation.TW  # unmarked: the lowest there is
    derate, use = exactly("insulation", "derated from", kind), exactly("insulation", "used at", kind)
    assert derate is not None  # every type has its row
    assert use is not None
    return int(derate), int(use)


def derated(run: Run, edition: Edition) -> Worked:
    """Return what the run may carry by where it runs: its insulation, ambient, sun and company [A]."""
    kelvin, _ = _classes(run)
    steps = [given(f"table, {gauge_words(run.size_awg)} {run.metal}, {kelvin} °C", base_amps(run, kelvin), "A")]
    ambient = USUAL_AMBIENT_C if run.ambient_c is None else run.ambient_c
    above = run.above_roof_mm
    if above is not None and above < ROOF_MM[edition] and run.insulation is not Insulation.XHHW_2:
        steps.append(
            computed(
                "ambient, with 33 °C for a raceway in sun on a roof",
                f"{number(ambient)} + 33",
                ambient + ROOF_ADDER_C,
                "°C",
            )
        )
        ambient += ROOF_ADDER_C
    factor = first_from("ambient", ambient, f"{kelvin} °C")
    warm = 0.0 if factor is None else float(factor)
    if warm != 1.0:
        steps.append(given(f"factor for {number(ambient)} °C", warm, ""))
    carrying = run.carrying or USUAL_CARRYING
    crowded = float(first_from("bundling", carrying, "factor") or 0)
    if crowded != 1.0:
        steps.append(given(f"factor for {carrying} current-carrying conductors", crowded, ""))
    base = steps[0].value
    if warm != 1.0 or crowded != 1.0:
        text = " × ".join([number(base), *(number(f) for f in (warm, crowded) if f != 1.0)])
        steps.append(computed("where it runs", text, base * warm * crowded, "A"))
    else:
        steps.append(given("where it runs", base, "A"))
    return Worked(steps=(*steps, *_in_parallel(run, steps[-1].value)))


def _in_parallel(run: Run, each: float) -> tuple[Step, ...]:
    """Several conductors alike for each leg carry as many times what one does (NEC 310.10(G))."""
    if run.parallel == 1:
        return ()
    value = run.parallel * each
    return (computed(f"{run.parallel} in parallel", f"{run.parallel} × {number(each)}", value, "A"),)


def at_terminals(run: Run, amps: float) -> Worked:
    """Return what the run may carry by its terminals, and by what its insulation may be used at [A].

    Parameters
    ----------
    amps
        Of the circuit, which decides what unmarked terminals count as.
    """
    _, use = _classes(run)
    usual = 60 if amps <= TERMINALS_TO_AMPS and run.size_awg >= TERMINALS_TO_AWG else 75
    marked = run.terminals_c or usual
    # Equipment is tested with 75 °C wire: a mark of 90 °C on a terminal alone counts for no more (NEC 110.14(C)(1)).
    counted = 60 if marked < EQUIPMENT_C else EQUIPMENT_C
    kelvin = min(use, counted)
    words = f"terminals marked {marked} °C" if run.terminals_c else f"terminals not marked: {usual} °C"
    steps = [
        given(f"{words}, counted as {counted} °C" if counted < marked else words, counted, "°C"),
        given("insulation used at", use, "°C"),
    ]
    table = f"table, {gauge_words(run.size_awg)} {run.metal}, {kelvin} °C"
    each = base_amps(run, kelvin)
    return Worked(steps=(*steps, given(table, each, "A"), *_in_parallel(run, each)))


def usable(run: Run, amps: float, edition: Edition) -> Worked:
    """Return the lower of both [A]."""
    there, ends = derated(run, edition), at_terminals(run, amps)
    text = f"min({number(there.value)}, {number(ends.value)})"
    value = min(there.value, ends.value)
    return Worked(steps=(*there.steps, *ends.steps, computed("the lower", text, value, "A")))


def what_was_assumed(run: Run) -> tuple[str, ...]:
    """Say what was taken for granted."""
    assumptions = []
    if run.insulation is None:
        assumptions.append("insulation not given: taken as 60 °C")
    if run.ambient_c is None:
        assumptions.append("ambient not given: taken as 30 °C")
    if run.carrying is None:
        assumptions.append("current-carrying conductors not given: taken as three or fewer")
    if run.terminals_c is None:
        assumptions.append("terminals not marked: 60 °C to 100 A and 1 AWG, 75 °C above")
    return tuple(assumptions)


def is_rateable(run: Run) -> bool:
    """Whether the ampacity table has the run's size and metal at all."""
    return exactly("ampacity", "75 °C", run.metal, run.size_awg) is not None


def with_rateable_runs(sheet: Sheet) -> Sheet:
    """Return the sheet without runs too thin for any table."""
    runs = tuple(run for run in sheet.runs if is_rateable(run))
    return sheet if len(runs) == len(sheet.runs) else sheet.model_copy(update={"runs": runs})


def at_best(run: Run) -> Run:
    """Return the run with the best marks that are usual where none were read: 90 °C insulation, 75 °C terminals."""
    marks = {"insulation": run.insulation or Insulation.THHN, "terminals_c": run.terminals_c or 75}
    return run.model_copy(update=marks)


def at_worst(run: Run) -> Run:
    """Return the run with the worst that is plausible where nothing was read: what passes so passes whatever is read.

    Unmarked insulation counts as 60 °C anyhow, and unmarked terminals by the circuit's amps.
    """
    ambient = WORST_AMBIENT_C if run.ambient_c is None else run.ambient_c
    return run.model_copy(update={"ambient_c": ambient, "carrying": run.carrying or WORST_CARRYING})


def unread_surroundings(run: Run) -> tuple[str, ...]:
    """Name what would have to be read before a run passes: its insulation, and where it lies."""
    unread = (
        ("the insulation's type", run.insulation is None),
        ("the hottest ambient", run.ambient_c is None),
        ("how many current-carrying conductors run together", run.carrying is None),
    )
    return tuple(words for words, lacks in unread if lacks)


def unread_marks(run: Run) -> tuple[str, ...]:
    """Name the marks that would have to be read."""
    unread = (
        ("the insulation's type", run.insulation is None),
        ("the terminals' temperature", run.terminals_c is None),
    )
    return tuple(words for words, lacks in unread if lacks)


def temperature_factor(conductor_c: float, ambient_c: float) -> float:
    """Correction factor for ambient by its formula, √((Tc − Ta)/(Tc − 30)) (NEC 310.15(B), equation).

    >>> round(temperature_factor(90, 50), 2)
    0.82
    """
    return math.sqrt((conductor_c - ambient_c) / (conductor_c - USUAL_AMBIENT_C))
