"""The trade's formulas laid out: elements, capacitors, compressor leads, air, transformers, joints, insulation."""

import math
from collections.abc import Sequence

from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.inputs.tables import table
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = [
    "air_rise",
    "capacitor",
    "compressor_leads",
    "compressor_leads_by_amps",
    "compressor_terminals",
    "element_at",
    "heat_delivered",
    "infrared_class",
    "insulation_at_40",
    "joint",
    "mates",
    "phase_amps",
    "transformer_load",
    "unmarked_heater",
]

BTU_PER_KWH = 3412.0
SEA_LEVEL_FACTOR = 1.08
"""Btu/h for each cfm and °F: 60 min/h × 0.075 lb/ft³ × 0.24 Btu/(lb·°F) (ASHRAE Fundamentals)."""
MATE_PERCENT, FUSE_PERCENT = 50.0, 15.0
"""From which differences between mates are to be investigated (ANSI/NETA MTS)."""
IEEE_43_MEGOHM = 5.0
"""Least of a random-wound motor under 1 kV at 40 °C (IEEE 43)."""
SERIES_SLACK = 0.1
"""By how much ohms over two windings may miss the sum of each: leads, contact of the probes, rounding to 0.1 Ω."""
COMMON_STANDS_OUT = 0.03
"""By how much more common must carry than run to be told by it: about what two readings of a clamp may differ by."""
CLOSES_SLACK = 0.03
"""By how much amps of three leads may miss a triangle: three readings of a clamp."""


def element_at(kilowatt: float, rated_volts: float, volts: float) -> Worked:
    """Return what a resistive element gives at other than its rated volts [kW]: R = V²/P, I = V/R."""
    ohm = rated_volts**2 / (1000 * kilowatt)
    amps = volts / ohm
    return Worked(
        steps=(
            computed(
                "resistance, hot",
                f"{number(rated_volts)} × {number(rated_volts)} ÷ {number(1000 * kilowatt)}",
                ohm,
                "Ω",
            ),
            computed("amps", f"{number(volts)} ÷ {number(ohm)}", amps, "A"),
            computed("heat", f"{number(volts)} × {number(amps)} ÷ 1000", volts * amps / 1000, "kW"),
        )
    )


def unmarked_heater(ohm: float, rated_volts: float) -> Worked:
    """Return the kilowatts of a heater without a plate, from its ohms and the volts it is for [kW]."""
    amps = rated_volts / ohm
    return Worked(
        steps=(
            computed("amps", f"{number(rated_volts)} ÷ {number(ohm)}", amps, "A"),
            computed("heat", f"{number(rated_volts)} × {number(amps)} ÷ 1000", rated_volts * amps / 1000, "kW"),
        )
    )


def capacitor(amps: float, volts: float, hertz: float = 60.0) -> Worked:
    """Return a run capacitor's microfarads while it runs [µF]: C = I/(2π·f·V); 2652·I/V at 60 Hz."""
    constant = 1e6 / (2 * math.pi * hertz)
    return Worked(
        steps=(
            computed("constant", f"1000000 ÷ (2 × 3.14159 × {number(hertz)})", constant, "µF·V/A"),
            computed(
                "capacitance", f"{number(constant)} × {number(amps)} ÷ {number(volts)}", constant * amps / volts, "µF"
            ),
        )
    )


def compressor_leads(common: float, run: float, start: float) -> Worked:
    """Return the angle between run and start currents, of the triangle that the three leads' amps close [°].

    Common carries the phasor sum of run and start, so no lead can carry more than the other two together.

    Raises
    ------
    BadInput
        If the three cannot close a triangle: one was misread, or two conductors were in the jaws.
    """
    longest = max(common, run, start)
    if 2 * longest > (common + run + start) * (1 + CLOSES_SLACK):
        raise BadInput(
            say("ratings.these_three_amps_close"),
            "common",
        )
    cosine = (common**2 - run**2 - start**2) / (2 * run * start)
    angle = math.degrees(math.acos(max(-1.0, min(1.0, cosine))))
    square = common**2 - run**2 - start**2
    text = f"({number(common)} × {number(common)} − {number(run)} × {number(run)} − {number(start)} × {number(start)})"
    return Worked(
        steps=(
            computed("common² − run² − start²", text, square, "A²"),
            computed("cosine", f"{number(square)} ÷ (2 × {number(run)} × {number(start)})", cosine, ""),
            given("start leads run by", angle, "°"),
        )
    )


def compressor_leads_by_amps(amps_1: float, amps_2: float, amps_3: float) -> tuple[Worked, tuple[int, int, int]]:
    """Return common, run and start of three leads that nobody marked, by the amps in each while it runs [A].

    With a run capacitor the start winding's amps lead the run winding's by about 90°, so their phasor sum is more than
    either: the lead with the most is common, and of the two others run carries more (common practice, no source).

    Returns
    -------
    The angle between run and start [°] and the numbers of the leads, 1 to 3: common, run, start.

    Raises
    ------
    BadInput
        If the three close no triangle, or if common stands out too little to be told.
    """
    amps = {1: amps_1, 2: amps_2, 3: amps_3}
    common, run, start = sorted(amps, key=lambda lead: -amps[lead])
    if amps[common] < amps[run] * (1 + COMMON_STANDS_OUT):
        raise BadInput(
            say(
                "ratings.leads_carry_about_same",
                common=common,
                run=run,
                number=number(amps[common]),
                number_2=number(amps[run]),
            ),
            f"amps_{common}",
        )
    return compressor_leads(amps[common], amps[run], amps[start]), (common, run, start)


def compressor_terminals(ohm_12: float, ohm_23: float, ohm_31: float) -> tuple[Worked, tuple[int, int, int]]:
    """Return the common, run and start of three terminals that nobody marked, by ohms from each to each [Ω].

    The highest ohms are both windings in series, so the terminal left out is common; of the two windings that start
    from it, the run winding has the lower ohms.

    Returns
    -------
    The sum of both windings [Ω] and the numbers of the terminals, 1 to 3: common, run, start.

    Raises
    ------
    BadInput
        If the highest ohms are not the sum of the other two: a winding is shorted, or a terminal was not bare.
    """
    opposite = {3: ohm_12, 1: ohm_23, 2: ohm_31}  # each terminal, and the pair that it is not of
    common = max(opposite, key=lambda terminal: opposite[terminal])
    # From common to one of the two others is the pair that the remaining one is not of.
    run, start = sorted(opposite.keys() - {common}, key=lambda terminal: -opposite[terminal])
    of_run, of_start = opposite[start], opposite[run]
    total = of_run + of_start
    if abs(opposite[common] / total - 1) > SERIES_SLACK:
        raise BadInput(
            say("ratings.most_ohms_should_other", number=number(opposite[common]), number_2=number(total)),
            "ohm_12",
        )
    worked = Worked(
        steps=(
            given("common to run", of_run, "Ω"),
            given("common to start", of_start, "Ω"),
            computed("run to start", f"{number(of_run)} + {number(of_start)}", total, "Ω"),
        )
    )
    return worked, (common, run, start)


def air_rise(kilowatt: float, cfm: float) -> Worked:
    """Return by how much heat warms the air at sea level [°F]: 3412·kW/(1.08·cfm).

    3412 Btu/h make a kilowatt; 1.08 is 60 min/h by 0.075 lb/ft³ and 0.24 Btu/(lb·°F) of standard air.
    """
    rise = BTU_PER_KWH * kilowatt / (SEA_LEVEL_FACTOR * cfm)
    text = f"3412 × {number(kilowatt)} ÷ (1.08 × {number(cfm)})"
    return Worked(steps=(computed("rise", text, rise, "°F"),))


def heat_delivered(rise_f: float, cfm: float) -> Worked:
    """Return the heat that warms so much air by so much [kW]: the other way round of `air_rise`."""
    value = SEA_LEVEL_FACTOR * cfm * rise_f / BTU_PER_KWH
    text = f"1.08 × {number(cfm)} × {number(rise_f)} ÷ 3412"
    return Worked(steps=(computed("heat delivered", text, value, "kW"),))


def transformer_load(volt_amps: float, coils_va: Sequence[float]) -> Worked:
    """Return how much of a control transformer's plate its coils take [%]: their VA added up, as if in phase."""
    total = sum(coils_va)
    steps = [given("plate", volt_amps, "VA")]
    text = " + ".join(map(number, coils_va))
    steps.append(computed("coils together", text, total, "VA"))
    steps.append(computed("of the plate", f"100 × {number(total)} ÷ {number(volt_amps)}", 100 * total / volt_amps, "%"))
    return Worked(steps=tuple(steps))


def joint(volts: float, amps: float, expected_volts: float = 0.0) -> Worked:
    """Return the watts that a joint burns beyond what it should [W]; its excess volts and ohms on the way."""
    excess = volts - expected_volts
    return Worked(
        steps=(
            computed("excess", f"{number(volts)} − {number(expected_volts)}", excess, "V"),
            computed("excess resistance", f"{number(excess)} ÷ {number(amps)}", excess / amps, "Ω"),
            computed("burnt there", f"{number(excess)} × {number(amps)}", excess * amps, "W"),
        )
    )


def mates(values: Sequence[float]) -> Worked:
    """Return by how much the highest of some mates is over the lowest [%] (ANSI/NETA MTS: 50 %, fuses 15 %).

    Raises
    ------
    BadInput
        If the lowest is nothing: it cannot be compared with.
    """
    low, high = min(values), max(values)
    if low <= 0:
        raise BadInput(say("ratings.lowest_reading_nothing_read"), "lowest")
    text = f"100 × ({number(high)} − {number(low)}) ÷ {number(low)}"
    return Worked(
        steps=(
            given("lowest", low, ""),
            given("highest", high, ""),
            computed("over the lowest", text, 100 * (high - low) / low, "%"),
        )
    )


def infrared_class(rise_c: float, *, over_air: bool = False) -> tuple[str, str]:
    """Return the class and the words for a temperature over a like part under like load (NETA MTS Table 100.18).

    Over the air around it the same classes begin later.

    >>> infrared_class(9)[0], infrared_class(40)[0], infrared_class(9, over_air=True)[0]
    ('probable', 'major', 'possible')
    """
    classes = table("infrared_air" if over_air else "infrared")
    row = next(r for r in classes.rows if float(r[0]) >= min(rise_c, 1000))
    return str(row[1]), str(row[2])


def insulation_at_40(megohm: float, celsius: float) -> Worked:
    """Return insulation resistance corrected to 40 °C [MΩ]: it halves for every 10 °C (IEEE 43)."""
    factor = 0.5 ** ((40 - celsius) / 10)
    return Worked(
        steps=(
            given("factor, halving for each 10 °C", factor, ""),
            computed("at 40 °C", f"{number(megohm)} × {number(factor)}", megohm * factor, "MΩ"),
        )
    )


def phase_amps(kilowatt: float, volts: float, phases: int, power_factor: float = 1.0) -> Worked:
    """Return the amps of each leg [A]: P/(V·pf), with three phases √3 times less."""
    way, text = (math.sqrt(3), "√3 × ") if phases == 3 else (1.0, "")
    amps = 1000 * kilowatt / (way * volts * power_factor)
    words = f"1000 × {number(kilowatt)} ÷ ({text}{number(volts)} × {number(power_factor)})"
    return Worked(steps=(computed("amps of each leg", words, amps, "A"),))
