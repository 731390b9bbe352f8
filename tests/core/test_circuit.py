"""Circuits, points, states, readings that are refused, and how things are said."""

import ast
import math

import pytest
from pydantic import ValidationError
from tests.conftest import CHECKOUT
from tests.core.told import CONDENSER, PULLED, amps, answer, spot, top, volts

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.parts.catalogue import catalogue, further_kinds
from zesty_copper.core.circuit.parts.conductor import Conductor, Metal, conductor_resistance_ohm
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.errors import BadInput
from zesty_copper.core.observations.measurement import Reading, check_reading, doubts_about
from zesty_copper.core.observations.strip import strip_of
from zesty_copper.core.observations.words import measurement_words


@pytest.mark.parametrize(
    ("size", "metal", "ohm_per_kft"),
    # NEC Chapter 9, Table 8 (2023), uncoated copper and aluminium, stranded, direct current at 75 °C: from memory; the
    # formula under test derives them from the gauge's definition.
    [(14, Metal.COPPER, 3.14), (12, Metal.COPPER, 1.98), (10, Metal.COPPER, 1.24), (8, Metal.COPPER, 0.778),
     (6, Metal.COPPER, 0.491), (4, Metal.COPPER, 0.308), (-3, Metal.COPPER, 0.0608), (6, Metal.ALUMINIUM, 0.808),
     (2, Metal.ALUMINIUM, 0.319)],
)  # fmt: skip
def test_conductor_resistance_follows_the_gauge(size: int, metal: Metal, ohm_per_kft: float) -> None:
    run = Conductor(size_awg=size, metal=metal, length_m=304.8)
    assert conductor_resistance_ohm(run, 75.0) == pytest.approx(ohm_per_kft, rel=0.015)


@pytest.mark.parametrize(
    ("change", "field", "part_of_message"),
    [
        ({"measurement": {"place": {"kind": "between", "a": "L3@whip", "b": "G"}}},
         "measurement.place.a", "no conductor"),
        ({"measurement": {"place": {"kind": "between", "a": "L1@roof", "b": "G"}}}, "measurement.place.a", "no point"),
        ({"measurement": {"place": {"kind": "between", "a": "G", "b": "G"}}}, "measurement.place.b", "one point"),
        ({"measurement": {"place": {"kind": "around", "leg": "L9", "part": "whip"}}, "unit": "A"},
         "measurement.place.leg", "no conductor"),
        ({"measurement": {"place": {"kind": "around", "leg": "L1", "part": "fuse"}}, "unit": "A"},
         "measurement.place.part", "around a wire"),
        ({"measurement": {"place": {"kind": "between", "a": "L1@whip", "b": "G"}, "open_switches": ["moon"]}},
         "measurement.open_switches", "no switch"),
        ({"measurement": {"place": {"kind": "between", "a": "L1@fuse", "b": "G"}, "open_switches": ["disconnect"]}},
         "measurement.place.a", "out of the box"),
        ({"value": -3.0}, "value", "minus sign"),
        ({"value": 1000.5}, "value", "1,000 V"),
        ({"unit": "A"}, "unit", "volts"),
    ],
)  # fmt: skip
def test_what_no_meter_could_show_here_is_refused_with_its_field(
    change: dict[str, object], field: str, part_of_message: str
) -> None:
    told = volts("L1@whip", "L2@whip", 240.0).model_dump(mode="json") | change
    with pytest.raises(BadInput) as caught:
        check_reading(CONDENSER, Reading.model_validate(told))
    assert caught.value.field == field
    assert part_of_message in caught.value.message
    assert caught.value.message.endswith(".")


def test_not_a_number_is_refused_before_it_is_a_reading() -> None:
    for value in (math.nan, math.inf):
        with pytest.raises(ValidationError):
            volts("L1@whip", "L2@whip", value)


def test_strange_but_possible_is_asked_about() -> None:
    assert "decimal point" in doubts_about(CONDENSER, volts("L1@whip", "G", 241.0))
    assert "decimal point" in doubts_about(CONDENSER, amps("L1", "whip", 182.0))
    assert doubts_about(CONDENSER, volts("L1@whip", "L2@whip", 251.0)) == ""
    assert doubts_about(CONDENSER, amps("L1", "whip", 18.2)) == ""


def test_a_circuit_that_cannot_be_is_refused() -> None:
    told = CONDENSER.model_dump(mode="json")
    parts = told["parts"]
    stray = {**parts[-1], "id": "stray", "lanes": ["L1", "L3"]}
    ahead = {**parts[-1], "id": "ahead", "after": "nowhere"}
    for broken, message in (
        ({**told, "parts": parts[1:]}, "begin with a source"),
        ({**told, "parts": [part for part in parts if part["load"] is None]}, "at least one load"),
        ({**told, "parts": [*parts, parts[-1]]}, "share one id"),
        ({**told, "parts": [*parts, stray]}, "which does not reach it"),
        ({**told, "parts": [*parts, ahead]}, "must stand before it"),
        ({**told, "system": "moonlight"}, "No supply system"),
        ({**told, "parts": [{**parts[0], "lanes": ["L1", "L2", "L3"]}, *parts[1:]]}, "brings L3, which a supply of"),
        ({**told, "switches": []}, "does not list"),
        ({**told, "switches": [*told["switches"], {**told["switches"][0], "id": "extra"}]}, "No part is opened"),
        ({**told, "switches": [{**s, "coil": "gone"} for s in told["switches"]]}, "names the coil"),
    ):
        with pytest.raises(ValidationError, match=message):
            Circuit.model_validate(broken)


@pytest.mark.parametrize("key", ready_made())
def test_every_part_becomes_a_row_and_every_point_a_dot(key: str) -> None:
    circuit = ready_made()[key]
    strip = strip_of(circuit)
    rows = [row for section in strip.sections for row in section.rows]
    assert {row.part for row in rows} == {part.id for part in circuit.parts}
    dots = [point for row in rows for point in row.points.values()]
    assert sorted(dots) == sorted(set(circuit.points()) - {"G"})
    known = set(dots)
    for row in rows:
        assert set(row.comes_from.values()) <= known, "every lane comes from a dot on the strip"
        is_root = any(row.part == section.root for section in strip.sections)
        assert row.comes_from or is_root
    pulled = [row.part for section in strip_of(CONDENSER).sections for row in section.rows if row.carrier_of]
    assert pulled == ["stab_in", "clip_line", "fuse", "clip_load"]


def test_a_new_kind_of_part_is_one_catalogue_entry() -> None:
    """Points, network, faults, strip and words of a kind that was never heard of follow from its entry."""
    entry = """
    [time_delay]
    role = "series"
    label = "Time delay"
    point = "delay, load side"
    resistance_mohm = 40.0
    weight = 3.0
    way = "contact"
    say_open = "Open on {lane} through the {name}"
    say_resistive = "High resistance on {lane} through the {name}"
    say_intermittent = "Intermittent on {lane} through the {name}"
    """
    with further_kinds(entry):
        delay = Part(id="delay", kind="time_delay", name="time delay", zone=Zone.UNIT, lanes=("L1",), after="contactor")
        compressor = CONDENSER.parts[-1].model_copy(update={"after": "delay"})
        circuit = CONDENSER.model_copy(update={"parts": (*CONDENSER.parts[:-1], delay, compressor)})
        assert "L1@delay" in set(circuit.points())
        row = next(row for row in strip_of(circuit).sections[0].rows if row.part == "delay")
        assert row.points == {"L1": "L1@delay"}
        assert row.comes_from == {"L1": "L1@contactor"}
        across = volts("L1@contactor", "L1@delay", 240.0)
        assert measurement_words(circuit, across.measurement) == "across the time delay, L1 · all closed, unit calling"
        diagnosis = answer(*spot("whip", 241.0, 120.6, 120.4), across, circuit=circuit)
        assert top(diagnosis).key == "open:delay:L1"
        assert top(diagnosis).words == "Open on L1 through the time delay"
    with pytest.raises(BadInput, match="No part of kind"):
        Part(id="delay", kind="time_delay", name="time delay", zone=Zone.UNIT).entry  # noqa: B018 - the look-up is what fails


def test_measurements_are_said_the_way_they_are_taken() -> None:
    said = {
        volts("L1@whip", "L2@whip", 0): "L1 to L2 at the contactor, line side · all closed, unit calling",
        volts("L2@fuse", "L2@clip_load", 0): "across the fuse clip, load side, L2 · all closed, unit calling",
        volts(
            "G", "L2@line_lug", 0, *PULLED
        ): "L2 to ground at the disconnect line lug · pull-out out, contactor dropped out",
        amps("L1", "whip", 0): "amps on L1 at the whip · all closed, unit calling",
    }
    for reading, words in said.items():
        assert measurement_words(CONDENSER, reading.measurement) == words


def test_the_catalogue_keeps_closed_parts_above_a_milliohm() -> None:
    resistances = [entry.resistance_mohm for entry in catalogue().values() if entry.resistance_mohm is not None]
    assert resistances
    assert min(resistances) >= 1.0


def test_nothing_asks_what_kind_a_part_is_by_a_literal() -> None:
    """What a kind of part does is said in parts.toml, so that a new kind does it too."""
    asking = [
        f"{file.name}:{node.lineno}"
        for file in (CHECKOUT / "src").rglob("*.py")
        for node in ast.walk(ast.parse(file.read_text("utf-8")))
        if isinstance(node, ast.Compare) and "kind" in ast.unparse(node.left).split(".")
        for compared in ast.walk(ast.Tuple(elts=node.comparators))
        if isinstance(compared, ast.Constant) and compared.value in catalogue()
    ]
    assert asking == []
