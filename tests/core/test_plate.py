"""A nameplate's numbers held against each other, each worked by hand."""

import pytest

from zesty_copper.core.ratings.inputs.sheet import Edition, Plate, Sheet
from zesty_copper.core.ratings.rules.plate.plausible import PlateCheck, plausible
from zesty_copper.core.ratings.rules.reminders import not_judged, reminders


def checks(plate: dict[str, object], nominal: float = 240) -> tuple[PlateCheck, ...]:
    """What is said of a plate on a supply."""
    return plausible(Sheet(nominal_volts=nominal, legs=2, plate=Plate.model_validate(plate)))


CONDENSER = {"name": "compressor", "amps": 18.6, "locked_amps": 96}
FAN = {"name": "fan", "amps": 1.2}


@pytest.mark.parametrize(
    ("plate", "fits", "words"),
    [
        # 1.25 × 18.6 + 1.2 = 24.45.
        ({"use": "compressor", "mca_amps": 24.5, "motors": [CONDENSER, FAN]}, True, "what is listed makes 24.4 A"),
        ({"use": "compressor", "mca_amps": 42.5, "motors": [CONDENSER, FAN]}, False, "what is listed makes 24.4 A"),
        ({"use": "compressor", "mca_amps": 20, "motors": [CONDENSER, FAN]}, False, "MCA 20 A"),
        # 96 ÷ 18.6 = 5.2; a slipped decimal makes it 52.
        ({"motors": [CONDENSER]}, True, "5.2 times"),
        ({"motors": [CONDENSER | {"amps": 1.86}]}, False, "52 times"),
        # 1.8 × 24.5 = 44.1.
        ({"use": "compressor", "mca_amps": 24.5, "mocp_amps": 40}, True, "MOCP 40 A"),
        ({"use": "compressor", "mca_amps": 24.5, "mocp_amps": 60}, False, "MOCP 60 A"),
        ({"use": "compressor", "mca_amps": 24.5, "mocp_amps": 20}, False, "MOCP 20 A"),
        ({"mocp_amps": 42}, False, "42 A is no standard size"),
        # 7.2 × (240 ÷ 208)² = 9.586.
        ({"at_volts": [{"volts": 208, "heat_kw": 7.2}, {"volts": 240, "heat_kw": 9.6}]}, True, "make 9.59 kW at 240 V"),
        ({"at_volts": [{"volts": 208, "heat_kw": 9.6}, {"volts": 240, "heat_kw": 9.6}]}, False, "the plate says 9.6"),
        # 9600 ÷ 240 = 40.
        ({"heat_kw": 9.6, "heat_amps": 40, "least_volts": 240}, True, "draw 40 A"),
        ({"heat_kw": 9.6, "heat_amps": 20, "least_volts": 240}, False, "draw 40 A"),
        # Half a horsepower at 230 V: 4.9 A by the table.
        ({"motors": [{"name": "blower", "amps": 4.3, "hp": 0.5}]}, True, "0.5 hp is 4.9 A"),
        ({"motors": [{"name": "blower", "amps": 9.8, "hp": 0.5}]}, False, "0.5 hp is 4.9 A"),
        # 10 kW at 240 V and 4 A: 1.25 × 45.67 = 57.1.
        ({"use": "heat", "mca_amps": 57, "heat_kw": 10, "least_volts": 240, "motors": [{"name": "blower", "amps": 4}]}, True, "makes 57.1 A"),
    ],
)  # fmt: skip
def test_fields_that_belong_together_are_held_together(plate: dict[str, object], fits: bool, words: str) -> None:
    plate_checks = [check for check in checks(plate) if words in check.words]
    assert [one.fits for one in plate_checks] == [fits], [one.words for one in checks(plate)]


def test_what_does_not_fit_comes_first() -> None:
    plate_checks = checks({"use": "compressor", "mca_amps": 24.5, "mocp_amps": 60, "motors": [CONDENSER, FAN]})
    assert [check.fits for check in plate_checks] == [False, True, True]
    assert plate_checks[0].fields == ("MCA", "MOCP")


def test_a_column_is_held_against_what_it_makes_at_its_volts() -> None:
    """208 V: 7.2 kW are 34.6 A, with 3 A of blower and 125 % 47.0; 240 V: 9.6 kW are 40 A, 53.75."""
    columns = [{"volts": 208, "mca_amps": 47, "heat_kw": 7.2}, {"volts": 240, "mca_amps": 54, "heat_kw": 9.6}]
    plate: dict[str, object] = {"use": "heat", "motors": [{"name": "blower", "amps": 3}], "at_volts": columns}
    for nominal, built in ((208, "47 A"), (240, "53.8 A")):
        (whole,) = [check for check in checks(plate, nominal) if "what is listed" in check.words]
        assert (whole.fits, built in whole.words) == (True, True), whole.words


def test_reminders_go_by_edition_and_nothing_is_silently_left_out() -> None:
    assert "GFCI for the outdoor unit" not in [reminder.title for reminder in reminders(Edition.NEC_2017)]
    assert "210.8(F)" in " ".join(one.clause for one in reminders(Edition.NEC_2023))
    assert all(one.what and one.clause.startswith("NEC") for one in not_judged())
