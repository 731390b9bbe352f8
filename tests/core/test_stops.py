"""What stops the work: readings worked by hand (common practice, no source; the arithmetic stands beside each)."""

from pathlib import Path

import pytest
from tests.core.told import LO_Z, amps, answer, chance, led_to_the_end, seen, top, volts

from zesty_copper.cli import main
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Diagnosis, NextTest, Standing
from zesty_copper.core.diagnosis.model.job import USUAL_TOOLS, Job, Scope
from zesty_copper.core.diagnosis.plan.inspection import HANDLE
from zesty_copper.core.diagnosis.safety.stops import permits
from zesty_copper.core.faults.danger import Leaves, StopKind
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.observations.modes import MeterMode

HEAT_PUMP, ROOFTOP, FURNACE = (ready_made()[key] for key in ("heat_pump", "rooftop_208", "furnace_120"))


def found_by(circuit: Circuit, *readings: Reading, looks: tuple[str, ...] = ()) -> Diagnosis:
    """Diagnose with everything a technician carries, the panel open, so that anything might be asked."""
    scope = Scope(panel_may_be_opened=True, tools=USUAL_TOOLS)
    told = tuple(seen(sign) for sign in looks)
    return diagnose(Job(circuit=circuit, readings=readings, looks=told, scope=scope))


def keeps_to(circuit: Circuit, found: Diagnosis) -> bool:
    """Whether what is asked next is safe while the card stands."""

    def safe(test: NextTest | None) -> bool:
        if test is None:
            return True
        if test.look is not None and test.look.sign == HANDLE:
            return found.stop is None  # a handle is moved off and on again
        return all(permits(circuit, found.stop, measurement) for measurement in test.measurements)

    return safe(found.next_test) and safe(found.handover)


def pairs(first: float, second: float, third: float, *state: str) -> list[Reading]:
    """L1 to L2, L2 to L3 and L3 to L1 at the whip."""
    legs = (("L1", "L2"), ("L2", "L3"), ("L3", "L1"))
    return [
        volts(f"{a}@whip", f"{b}@whip", value, *state)
        for (a, b), value in zip(legs, (first, second, third), strict=True)
    ]


@pytest.mark.parametrize(
    ("first", "second"),
    [(152.0, 91.0), (91.0, 152.0), (171.0, 70.5), (38.0, 204.0)],
    ids=["L1 high", "L2 high", "L1 far", "L2 far"],
)
@pytest.mark.parametrize("where", ["panel", "unit"])
def test_unequal_legs_that_add_up_stop_the_work_both_ways_round(first: float, second: float, where: str) -> None:
    """152 + 91 = 243 V: the neutral strays between two legs that stay 243 V apart."""
    if where == "panel":
        readings = [volts("L1@supply", "N@supply", first), volts("L2@supply", "N@supply", second)]
    else:
        at_rest = ("call",)
        readings = [volts("L1@whip", "G", first, *at_rest), volts("L2@whip", "G", second, *at_rest)]
    diagnosis = found_by(HEAT_PUMP, *readings)
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.SERVICE_NEUTRAL
    assert set(diagnosis.stop.readings) == {reading.id for reading in readings}
    assert diagnosis.stop.leaves is Leaves.DEAD
    assert keeps_to(HEAT_PUMP, diagnosis)


@pytest.mark.parametrize(
    ("first", "second"),
    [
        (120.5, 104.0),  # a poor joint on L2 under load: it adds up to what is left, and lifts nothing
        (120.5, 41.0),  # an open L2 and its ghost
        (126.5, 125.0),  # a high service, within ANSI C84.1 range B (from memory)
        (121.0, 0.4),  # a dead leg
    ],
)
def test_a_poor_joint_an_open_leg_or_a_high_service_is_no_failing_neutral(first: float, second: float) -> None:
    diagnosis = found_by(HEAT_PUMP, volts("L1@whip", "G", first), volts("L2@whip", "G", second))
    assert diagnosis.stop is None or diagnosis.stop.kind not in (StopKind.SERVICE_NEUTRAL, StopKind.LEG_OR_NEUTRAL)


def test_a_120_volt_leg_far_too_high_has_lost_its_neutral() -> None:
    diagnosis = found_by(FURNACE, volts("L1@tail", "N@tail", 148.0))
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.SERVICE_NEUTRAL


@pytest.mark.parametrize(("shown", "stops"), [(127.0, False), (129.5, True)])
def test_a_lone_leg_above_what_a_service_may_give_is_lifted_by_its_neutral(shown: float, stops: bool) -> None:
    """127 V is the end of range B (ANSI C84.1, from memory): what is higher no tap of a 120 V service gives."""
    stop = answer(volts("L1@tail", "N@tail", shown), circuit=FURNACE).stop
    assert (stop is not None and stop.kind is StopKind.SERVICE_NEUTRAL) is stops


def test_a_lone_leg_that_is_poor_ahead_of_the_panel_stops_as_its_neutral_would() -> None:
    """Half the volts at the first point in the panel, called and at rest: this leg or the neutral, nobody can say."""
    readings = [volts("L1@supply", "N@supply", 61.0), volts("L1@supply", "G", 61.4), volts("L1@tail", "G", 60.8)]
    diagnosis = answer(*readings, circuit=FURNACE, panel=True)
    assert chance(diagnosis, "resistive:supply", "open:supply:N", "intermittent:supply") > 0.9
    assert diagnosis.stop is not None
    named = {s.place for s in diagnosis.suspects if s.key in diagnosis.verdict.suspects}
    assert diagnosis.verdict.standing is not Standing.SURE or named == {"supply:N"}


def test_a_lone_leg_is_read_with_the_load_on_and_off_before_nothing_is_found_and_its_neutral_stays_named() -> None:
    diagnosis, readings = led_to_the_end("nothing_wrong", seed=1, circuit=FURNACE, cap=30)
    assert top(diagnosis).kind is FaultKind.NOTHING_WRONG
    at = {(r.measurement.place, r.measurement.open_switches) for r in readings if r.unit == "V"}
    leg_to_neutral = [(place, state) for place, state in at if place == Between(a=Point("L1@tail"), b=Point("N@tail"))]
    assert {bool(state) for _, state in leg_to_neutral} == {True, False}
    assert diagnosis.verdict.standing is Standing.INSEPARABLE
    assert "supply:N" in {s.place for s in diagnosis.suspects if s.key in diagnosis.verdict.suspects}
    assert "both legs to neutral" in diagnosis.verdict.advice


def test_line_voltage_on_a_control_wire_is_asked_for_in_loz_and_then_stops() -> None:
    """A floating secondary shows 60 V to ground on 10 MΩ and nothing on 3 kΩ; what has crossed over stays."""
    high = volts("R@transformer", "G", 61.0)
    diagnosis = found_by(HEAT_PUMP, high)
    assert diagnosis.stop is None
    assert diagnosis.next_test is not None
    assert diagnosis.next_test.measurements == (high.measurement.model_copy(update={"meter": LO_Z}),)
    stays = found_by(HEAT_PUMP, high, volts("R@transformer", "G", 58.0, meter=LO_Z))
    assert stays.stop is not None
    assert stays.stop.kind is StopKind.LINE_ON_CONTROLS
    assert "thermostat" in stays.stop.words, "what it may have hurt is named"
    assert keeps_to(HEAT_PUMP, stays)
    falls = found_by(HEAT_PUMP, high, volts("R@transformer", "G", 0.4, meter=LO_Z))
    assert falls.stop is None
    between = found_by(HEAT_PUMP, volts("Y@thermostat", "C@transformer", 118.0))
    assert between.stop is not None


def test_a_danger_is_cleared_by_the_test_that_its_card_names_and_by_nothing_else() -> None:
    """The same reading once more, after the repair; another spot, another state or a hi-Z reading clears nothing."""
    live = volts("R@transformer", "G", 121.0, meter=LO_Z)
    stopped = found_by(HEAT_PUMP, live)
    assert stopped.stop is not None
    assert "Then the same spot once more in LoZ" in stopped.stop.clears
    good = volts("R@transformer", "G", 0.4, meter=LO_Z, name="after")
    cleared = found_by(HEAT_PUMP, live, good)
    assert cleared.stop is None
    assert cleared.verdict == found_by(HEAT_PUMP, good).verdict
    for reading in (
        volts("R@transformer", "G", 0.4, name="after"),
        volts("Y@thermostat", "G", 0.4, meter=LO_Z),
        volts("R@transformer", "G", 0.4, "call", meter=LO_Z, name="after"),
    ):
        assert found_by(HEAT_PUMP, live, reading).stop is not None
    assert found_by(HEAT_PUMP, good, live).stop is not None, "what comes back stops again"


@pytest.mark.parametrize("control", [22.0, 24.6, 28.9])
def test_a_healthy_24_volt_side_stops_nothing(control: float) -> None:
    diagnosis = found_by(
        HEAT_PUMP,
        volts("R@transformer", "C@transformer", control),
        volts("R@transformer", "G", control, meter=LO_Z),
    )
    assert diagnosis.stop is None


@pytest.mark.parametrize("state", [(), ("call",)], ids=["called", "at rest"])
def test_three_pairs_badly_unequal_stop_a_motor_and_keep_one_at_rest(state: tuple[str, ...]) -> None:
    """208, 178, 176: mean 187.3, largest distance 20.7, 11 % unbalance (NEMA MG 1, from memory)."""
    diagnosis = found_by(ROOFTOP, *pairs(208.0, 178.0, 176.0, *state))
    assert diagnosis.stop is not None
    assert len(diagnosis.stop.readings) == 3, "the readings say it, not the ranking"
    assert diagnosis.stop.leaves is Leaves.IDLE
    assert keeps_to(ROOFTOP, diagnosis)


@pytest.mark.parametrize("found", [(208.0, 205.0, 203.0), (6.0, 2.0, 0.4)], ids=["1.3 % apart", "dead, and ghosts"])
def test_pairs_nearly_equal_or_dead_stop_nothing_by_themselves(found: tuple[float, float, float]) -> None:
    stop = found_by(ROOFTOP, *pairs(*found)).stop
    assert stop is None or not stop.readings


def test_behind_a_disconnect_that_is_off_pairs_say_nothing_of_the_legs() -> None:
    stop = found_by(ROOFTOP, *pairs(140.0, 60.0, 80.0, "disconnect")).stop
    assert stop is None or not stop.readings


def test_a_leg_of_a_three_phase_motor_is_never_clamped_alone() -> None:
    reading = amps("L1", "whip", 21.0)
    diagnosis = found_by(ROOFTOP, reading)
    assert diagnosis.next_test is not None
    asked = [m.place for m in diagnosis.next_test.measurements]
    assert asked == [reading.measurement.place.model_copy(update={"leg": leg}) for leg in ("L2", "L3")]
    all_three = found_by(ROOFTOP, reading, amps("L2", "whip", 21.4), amps("L3", "whip", 20.8))
    assert all_three.stop is None
    assert not all_three.next_test or len(all_three.next_test.measurements) != 2


def test_amps_in_two_legs_and_none_in_the_third_stop_the_motor() -> None:
    diagnosis = found_by(ROOFTOP, amps("L1", "compressor", 34.0), amps("L2", "compressor", 33.0))
    assert diagnosis.stop is None or not diagnosis.stop.readings
    diagnosis = found_by(
        ROOFTOP,
        amps("L1", "compressor", 34.0),
        amps("L2", "compressor", 33.0),
        amps("L3", "compressor", 0.2),
    )
    assert diagnosis.stop is not None
    assert len(diagnosis.stop.readings) == 3
    assert chance(diagnosis, "nothing_wrong") < 0.01
    assert keeps_to(ROOFTOP, diagnosis)


def test_a_poor_or_coming_and_going_leg_of_a_three_phase_motor_stops_as_an_open_one_does() -> None:
    diagnosis = found_by(
        ROOFTOP,
        volts("L2@load_lug", "L2@whip", 0.2),
        volts("L2@branch", "L2@line_lug", 9.0),
        volts("L2@branch", "L2@line_lug", 8.7, name="again"),
        amps("L2", "whip", 26.0),
    )
    assert chance(diagnosis, "resistive:line_lug:L2", "intermittent:line_lug:L2") > 0.5
    assert diagnosis.stop is not None
    assert "burns" in diagnosis.stop.words
    assert diagnosis.stop.leaves is Leaves.BRIEF
    assert "called again only for the seconds" in diagnosis.stop.words, "the card leaves what the next test asks for"


def test_metal_that_is_live_in_loz_stops_everything() -> None:
    found = found_by(HEAT_PUMP, volts("G@whip", "G@supply", 117.0, meter=LO_Z))
    assert found.stop is not None
    assert found.stop.kind is StopKind.LIVE_METAL
    assert keeps_to(HEAT_PUMP, found)
    diagnosis = found_by(HEAT_PUMP, volts("G@whip", "G@supply", 62.0))
    assert diagnosis.next_test is not None
    assert diagnosis.next_test.measurements[0].meter is LO_Z


def test_once_it_trips_at_once_only_dead_tests_are_asked() -> None:
    diagnosis = found_by(HEAT_PUMP, looks=("trips_at_once",))
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.TRIPS
    for test in (diagnosis.next_test, diagnosis.handover):
        assert test is None or all(m.meter is MeterMode.OHM for m in test.measurements)
    assert diagnosis.next_test is not None, "there is much to find by ohms"
    assert diagnosis.next_test.procedure[0].startswith("Off at the panel")
    assert keeps_to(HEAT_PUMP, diagnosis)
    # A handle that looks on may have tripped: it lifts nothing.
    looked = Look(id="handle", sign="off", zone=Zone.PANEL, seen=False)
    on = diagnose(Job(circuit=HEAT_PUMP, looks=(seen("trips_at_once"), looked), scope=Scope(tools=USUAL_TOOLS)))
    assert on.stop == diagnosis.stop


def test_a_stop_is_printed_by_the_shell_too(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    job = Job(circuit=FURNACE, readings=(volts("L1@tail", "N@tail", 148.0),))
    file = tmp_path / "job.json"
    file.write_text(job.model_dump_json())
    assert main(["diagnose", str(file)]) == 0
    assert capsys.readouterr().out.startswith("STOP: THE SERVICE NEUTRAL IS FAILING. 148 V")


def test_answers_without_danger_have_no_card() -> None:
    assert answer(volts("L1@whip", "L2@whip", 241.0), amps("L1", "whip", 18.2)).stop is None
