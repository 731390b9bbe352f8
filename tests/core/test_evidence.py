"""What is seen, told, ohmed, heard and felt: each shifts the suspects as the trade has it, and none convicts alone."""

import numpy as np
import pytest
from benchmarks.diagnosis.world import World
from tests.core.told import AT_REST, CONDENSER, PULLED, answer, chance, ohms, seen, spot, volts

from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.reachable import dead_states, reachable_states
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose, why_not
from zesty_copper.core.diagnosis.model.answer import Slip, Stance, Standing
from zesty_copper.core.diagnosis.model.job import USUAL_TOOLS, Job, Scope, Way
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.catalogue import advice_on, faults_of
from zesty_copper.core.faults.danger import StopKind
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look, signs
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.tester import Near
from zesty_copper.core.observations.kinds.warmth import Warmth
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement, Reading, check_measurement, doubts_about
from zesty_copper.core.observations.modes import MeterMode, Tool
from zesty_copper.core.observations.words import measurement_words

FURNACE = ready_made()["electric_furnace"]
LOCKED = frozenset({"contactor", "disconnect"})


def by_part(*looks: Look, circuit=CONDENSER) -> dict[str, float]:  # type: ignore[no-untyped-def] # a Circuit
    """How likely each part is to be at fault after looks alone."""
    found: dict[str, float] = {}
    for suspect in answer(looks=looks, circuit=circuit).suspects:
        found[suspect.part or suspect.kind] = found.get(suspect.part or suspect.kind, 0.0) + suspect.probability
    return found


# Where the heat marks are tells which joint: one row of the trade's table each.
@pytest.mark.parametrize(
    ("sign", "part", "accused"),
    [
        ("mark", "clip_load", "clip_load"),  # one end of a fuse and its clip
        ("mark", "line_lug", "line_lug"),  # wire insulation at a lug
        ("mark", "stab_in", "stab_in"),  # blades, stabs, pull-out
        ("mark", "breaker", "breaker"),  # breaker stab, pole or terminal
        ("filler_spilled", "fuse", "clip_load"),  # likely heat, not overcurrent: the clip more than the fuse itself
        ("mark", "contactor", "contactor"),  # contactor terminal
        ("pitted", "contactor", "contactor"),  # contactor face pitted, welded, gone
        ("insects", "contactor", "contactor"),
        ("brittle", "branch", "branch"),  # a conductor overheated for a length
        ("rubbed", "whip", "whip"),  # insulation rubbed through
        ("spatter", "whip", "whip"),
        ("chopped", "whip", "whip"),  # wires cut by a moving part
        ("soft_clip", "clip_line", "clip_line"),
        ("loose", "load_lug", "load_lug"),
        ("not_seated", "stab_in", "stab_in"),
        ("unlike_ends", "branch", "branch"),
        ("mixed_metals", "line_lug", "line_lug"),
        ("wrong_tape", "branch", "same_leg"),
    ],
)
def test_a_mark_raises_the_joint_it_speaks_of_and_convicts_nobody(sign: str, part: str, accused: str) -> None:
    before, after = by_part(), by_part(seen(sign, part))
    assert after[accused] > 1.4 * before[accused]
    assert answer(looks=[seen(sign, part)]).verdict.standing is Standing.OPEN
    if part == accused:
        absent = by_part(seen(sign, part, there=False))
        assert absent[accused] < before[accused], "looked for and not there speaks the other way"


def test_a_melted_splice_and_a_burnt_element() -> None:
    fan_coil = next(c for c in ready_made().values() if any(p.kind == "splice" for p in c.parts))
    splice = next(p.id for p in fan_coil.parts if p.kind == "splice")
    assert by_part(seen("melted", splice), circuit=fan_coil)[splice] > 3 * by_part(circuit=fan_coil)[splice]
    heater = next(p.id for p in FURNACE.loads if p.kind == "heater")
    assert by_part(seen("burnt_through", heater), circuit=FURNACE)[heater] > 3 * by_part(circuit=FURNACE)[heater]


@pytest.mark.parametrize("name", sorted(signs()))
def test_every_sign_has_a_reason_and_chances_that_tell_something(name: str) -> None:
    sign = signs()[name]
    assert sign.reason.endswith(".")
    assert sign.follows is not None or any(max(rule.here, rule.beside) > 1.5 * sign.otherwise for rule in sign.shows)


def test_looks_alone_never_make_sure_however_many_there_are() -> None:
    many = [seen(sign, "clip_load", "L2") for sign in ("mark", "melted", "loose", "soft_clip")]
    diagnosis = answer(looks=[*many, seen("blows_fuses"), seen("hums")])
    assert diagnosis.verdict.standing is Standing.OPEN
    assert chance(diagnosis, "resistive:clip_load", "open:clip_load", "intermittent:clip_load") < 0.98


def test_a_mark_and_the_volts_across_it_agree_sooner_than_volts_alone() -> None:
    readings = [*spot("whip", 222.6, 121.0, 101.7), volts("L2@fuse", "L2@clip_load", 19.6)]
    alone, diagnosis = answer(*readings), answer(*readings, looks=[seen("mark", "clip_load", "L2")])
    assert alone.verdict.standing is Standing.OPEN, "one number carries it"
    assert diagnosis.verdict.standing is Standing.SURE, "eyes are a second witness"
    assert diagnosis.verdict.part == "clip_load"


@pytest.mark.parametrize(
    ("told", "raised", "circuit"),
    [
        ("nothing_runs", "supply_dead", "condenser_fused"),
        ("hums", "stalled:compressor", "condenser_fused"),
        ("trips_at_once", "short:whip", "condenser_fused"),
        ("blows_fuses", "resistive:clip_load", "condenser_fused"),
        ("comes_and_goes", "intermittent:contactor", "condenser_fused"),
        ("since_panel_work", "same_leg", "condenser_fused"),
        ("since_storm", "supply_dead", "condenser_fused"),
        ("backwards", "reversed:branch", "rooftop_208"),
        ("partly", "open:limit_2", "electric_furnace"),
        ("blank_thermostat", "load_open:transformer", "packaged_208"),
        ("weak", "supply_low", "condenser_fused"),
        ("trips_later", "resistive:breaker", "condenser_fused"),
        ("chatters", "resistive:line_lug", "packaged_208"),
    ],
)
def test_what_is_told_raises_what_would_make_it_so(told: str, raised: str, circuit: str) -> None:
    told_of = ready_made()[circuit]
    before, after = answer(circuit=told_of), answer(circuit=told_of, looks=[seen(told)])
    assert chance(after, raised) > 1.25 * chance(before, raised)


# Ohms, dead and isolated.
def shows(measurement: Measurement, key: str, circuit=CONDENSER) -> tuple[float, float]:  # type: ignore[no-untyped-def] # a Circuit
    """Least and most that a measurement shows under a fault."""
    check_measurement(circuit, measurement)
    compiled = compile_circuit(circuit)
    row = compiled.row[next(i for i, fault in enumerate(compiled.faults) if fault.key == key)]
    values = predict(compiled, measurement).value[row]
    kind = measurement.observation
    return kind.off_scale(float(values.min())), kind.off_scale(float(values.max()))


def dead(a: str, b: str, meter: MeterMode = MeterMode.OHM) -> Measurement:
    """Ohms with the disconnect pulled."""
    return Measurement(place=Between(a=Point(a), b=Point(b)), meter=meter, open_switches=LOCKED)


def test_ohms_are_of_direct_current_and_tell_touching_from_not() -> None:
    across_fuse = dead("L1@clip_line", "L1@fuse")
    assert shows(across_fuse, "nothing_wrong")[1] < 0.1
    assert shows(across_fuse, "open:fuse:L1")[0] > 5e3
    to_ground = dead("L1@whip", "G")
    assert shows(to_ground, "nothing_wrong")[0] == pytest.approx(40e6), "nothing touches: OL"
    assert shows(to_ground, "leak:whip:L1-G")[1] < 700
    assert shows(dead("L1@whip", "L2@whip"), "short:whip:L1-L2")[1] < 1.0
    element = next(p for p in FURNACE.loads if p.kind == "heater")
    assert element.load is not None
    rated = element.load.rated_volts / element.load.rated_amps
    ends = FURNACE.terminals(element)
    low, high = shows(
        Measurement(
            place=Between(a=ends[0], b=ends[1]), meter=MeterMode.OHM, open_switches=reachable_states(FURNACE)[-1]
        ),
        "nothing_wrong",
        FURNACE,
    )
    assert low <= rated * (1 + 1e-6), "an element reads its own ohms"
    assert high >= rated * (1 - 1e-6)
    assert low / rated > 0.8
    motor_low, motor_high = shows(
        Measurement(
            place=Between(a=Point("L1@contactor"), b=Point("L2@contactor")), meter=MeterMode.OHM, open_switches=LOCKED
        ),
        "nothing_wrong",
    )
    assert motor_high < 3, "a winding is its copper: far less than its impedance"
    assert motor_low > 0.3


def test_ohms_only_where_it_is_dead_and_never_into_electronics() -> None:
    live = Measurement(
        place=Between(a=Point("L1@whip"), b=Point("L2@whip")), meter=MeterMode.OHM, open_switches=frozenset(AT_REST)
    )
    with pytest.raises(BadInput, match="only where it is dead") as told:
        check_measurement(CONDENSER, live)
    assert told.value.field == "measurement.open_switches"
    drive = next(c for c in ready_made().values() if any(p.entry.electronic for p in c.parts))
    state = reachable_states(drive)[-1]
    part = drive.path(next(p for p in drive.parts if p.entry.electronic))[-2]
    a, b = (f"{lane}@{part.id}" for lane in drive.lanes_of(part)[:2])
    megger = Measurement(place=Between(a=Point(a), b=Point(b)), meter=MeterMode.INSULATION, open_switches=state)
    with pytest.raises(BadInput, match="ruins electronics"):
        check_measurement(drive, megger)
    check_measurement(drive, megger.model_copy(update={"meter": MeterMode.OHM}))


def test_a_load_left_connected_is_asked_about() -> None:
    reading = ohms("L1@whip", "L2@whip", 180.0, *PULLED)
    assert "still connected" in doubts_about(CONDENSER, reading)
    assert doubts_about(CONDENSER, ohms("L1@whip", "G", 40e6, *PULLED)) == ""


def test_ohms_find_which_piece_a_tripped_breaker_feeds() -> None:
    dead_box = spot("whip", 0.2, 0.3, 0.1)
    before = answer(*dead_box, looks=[seen("trips_at_once")])
    low = ohms("L2@whip", "G", 0.4, *PULLED)
    after = answer(*dead_box, low, looks=[seen("trips_at_once")])
    assert chance(after, "short:whip:L2-G") > 5 * chance(before, "short:whip:L2-G")
    assert chance(after, "short:branch") < chance(before, "short:branch")


# Eyes, ears, tester, thermometer.
def test_a_load_runs_hums_or_stands_and_a_contactor_is_in_out_or_chatters() -> None:
    assert shows(Measurement(place=Watching(part="compressor")), "nothing_wrong") == (1, 1)
    assert shows(Measurement(place=Watching(part="compressor")), "open:fuse:L1") == (0, 0)
    assert shows(Measurement(place=Watching(part="compressor")), "stalled:compressor") == (2, 2)
    dropped = Measurement(place=Watching(part="compressor"), open_switches=frozenset(AT_REST))
    assert shows(dropped, "welded:contactor") == (1, 1), "turned off, and it goes on"
    packaged = ready_made()["packaged_208"]
    pulled = Measurement(place=Watching(part="contactor"))
    assert shows(pulled, "load_open:coil", packaged) == (0, 0)
    assert shows(pulled, "nothing_wrong", packaged) == (1, 1)


def test_a_tester_that_beeps_says_live_and_one_that_is_silent_hardly_says_dead() -> None:
    measurement = Measurement(place=Near(point=Point("L2@whip")))
    beeps = Reading(id="b", measurement=measurement, value=1, unit="beep")
    silent = Reading(id="s", measurement=measurement, value=0, unit="beep")
    start = answer()
    assert chance(answer(beeps), "supply_dead") < 0.3 * chance(start, "supply_dead")
    assert chance(answer(silent), "supply_dead") < 10 * chance(start, "supply_dead")
    (guard,) = [g for g in answer(silent).guards if g.slip is Slip.SILENT_TESTER]
    assert "never says dead" in guard.words


def test_heat_against_its_mates_follows_the_watts() -> None:
    hot = Measurement(place=Warmth(part="clip_load", leg="L2"))
    assert shows(hot, "nothing_wrong")[1] < 5
    assert shows(hot, "resistive:clip_load:L2")[1] > 60
    diagnosis = answer(Reading(id="h", measurement=hot, value=70, unit="degF"))
    assert chance(diagnosis, "resistive:clip_load:L2") > 5 * chance(answer(), "resistive:clip_load:L2")
    assert diagnosis.suspects[0].key == "resistive:clip_load:L2"
    assert diagnosis.verdict.standing is Standing.OPEN, "one reading convicts nobody"


def test_heat_is_told_of_a_conductor_that_begins_at_a_part() -> None:
    """A thermostat's Y comes in as R, and has no mate that could be cooler: its own heat is what shows."""
    circuit = ready_made()["heat_pump"]
    place = Measurement(place=Warmth(part="thermostat", leg="Y"))
    diagnosis = answer(Reading(id="h", measurement=place, value=90, unit="degF"), circuit=circuit)
    assert chance(diagnosis, "resistive:thermostat") > 5 * chance(answer(circuit=circuit), "resistive:thermostat")


# What practitioners disagree about: both are supported, and the default is the default.
def test_the_order_of_work_can_be_chosen() -> None:
    order = {}
    for way in Way:
        scope = Scope(panel_may_be_opened=True, way=way, tools=frozenset({Tool.LOZ}))
        test = diagnose(Job(circuit=CONDENSER, scope=scope)).next_test
        assert test is not None
        (first, *_) = test.measurements
        ends = [first.place.a, first.place.b] if isinstance(first.place, Between) else []
        parts = [CONDENSER.split_point(end)[1] for end in ends if end != "G"]
        parts += [CONDENSER.part(first.place.part)] if isinstance(first.place, Around) else []
        order[way] = min((part.zone for part in parts), key=list(Zone).index)
    assert order[Way.UNIT_BACK] is Zone.UNIT
    assert order[Way.SOURCE_OUT] is Zone.PANEL
    assert Scope().way is Way.FEWEST


def test_first_readings_are_leg_to_leg_and_each_leg_to_ground_where_neither_alone_tells() -> None:
    assert {m.unit for m in answer().next_test.measurements} <= {"V", "A"}  # type: ignore[union-attr] # there is one


def test_across_under_load_comes_before_ohms_for_a_fuse() -> None:
    readings = [*spot("whip", 0.4, 121.3, 121.0), *spot("load_lug", 88.0, 121.0, 33.0, *AT_REST)]
    test = answer(*readings, tools=USUAL_TOOLS, panel=True).next_test
    assert test is not None
    assert all(m.unit != "ohm" for m in test.measurements), "live volts across first, ohms to confirm"


def test_the_scope_ends_at_the_panel_and_what_to_read_there_is_handed_over() -> None:
    readings = [
        *spot("line_lug", 88.0, 121.0, 33.0, *PULLED),
        volts("L2@line_lug", "G", 0.2, *PULLED, meter=MeterMode.LO_Z),
    ]
    diagnosis = answer(*readings)
    assert diagnosis.verdict.standing is Standing.INSEPARABLE
    assert diagnosis.handover is not None
    zones = set()
    for measurement in diagnosis.handover.measurements:
        place = measurement.place
        ends = [place.a, place.b] if isinstance(place, Between) else []
        zones |= {CONDENSER.split_point(end)[1].zone for end in ends if end != "G"}
    assert Zone.PANEL in zones
    assert len(diagnosis.handover.predictions) > 1, "each number means something else"
    assert answer(*readings, panel=True).handover is None


# Mistakes the tool should catch.
def guards(*readings: Reading, circuit=CONDENSER) -> dict[Slip, str]:  # type: ignore[no-untyped-def] # a Circuit
    """The slips named, with what is said of each."""
    return {guard.slip: guard.words + " " + guard.check for guard in answer(*readings, circuit=circuit).guards}


def test_a_load_left_connected_makes_two_faults_look_alike() -> None:
    found = guards(*spot("whip", 0.4, 121.3, 121.0))
    assert "Open everything downstream" in found[Slip.LOAD_CONNECTED]


def test_the_call_that_ended_in_the_middle_is_suspected() -> None:
    sagging = [
        *spot("whip", 222.6, 121.0, 101.7),
        volts("L2@fuse", "L2@clip_load", 19.6),
        volts("L2@fuse", "L2@clip_load", 19.4, name="again"),
        volts("L1@whip", "L2@whip", 243.0, name="later"),
    ]
    assert "call may have ended" in guards(*sagging)[Slip.CALL_ENDED]


def test_two_conductors_in_the_jaws_are_suspected() -> None:
    around = Measurement(place=Around(leg="L1", part="whip"))
    found = guards(
        *spot("whip", 241.0, 120.6, 120.4),
        Reading(id="runs", measurement=Measurement(place=Watching(part="compressor")), value=1, unit="run"),
        *(
            Reading(id=leg, measurement=Measurement(place=Around(leg=leg, part="branch")), value=18.2, unit="A")
            for leg in ("L1", "L2")
        ),
        Reading(id="both", measurement=around, value=0.0, unit="A"),
    )
    assert "clamp one alone" in found[Slip.TWO_IN_JAWS]


def test_a_ghost_on_a_floating_leg_is_named() -> None:
    found = guards(*spot("load_lug", 78.0, 121.0, 43.0, *AT_REST))
    assert "LoZ" in found[Slip.GHOST]


def test_a_stray_decimal_and_a_probe_on_paint() -> None:
    right = [*spot("whip", 241.0, 120.6, 120.4), *spot("load_lug", 241.2, 120.7, 120.5)]
    assert "decimal" in guards(*right, volts("L1@line_lug", "L2@line_lug", 24.2))[Slip.DECIMAL]
    painted = [*right, volts("L1@line_lug", "G", 31.0)]
    assert "bare metal" in guards(*painted)[Slip.POOR_CONTACT]


def test_drift_is_not_a_joint_and_no_current_tells_nothing() -> None:
    found = guards(volts("L1@line_lug", "L2@line_lug", 241.2), volts("L1@load_lug", "L2@load_lug", 240.1))
    assert "drifts" in found[Slip.DRIFT]
    idle = guards(*spot("whip", 241.0, 120.6, 120.4, *AT_REST), volts("L2@fuse", "L2@clip_load", 0.0, *AT_REST))
    assert "says nothing" in idle[Slip.NO_CURRENT]


def test_a_fuse_is_not_replaced_before_its_clips_are_looked_at() -> None:
    dead_leg = [
        volts("L2@clip_line", "L2@fuse", 238.0),
        volts("L2@clip_line", "L2@fuse", 238.4, name="again"),
        *spot("whip", 0.4, 121.3, 121.0),
    ]
    diagnosis = answer(*dead_leg)
    assert (diagnosis.verdict.part, diagnosis.verdict.leg) == ("fuse", "L2")
    assert "a hot clip cooks its fuse" in diagnosis.verdict.advice


def test_what_trips_is_reset_at_most_once_and_searched_dead() -> None:
    kinds = {fault.kind: advice_on(CONDENSER, fault) for fault in faults_of(CONDENSER)}
    assert "one reset at most" in kinds[FaultKind.NOT_CLOSED]
    assert "Do not reset it" in kinds[FaultKind.SHORT]
    assert "find by ohms" in kinds[FaultKind.SHORT]


def test_lock_out_is_at_the_panel_even_where_the_unit_has_its_own_switch() -> None:
    """Line side live and the unit's own switch off: the default is to kill and lock at the panel."""
    for circuit in ready_made().values():
        breakers = {p.switch for p in circuit.series if p.entry.overcurrent and p.switch and p.zone is Zone.PANEL}
        assert breakers, circuit.name
        assert breakers <= frozenset().union(*dead_states(circuit)), circuit.name


def test_a_reading_says_its_state_and_another_state_is_another_measurement() -> None:
    at_rest, loaded = (volts("L1@whip", "L2@whip", 222.6, *opened) for opened in (AT_REST, ()))
    assert at_rest.measurement != loaded.measurement
    assert "contactor dropped out" in measurement_words(CONDENSER, at_rest.measurement)
    assert "all closed, unit calling" in measurement_words(CONDENSER, loaded.measurement)


def test_why_not_says_what_it_would_have_read_instead() -> None:
    job = Job(
        circuit=CONDENSER, readings=tuple(spot("whip", 222.6, 121.0, 101.7)), looks=(seen("mark", "clip_load", "L2"),)
    )
    suspect = why_not(job, "open:fuse:L1")
    against = [item for item in suspect.evidence if item.stance is Stance.AGAINST]
    assert len(suspect.evidence) == 4
    assert against
    first = next(item for item in suspect.evidence if item.expected)
    assert first.expected is not None
    assert first.expected.high < 200, "not 222.6 V"


@pytest.mark.parametrize(
    ("key", "truth", "kind", "asked"),
    [
        ("rooftop_208", "open:breaker:L2", StopKind.LOST_LEG, ["L1-L2", "L2-L3", "L1-L3", "L1", "L2", "L3"]),
        ("rooftop_208", "primary_lost:L1", StopKind.PHASE_LOST, ["L1-L2", "L2-L3", "L1-L3", "L1-G", "L2-G", "L3-G"]),
        ("condenser_fused", "open:supply:N", StopKind.SERVICE_NEUTRAL, ["N@supply", "L1@panel_lug", "L2@panel_lug"]),
        ("packaged_208", "crossed:transformer:L1-R", StopKind.LINE_ON_CONTROLS, ["R@transformer", "Y@thermostat"]),
    ],
)
def test_a_stop_comes_where_going_on_hurts_somebody(key: str, truth: str, kind: StopKind, asked: list[str]) -> None:
    circuit = ready_made()[key]
    fault = next(one for one in faults_of(circuit) if one.key == truth)
    world = World(circuit, fault, np.random.default_rng(3))
    part = circuit.path(circuit.loads[0])[-3].id

    def place(text: str) -> Between | Around:
        if "@" in text:
            return Between(a=Point(text), b=GROUND)
        a, dash, b = text.partition("-")
        if not dash:
            return Around(leg=a, part="whip")
        return Between(a=Point(f"{a}@{part}"), b=Point(b if b == "G" else f"{b}@{part}"))

    measurements = [Measurement(place=place(text)) for text in asked]
    if key == "packaged_208":
        measurements += [m.model_copy(update={"meter": MeterMode.LO_Z}) for m in measurements]
    readings = [Reading(id=str(i), measurement=m, value=world.read(m), unit=m.unit) for i, m in enumerate(measurements)]
    stop = answer(*readings, circuit=circuit, panel=True).stop
    assert stop is not None, [(t.value, t.unit) for t in readings]
    assert stop.kind is kind
    assert stop.readings or (stop.probability or 0) > 0.5


def test_a_procedure_leads_from_the_switches_to_the_number() -> None:
    test = answer(*spot("whip", 222.6, 121.0, 101.7)).next_test
    assert test is not None
    steps = " ".join(test.procedure)
    assert "Prove the meter" in steps
    assert test.settles
    assert test.caution
    locked = answer(*spot("whip", 0.2, 0.3, 0.1, *PULLED), tools=USUAL_TOOLS).next_test
    if locked is not None and locked.measurements and locked.measurements[0].unit == "ohm":
        assert "Prove it dead" in " ".join(locked.procedure)


def test_weights_of_looks_and_readings_do_not_depend_on_their_order() -> None:
    looks = [seen("mark", "clip_load", "L2"), seen("hums"), seen("loose", "line_lug")]
    diagnosis, other = (answer(*spot("whip", 222.6, 121.0, 101.7), looks=order) for order in (looks, looks[::-1]))
    assert np.allclose([s.probability for s in diagnosis.suspects[:20]], [s.probability for s in other.suspects[:20]])
