"""Volts lost along the conductors, by resistance and by impedance."""

import math
from collections.abc import Iterator, Sequence

from zesty_copper.core.circuit.parts.conductor import FEET_PER_METRE, gauge_words
from zesty_copper.core.ratings.inputs.sheet import Run, Sheet, Use
from zesty_copper.core.ratings.inputs.tables import exactly
from zesty_copper.core.ratings.rules.finding import Finding, Ruling
from zesty_copper.core.ratings.rules.plate.demand import circuit_amps
from zesty_copper.core.ratings.worked import Step, Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["drop", "lost_volts", "ohm_per_kft"]

BRANCH_PERCENT, TOGETHER_PERCENT = 3.0, 5.0
"""Advice for a branch circuit, and for it and its feeder together (NEC 210.19(A), 215.2(A), informational notes)."""
USUAL_POWER_FACTOR = 0.85
"""At which the code's own effective impedances are given (Chapter 9 Table 9)."""


def ohm_per_kft(run: Run, *, heat: bool, power_factor: float = USUAL_POWER_FACTOR) -> tuple[Step, ...]:
    """Return resistance, or where a raceway is known and a motor draws the amps effective impedance [Ω/kft].

    The effective impedance at a power factor is R·cos + X·sin (Chapter 9 Table 9, note 2).
    """
    size = gauge_words(run.size_awg)
    if run.raceway is None or heat:
        ohm = exactly("conductors", run.metal, run.size_awg)
        assert ohm is not None  # every gauge has its row
        return (given(f"resistance, {size} {run.metal.words} at 75 °C", ohm, "Ω/kft"),)
    ohm = exactly("impedance", f"{run.metal} R, {run.raceway}", run.size_awg)
    reactance = exactly("impedance", "X, steel" if run.raceway == "steel" else "X, plastic or aluminium", run.size_awg)
    if ohm is None or reactance is None:
        return ohm_per_kft(run, heat=True)
    value = ohm * power_factor + reactance * math.sqrt(1 - power_factor**2)
    shown = number(power_factor)
    return (
        given(f"R, {size} {run.metal.words} in {run.raceway}", ohm, "Ω/kft"),
        given("X", reactance, "Ω/kft"),
        computed(
            f"effective impedance at a power factor of {shown}",
            f"{number(ohm)} × {shown} + {number(reactance)} × √(1 − {shown} × {shown})",
            value,
            "Ω/kft",
        ),
    )


def lost_volts(
    run: Run, amps: Step, *, three_phase: bool, heat: bool, power_factor: float = USUAL_POWER_FACTOR
) -> Worked | None:
    """Return the volts a run loses between two legs [V]: twice a conductor's, or √3 times with three legs."""
    if run.length_m is None:
        return None
    feet = run.length_m * FEET_PER_METRE
    steps = ohm_per_kft(run, heat=heat, power_factor=power_factor)
    if run.parallel > 1:
        single_way = steps[-1].value
        text = f"{number(single_way)} ÷ {run.parallel}"
        steps = (*steps, computed(f"{run.parallel} in parallel", text, single_way / run.parallel, "Ω/kft"))
    per_kft = steps[-1].value
    factor, text = (math.sqrt(3), "√3") if three_phase else (2.0, "2")
    value = factor * amps.value * per_kft * feet / 1000
    return Worked(
        steps=(
            *steps,
            given("length, one way", feet, "ft"),
            amps,
            computed(
                f"lost along the {run.name}",
                f"{text} × {number(amps.value)} × {number(per_kft)} × {number(feet)} ÷ 1000",
                value,
                "V",
            ),
        )
    )


def drop(sheet: Sheet) -> Iterator[Finding]:
    """Judge the loss at the amps measured and at the MCA: 3 % along the branch, 5 % together with its feeder."""
    nominal = sheet.nominal_volts
    runs = [run for run in sheet.runs if not run.inside_equipment]
    need = circuit_amps(sheet.plate)
    flows: list[tuple[str, Step]] = []
    if sheet.measured.amps:
        flows.append(("at the amps measured", given("most of any leg, measured", max(sheet.measured.amps), "A")))
    if need is not None:
        flows.append(("at what the equipment asks", given("what the equipment asks", need.value, "A")))
    missing = [words for words, lacks in (("the supply's volts", nominal is None), ("amps", not flows)) if lacks]
    if all(run.length_m is None for run in runs):
        missing.insert(0, "lengths")
    if missing or nominal is None:
        if runs:
            yield Ruling("drop", sheet.edition, "conductors").wants(*missing)
        return
    branch = [run for run in runs if not run.feeder]
    judged_runs = [("a branch circuit", "conductors", BRANCH_PERCENT, branch)] if branch else []
    if len(branch) < len(runs):
        judged_runs.append(("feeder and branch together", "feeder and branch", TOGETHER_PERCENT, runs))
    for text, about, most, these in judged_runs:
        for words, amps in flows:
            yield _judged_drop(sheet, these, (words, amps), (text, about, most))


def _judged_drop(sheet: Sheet, runs: Sequence[Run], flow: tuple[str, Step], limit: tuple[str, str, float]) -> Finding:
    """Judge what some runs lose together; a length that nobody knows is asked for, unless it is too much anyway."""
    (words, amps), (what, about, most), nominal = flow, limit, sheet.nominal_volts or 1.0
    ruling = Ruling("drop", sheet.edition, f"{about} {words}")
    heat = sheet.plate.use is Use.HEAT
    own = sheet.plate.power_factor or USUAL_POWER_FACTOR
    drops = (lost_volts(run, amps, three_phase=sheet.three_phase, heat=heat, power_factor=own) for run in runs)
    lost = [term for term in drops if term is not None]
    unknown = [run.name for run in runs if run.length_m is None]
    steps = [step for term in lost for step in term.steps]
    total = sum(term.value for term in lost)
    if len(lost) > 1:
        steps.append(computed("together", " + ".join(number(term.value) for term in lost), total, "V"))
    percent = 100 * total / nominal
    if unknown and percent <= most:
        return ruling.wants(*(f"the length of the {name}" for name in unknown))
    steps.append(computed("of the supply", f"100 × {number(total)} ÷ {number(nominal)}", percent, "%"))
    least = "at least " if unknown else ""
    return ruling.at_most(
        say(
            "ratings.v_v_are_lost",
            least=least,
            total=total,
            percent=percent,
            number=number(nominal),
            words=words,
            number_2=number(most),
        ),
        Worked(steps=tuple(steps)),
        given(f"advised for {what}", most, "%"),
    )
