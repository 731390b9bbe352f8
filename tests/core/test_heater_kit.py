"""A heater to be replaced: its size, the kit held against what is wanted, and its circuit; each worked by hand."""

import pytest
from pydantic import ValidationError
from tests.core.sums import recomputed

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.ratings.sizing.heater_kit import HeaterAnswer, HeaterKit, HeaterWanted, OldHeater, heater_answer

KIT = {"kw": 10, "rated_volts": 240, "stages_kw": [5, 5], "airflow": ["up", "left"], "control_va": 12, "width_in": 14}
WANTED = {"supply_volts": 240, "stages": 2, "airflow": "up", "cfm": 900, "rise_limit_f": 50, "spare_va": 20}


def answer(
    old: dict[str, object] | None = None, wanted: dict[str, object] | None = None, kit: dict[str, object] | None = None
) -> HeaterAnswer:
    """A kit of 10 kW in two stages for an old heater of 10 kW, or with what is told changed."""
    found = heater_answer(
        OldHeater.model_validate({"kw": 10} if old is None else old),
        HeaterWanted.model_validate(WANTED | (wanted or {})),
        HeaterKit.model_validate(KIT | (kit or {})),
        None,
    )
    for worked in (found.old, *(match.worked for match in found.matches)):
        if worked is not None:
            recomputed(worked)
    return found


@pytest.mark.parametrize(
    ("old", "kw"),
    [
        # 240²/11.52 = 5000 W.
        ({"ohm": 11.52, "rated_volts": 240}, 5.0),
        ({"ohm": 11.52, "rated_volts": 240, "elements": 3}, 15.0),
        # 230 × 20 = 4.6 kW while it ran; × (240/230)² = 5.009 kW at 240 V.
        ({"volts": 230, "amps": 20}, 4.6),
        ({"volts": 230, "amps": 20, "rated_volts": 240}, 5.0087),
        ({"kw": 7.5, "ohm": 3}, 7.5),
    ],
)
def test_an_unmarked_heater_is_sized(old: dict[str, object], kw: float) -> None:
    found = answer(old).old
    assert found is not None
    assert found.value == pytest.approx(kw, rel=1e-3)


@pytest.mark.parametrize(
    ("wanted", "kit", "label", "status", "words"),
    [
        ({}, {}, "Listed for this air handler", "cannot_tell", "maker’s list may not go in"),
        ({}, {"listed_for_it": False}, "Listed for this air handler", "not_met", "find one that is"),
        ({}, {}, "Voltage", "met", "240 V"),
        # (240/208)² = 1.331.
        ({}, {"rated_volts": 208}, "Voltage", "not_met", "1.3 times its watts"),
        # 10 × (208/240)² = 7.511.
        ({"supply_volts": 208}, {}, "Voltage", "advice", "only 7.51 kW"),
        ({}, {"phases": 3}, "Phases", "not_met", "wants three phases"),
        ({"phases": 3}, {}, "Phases", "advice", "two of three legs"),
        ({}, {}, "Size", "met", "10 kW for 10 kW"),
        ({}, {"kw": 15, "stages_kw": [5, 10]}, "Size", "not_met", "15 kW where 10 kW was"),
        ({"supply_volts": 208}, {}, "Size", "advice", "weaker heat"),
        # 3412 × 10 ÷ (1.08 × 50) = 631.9 cfm; at 30 °F 1,053.
        ({}, {}, "Airflow", "met", "632 cfm at least"),
        ({"rise_limit_f": 30}, {}, "Airflow", "not_met", "1.05e+03 cfm at least"),
        ({}, {"least_cfm": 1000}, "Airflow", "not_met", "1e+03 cfm at least"),
        ({"cfm": None}, {}, "Airflow", "cannot_tell", "blower's cfm"),
        ({"airflow": "down"}, {}, "Direction of air", "not_met", "limits would not see the heat"),
        ({"stages": 1}, {}, "Stages", "advice", "2 stages for 1 call"),
        ({}, {"stages_kw": []}, "Stages", "advice", "1 stage for 2 calls"),
        ({"control": "line voltage"}, {}, "Control", "not_met", "needs a relay between"),
        ({"spare_va": 10}, {}, "Control transformer", "not_met", "12 VA; 10 VA are left"),
        ({"opening_width_in": 12}, {}, "Opening", "not_met", "14 in wide, 12 in of room"),
        ({"opening_width_in": 15}, {}, "Opening", "met", "It fits: wide"),
    ],
)  # fmt: skip
def test_a_kit_is_held_against_what_is_wanted(
    wanted: dict[str, object], kit: dict[str, object], label: str, status: str, words: str
) -> None:
    (match,) = [heater_match for heater_match in answer(None, wanted, kit).matches if heater_match.label == label]
    assert (match.status, words in match.words) == (status, True), match.words


def test_its_circuit_is_checked_with_the_kit_in_it() -> None:
    """10 kW at 240 V are 41.67 A; with the blower's 2.0 A and 125 %, 54.6 A: 60 A will do, 15 kW on one will not."""
    sheet = sheets_of(ready_made()["air_handler"])["supply"]
    old, heater_wanted = OldHeater(kw=10), HeaterWanted.model_validate(WANTED)
    fits = heater_answer(old, heater_wanted, HeaterKit.model_validate(KIT), sheet)
    (device,) = [
        finding for finding in fits.findings if finding.rule == "device_for_load" and finding.about == "breaker"
    ]
    assert device.required is not None
    assert device.status.value == "met"
    assert device.required.value == pytest.approx(54.58, rel=1e-3)
    large = HeaterKit.model_validate(KIT | {"kw": 15, "stages_kw": [5, 10]})
    over = heater_answer(old, heater_wanted, large, sheet)
    assert any(one.rule == "device_for_load" and one.status == "not_met" for one in over.findings)
    split = HeaterKit.model_validate(KIT | {"kw": 15, "stages_kw": [5, 10], "circuits_kw": [10, 5]})
    assert all(one.status != "not_met" for one in heater_answer(old, heater_wanted, split, sheet).findings)


def test_what_does_not_add_up_is_asked_for() -> None:
    with pytest.raises(BadInput, match="give its rated volts"):
        answer({"ohm": 11.5})
    with pytest.raises(ValidationError, match="belong together"):
        OldHeater(volts=230)
    with pytest.raises(ValidationError, match="make 10 kW together, not 15"):
        HeaterKit.model_validate(KIT | {"kw": 15})
