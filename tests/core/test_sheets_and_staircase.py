"""What a circuit and its readings already say for the ratings, and the volts that each part loses."""

import pytest
from pydantic import ValidationError
from tests.core.told import CONDENSER, amps, answer, volts

from zesty_copper.core.circuit.parts.conductor import Conductor, Metal, conductor_resistance_ohm
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job, PriorFactor, SupplySheet
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.observations.kinds.warmth import Warmth
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.ratings.inputs.from_circuit import measured_on, sheets_of, sheets_with
from zesty_copper.core.ratings.inputs.sheet import Device, Insulation, Joint, Measured, Plate, Raceway, Run, Sheet, Use
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.rules.finding import Status
from zesty_copper.core.ratings.rules.likelier import likelier
from zesty_copper.core.ratings.sizing.sizes import what_it_may_carry, what_should_be_there
from zesty_copper.core.ratings.sizing.staircase import Tread, staircase


@pytest.mark.parametrize("key", ready_made())
def test_every_ready_made_circuit_has_a_sheet_and_nothing_dangerous_in_it(key: str) -> None:
    """They are sound by design: whatever is not met would be a slip of the rules or of the circuit."""
    circuit = ready_made()[key]
    sheets = sheets_of(circuit)
    assert sheets
    for sheet in sheets.values():
        assert sheet.plate.motors or sheet.plate.heat_amps
        assert sheet.runs
        assert sheet.devices
        assert [f.words for f in check(sheet) if f.status is Status.NOT_MET] == []


def test_a_sheet_knows_feeders_element_breakers_and_what_hangs_on_a_contactor() -> None:
    rooftop = sheets_of(ready_made()["rooftop_208"])["supply"]
    assert [(d.part, d.feeder) for d in rooftop.devices] == [("feeder_breaker", True), ("breaker", False)]
    assert {run.part: run.behind for run in rooftop.runs} == {
        "feeder": "feeder_breaker",
        "branch": "breaker",
        "whip": "breaker",
    }
    assert (rooftop.three_phase, rooftop.nominal_volts, rooftop.plate.use) == (True, 208, Use.COMPRESSOR)
    (contactor,) = rooftop.contactors
    assert (contactor.poles, contactor.coil_volts, contactor.switches_amps) == (3, 24, 27.7)
    furnace = sheets_of(ready_made()["electric_furnace"])["supply"]
    assert [d.part for d in furnace.devices if d.protects_elements] == ["unit_breaker"]
    assert furnace.plate.limit_of_elements_amps == 41.6
    assert furnace.transformers[0].coils_va == (6.0, 6.0, 3.6)


def test_what_was_measured_is_the_last_with_everything_closed() -> None:
    readings = [
        volts("L1@whip", "L2@whip", 243.0, "contactor"),
        volts("L1@whip", "L2@whip", 236.0),
        volts("L1@breaker", "L2@breaker", 241.0),
        volts("L1@whip", "G", 120.0),
        amps("L1", "branch", 17.0),
        amps("L2", "whip", 18.0),
    ]
    measured = measured_on(CONDENSER, "supply", readings)
    assert (measured.volts, measured.service_volts, measured.amps) == ((236.0,), (241.0,), (17.0, 18.0))
    feeder = measured_on(ready_made()["rooftop_208"], "supply", [amps("L1", "feeder", 80.0)])
    assert feeder.amps == (), "a feeder carries others' amps too"


def tread(treads: tuple[Tread, ...], lane: str, *parts: str) -> Tread:
    """One tread."""
    (found,) = [t for t in treads if t.lane == lane and t.parts == parts]
    return found


def test_a_part_loses_what_its_ohms_say_and_a_poor_clip_more() -> None:
    warm = Measurement(place=Warmth(part="clip_load", leg="L2"))
    treads = staircase(
        CONDENSER,
        [
            volts("L1@contactor", "L2@contactor", 224.0),
            amps("L2", "whip", 18.2),
            volts("L1@fuse", "L1@clip_load", 0.04),
            volts("L2@fuse", "L2@clip_load", 9.2),
            volts("L2@line_lug", "L2@fuse", 0.1),
            volts("G@branch", "G@whip", 0.3),
            Reading(id="warm", measurement=warm, value=63, unit="degF"),
        ],
    )
    branch = tread(treads, "L2", "branch")
    assert branch.expected_volts == pytest.approx(
        18.2
        * conductor_resistance_ohm(Conductor(size_awg=8, length_m=CONDENSER.part("branch").conductor.length_m), 50.0)  # type: ignore[union-attr] # it is a run
    )
    assert (branch.standing, branch.amps_by) == ("unread", "clamp")
    assert tread(treads, "L1", "branch").amps_by == "other leg"
    # A new clip is a milliohm: 18 mV at 18.2 A.
    poor = tread(treads, "L2", "clip_load")
    assert poor.expected_volts == pytest.approx(0.0182)
    assert poor.excess_ohm == pytest.approx((9.2 - 0.0182) / 18.2)
    assert poor.excess_watts == pytest.approx((9.2 - 0.0182) * 18.2)
    assert poor.load_volts_without == pytest.approx(224 + 9.2, abs=0.1)
    assert (poor.standing, poor.over_mate_f) == ("high", 63)
    assert "Major" in poor.infrared  # 35 °C over its mate
    assert poor.over_mate_percent == pytest.approx(100 * (9.2 - 0.04) / 0.04)
    good = tread(treads, "L1", "clip_load")
    assert (good.standing, good.over_mate_percent) == ("good", 0)
    several = tread(treads, "L2", "stab_in", "clip_line", "fuse")
    assert several.expected_volts == pytest.approx(18.2 * 0.004)
    assert several.standing == "good"
    assert not [t for t in treads if t.lane == "G"], "nothing flows in the ground: its volts are no drop"


def test_what_is_not_met_makes_the_parts_own_failing_likelier_and_says_so() -> None:
    sheet = sheets_of(CONDENSER)["supply"]
    wrong = Joint(name="line lug", part="line_lug", metals=("aluminium",), marked_for=("copper",))  # type: ignore[arg-type] # read as words
    likeliers = likelier(check(sheet.model_copy(update={"joints": (wrong,)})))
    factors = tuple(
        PriorFactor(key=FaultKey.of(one.kind, one.part), factor=one.factor, reason=one.reason)
        for one in likeliers
        if one.part == "line_lug"
    )
    assert {factor.factor for factor in factors} == {4.0}
    job = Job(circuit=CONDENSER, prior_factors=factors)
    chances = {s.key: s for s in diagnose(job).suspects}
    before = {s.key: s.probability for s in answer().suspects}
    key = "resistive:line_lug:L1"
    assert 3.5 < chances[key].probability / before[key] < 4.1
    assert chances[key].likelier_by == ("Aluminium on a terminal for copper.",)
    assert chances["resistive:load_lug:L1"].likelier_by == ()
    assert sum(s.probability for s in chances.values()) == pytest.approx(1)


def test_what_is_written_is_read_and_what_cannot_be_is_refused_where_it_stands() -> None:
    run = Run.model_validate(
        {
            "name": "branch",
            "size_awg": "#10",
            "metal": "Al",
            "length_m": "65 ft",
            "ambient_c": "122 °F",
            "raceway": "EMT",
            "insulation": "THHN/THWN-2",
            "grounding_awg": "10 AWG",
            "hot_colours": ["Grey", "WHITE"],
        }
    )
    assert (run.size_awg, run.metal, run.length_m, run.ambient_c) == (10, Metal.ALUMINIUM, 19.812, 50.0)
    assert (run.raceway, run.insulation) == (Raceway.STEEL, Insulation.THWN_2)
    assert run.hot_colours == ("gray", "white")
    assert Run(name="feeder", size_awg="4/0").size_awg == -3  # type: ignore[arg-type] # as people write it
    assert Run(name="feeder", size_awg="250 MCM").size_awg == -4  # type: ignore[arg-type]
    for wrong, words in (
        ({"name": "branch", "size_awg": 11}, "No 11 AWG wire is made"),
        ({"name": "branch", "size_awg": "750 kcmil"}, "beyond the tables here: wire size from 18 AWG to 500 kcmil"),
    ):
        with pytest.raises(ValidationError, match=words):
            Run.model_validate(wrong)
    with pytest.raises(ValidationError, match="swap them"):
        Plate(least_volts=240, most_volts=208)
    with pytest.raises(ValidationError, match="count them again"):
        Joint(name="lug", strands=7, strands_left=9)


def test_what_was_measured_and_entered_stays_where_no_reading_says_otherwise() -> None:
    circuit = ready_made()["heat_strip"]
    entered = sheets_of(circuit)["supply"].model_copy(update={"measured": Measured(volts=(236.0,), amps=(20.1, 20.0))})
    sheet = sheets_with(circuit, {"supply": entered}, ())["supply"]
    assert sheet.measured == entered.measured
    with pytest.raises(ValidationError, match="has no supply “attic”: it has supply"):
        Job(circuit=circuit, sheets=(SupplySheet(source="attic", sheet=entered),))


def test_a_splice_box_counts_the_neutral_and_lasting_load_is_derated_once() -> None:
    """Three conductors in and out: 6 × 2.25 (12 AWG) + clamps 2.25 + grounds 2.25 = 18 in³."""
    run = Run(name="branch", size_awg=12, insulation=Insulation.THHN, terminals_c=75, ambient_c=50, carrying=2)
    plate = Plate(use=Use.HEAT, heat_amps=15, least_volts=240)
    sheet = Sheet(
        nominal_volts=240, legs=2, neutral=True, plate=plate, runs=(run,), devices=(Device(name="breaker", amps=20),)
    )
    wanted = {one.what: one for one in what_should_be_there(sheet)}
    assert wanted["Box for a splice of them"].worked is not None
    assert wanted["Box for a splice of them"].worked.value == pytest.approx(18.0)
    # 30 A at 90 °C × 0.82 = 24.6 where it runs; 0.8 × min(20, 25, 20) = 16 A at device and terminals: 16, not 0.8 × 20.
    crowded = sheet.model_copy(update={"runs": (run.model_copy(update={"carrying": 20}),)})
    may = {one.what: one for one in what_it_may_carry(crowded)}["Most load that lasts"]
    assert may.worked is not None
    assert may.worked.value == pytest.approx(30 * 0.82 * 0.5), "derated as it is: 12.3 A, not 80 % of that"


def test_where_it_is_too_hot_for_the_insulation_a_run_may_carry_nothing_over_any_length() -> None:
    sheet = next(iter(sheets_of(CONDENSER).values()))
    hot = tuple(run.model_copy(update={"ambient_c": 60.0, "insulation": None}) for run in sheet.runs)
    bare = sheet.model_copy(update={"runs": hot, "plate": Plate(use=sheet.plate.use)})
    told = {wanted.what: wanted.answer for wanted in what_it_may_carry(bare)}
    assert told["Most load that lasts"] == "0 A"
    assert "Longest run for 3 %" not in told
