"""What is done about what failed: every row of the trade's table of heat marks, and every question it differs about."""

import math
import re
from datetime import date

import pytest
from tests.core.told import CONDENSER, answer, volts

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Standing
from zesty_copper.core.diagnosis.model.job import Job, Scope, Way
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.ratings.sizing.sizes import smallest_copper
from zesty_copper.core.repair.back_on import back_on
from zesty_copper.core.repair.lock_out import opened_for
from zesty_copper.core.repair.make_safe import make_safe
from zesty_copper.core.repair.matches import matches_of
from zesty_copper.core.repair.notes import Chosen, PutBack, RepairNotes, check_notes, check_put_back
from zesty_copper.core.repair.plan import RepairPlan, plan_of
from zesty_copper.core.repair.rows import By, Decision, Replaced, decisions, questions
from zesty_copper.core.repair.work import before_work, order_of_work

# Marks at a part, and the usual decision: the trade's own table (common practice, no source).
SEEN = [
    ("condenser_fused", "mark", "clip_load", "L2", "Replace the disconnect"),
    ("condenser_fused", "mark", "fuse", "L1", "Replace the disconnect"),
    ("condenser_fused", "filler_spilled", "fuse", "L1", "Replace the disconnect"),
    ("condenser_fused", "blown", "fuse", "L1", "Find what blew it"),
    ("condenser_fused", "melted", "stab_in", "L1", "Replace the disconnect"),
    ("condenser_fused", "mark", "line_lug", "L2", "Cut back to clean copper"),
    ("condenser_fused", "mark", "breaker", "L1", "Replace the breaker"),
    ("condenser_fused", "pitted", "contactor", None, "Replace the contactor"),
    ("condenser_fused", "brittle", "whip", "L1", "Cut back to supple insulation"),
    ("condenser_fused", "rubbed", "whip", "L1", "Cut back to supple insulation"),
    ("condenser_fused", "thin_wire", "branch", None, "conductor is replaced"),
    ("condenser_fused", "loose", "contactor", None, "Replace the contactor"),
    ("condenser_fused", "chopped", "whip", "L2", "Cut back to supple insulation"),
    ("condenser_fused", "spatter", "whip", None, "Cut back to supple insulation"),
    ("condenser_fused", "insects", "contactor", None, "Replace the contactor"),
    ("furnace_120", "melted", "splice", "N", "remake the splice"),
    ("heat_strip", "burnt_through", "element", None, "Find why it burned through"),
    ("electric_furnace", "blown", "link_1", "L2", "Find why it got hot"),
]


def planned(circuit_key: str, *looks: Look) -> RepairPlan:
    circuit = ready_made()[circuit_key]
    job = Job(circuit=circuit, looks=looks)
    return plan_of(circuit, diagnose(job), looks, sheets_of(circuit))


@pytest.mark.parametrize(("circuit", "sign", "part", "leg", "does"), SEEN)
def test_damage_that_is_seen_asks_for_its_repair_by_itself(
    circuit: str, sign: str, part: str, leg: str | None, does: str
) -> None:
    plan = planned(circuit, Look(id="look", sign=sign, part=part, leg=leg))
    (item,) = [one for one in plan.items if one.probability is None]
    assert plan.items[0] == item
    assert item.part == part
    assert does in item.does
    assert item.why
    if item.by is By.ELECTRICIAN:
        assert item.question is not None
        assert item.question.key == "in_the_panel"


def test_every_fault_that_can_be_found_has_its_repair() -> None:
    """On every ready-made circuit: no fault is told without what is done about it."""
    beyond = {FaultKind.NOTHING_WRONG, FaultKind.NONE_OF_THESE, FaultKind.TWO_AT_ONCE}
    for circuit in ready_made().values():
        for fault in faults_of(circuit):
            kind = circuit.part(fault.part).kind if fault.part else ""
            fits = [row for row in decisions() if fault.kind in row.faults and (not row.parts or kind in row.parts)]
            assert fits or fault.kind in beyond, f"{circuit.name}: {fault.key}"


def test_a_found_clip_is_decided_with_what_matches_it_and_what_it_may_have_hurt() -> None:
    readings = (
        volts("L1@whip", "L2@whip", 222.6),
        volts("L1@whip", "G", 121.2),
        volts("L2@whip", "G", 101.6),
        volts("L2@fuse", "L2@clip_load", 19.6),
        volts("L2@fuse", "L2@clip_load", 19.4, name="again"),
    )
    plan = plan_of(CONDENSER, answer(*readings), (), sheets_of(CONDENSER))
    (item,) = plan.items
    assert item.is_sure
    assert item.part == "clip_load"
    assert item.does == "Replace the disconnect."
    assert "squeezing" in item.never
    assert {match.what for match in item.matches} == {"Disconnect with fuses", "Replacement fuse"}
    assert item.question is not None
    assert [way.key for way in item.question.ways] == ["lock_out", "replace_now", "bypass"]
    assert any("mate on the other leg" in one for one in plan.harm)
    assert any("Off at the first switch" in one for one in plan.before)
    assert plan.order[0].startswith("Open and lock: Breaker."), "the disconnect's own pull-out leaves its lugs live"
    assert any("18.6 A by the nameplate" in one for one in plan.prove)


def test_a_second_supply_and_what_turns_three_phase_are_not_forgotten() -> None:
    plan = planned("rooftop_208", Look(id="told", sign="backwards"))
    assert any("Phase sequence" in one for one in plan.prove)
    two = next(circuit for circuit in ready_made().values() if sum(p.kind == "source" for p in circuit.parts) > 1)
    assert "circuits feed this cabinet" in next(before_work(two, two.loads))


def test_another_way_than_the_usual_one_is_asked_for_what_it_needs() -> None:
    usual = {key: question.ways[0] for key, question in questions().items()}
    assert all(way.asks == () for way in usual.values()), "the usual way needs no excuse"
    check_notes(RepairNotes(chosen={key: Chosen(way=way.key) for key, way in usual.items()}))
    bypass = Chosen(way="bypass", reason="heat for the night, ill person", tags=True, breaker_lock=True)
    with pytest.raises(BadInput) as told:
        check_notes(RepairNotes(chosen={"failed_disconnect": bypass}))
    assert told.value.field == "chosen.failed_disconnect.return_on"
    dated = bypass.model_copy(update={"return_on": date(2026, 12, 1)})
    check_notes(RepairNotes(chosen={"failed_disconnect": dated}))
    for key, field in (("reason", ""), ("tags", False), ("breaker_lock", False)):
        with pytest.raises(BadInput) as told:
            check_notes(RepairNotes(chosen={"failed_disconnect": dated.model_copy(update={key: field})}))
        assert told.value.field == f"chosen.failed_disconnect.{key}"
    with pytest.raises(BadInput):
        check_notes(RepairNotes(chosen={"failed_disconnect": Chosen(way="squeeze")}))


def test_what_was_changed_for_testing_is_asked_back() -> None:
    jumper = PutBack(words="jumper R-Y", done=True)
    check_put_back(RepairNotes(put_back=(jumper,)))
    with pytest.raises(BadInput, match=r"thermostat in test mode\.$"):
        check_put_back(RepairNotes(put_back=(PutBack(words="thermostat in test mode"), jumper)))


def test_no_work_is_begun_behind_a_switch_in_the_same_box() -> None:
    """On every circuit, for every place: what is locked stands elsewhere, or the panel's lugs are named live."""
    for circuit in ready_made().values():
        for part in circuit.series:
            first, *_ = order_of_work(circuit, [part])
            if part.zone is Zone.PANEL:
                assert "lugs stay live" in first
            elif first.startswith("Open and lock: "):
                names = first.removeprefix("Open and lock: ").partition(". A box")[0].split(", then ")
                ids = {switch.id for switch in circuit.switches if switch.name in names}
                above = [one for one in circuit.path(part) if one.switch in ids]
                assert any(one.zone is not part.zone for one in above), f"{circuit.name}, {part.id}: {names}"


def test_what_is_handed_over_asks_for_no_work_here() -> None:
    looks = (Look(id="look", sign="melted", part="breaker", leg="L1"),)
    alone = diagnose(Job(circuit=CONDENSER, looks=looks)).model_copy(update={"suspects": ()})
    handed = plan_of(CONDENSER, alone, looks, sheets_of(CONDENSER))
    assert handed.items[0].by is By.ELECTRICIAN
    assert handed.before == handed.order == ()
    licensed = RepairNotes(chosen={"in_the_panel": Chosen(way="licensed", reason="own license, granted")})
    mine = plan_of(CONDENSER, alone, looks, sheets_of(CONDENSER), licensed)
    assert any("lugs stay live" in one for one in mine.order)


def test_of_two_faults_at_once_each_asks_for_its_repair() -> None:
    diagnosis = answer()
    pair = diagnosis.suspects[0].model_copy(
        update={"kind": FaultKind.TWO_AT_ONCE, "key": "open:fuse:L1+resistive:clip_load:L2", "probability": 0.99}
    )
    verdict = diagnosis.verdict.model_copy(update={"standing": Standing.SURE, "suspects": (pair.key,)})
    both = diagnosis.model_copy(update={"suspects": (pair,), "verdict": verdict})
    plan = plan_of(CONDENSER, both, (), sheets_of(CONDENSER))
    assert [item.part for item in plan.items] == ["fuse", "clip_load"]


@pytest.mark.parametrize("key", sorted(ready_made()))
def test_it_is_made_safe_by_what_feeds_it_and_what_it_is_made_of(key: str) -> None:
    circuit = ready_made()[key]
    lines = list(make_safe(circuit, Scope()))
    assert len(set(lines)) == len(lines)
    assert "The panel stays shut" in lines[-2]
    assert any("circuits feed" in line for line in lines) is (key in ("furnace_15kw", "heat_pump"))
    assert any("main off does not make dead" in one for one in lines)
    assert any("is a high leg: about 208 V" in one for one in lines) is (key == "condenser_high_leg")
    assert any("does not mean dead" in one for one in lines) is (key == "heater_corner")
    assert any("Nothing is grounded" in one for one in lines) is (key == "condenser_ungrounded")
    assert any("is burning" in one for one in lines) is bool(circuit.three_phase_motors)
    licensed = list(make_safe(circuit, Scope(panel_may_be_opened=True)))
    assert "licensed" in licensed[-2]


# What practitioners differ about, and the way that stands first: the trade's own table (common practice, no source).
USUAL = {
    "failed_disconnect": "lock_out",
    "burnt_lead": "contactor",
    "loose_spades": "replace",
    "tightening": "label",
    "hot_wire": "flag",
    "in_the_panel": "hand_over",
}


def test_the_usual_way_stands_first_where_practitioners_differ() -> None:
    assert {key: question.ways[0].key for key, question in questions().items()} == USUAL
    assert all(question.why for question in questions().values())


def test_searching_begins_as_the_trade_settled_it() -> None:
    """Leg to leg and each leg to ground together; fewest readings first; the panel shut; a fuse by volts, not ohms."""
    scope = Scope()
    assert (scope.way, scope.panel_may_be_opened, scope.panel_volts_only) == (Way.FEWEST, False, False)
    hums = (Look(id="hums", sign="hums"),)
    first = diagnose(Job(circuit=CONDENSER, looks=hums)).next_test
    assert first is not None
    ends = [
        {measurement.place.a[:2], measurement.place.b[:2]}
        for measurement in first.measurements
        if isinstance(measurement.place, Between)
    ]
    assert sorted(map(sorted, ends)) == [["G", "L1"], ["G", "L2"], ["L1", "L2"]]
    dead = (volts("L1@whip", "L2@whip", 118.0), volts("L1@whip", "G", 121.0), volts("L2@whip", "G", 3.0))
    fuse = diagnose(Job(circuit=CONDENSER, readings=dead)).next_test
    assert fuse is not None
    assert {one.unit for one in fuse.measurements} <= {"V"}


def test_a_unit_breaker_with_its_line_side_live_is_killed_at_the_panel() -> None:
    furnace = ready_made()["electric_furnace"]
    first, *_ = order_of_work(furnace, [furnace.part("sequencer_1")])
    assert first.startswith("Open and lock: Breaker."), "and not the unit's own"


def test_every_circuit_that_comes_into_a_cabinet_is_locked_and_no_other_is_closed_again() -> None:
    furnace = ready_made()["furnace_15kw"]
    work = [furnace.part("sequencer_2")]
    before = next(before_work(furnace, work))
    assert "3 circuits feed this cabinet: Pull-out 1, Pull-out 2, Pull-out 3." in before
    assert next(order_of_work(furnace, work)).startswith("Open and lock: Pull-out 1, then Pull-out 2, then Pull-out 3.")
    closed = [step.does for step in back_on(furnace, opened_for(furnace, work)) if step.does.startswith("Close the ")]
    assert [one.partition(";")[0] for one in closed] == [f"Close the pull-out {n}" for n in (1, 2, 3)]


@pytest.mark.parametrize("key", sorted(ready_made()))
def test_what_may_hold_a_charge_is_named_with_how_it_is_let_go(key: str) -> None:
    """Every single-phase motor, drawn with a capacitor or not; a drive by waiting, never by a resistor."""
    circuit = ready_made()[key]
    lines = list(before_work(circuit, circuit.loads))
    single = [p.name for p in circuit.parts if p.kind in ("motor", "compressor", "capacitor")]
    drives = [p.name for p in circuit.parts if p.kind in ("drive", "filter")]
    resistor = next((line for line in lines if "15 to 20 kΩ" in line), "")
    assert bool(resistor) is bool(single)
    assert all(name in resistor for name in single)
    assert not single or "read DC volts: near 0" in resistor
    waits = next((one for one in lines if "Never a resistor" in one), "")
    assert bool(waits) is bool(drives)
    assert all(name in waits for name in drives)
    assert any("single-phase motor has a capacitor" in one for one in make_safe(circuit, Scope())) is bool(
        single or drives
    )


def test_what_stays_connected_across_the_legs_is_no_short() -> None:
    heat_pump = ready_made()["heat_pump"]
    ohms = next(back_on(heat_pump, {"disconnect"}))
    heater = next(part for part in heat_pump.parts if part.kind == "crankcase_heater")
    assert heater.load is not None
    assert f"{heater.name} (about {heater.load.rated_volts / heater.load.rated_amps:.3g} Ω)" in ohms.reads
    assert ohms.stop.startswith("Near 0 Ω leg to leg")
    assert "control transformer;" in next(back_on(ready_made()["heat_strip"], {"disconnect"})).reads
    plain = next(back_on(ready_made()["garage_heater"], {"breaker"}))
    assert (plain.reads, plain.stop[:17]) == ("OL on each", "Anything but OL: ")


def test_control_volts_come_before_anything_is_called() -> None:
    rooftop = ready_made()["rooftop_208"]
    steps = list(back_on(rooftop, {"disconnect"}))
    at = next(i for i, one in enumerate(steps) if one.does.startswith("Control volts"))
    assert steps[at - 1].does.startswith("Close the disconnect")
    assert steps[at + 1].does.startswith(("Next load", "Call for it"))
    assert "R to C 22 to 29 V" in steps[at].reads
    assert "line voltage is on the controls" in steps[at].stop


SIZE = re.compile(r"\d+(?:/0)? AWG|\d+ kcmil")


@pytest.mark.parametrize("key", sorted(ready_made()))
def test_no_parts_list_names_what_is_not_at_the_place(key: str) -> None:
    """For every fault and every sign at every place: no part, size or wire but of the place, or of what hangs on it."""
    circuit = ready_made()[key]
    sheets = sheets_of(circuit)
    asked: list[tuple[str | None, Decision, FaultKind | None]] = [
        (fault.part, row, fault.kind)
        for fault in faults_of(circuit)
        for row in decisions()
        if fits(circuit, row, fault)
    ]
    marked = [row for row in decisions() if row.marks]
    asked += [(part.id, row, None) for row in marked for part in circuit.parts if part.kind in row.parts]
    for part_id, row, kind in asked:
        part = circuit.part(part_id) if part_id else None
        wanted = list(matches_of(circuit, sheets, part, row.replaces, kind))
        if part is None:
            assert wanted == []
            continue
        near = [part, circuit.feed(part), *(one for one in circuit.parts if circuit.feed(one) == part)]
        sizes = {f"{gauge_words(one.conductor.size_awg)}" for one in near if one.conductor}
        own_sheets = [sheet for start, sheet in sheets.items() if circuit.part(start) in circuit.path(part)]
        if kind is FaultKind.UNDERSIZED:
            sizes |= {gauge_words(size) for sheet in own_sheets if (size := smallest_copper(sheet)) is not None}
        for one in wanted:
            assert one.part is not None
            there = circuit.part(one.part)
            beside = there in circuit.path(part) or part in circuit.path(there)
            beside = beside or circuit.feed(there) == circuit.feed(part)
            assert beside, (part.id, one)
            assert there == part or there.zone == part.zone or there.winding is not None, (part.id, one)
            assert set(SIZE.findall(one.answer)) <= sizes, (part.id, one)
            assert not (one.what == "Crimp terminal" and part.kind in ("lug", "terminal_block")), part.id


def fits(circuit: Circuit, row: Decision, fault: Fault) -> bool:
    kind = circuit.part(fault.part).kind if fault.part else ""
    return fault.kind in row.faults and (not row.parts or kind in row.parts)


def test_a_heater_on_three_legs_is_asked_by_all_its_kilowatts() -> None:
    """P = √3·V·I, wye or delta: 26.3 A at 208 V are 9.48 kW."""
    duct = ready_made()["duct_heater"]
    heater = next(load for load in duct.loads if load.kind == "heater" and len(duct.lanes_of(load)) == 3)
    assert heater.load is not None
    (wanted,) = matches_of(duct, sheets_of(duct), heater, [Replaced.ELEMENT])
    kw = math.sqrt(3) * heater.load.rated_volts * heater.load.rated_amps / 1000
    assert wanted.answer.startswith(f"{kw:.3g} kW at {heater.load.rated_volts:g} V")
