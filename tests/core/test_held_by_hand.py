"""Readings with a contact held, a lead lifted or a part taken out; worked by hand (common practice, no source)."""

from collections.abc import Sequence

import pytest
from hypothesis import given, settings
from tests.core.test_line import anything_said

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.plan.inspection import HANDLE
from zesty_copper.core.diagnosis.safety.stops import permits
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.danger import StopKind
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.measurement import Measurement, Reading, check_measurement, check_reading
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.observations.words import measurement_words
from zesty_copper.core.tools.quick_entry import line_of, read_line

CIRCUITS = ready_made()
TRIPS = "call sees trips_at_once"
OFF = "off:disconnect,call"


def told(key: str, lines: Sequence[str], *, tools: Sequence[Tool] = (Tool.LOZ, Tool.OHMS)) -> Diagnosis:
    """Diagnose what these lines say of a ready-made circuit."""
    circuit = CIRCUITS[key]
    said = [read_line(circuit, line, str(i)) for i, line in enumerate(lines)]
    readings = tuple(one for one in said if isinstance(one, Reading))
    looks = tuple(one for one in said if not isinstance(one, Reading))
    return diagnose(Job(circuit=circuit, readings=readings, looks=looks, scope=Scope(tools=frozenset(tools))))


def shares(found: Diagnosis) -> dict[str, float]:
    """Probability of each suspect."""
    return {suspect.key: suspect.probability for suspect in found.suspects}


def test_two_motors_on_one_contactor_are_parted_by_taking_one_out() -> None:
    """0.3 Ω from the load terminals to ground: either motor or the terminal itself, until each is read alone."""
    together = ["contactor L1-G 0.3ohm " + OFF]
    both = shares(told("rooftop_208", [TRIPS, *together]))
    assert both["load_ground:compressor"] == pytest.approx(both["load_ground:blower"], rel=0.1)
    next_test = told("rooftop_208", [TRIPS, *together]).next_test
    assert next_test is not None
    assert {one for m in next_test.measurements for one in m.hands.removed} <= {"compressor", "blower"}
    assert any(m.hands.removed for m in next_test.measurements), "no other test parts what hangs on the same terminals"
    assert any("Mark" in step for step in next_test.procedure)

    one_out = shares(told("rooftop_208", [TRIPS, *together, f"compressor L1-G OL {OFF} removed:compressor"]))
    assert one_out["load_ground:compressor"] < 0.01
    assert one_out["load_ground:blower"] > 0.4
    diagnosis = told(
        "rooftop_208",
        [
            TRIPS,
            *together,
            f"compressor L1-G OL {OFF} removed:compressor",
            f"blower L1-G 0.3ohm {OFF} removed:blower",
        ],
    )
    assert diagnosis.verdict.standing is Standing.SURE
    assert diagnosis.verdict.suspects[0] == "load_ground:blower"


def test_with_the_load_out_its_terminals_still_tell_of_themselves() -> None:
    """The compressor is out and its terminal still reads 0.2 Ω to ground: it is not the compressor."""
    found = shares(told("heat_pump", [TRIPS, f"contactor L2-G 0.2ohm {OFF} removed:compressor"]))
    assert found["load_ground:compressor"] < 0.01
    assert found["short:contactor:L2-G"] > 0.3


@pytest.mark.parametrize(
    ("pushed", "guilty", "sound"),
    [
        # Called, 0 A; pushed in by hand 17 A: the contacts carry, the coil or what feeds it does not pull.
        ("whip L2 15.1A in:contactor", ("load_open:coil", "not_closed:contactor:L2"), "open:contactor:L2"),
        # Pushed in and still 0 A: the contact itself, or a wire beside it, whatever the coil does.
        ("whip L2 0.2A in:contactor", ("open:contactor:L2",), "load_open:coil"),
    ],
)
def test_a_contactor_pushed_in_parts_its_contacts_from_its_coil(
    pushed: str, guilty: tuple[str, ...], sound: str
) -> None:
    before = ["whip L1-L2 241V", "whip L2 0.2A", "transformer R-C 26.2V"]
    found = shares(told("heat_pump", [*before, pushed]))
    assert all(found[key] > 20 * found[sound] for key in guilty), {k: found[k] for k in (*guilty, sound)}


def test_a_contactor_that_still_carries_while_it_is_held_out_is_welded() -> None:
    found = shares(told("heat_pump", ["whip L1-L2 240V", "whip L2 15A out:contactor"]))
    assert found["welded:contactor"] > 0.8


def test_amps_alone_condemn_no_contactor_its_poles_are_read_pushed_in_and_dead() -> None:
    """Two legs at 1.73 times their share and none in the third: on which leg is plain, where it was lost is not."""
    clamped = ["compressor runs", "blower runs", "contactor in", "whip L3 47.2A", "whip L2 47A", "whip L1 0.2A"]
    unloaded = "feeder L1 0.1A off:call"
    diagnosis = told("rooftop_208", [*clamped, unloaded])
    assert diagnosis.stop is not None
    assert diagnosis.verdict.standing is not Standing.SURE
    across = "contactor L1 across {}ohm off:feeder,call,breaker,disconnect in:contactor"
    sound = shares(told("rooftop_208", [*clamped, unloaded, across.format(0.3)]))
    burnt = shares(told("rooftop_208", [*clamped, unloaded, across.format(2100)]))
    assert sound["open:contactor:L1"] < 0.1
    assert burnt["open:contactor:L1"] + burnt["resistive:contactor:L1"] > 0.9


def test_a_load_is_called_open_by_its_amps_or_ohms_not_by_eyes_and_volts() -> None:
    seen = ["compressor still", "L1@contactor L2@contactor 240.4V", "contactor L1-G 120.3V"]
    again = ["L1@contactor L2@contactor 240.2V loz", "contactor L2-G 120.1V"]
    eyes = told("condenser_switch", [*seen, *again], tools=[Tool.EYES, Tool.LOZ])
    assert shares(eyes)["load_open:compressor"] > 0.9
    assert eyes.verdict.standing is Standing.OPEN
    assert eyes.next_test is not None
    assert [m.unit for m in eyes.next_test.measurements] == ["A"]
    clamped = told("condenser_switch", [*seen, *again, "whip L1 0.1A"], tools=[Tool.EYES, Tool.LOZ])
    assert clamped.verdict.standing is Standing.SURE


def test_a_lost_leg_is_not_called_by_what_one_watching_saw() -> None:
    """Who watches is mistaken now and then: one motor said to stand and a good leg to ground stop nothing."""
    looked = ["compressor still", "blower runs", "contactor in"]
    assert told("rooftop_208", [*looked, "whip L3-G 120.5V loz"], tools=[Tool.EYES, Tool.LOZ]).stop is None
    measured = [*looked, "whip L3-G 120.5V loz", "contactor L1-L2 206V", "contactor L2-L3 121V"]
    assert told("rooftop_208", measured, tools=[Tool.EYES, Tool.LOZ]).stop is not None


def test_a_lead_that_was_lifted_is_no_lost_leg() -> None:
    """Two legs of a three-phase motor carry 1.73 times their share and the lifted one none: that was done by hand."""
    clamped = ["whip L1 33A lifted:L3@whip", "whip L2 33A lifted:L3@whip", "whip L3 0A lifted:L3@whip"]
    assert told("rooftop_208", clamped).stop is None
    as_found = told("rooftop_208", [line.split(" lifted")[0] for line in clamped]).stop
    assert as_found is not None
    assert as_found.kind is StopKind.LOST_LEG


def test_a_stop_that_keeps_motors_off_lets_no_contactor_be_pushed_in() -> None:
    circuit = CIRCUITS["rooftop_208"]
    stop = told("rooftop_208", ["whip L1 33A", "whip L2 33A", "whip L3 0A"]).stop
    assert stop is not None
    asked = {
        line: permits(circuit, stop, read_line(circuit, line, "x").measurement)  # type: ignore[union-attr]
        for line in (
            "whip L1-L2 208V off:call",
            "whip L1-L2 208V off:call in:contactor",
            "contactor L1-L2 9ohm off:breaker",
        )
    }
    assert list(asked.values()) == [True, False, True]


def test_the_next_test_says_to_put_back_what_was_held_or_off() -> None:
    stand_on = [f"{breaker} sees no {HANDLE}" for breaker in ("breaker", "indoor_breaker")]
    held = "fan L2 0.1A in:contactor lifted:L2@leads"
    diagnosis = told("heat_pump", ["whip L1-L2 241V", "whip L2 0.2A", held, *stand_on])
    assert diagnosis.next_test is not None
    first, *between, last = diagnosis.next_test.steps
    assert (first, last) == ("Contactor: let go", "L2 ahead of the compressor leads: landed again")
    assert all(step.endswith(("off", "out", "calling")) for step in between), "switches are opened before it is landed"


@pytest.mark.parametrize(
    "line",
    [
        "whip L2 18.0A in:contactor",
        "whip L2 0.1A off:call out:contactor",
        "leads L2-G OL off:disconnect lifted:L1@leads,L2@leads",
        "compressor L2-G 2200000.0ohm off:disconnect removed:compressor",
    ],
)
def test_a_line_says_what_hands_do_and_is_printed_as_it_was_read(line: str) -> None:
    circuit = CIRCUITS["heat_pump"]
    said = read_line(circuit, line, "x")
    assert line_of(circuit, said) == line
    assert isinstance(said, Reading)
    assert "all closed" not in measurement_words(circuit, said.measurement)


@settings(max_examples=30)
@given(anything_said(("heat_pump", "rooftop_208")), anything_said(("heat_pump", "rooftop_208")))
def test_whatever_is_held_or_off_the_answer_is_a_distribution_and_the_next_test_can_be_taken(
    first: tuple[str, Reading | Look], second: tuple[str, Reading | Look]
) -> None:
    key = first[0]
    circuit = CIRCUITS[key]
    said = [one for of, one in (first, second) if of == key and isinstance(one, Reading)]
    readings = []
    for i, one in enumerate(said):
        try:
            check_reading(circuit, one)
        except BadInput:
            continue
        readings.append(one.model_copy(update={"id": str(i)}))
    diagnosis = diagnose(Job(circuit=circuit, readings=tuple(readings), scope=Scope(panel_may_be_opened=True)))
    assert sum(suspect.probability for suspect in diagnosis.suspects) == pytest.approx(1)
    for test in (diagnosis.next_test, diagnosis.handover):
        for measurement in test.measurements if test else ():
            check_measurement(circuit, measurement)
            assert permits(circuit, diagnosis.stop, measurement)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("whip L2 18A in:breaker", "only a contactor or a relay is held by hand"),
        ("whip L2 18A in:contactor out:contactor", "choose one"),
        ("whip L2 18A lifted:G@whip", "no lead of G"),
        ("whip L2 18A removed:supply", "not yours to take out"),
        ("compressor L2-G 5ohm off:disconnect", "only with its leads off"),
        ("compressor L2-G 5V removed:compressor", "in ohms alone"),
        ("L2@compressor L2@whip 5ohm off:disconnect removed:compressor", "both probes go on its own leads"),
        ("compressor L2-G 3M ins off:disconnect removed:compressor", ""),
    ],
)
def test_what_no_hand_can_do_is_one_sentence(line: str, says: str) -> None:
    circuit = CIRCUITS["heat_pump"]
    if not says:
        check_measurement(circuit, read_line(circuit, line, "x").measurement)  # type: ignore[union-attr]
        return
    with pytest.raises(BadInput, match=says):
        read_line(circuit, line, "x")


def test_an_insulation_test_is_refused_while_a_filter_hangs_on_and_allowed_once_it_is_out() -> None:
    circuit = CIRCUITS["rooftop_480"]
    wire = circuit.path(circuit.part("filter"))[-2].id
    tested = f"{wire} L1-G 150M ins off:{circuit.by_hand[0].id}"
    with pytest.raises(BadInput, match="filter is still connected"):
        read_line(circuit, f"{tested} removed:drive", "x")
    assert isinstance(read_line(circuit, f"{tested} removed:drive,filter", "x"), Reading)


def test_an_insulation_test_is_refused_while_electronics_hang_on_and_allowed_once_they_are_off() -> None:
    circuit = CIRCUITS["inverter_240"]
    drive = next(load for load in circuit.loads if load.entry.electronic)
    wire = next(part for part in reversed(circuit.path(drive)) if part.conductor is not None)
    lane = circuit.lanes_of(wire)[0]
    first = circuit.by_hand[0].id
    tested = f"{wire.id} {lane}-G 150M ins off:{first}"
    with pytest.raises(BadInput, match="ruins electronics"):
        read_line(circuit, tested, "x")
    others = [one.id for one in circuit.parts if one.entry.electronic or one.entry.capacitive or one.winding]
    said = read_line(circuit, f"{tested} removed:{','.join(others)}", "x")
    assert isinstance(said, Reading)
    assert Measurement.model_validate_json(said.measurement.model_dump_json()) == said.measurement
