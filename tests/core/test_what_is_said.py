"""What the verdict says and leaves open, from readings worked by hand (common practice, no source)."""

from itertools import pairwise

import numpy as np
import pytest
from tests.core.told import CONDENSER, amps, answer, chance, led_to_the_end, seen, spot, top, volts

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.infer.two_state import flicker_log_weight
from zesty_copper.core.diagnosis.model.answer import Slip, Standing
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.plan.inspection import HANDLE
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.single_phasing import single_phasing
from zesty_copper.core.diagnosis.tell.verdict import ONE_FAULT
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.volts import Volts
from zesty_copper.core.observations.measurement import Measurement, Reading, zone_of
from zesty_copper.core.observations.modes import Tool

RIGHT = [*spot("whip", 241.8, 121.0, 120.8), amps("L1", "whip", 18.1), amps("L2", "whip", 18.2)]
FOUND = [volts("L2@fuse", "L2@clip_load", 18.4), volts("L2@fuse", "L2@clip_load", 18.1, name="again")]


def test_a_set_led_by_nothing_wrong_says_what_was_not_tested() -> None:
    """Everything right to the last test: nothing is accused, and what could still hide is named."""
    diagnosis, _ = led_to_the_end("nothing_wrong", seed=10)
    assert top(diagnosis).kind is FaultKind.NOTHING_WRONG
    assert diagnosis.verdict.standing is Standing.INSEPARABLE
    assert diagnosis.verdict.words.startswith("Nothing found wrong. Not ruled out: High resistance on L1")
    assert "record the lowest and highest volts" in diagnosis.verdict.advice


def test_a_found_fault_is_told_as_one_that_may_hide_another() -> None:
    diagnosis = answer(*FOUND, *spot("whip", 222.4, 120.9, 101.5))
    assert diagnosis.verdict.standing is Standing.SURE
    assert diagnosis.verdict.advice.endswith(ONE_FAULT)


def test_a_number_that_is_struck_out_is_read_again_before_anything_is_sure() -> None:
    """A second fault may be what it shows: 18 V to ground on L1 while all else says that L2's clip is poor."""
    odd = volts("L1@line_lug", "G", 18.0)
    readings = [*FOUND, *spot("whip", 222.4, 120.9, 101.5), odd]
    diagnosis = answer(*readings)
    assert diagnosis.verdict.standing is not Standing.SURE
    assert diagnosis.next_test is not None
    assert diagnosis.next_test.measurements == (odd.measurement,)
    mended = answer(*readings, volts("L1@line_lug", "G", 120.8, name="read again"))
    assert mended.verdict.standing is Standing.SURE
    assert mended.verdict.part == "clip_load"


def test_what_comes_and_goes_is_recorded_while_it_is_moved_loaded_and_warm() -> None:
    """Read dead and, with nothing touched, right again: one more moment tells little, five minutes tell much."""
    gone, back = (volts("L1@whip", "L2@whip", value, name=f"{value} V") for value in (0.3, 241.2))
    steady, restless = answer(gone), answer(gone, back)
    assert chance(restless, "intermittent:") > 0.5
    assert restless.next_test is not None
    assert restless.next_test.measurements
    assert not restless.next_test.measurements[0].open_switches
    assert any("record min and max" in step for step in restless.next_test.procedure)
    assert restless.next_test.minutes > 5, "what it takes to record counts"
    assert steady.next_test is not None
    assert not any("record min and max" in step for step in steady.next_test.procedure)


def test_what_nothing_explains_says_which_reading_to_repeat_and_asks_for_nothing_worthless() -> None:
    diagnosis = answer(*spot("whip", 241.0, 190.0, 190.0))
    assert diagnosis.verdict.standing is Standing.UNEXPLAINED
    assert "read again: L" in diagnosis.verdict.advice
    assert diagnosis.next_test is not None
    again = diagnosis.next_test.bits < 0.01
    measurements = [reading.measurement for reading in spot("whip", 241.0, 190.0, 190.0)]
    assert not again or diagnosis.next_test.measurements[0] in measurements, "a worthless test is none but a repeat"


def test_more_looks_that_speak_for_a_place_never_lower_it() -> None:
    low = spot("whip", 222.4, 120.9, 101.5)
    places = ("mark", "melted", "soft_clip", "loose")
    held = []
    for count in range(len(places) + 1):
        looks = [seen(sign, "clip_load", "L2") for sign in places[:count]]
        diagnosis = answer(*low, looks=looks)
        held.append(sum(s.probability for s in diagnosis.suspects if s.place == "clip_load:L2"))
    assert all(later >= earlier - 1e-6 for earlier, later in pairwise(held)), held
    assert held[-1] > 2 * held[0]


def test_remembered_numbers_are_round() -> None:
    assert Volts().typed_step(120.0) == Volts().typed_step(240.0) == 5.0
    assert Volts().typed_step(241.0) == 1.0
    round_ones = answer(*spot("whip", 240.0, 120.0, 120.0), amps("L1", "whip", 18.0))
    assert chance(round_ones, "none_of_these") < 0.02
    # 120 and 120 that were remembered leave more room for a poor joint than 120.0 and 120.1 that were read.
    exact = answer(*spot("whip", 239.8, 119.9, 120.1), amps("L1", "whip", 18.0))
    assert chance(round_ones, "resistive:") > chance(exact, "resistive:")


def test_contacts_stay_as_they_are_for_a_while() -> None:
    """Two runs, bad bad good good, are likelier than bad good bad good; every order sums to one."""
    sure = 40.0
    runs = np.array([[-sure, -sure, sure, sure], [-sure, sure, -sure, sure]])
    together, turning = (flicker_log_weight(run) for run in runs)
    assert together > turning + 1
    orders = np.array([[sure * (1 if i >> k & 1 else -1) for k in range(3)] for i in range(8)])
    assert sum(np.exp(flicker_log_weight(order)) for order in orders) == pytest.approx(1)


@pytest.mark.parametrize("key", ready_made())
def test_no_card_stands_before_anything_was_read(key: str) -> None:
    assert answer(circuit=ready_made()[key]).stop is None


def test_a_motor_that_single_phases_decides_for_itself() -> None:
    """Each of two motors turns, stands or is off in some sample, and not both alike in all."""
    compiled = compile_circuit(ready_made()["rooftop_208"])

    def state(forward: complex, backward: complex) -> str:
        return "off" if abs(forward) > 1e6 else "stands" if abs(forward - backward) < 1e-9 else "turns"

    ways = []
    for number, motor in enumerate(compiled.circuit.three_phase_motors):
        fields = single_phasing(motor, number, compiled.samples)
        ways.append([state(f, b) for f, b in zip(*fields, strict=True)])
    for way in ways:
        assert {"off", "stands", "turns"} <= set(way)
    assert len(set(zip(*ways, strict=True))) >= 6, "one may turn while the other stands"


def start(part: str, value: float) -> Reading:
    """Say the highest amps of a start."""
    place = Around(leg="L1", part=part, start=True)
    return Reading(id=f"start {part}", measurement=Measurement(place=place), value=value, unit="A")


def test_amps_of_a_start_never_stop_a_motor_and_say_nothing_of_how_it_runs() -> None:
    """18.6 A by the plate: five times that, 93 A, are a held rotor and a start alike."""
    diagnosis = answer(*RIGHT, start("whip", 88.0))
    assert diagnosis.stop is None
    assert chance(diagnosis, "stalled") == pytest.approx(chance(answer(*RIGHT), "stalled"))
    (guard,) = [one for one in diagnosis.guards if one.slip is Slip.START]
    assert "about 93 A are usual" in guard.words
    (guard,) = [one for one in answer(start("whip", 190.0)).guards if one.slip is Slip.START]
    assert "short" in guard.check
    # The same number, staying, is a motor that stands.
    stays = answer(*spot("whip", 229.0, 114.0, 115.0), amps("L1", "whip", 88.0), amps("L2", "whip", 87.0))
    assert stays.stop is not None


def test_leads_of_a_compressor_close_a_triangle() -> None:
    """5² = 4² + 3² closes; 14 A cannot be the sum of 6 and 5."""
    pump = ready_made()["heat_pump"]
    good = answer(
        amps("L1", "compressor", 12.5), amps("L2", "compressor", 14.0), amps("S", "compressor", 4.2), circuit=pump
    )
    assert not [one for one in good.guards if one.slip is Slip.NO_TRIANGLE]
    bad = answer(
        amps("L1", "compressor", 6.0), amps("L2", "compressor", 14.0), amps("S", "compressor", 5.0), circuit=pump
    )
    (guard,) = [one for one in bad.guards if one.slip is Slip.NO_TRIANGLE]
    assert guard.reading == "L2 compressor"


def test_jaws_are_judged_by_what_that_load_should_draw() -> None:
    """A fan draws 1.2 A beside 15.4 A; an open element's lead carries nothing, and neither does the wire ahead."""
    pump, furnace = ready_made()["heat_pump"], ready_made()["electric_furnace"]

    def in_jaws(circuit: Circuit, *told: Reading) -> bool:
        return any(guard.slip is Slip.TWO_IN_JAWS for guard in answer(*told, circuit=circuit).guards)

    assert not in_jaws(pump, amps("L1", "whip", 16.4), amps("L1", "fan", 1.1))
    assert not in_jaws(furnace, amps("L1", "branch", 23.2), amps("L1", "element_2", 0.0))
    assert in_jaws(furnace, amps("L1", "branch", 44.0), amps("L1", "element_2", 0.0))


def test_nothing_anywhere_with_the_panel_shut_looks_at_the_handle_first() -> None:
    """Looking at a breaker's handle opens no panel: before ohms, before any cover, before an electrician."""
    dead = spot("line_lug", 0.2, 0.1, 0.1)
    eyes = frozenset({Tool.LOZ, Tool.EYES, Tool.OHMS})
    first = answer(*dead, tools=eyes)
    assert first.next_test is not None
    assert first.next_test.look is not None
    assert first.next_test.look.sign == HANDLE
    assert [place.part for place in first.next_test.look.places] == ["breaker"]
    assert first.handover is None
    stands_on = seen(HANDLE, "breaker", there=False)
    after = answer(*dead, tools=eyes, looks=[stands_on])
    assert chance(after, "not_closed:breaker") < 0.1 * chance(first, "not_closed:breaker")
    assert chance(after, "supply_dead") > 0.7
    off = answer(*dead, tools=eyes, looks=[seen(HANDLE, "breaker")])
    assert chance(off, "not_closed:breaker") > 0.5


def test_volts_only_in_the_panel_is_volts_and_nothing_else_there() -> None:
    dead = spot("line_lug", 0.2, 0.1, 0.1)
    stands_on = seen(HANDLE, "breaker", there=False)
    tools = frozenset({Tool.LOZ, Tool.EYES, Tool.OHMS})
    between = Scope(panel_may_be_opened=False, panel_volts_only=True, tools=tools)
    units = set()
    readings = list(dead)
    for _ in range(5):
        test = diagnose(Job(circuit=CONDENSER, readings=tuple(readings), looks=(stands_on,), scope=between)).next_test
        if test is None:
            break
        for m in test.measurements:
            units |= {m.unit} if zone_of(CONDENSER, m) is Zone.PANEL else set()
            # 120.5 V ahead of the breaker, and nothing behind it.
            value = {"V": 120.5 if "panel_lug" in str(m.place) else 0.1, "ohm": 4e7}.get(m.unit, 0.0)
            readings.append(Reading(id=str(len(readings)), measurement=m, value=value, unit=m.unit))
    assert units == {"V"}


@pytest.mark.parametrize("microfarad", [20.0, 35.0, 50.0])
def test_amps_of_the_start_lead_follow_the_microfarads_given(microfarad: float) -> None:
    """By the meter's own rule, C = 2652·I/V at 60 Hz: volts across the capacitor, amps in the start lead."""
    pump = ready_made()["heat_pump"]
    parts = [
        part.model_copy(update={"capacitance_uf": microfarad}) if part.capacitance_uf is not None else part
        for part in pump.parts
    ]
    circuit = pump.model_copy(update={"parts": tuple(parts)})
    compiled = compile_circuit(circuit)
    capacitor = circuit.part("run_capacitor")
    (into, lane), *_ = circuit.pairs_of(capacitor)
    across = Between(a=Point(circuit.upstream_point(capacitor, into) or ""), b=Point(f"{lane}@run_capacitor"))
    volt, amp = (
        predict(compiled, Measurement(place=place)).value[compiled.healthy]
        for place in (across, Around(leg="S", part="compressor"))
    )
    # In each sample the capacitor is off by its own tolerance: their middle is what is given.
    assert np.median(2652.6 * amp / volt) == pytest.approx(microfarad, rel=0.05)
