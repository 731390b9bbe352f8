"""What follows a visit: what is due and in which order, what is getting worse, what past finds make likelier."""

from datetime import UTC, date, datetime, timedelta

import pytest
from tests.core.told import CONDENSER, amps, volts

from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.repair.follow_up import DANGER, DueKind, due_of
from zesty_copper.core.repair.notes import Chosen, Order, PutBack, Quote, RepairNotes
from zesty_copper.core.repair.proving.key import ProofKey
from zesty_copper.core.repair.proving.notes import Outcome, ProofNotes
from zesty_copper.core.repair.proving.volts import lost_under_load
from zesty_copper.core.tools.experience import PastFind, experience
from zesty_copper.core.tools.trends import LostVolts, Trend, Visited, trends_of

BYPASS = Chosen(way="bypass", reason="Freezer full", tags=True, breaker_lock=True, return_on=date(2026, 12, 1))
BEGUN = datetime(2026, 1, 10, 9, tzinfo=UTC)


def test_what_is_due_is_told_the_most_dangerous_first() -> None:
    notes = RepairNotes(
        chosen={"failed_disconnect": BYPASS},
        put_back=(PutBack(words="Jumper R to Y"), PutBack(words="Fan on", done=True)),
        proof=ProofNotes(outcome=Outcome.NOT_PROVEN, reason="41 °F outside", return_on=date(2027, 4, 12)),
        orders=(Order(words="60 A disconnect"), Order(words="Fuses", state="ordered")),
        quote=Quote.WAITING,
    )
    due = sorted(due_of(notes, is_closed=True), key=lambda one: DANGER.index(one.kind))
    assert [one.kind for one in due] == [
        DueKind.BYPASS,
        DueKind.NOT_PROVEN,
        DueKind.PUT_BACK,
        DueKind.QUOTE,
        DueKind.PARTS,
    ]
    assert [one.on for one in due[:2]] == [date(2026, 12, 1), date(2027, 4, 12)]
    assert "Jumper R to Y" in due[2].words
    assert "Fan on" not in due[2].words
    assert "Fuses" not in due[4].words
    # What is open on an open call is still being worked on.
    assert DueKind.PUT_BACK not in {one.kind for one in due_of(notes, is_closed=False)}


def test_what_was_proven_is_due_no_longer() -> None:
    notes = RepairNotes(chosen={"failed_disconnect": BYPASS}, proof=ProofNotes(outcome=Outcome.PROVEN))
    assert list(due_of(notes, is_closed=True)) == []
    later = RepairNotes(chosen={"failed_disconnect": Chosen(way="lock_out", return_on=date(2026, 12, 1))})
    assert [due.kind for due in due_of(later, is_closed=False)] == [DueKind.RETURN]


def visit(days: int, *readings: Reading, **proof: float) -> Visited:
    numbers = {ProofKey.of(what, "supply", "L1", "L2"): value for what, value in proof.items()}
    lost = tuple(LostVolts(part=part, lanes=lanes, percent=of) for part, lanes, of in lost_under_load(numbers))
    return Visited(at=BEGUN + timedelta(days), circuit=CONDENSER, readings=readings, lost=lost)


def clip(lost: float, load: float) -> tuple[Reading, Reading]:
    return volts("L2@fuse", "L2@clip_load", lost), amps("L1", "whip", load)


def trend(visits: list[Visited], key: str) -> Trend:
    return next(one for one in trends_of(visits) if one.key == key)


def test_a_joint_is_compared_in_ohms_so_that_another_load_does_not_make_it_worse() -> None:
    """0.2 V at 10 A and 0.4 V at 20 A are the same 20 milliohms; 1.2 V at 20 A are three times that."""
    key = "ohm:L2:clip_load"
    same = trend([visit(0, *clip(0.2, 10.0)), visit(90, *clip(0.4, 20.0))], key)
    assert [point.value for point in same.points] == pytest.approx([0.02, 0.02])
    assert not same.worse
    worse = trend([visit(180, *clip(1.2, 20.0)), visit(0, *clip(0.2, 10.0)), visit(90, *clip(0.4, 20.0))], key)
    assert [one.value for one in worse.points] == pytest.approx([0.02, 0.02, 0.06])
    assert worse.worse
    assert "3.0 times" in worse.says
    assert trends_of([visit(180, *clip(1.2, 20.0)), visit(0, *clip(0.2, 10.0))])[0].worse, "what is worse comes first"
    amps_told = trend([visit(0, *clip(0.2, 10.0)), visit(90, *clip(0.4, 20.0))], "amps:supply:0")
    assert "Another load than before" in amps_told.says


def test_what_was_not_loaded_or_read_in_another_state_is_not_compared() -> None:
    unloaded = Reading(
        id="open",
        measurement=Measurement(
            place=Between(a=Point("L2@fuse"), b=Point("L2@clip_load")), open_switches=frozenset({"contactor"})
        ),
        value=0.0,
        unit="V",
    )
    trends = trends_of([visit(0, *clip(0.2, 18.0)), visit(90, unloaded, amps("L1", "whip", 18.0))])
    assert "ohm:L2:clip_load" not in {one.key for one in trends}


def test_drop_and_insulation_are_followed_over_the_visits() -> None:
    def insulation(megohm: float) -> Reading:
        place = Between(a=Point("L1@contactor"), b=GROUND)
        measurement = Measurement(place=place, meter=MeterMode.INSULATION, open_switches=frozenset({"contactor"}))
        return Reading(id="meg", measurement=measurement, value=1e6 * megohm, unit="ohm")

    visits = [visit(0, insulation(120), rest=240.0, load=237.6), visit(365, insulation(18), rest=241.0, load=233.8)]
    dry = trend(visits, "insulation")
    assert [point.value for point in dry.points] == [120, 18]
    assert dry.worse
    drop = trend(visits, "drop:supply:L1:L2")
    assert [one.value for one in drop.points] == pytest.approx([1.0, 100 * 7.2 / 241])
    assert drop.worse
    assert not trend([visits[1], visit(400, insulation(20), rest=241.0, load=233.9)], "insulation").worse


KEY = "resistive:clip_load:L2"


def past(count: int, *, here: int = 0, key: str = KEY) -> list[PastFind]:
    return [PastFind(key=key, words="", same_equipment=i < here, when="Jul 2, 2026") for i in range(count)]


def test_past_finds_make_a_suspect_likelier_visibly_and_never_by_much() -> None:
    assert experience(past(1)) == (), "once is chance"
    (three,) = experience(past(3))
    assert three.factor == pytest.approx(1 + 3 * 0.35)
    assert "3 times" in three.reason
    assert experience(past(300))[0].factor == 3.0
    (prior_factor,) = experience(past(5, here=1))
    assert prior_factor.factor == 2.5
    assert "the first repair may have missed the cause" in prior_factor.reason


def test_no_past_outweighs_a_reading() -> None:
    """A firm that only ever found one clip still follows the meter to the contactor."""
    circuit = ready_made()["condenser_fused"]
    factors = experience(past(300))
    plain, shifted = (diagnose(Job(circuit=circuit, prior_factors=prior_factors)) for prior_factors in ((), factors))

    def probability(of: str, job: Job | None = None) -> float:
        answer = shifted if job is None else diagnose(job)
        return next((one.probability for one in answer.suspects if one.key == of), 0.0)

    before = next(one.probability for one in plain.suspects if one.key == KEY)
    assert 1.5 * before < probability(KEY) < 3.2 * before
    suspect = next(one for one in shifted.suspects if one.key == KEY)
    assert any("300 times" in one for one in suspect.likelier_by), "and it says so"
    readings = (volts("L2@whip", "L2@contactor", 19.0), volts("L2@whip", "L2@contactor", 18.8, name="again"))
    told = Job(circuit=circuit, readings=(*readings, amps("L1", "whip", 17.0)), prior_factors=factors)
    assert probability("resistive:contactor:L2", told) > 0.9
