"""Circuits, points, states, readings that are refused, and how things are said."""

import math

import pytest
from pydantic import ValidationError
from tests.core.told import CONDENSER, PULLED, amps, volts

from zesty_copper.core.circuit.catalogue import catalogue
from zesty_copper.core.circuit.conductor import Conductor, Metal, conductor_resistance_ohm
from zesty_copper.core.circuit.measurement import Reading, check_reading, doubts_about
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.circuit.strip import strip_of
from zesty_copper.core.circuit.words import measurement_words
from zesty_copper.core.errors import BadInput


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
        ({"measurement": {"place": {"kind": "between", "a": "L3@whip", "b": "G"}}}, "measurement.place.a", "no leg"),
        ({"measurement": {"place": {"kind": "between", "a": "L1@roof", "b": "G"}}}, "measurement.place.a", "no point"),
        ({"measurement": {"place": {"kind": "between", "a": "G", "b": "G"}}}, "measurement.place.b", "one point"),
        ({"measurement": {"place": {"kind": "around", "leg": "L9", "part": "whip"}}, "unit": "A"},
         "measurement.place.leg", "no leg"),
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
    for broken, message in (
        ({**told, "parts": told["parts"][1:]}, "begin with its one source"),
        ({**told, "parts": told["parts"][:-1]}, "end with its load"),
        ({**told, "parts": [*told["parts"], told["parts"][-1]]}, "share one id"),
        ({**told, "switches": []}, "does not list"),
        ({**told, "switches": [*told["switches"], {**told["switches"][0], "id": "extra"}]}, "No part is opened"),
    ):
        with pytest.raises(ValidationError, match=message):
            Circuit.model_validate(broken)


def test_every_part_becomes_a_row_and_every_series_part_a_point_on_each_leg() -> None:
    for circuit in ready_made().values():
        strip = strip_of(circuit)
        assert [row.part for row in strip.rows] == [part.id for part in circuit.parts]
        points = {point for row in strip.rows for point in row.points.values()}
        assert points | {"G"} == set(circuit.points())
    pulled = [row.part for row in strip_of(CONDENSER).rows if row.carrier_of]
    assert pulled == ["stab_in", "clip_line", "fuse", "clip_load"]


def test_measurements_are_said_the_way_they_are_taken() -> None:
    said = {
        volts("L1@whip", "L2@whip", 0): "L1 to L2 at contactor line terminal · all closed, load called",
        volts("L2@fuse", "L2@clip_load", 0): "across L2’s fuse’s load-side clip · all closed, load called",
        volts(
            "G", "L2@line_lug", 0, *PULLED
        ): "L2 to ground at disconnect line lug · pull-out out, contactor dropped out",
        amps("L1", "whip", 0): "L1 in the clamp at the whip · all closed, load called",
    }
    for reading, words in said.items():
        assert measurement_words(CONDENSER, reading.measurement) == words


def test_the_catalogue_keeps_closed_parts_above_a_milliohm() -> None:
    resistances = [entry.resistance_mohm for entry in catalogue().values() if entry.resistance_mohm is not None]
    assert resistances
    assert min(resistances) >= 1.0
