"""The bench's calculations against numbers worked by hand from the formula each names."""

from itertools import permutations

import pytest
from tests.core.sums import recomputed

from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.bench.tools import bench, bench_tools
from zesty_copper.core.ratings.formulas import compressor_leads, compressor_leads_by_amps, compressor_terminals, mates

USUAL = {tool.key: {field.key: field.usual for field in tool.fields} for tool in bench_tools()}

WORKED = [
    # Of 240²/5000 = 11.52 Ω, 230 V drive 19.97 A: 4.592 kW.
    ("element", {}, 4.592),
    ("heater", {"ohm": 11.52, "volts": 240}, 5.0),
    # 10⁶ ÷ (2π·60) = 2652.6; × 5 ÷ 350.
    ("capacitor", {}, 37.894),
    # 3412 × 10 ÷ 1080.
    ("rise", {}, 31.593),
    ("delivered", {"rise": 31.593, "cfm": 1000}, 10.0),
    ("amps", {"kw": 10, "volts": 208, "phases": "3"}, 27.757),
    # A right angle: 5² = 4² + 3².
    ("leads", {"common": 5, "run": 4, "start": 3}, 90.0),
    # A right angle: 13² = 12² + 5².
    ("unmarked_leads", {"amps_1": 5, "amps_2": 13, "amps_3": 12}, 90.0),
    ("terminals", {"ohm_12": 4.2, "ohm_23": 1.1, "ohm_31": 5.2}, 5.3),
    # 15 ÷ 40.
    ("transformer", {}, 37.5),
    # 20 MΩ at 25 °C halves one and a half times to 40 °C.
    ("insulation", {}, 7.071),
    ("unbalance", {"a": 240, "b": 231, "c": 222}, 3.896),
    ("mates", {"a": 12, "b": 18}, 50.0),
    ("infrared", {"hot": 137, "cool": 110}, 15.0),
    # (1.5 − 0.02) × 20.
    ("joint", {}, 29.6),
    # 2 × 20 × 1.24 × 50 ÷ 1000 = 2.48 V of 240.
    ("drop", {}, 1.0333),
    # 0.9 × 208, 1.1 × 230.
    ("window", {}, 253.0),
    # 40 × 0.82 at 122 °F, under the terminals' 35.
    ("ampacity", {"ambient": 122}, 32.8),
    ("wire", {"amps": 36}, 50.0),
    ("box", {"clamps": "yes", "yokes": 1}, 13.5 + 2.25 + 4.5 + 2.25),
    ("plate", {"largest": 20, "others": 2}, 45.0),
    # 1 hp at 230 V is 8 A by the table: 1.25 × 8.
    ("motor", {}, 10.0),
    # 1.25 × 20 + 30.
    ("feeder", {}, 55.0),
    # 8 ft: a tenth of 200 is 20, less than its load.
    ("tap", {}, 40.0),
    ("tap", {"feet": 20}, 200 / 3),
    # Two legs of a wye and their neutral: 2 + 1.
    ("carrying", {"legs": 2, "neutral": "with two legs of a wye"}, 3.0),
    # 75 ÷ 240 = 0.3125 A, under 2 A: 300 %.
    ("control", {}, 0.9375),
    # Two 12 AWG: 2 × 6530 circular mils.
    ("wire_nut", {}, 13060.0),
    ("pull", {"way": "around a corner", "others": 1}, 13.0),
]  # fmt: skip


@pytest.mark.parametrize(("key", "told", "value"), WORKED, ids=lambda one: one if isinstance(one, str) else "")
def test_worked_by_hand(key: str, told: dict[str, float | str], value: float) -> None:
    answer = bench(key, USUAL[key] | told)
    assert answer.worked.value == pytest.approx(value, rel=1e-3)
    recomputed(answer.worked)


def test_every_line_has_a_worked_case() -> None:
    assert {key for key, _, _ in WORKED} == set(USUAL)


@pytest.mark.parametrize(
    ("key", "told", "words"),
    [
        ("nothing", {}, "There is no such calculation"),
        ("drop", {"amps": None}, "Fill in: Amps."),
        ("drop", {"size": "11 AWG"}, "Size: No 11 AWG wire is made"),
        (
            "drop",
            {"size": "600 kcmil"},
            "Size: 600 kcmil is beyond the tables here: wire size from 18 AWG to 500 kcmil",
        ),
        ("ampacity", {"ambient": "500 °F"}, "Ambient: between -40 and 185 °F"),
        ("drop", {"amps": "many"}, "Amps: between"),
        ("leads", {"common": 20, "run": 10, "start": 3}, "close no triangle"),
        ("terminals", {"ohm_12": 1.1, "ohm_23": 4.2, "ohm_31": 3.6}, "a winding is shorted"),
        ("motor", {"hp": 4}, "The tables have no such motor"),
        ("motor", {"volts": 440, "phases": "1"}, "The tables have no such motor"),
        ("tap", {"feet": 30}, "A tap is 25 ft long at most"),
        ("wire", {"amps": 449}, "No size of the table carries so much"),
    ],
)
def test_what_cannot_be_done_is_said_in_one_sentence(key: str, told: dict[str, float | str | None], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        bench(key, USUAL.get(key, {}) | told)


@pytest.mark.parametrize(
    ("key", "told", "as_typed"),
    [
        (
            "drop",
            {"size": "10 AWG", "feet": 65.0, "metal": "aluminium"},
            {"size": "#10", "feet": "65 ft", "metal": "Al"},
        ),
        ("ampacity", {"size": "4/0 AWG", "ambient": 122.0}, {"size": "4/0", "ambient": "50 °C"}),
        ("ampacity", {"insulation": "THWN-2"}, {"insulation": "THHN/THWN-2", "ambient": "86 °F"}),
        ("drop", {"raceway": "steel"}, {"raceway": "EMT", "amps": "20 A"}),
    ],
)
def test_values_are_read_as_people_write_them(
    key: str, told: dict[str, float | str], as_typed: dict[str, float | str]
) -> None:
    assert bench(key, USUAL[key] | as_typed) == bench(key, USUAL[key] | told)


def test_others_of_a_plate_are_no_motor_and_small_wire_is_limited_for_heat_alone() -> None:
    """1.25 × 14 + 20 = 37.5: the others together are more than the largest, and still not it."""
    answer = bench("plate", {"largest": 14, "others": 20})
    assert "MCA 37.5 A; device 40 A, 50 A at most" in answer.words
    asked: dict[str, float | str | None] = {**USUAL["wire"], "amps": 22}
    assert bench("wire", asked).words.startswith("10 AWG"), "240.4(D) holds 12 AWG to 20 A"
    assert bench("wire", asked | {"feeds": "compressor or motor"}).words.startswith("12 AWG")
    over_air = bench("infrared", {"hot": 137, "cool": 110, "over": "the air around it"})
    assert "Probable" in over_air.words, "15 °C over air"


@pytest.mark.parametrize("order", list(permutations((1, 2, 3))))
def test_terminals_are_named_however_they_are_numbered(order: tuple[int, int, int]) -> None:
    """Run 0.9 Ω and start 3.4 Ω from common: 4.3 Ω over both."""
    named = dict(zip(order, ("common", "run", "start"), strict=True))
    ohm = {frozenset({"common", "run"}): 0.9, frozenset({"common", "start"}): 3.4, frozenset({"run", "start"}): 4.3}
    read = [ohm[frozenset({named[a], named[b]})] for a, b in ((1, 2), (2, 3), (3, 1))]
    assert compressor_terminals(*read)[1] == order


@pytest.mark.parametrize("order", list(permutations((1, 2, 3))))
def test_leads_are_named_by_the_size_of_their_amps(order: tuple[int, int, int]) -> None:
    """Run 12 A and start 5 A at a right angle: √(144 + 25) = 13 A in common, however they are numbered."""
    amps = dict(zip(order, (13.0, 12.0, 5.0), strict=True))
    worked, named = compressor_leads_by_amps(*(amps[lead] for lead in (1, 2, 3)))
    assert named == order
    assert worked.value == pytest.approx(90, abs=0.1)
    with pytest.raises(BadInput, match="about the same"):
        compressor_leads_by_amps(12.1, 12.0, 1.0)


def test_limits_of_the_formulas() -> None:
    assert compressor_leads(7, 4, 3).value == pytest.approx(0, abs=1), "in phase: the sum itself"
    with pytest.raises(BadInput, match="read it again with more digits"):
        mates([0, 12])
