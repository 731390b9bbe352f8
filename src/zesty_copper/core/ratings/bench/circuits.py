"""Calculations of circuits: motors by horsepower, feeders, taps, what carries current, transformers, connectors."""

from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.bench.line import BenchAnswer, BenchField, Values, may_be_empty, number_field, tool
from zesty_copper.core.ratings.inputs.tables import exactly, first_from, last_to, table
from zesty_copper.core.ratings.rules.plate.demand import least_of_motors, motor_table_amps
from zesty_copper.core.ratings.rules.plate.equipment import transformer_device_amps
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__: list[str] = []

SHORT_TAP_FT, SHORT_TAP_PART = 10.0, 10
LONG_TAP_FT, LONG_TAP_PART = 25.0, 3
"""Taps to 10 ft carry a tenth of the feeder's device at least, to 25 ft a third (NEC 240.21(B)(1), (2))."""

_PHASES = BenchField(key="phases", label="Phases", choices=("1", "3"), usual="1")
_SMALL = {gauge_words(int(float(row[0]))): int(float(row[0])) for row in table("conductors").rows if float(row[0]) >= 8}
_COLORS = tuple(str(row[0]) for row in table("wire_nuts").rows)


def _f(values: Values, key: str) -> float:
    return float(values[key])


@tool(
    "motor",
    "Motor by its horsepower",
    "Circuits",
    "NEC Tables 430.248 and 430.250 (from memory), 430.22, 430.52",
    number_field("hp", "Horsepower", "hp", 1, least=0.1, most=50),
    number_field("volts", "Supply", "V", 240, least=100, most=600),
    _PHASES,
)
def _motor(values: Values) -> BenchAnswer:
    amps = motor_table_amps(_horsepower(_f(values, "hp")), _f(values, "volts"), int(str(values["phases"])))
    if amps is None:
        raise BadInput(say("ratings.no_such_motor"), "hp")
    worked = Worked(steps=(given("full-load amps by the table", amps, "A"), least_of_motors(amps, ())))
    text = f"2.5 × {number(amps)}"
    most = computed("inverse-time breaker, 250 %, before the next standard size", text, 2.5 * amps, "A")
    return BenchAnswer(
        words=say("ratings.motor_by_table", value=amps, least=worked.value, most=most.value),
        worked=Worked(steps=(worked.steps[0], most, worked.steps[1])),
    )


def _horsepower(told: float) -> float:
    """Return the table's horsepower nearest what was typed: 0.33 is a third."""
    rows = (float(row[0]) for row in table("motors_three_phase").rows + table("motors_single_phase").rows)
    nearest = min(rows, key=lambda one: abs(one - told))
    return nearest if abs(nearest - told) <= 0.03 * told else told


@tool(
    "feeder",
    "Several units on one feeder",
    "Circuits",
    "NEC 430.24, 430.62(A), 440.33",
    number_field("largest", "Largest motor of all", "A", 20),
    number_field("others", "All others together", "A", 30),
    number_field("device", "Largest branch device", "A", 45),
)
def _feeder(values: Values) -> BenchAnswer:
    largest, others, device = (_f(values, key) for key in ("largest", "others", "device"))
    least = least_of_motors(largest, (others,))
    most = computed(
        "largest branch device and the others", f"{number(device)} + {number(others)}", device + others, "A"
    )
    down = max(last_to("standard_sizes", most.value) or 15.0, 15.0)
    return BenchAnswer(
        words=say("ratings.feeder_for_units", least=least.value, most=down),
        worked=Worked(steps=(most, given("down to a standard size", down, "A"), least)),
    )


@tool(
    "tap",
    "Tap from a feeder",
    "Circuits",
    "NEC 240.21(B)(1), (2)",
    number_field("device", "Device of the feeder", "A", 200),
    number_field("load", "Load on the tap", "A", 40),
    number_field("feet", "Length of the tap", "ft", 8, most=200),
)
def _tap(values: Values) -> BenchAnswer:
    device, load, feet = (_f(values, key) for key in ("device", "load", "feet"))
    if feet > LONG_TAP_FT:
        raise BadInput(say("ratings.tap_too_long"), "feet")
    part = SHORT_TAP_PART if feet <= SHORT_TAP_FT else LONG_TAP_PART
    share = computed(
        f"a {'tenth' if part == SHORT_TAP_PART else 'third'} of it", f"{number(device)} ÷ {part}", device / part, "A"
    )
    least = max(load, share.value)
    worked = Worked(
        steps=(
            given("device of the feeder", device, "A"),
            share,
            computed("the larger of that and its load", f"max({number(load)}, {number(share.value)})", least, "A"),
        )
    )
    return BenchAnswer(words=say("ratings.tap_asks", value=least), worked=worked)


@tool(
    "carrying",
    "Current-carrying conductors",
    "Circuits",
    "NEC 310.15(E), (C)(1)",
    number_field("legs", "Hot conductors", "", 3, least=1, most=60),
    BenchField(
        key="neutral",
        label="Neutral",
        choices=("none", "of all legs of its supply", "with two legs of a wye", "feeds electronics"),
        usual="none",
    ),
)
def _carrying(values: Values) -> BenchAnswer:
    legs = _f(values, "legs")
    counts = values["neutral"] in ("with two legs of a wye", "feeds electronics") or (
        values["neutral"] == "of all legs of its supply" and legs == 1
    )
    carrying = legs + counts
    factor = float(first_from("bundling", carrying, "factor") or 0)
    counted = computed("that carry current", f"{number(legs)} + {int(counts)}", carrying, "")
    return BenchAnswer(
        words=say("ratings.conductors_carry", count=int(carrying), factor=factor),
        worked=Worked(steps=(given("factor by the table", factor, ""), counted)),
    )


@tool(
    "control",
    "Control transformer",
    "Circuits",
    "NEC 450.3(B); inrush by the coils' own plates",
    number_field("va", "Plate", "VA", 75),
    number_field("volts", "Primary", "V", 240),
    number_field("sealed", "Coils, held in", "VA", 30),
    number_field("inrush", "Largest coil, pulling in", "VA", 60),
)
def _control(values: Values) -> BenchAnswer:
    plate, sealed, inrush = (_f(values, key) for key in ("va", "sealed", "inrush"))
    most = transformer_device_amps(plate, _f(values, "volts"))
    pull = computed("at the moment of pulling in", f"{number(sealed)} + {number(inrush)}", sealed + inrush, "VA")
    return BenchAnswer(
        words=say("ratings.control_transformer_may", value=most.value, pull=pull.value, share=100 * sealed / plate),
        worked=Worked(steps=(pull, *most.steps)),
        tone="bad" if sealed > plate else "plain",
    )


@tool(
    "wire_nut",
    "Twist-on connector",
    "Circuits",
    "usual ranges, common practice; the box of the very connector decides",
    BenchField(
        key="color", label="Color", choices=tuple(str(row[0]) for row in table("wire_nuts").rows), usual="yellow"
    ),
    BenchField(key="size", label="Size", choices=tuple(_SMALL), usual="12 AWG"),
    number_field("count", "How many", "", 2, least=1, most=8),
    BenchField(key="other", label="And of size", choices=("none", *_SMALL), usual="none"),
    may_be_empty("others", "How many of those", ""),
)
def _wire_nut(values: Values) -> BenchAnswer:
    sizes = [(_SMALL[str(values["size"])], _f(values, "count"))]
    if values["other"] != "none":
        sizes.append((_SMALL[str(values["other"])], float(values.get("others", 1))))
    areas = [(exactly("conductors", "area", size) or 0.0, count) for size, count in sizes]
    total = sum(area * count for area, count in areas)
    row = next(row for row in table("wire_nuts").rows if row[0] == values["color"])
    least, most = float(row[1]), float(row[2])
    text = " + ".join(f"{number(count)} × {number(area)}" for area, count in areas)
    fits = least <= total <= most
    what = "usually holds" if fits else "usually does not hold"
    return BenchAnswer(
        words=say("ratings.wire_nut_holds", color=str(row[0]), what=what),
        worked=Worked(
            steps=(
                given("least it holds", least, "cmil"),
                given("most it holds", most, "cmil"),
                computed("together", text, total, "cmil"),
            )
        ),
        tone="good" if fits else "bad",
    )
