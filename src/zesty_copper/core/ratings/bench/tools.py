"""Calculations without a call: each a line to fill, and an answer as one types."""

from typing import Literal

from zesty_copper.core.circuit.parts.conductor import FEET_PER_METRE, Metal, gauge_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings import formulas
from zesty_copper.core.ratings.bench import circuits  # noqa: F401 - puts its calculations on the bench
from zesty_copper.core.ratings.bench.line import (
    BenchAnswer,
    BenchField,
    BenchTool,
    Values,
    Written,
    bench_of,
    may_be_empty,
    number_field,
    tool,
    tools,
)
from zesty_copper.core.ratings.inputs.sheet import Box, Edition, Insulation, Plate, PullBox, Raceway, Run, Wires
from zesty_copper.core.ratings.inputs.tables import exactly, table
from zesty_copper.core.ratings.rules.plate.demand import least_of_motors, most_of_motors
from zesty_copper.core.ratings.rules.plate.equipment import unbalance
from zesty_copper.core.ratings.rules.supply import plate_window, unbalance_derating
from zesty_copper.core.ratings.rules.wires.ampacity import usable
from zesty_copper.core.ratings.rules.wires.boxes import needed_in3, needed_length_in
from zesty_copper.core.ratings.rules.wires.drop import lost_volts
from zesty_copper.core.ratings.worked import Worked, computed, given, number, share
from zesty_copper.core.words import say

__all__ = ["BenchAnswer", "BenchTool", "bench", "bench_tools"]

bench, bench_tools = bench_of, tools
"""The bench as it is once this module and `circuits` have put their calculations on it."""

_SIZES = {
    gauge_words(int(float(row[0]))): int(float(row[0])) for row in table("conductors").rows if float(row[0]) <= 14
}
_GAUGE = BenchField(key="size", label="Size", choices=tuple(_SIZES), usual="10 AWG", written=Written.GAUGE)
_SMALL = {gauge_words(int(float(row[0]))): int(float(row[0])) for row in table("conductors").rows if float(row[0]) >= 8}
_AIR = "ASHRAE Fundamentals: 1.08 Btu/h for each cfm and °F, at sea level"
_METAL = BenchField(key="metal", label="Metal", choices=tuple(Metal), usual="copper", written=Written.METAL)
_INSULATION = BenchField(
    key="insulation", label="Insulation", choices=tuple(Insulation), usual="THHN", written=Written.INSULATION
)
_PHASES = BenchField(key="phases", label="Phases", choices=("1", "3"), usual="1")
_TERMINALS = BenchField(key="terminals", label="Terminals", choices=("not marked", "60 °C", "75 °C"), usual="75 °C")


def _f(values: Values, key: str) -> float:
    return float(values[key])


def _celsius(fahrenheit: float) -> float:
    return (fahrenheit - 32) / 1.8


@tool(
    "drop",
    "Voltage drop",
    "Supply",
    "NEC Chapter 9 Tables 8 and 9; 3 % is advice",
    number_field("volts", "Supply", "V", 240),
    number_field("amps", "Amps", "A", 20, most=2000),
    _GAUGE,
    _METAL,
    number_field("feet", "One way", "ft", 50, most=1600),
    _PHASES,
    BenchField(key="raceway", label="In", choices=("cable", *Raceway), usual="cable", written=Written.RACEWAY),
)
def _drop(values: Values) -> BenchAnswer:
    raceway = None if values["raceway"] == "cable" else Raceway(str(values["raceway"]))
    run = Run(
        name="run",
        size_awg=_SIZES[str(values["size"])],
        metal=Metal(str(values["metal"])),
        length_m=_f(values, "feet") / FEET_PER_METRE,
        raceway=raceway,
    )
    lost = lost_volts(
        run, given("amps", _f(values, "amps"), "A"), three_phase=values["phases"] == "3", heat=raceway is None
    )
    assert lost is not None  # the length is given
    percent = 100 * lost.value / _f(values, "volts")
    worked = lost.then(
        computed("of the supply", f"100 × {number(lost.value)} ÷ {number(_f(values, 'volts'))}", percent, "%")
    )
    return BenchAnswer(
        words=say("ratings.drop_of_supply", value=lost.value, percent=percent),
        worked=worked,
        tone="good" if percent <= 3 else "doubtful",
    )


@tool(
    "joint",
    "Watts in a connection",
    "Supply",
    "P = V·I; ANSI/NETA MTS for mates",
    number_field("volts", "Across it", "V", 1.5),
    number_field("amps", "Amps then", "A", 20),
    BenchField(key="expected", label="Should be", unit="V", usual=0.02),
)
def _joint(values: Values) -> BenchAnswer:
    worked = formulas.joint(_f(values, "volts"), _f(values, "amps"), _f(values, "expected"))
    ohm = worked.steps[-2].value
    return BenchAnswer(
        words=say("ratings.w_burnt_there_m", value=worked.value, what=1000 * ohm),
        worked=worked,
        tone="bad" if worked.value >= 3 else "plain",
    )


@tool(
    "mates",
    "Compare legs",
    "Supply",
    "ANSI/NETA MTS: 50 %, fuses 15 %",
    number_field("a", "One", "mV", 12),
    number_field("b", "Other", "mV", 15),
    may_be_empty("c", "Third", "mV"),
    BenchField(key="of", label="Of", choices=("poles or joints", "fuses"), usual="poles or joints"),
)
def _mates(values: Values) -> BenchAnswer:
    worked = formulas.mates([_f(values, key) for key in "abc" if key in values])
    most = formulas.FUSE_PERCENT if values["of"] == "fuses" else formulas.MATE_PERCENT
    fits = worked.value <= most
    words = say("ratings.apart_from_investigated", value=worked.value, number=number(most))
    return BenchAnswer(words=words, worked=worked, tone="good" if fits else "bad")


@tool(
    "infrared",
    "Temperature compared with the other legs",
    "Supply",
    "ANSI/NETA MTS Table 100.18",
    number_field("hot", "This one", "°F", 142, least=-40),
    number_field("cool", "The other", "°F", 110, least=-40),
    BenchField(key="over", label="The other is", choices=("its mate", "the air around it"), usual="its mate"),
)
def _infrared(values: Values) -> BenchAnswer:
    hot, cool = _f(values, "hot"), _f(values, "cool")
    rise = (hot - cool) / 1.8
    over = f"over {values['over']}"
    worked = Worked(steps=(computed(over, f"({number(hot)} − {number(cool)}) ÷ 1.8", rise, "°C"),))
    name, words = formulas.infrared_class(rise, over_air=values["over"] == "the air around it")
    tone: Literal["good", "doubtful", "bad"] = "good" if name == "none" else "bad" if name == "major" else "doubtful"
    return BenchAnswer(words=f"{rise:.3g} °C {over}. {words}", worked=worked, tone=tone)


@tool(
    "unbalance",
    "Voltage or current unbalance",
    "Supply",
    "NEMA MG 1 14.36, figure 14-1",
    number_field("a", "L1–L2", "V", 208),
    number_field("b", "L2–L3", "V", 204),
    number_field("c", "L3–L1", "V", 211),
)
def _unbalance(values: Values) -> BenchAnswer:
    worked = unbalance((_f(values, "a"), _f(values, "b"), _f(values, "c")), "V")
    factor = unbalance_derating(worked.value)
    if factor is None:
        return BenchAnswer(words=say("ratings.above_5_motor_stopped", value=worked.value), worked=worked, tone="bad")
    tone: Literal["good", "doubtful"] = "good" if factor == 1 else "doubtful"
    return BenchAnswer(
        words=say("ratings.motor_may_give_rating", value=worked.value, share=share(factor)), worked=worked, tone=tone
    )


@tool(
    "window",
    "Voltage range of a nameplate",
    "Supply",
    "±10 % of the plate; common practice, no source",
    number_field("low", "Plate, lower", "V", 208),
    number_field("high", "Plate, higher", "V", 230),
)
def _window(values: Values) -> BenchAnswer:
    window = plate_window(Plate(least_volts=_f(values, "low"), most_volts=_f(values, "high")))
    assert window is not None  # both are given
    low, high = window
    return BenchAnswer(
        words=say("ratings.v_terminals_running", value=low.value, value_2=high.value), worked=low.then(*high.steps)
    )


@tool(
    "element",
    "Heating element at the voltage it gets",
    "Heat",
    "R = V²/P; watts go with the square of the volts",
    number_field("kw", "Marked", "kW", 5),
    number_field("rated", "at", "V", 240),
    number_field("volts", "It gets", "V", 230),
)
def _element(values: Values) -> BenchAnswer:
    worked = formulas.element_at(_f(values, "kw"), _f(values, "rated"), _f(values, "volts"))
    ohm, amps, kw = (step.value for step in worked.steps)
    return BenchAnswer(words=say("ratings.kw_about_cold_little", amps=amps, kw=kw, ohm=ohm), worked=worked)


@tool(
    "heater",
    "Heater without a nameplate",
    "Heat",
    "P = V²/R, dead and isolated, leads zeroed",
    number_field("ohm", "Ohms", "Ω", 11.5),
    number_field("volts", "Made for", "V", 240),
)
def _heater(values: Values) -> BenchAnswer:
    worked = formulas.unmarked_heater(_f(values, "ohm"), _f(values, "volts"))
    amps, kw = (step.value for step in worked.steps)
    return BenchAnswer(words=say("ratings.heater_about_kw", kw=kw, amps=amps), worked=worked)


@tool(
    "amps",
    "kW to amps",
    "Heat",
    "P = V·I, three-phase √3·V·I",
    number_field("kw", "Heat", "kW", 10),
    number_field("volts", "Leg to leg", "V", 240),
    _PHASES,
)
def _amps(values: Values) -> BenchAnswer:
    worked = formulas.phase_amps(_f(values, "kw"), _f(values, "volts"), int(str(values["phases"])))
    return BenchAnswer(words=say("ratings.amps_in_each_leg", value=worked.value), worked=worked)


@tool(
    "rise",
    "Temperature rise across the heat",
    "Heat",
    _AIR,
    number_field("kw", "Heat", "kW", 10),
    number_field("cfm", "Air", "cfm", 1000),
)
def _rise(values: Values) -> BenchAnswer:
    worked = formulas.air_rise(_f(values, "kw"), _f(values, "cfm"))
    return BenchAnswer(words=f"{worked.value:.3g} °F warmer.", worked=worked)


@tool(
    "delivered",
    "Heat output from temperature rise",
    "Heat",
    _AIR,
    number_field("rise", "Rise", "°F", 30),
    number_field("cfm", "Air", "cfm", 1000),
)
def _delivered(values: Values) -> BenchAnswer:
    worked = formulas.heat_delivered(_f(values, "rise"), _f(values, "cfm"))
    return BenchAnswer(words=f"{worked.value:.3g} kW.", worked=worked)


@tool(
    "capacitor",
    "Run capacitor, in circuit",
    "Motors",
    "C = I/(2π·f·V)",
    number_field("amps", "Amps in its lead", "A", 5),
    number_field("volts", "Volts across it", "V", 350),
    may_be_empty("marked", "Marked", "µF"),
)
def _capacitor(values: Values) -> BenchAnswer:
    worked = formulas.capacitor(_f(values, "amps"), _f(values, "volts"))
    if "marked" not in values:
        return BenchAnswer(words=f"{worked.value:.3g} µF.", worked=worked)
    marked = _f(values, "marked")
    off = 100 * (worked.value - marked) / marked
    text = f"100 × ({number(worked.value)} − {number(marked)}) ÷ {number(marked)}"
    tone: Literal["good", "bad"] = "good" if abs(off) <= 10 else "bad"
    words = say("ratings.f_what_marked_within", value=worked.value, off=off)
    return BenchAnswer(words=words, worked=worked.then(computed("off by", text, off, "%")), tone=tone)


@tool(
    "leads",
    "Compressor amps: common, run, start",
    "Motors",
    "common is the phasor sum of run and start",
    number_field("common", "Common", "A", 14),
    number_field("run", "Run", "A", 12.5),
    number_field("start", "Start", "A", 4.2),
)
def _leads(values: Values) -> BenchAnswer:
    worked = formulas.compressor_leads(_f(values, "common"), _f(values, "run"), _f(values, "start"))
    return BenchAnswer(words=say("ratings.they_close_triangle_start", value=worked.value), worked=worked, tone="good")


@tool(
    "unmarked_leads",
    "Find C, R, S by amps",
    "Motors",
    "clamp each lead alone while it runs; the most is common, the phasor sum of run and start",
    number_field("amps_1", "Lead 1", "A", 4.2),
    number_field("amps_2", "Lead 2", "A", 14),
    number_field("amps_3", "Lead 3", "A", 12.5),
)
def _unmarked_leads(values: Values) -> BenchAnswer:
    worked, (common, run, start) = formulas.compressor_leads_by_amps(
        _f(values, "amps_1"), _f(values, "amps_2"), _f(values, "amps_3")
    )
    words = say("ratings.common_lead_run_start", common=common, run=run, start=start, value=worked.value)
    return BenchAnswer(words=words, worked=worked, tone="good")


@tool(
    "terminals",
    "Find C, R, S by ohms",
    "Motors",
    "Locked out, proved dead, leads off, capacitor discharged. The highest ohms are run plus start; the terminal left "
    "out of them is common",
    number_field("ohm_12", "Terminal 1 to 2", "Ω", 1.1),
    number_field("ohm_23", "Terminal 2 to 3", "Ω", 5.3),
    number_field("ohm_31", "Terminal 3 to 1", "Ω", 4.2),
)
def _terminals(values: Values) -> BenchAnswer:
    worked, (common, run, start) = formulas.compressor_terminals(
        _f(values, "ohm_12"), _f(values, "ohm_23"), _f(values, "ohm_31")
    )
    return BenchAnswer(
        words=say("ratings.common_terminal_run_start", common=common, run=run, start=start), worked=worked, tone="good"
    )


@tool(
    "plate",
    "MCA and MOCP",
    "Motors",
    "NEC 440.22, 440.33",
    number_field("largest", "Largest motor", "A", 14.1, most=500),
    BenchField(key="others", label="All others together", unit="A", usual=1.1, most=500),
)
def _plate(values: Values) -> BenchAnswer:
    largest, others = _f(values, "largest"), [_f(values, "others")] if values["others"] else []
    need = least_of_motors(largest, others)
    first, last = most_of_motors(largest, others, 1.75), most_of_motors(largest, others, 2.25)
    words = say("ratings.mca_device_most_if", value=need.value, value_2=first[1].value, value_3=last[1].value)
    return BenchAnswer(words=words, worked=Worked(steps=(need, *first, *last)))


@tool(
    "insulation",
    "Insulation resistance at 40 °C",
    "Motors",
    "IEEE 43: 5 MΩ for random-wound motors under 1 kV",
    number_field("megohm", "Read", "MΩ", 20),
    number_field("degrees", "Winding at", "°F", 77, least=-40, most=300),
)
def _insulation(values: Values) -> BenchAnswer:
    worked = formulas.insulation_at_40(_f(values, "megohm"), _celsius(_f(values, "degrees")))
    fits = worked.value >= formulas.IEEE_43_MEGOHM
    words = say("ratings.insulation_at_40_c", value=worked.value)
    return BenchAnswer(words=words, worked=worked, tone="good" if fits else "bad")


@tool(
    "transformer",
    "Control transformer VA",
    "Motors",
    "its plate; common practice, no source",
    number_field("va", "Plate", "VA", 40),
    number_field("a", "Coil", "VA", 15),
    may_be_empty("b", "Coil", "VA"),
    may_be_empty("c", "Coil", "VA"),
)
def _transformer(values: Values) -> BenchAnswer:
    worked = formulas.transformer_load(_f(values, "va"), [_f(values, key) for key in "abc" if key in values])
    fits = worked.value <= 100
    return BenchAnswer(
        words=say("ratings.share_of_plate", value=worked.value), worked=worked, tone="good" if fits else "bad"
    )


@tool(
    "ampacity",
    "Wire ampacity",
    "Wire",
    "NEC 310.16, 310.15, 110.14(C)",
    _GAUGE,
    _METAL,
    _INSULATION,
    _TERMINALS,
    number_field("ambient", "Ambient", "°F", 86, least=-40, most=185),
    number_field("carrying", "Current-carrying", "", 3, least=1, most=60),
    BenchField(key="roof", label="On a roof in sun", choices=("no", "yes"), usual="no"),
)
def _ampacity(values: Values) -> BenchAnswer:
    terminals = str(values["terminals"])
    run = Run(
        name="run",
        size_awg=_SIZES[str(values["size"])],
        metal=Metal(str(values["metal"])),
        insulation=Insulation(str(values["insulation"])),
        terminals_c=None if terminals == "not marked" else int(terminals.split(maxsplit=1)[0]),
        ambient_c=_celsius(_f(values, "ambient")),
        carrying=int(_f(values, "carrying")),
        above_roof_mm=0.0 if values["roof"] == "yes" else None,
    )
    worked = usable(run, 0.0, Edition.NEC_2023)
    return BenchAnswer(words=f"{worked.value:.3g} A.", worked=worked)


@tool(
    "box",
    "Box fill",
    "Wire",
    "NEC 314.16(B)",
    BenchField(
        key="size",
        label="Size",
        choices=("14 AWG", "12 AWG", "10 AWG", "8 AWG", "6 AWG"),
        usual="12 AWG",
        written=Written.GAUGE,
    ),
    number_field("count", "Conductors, neutrals too, in and out", "", 6, least=1, most=60),
    BenchField(key="grounds", label="Grounds", usual=3, most=20),
    BenchField(key="clamps", label="Clamps inside", choices=("no", "yes"), usual="no"),
    BenchField(key="yokes", label="Devices", usual=0, most=4),
    may_be_empty("volume", "Box", "in³"),
)
def _box(values: Values) -> BenchAnswer:
    size = _SIZES[str(values["size"])]
    grounds = int(_f(values, "grounds"))
    box = Box(
        name="box",
        wires=(Wires(size_awg=size, count=int(_f(values, "count"))),),
        grounds=(Wires(size_awg=size, count=grounds),) if grounds else (),
        clamps=values["clamps"] == "yes",
        yokes=int(_f(values, "yokes")),
    )
    worked = needed_in3(box, Edition.NEC_2023)
    assert worked is not None  # every size offered is in the table
    if "volume" not in values:
        return BenchAnswer(words=say("ratings.pull_volume_least", value=worked.value), worked=worked)
    fits = _f(values, "volume") >= worked.value
    words = say(
        "ratings.box_volume_least",
        value=worked.value,
        number=number(_f(values, "volume")),
        what="will do" if fits else "is too small",
    )
    return BenchAnswer(words=words, worked=worked, tone="good" if fits else "bad")


@tool(
    "wire",
    "Wire size for a load",
    "Wire",
    "NEC 310.16, 310.15, 110.14(C), 240.4(D)",
    number_field("amps", "Asked (MCA, or 125 %)", "A", 26, most=450),
    BenchField(
        key="feeds", label="Feeds", choices=("heat or other loads", "compressor or motor"), usual="heat or other loads"
    ),
    _METAL,
    _INSULATION,
    _TERMINALS,
    number_field("ambient", "Ambient", "°F", 86, least=-40, most=185),
    number_field("carrying", "Current-carrying", "", 3, least=1, most=60),
)
def _wire(values: Values) -> BenchAnswer:
    for size, awg in _SIZES.items():
        if values["metal"] == "aluminium" and size == "14 AWG":
            continue
        answer = _ampacity({**values, "size": size, "roof": "no"})
        worked, held = answer.worked, exactly("small_conductors", "device", str(values["metal"]), awg)
        if held is not None and values["feeds"] == "heat or other loads":
            # 240.4(G) frees motors and motor-compressors of the limit; nothing frees heat.
            limit = given(f"limit of a small conductor, {size}", held, "A")
            text = f"min({number(worked.value)}, {number(held)})"
            worked = worked.then(limit, computed("the lower", text, min(worked.value, held), "A"))
        if worked.value >= _f(values, "amps"):
            words = say("ratings.which_may_carry", size=size, values=values["metal"], value=worked.value)
            return BenchAnswer(words=words, worked=worked)
    raise BadInput(say("ratings.no_size_table_carries"), "amps")


@tool(
    "pull",
    "Pull box",
    "Wire",
    "NEC 314.28(A), for 4 AWG and larger",
    number_field("largest", "Largest raceway", "in", 2, most=6),
    BenchField(
        key="way", label="Conductors go", choices=("straight through", "around a corner"), usual="straight through"
    ),
    BenchField(key="others", label="Others in that row, together", unit="in", usual=0, most=40),
)
def _pull(values: Values) -> BenchAnswer:
    straight = values["way"] == "straight through"
    others = () if straight or not _f(values, "others") else (_f(values, "others"),)
    box = PullBox(name="pull box", largest_raceway_in=_f(values, "largest"), others_in=others, straight=straight)
    worked = needed_length_in(box)
    return BenchAnswer(words=say("ratings.raceway_inches_least", value=worked.value), worked=worked)
