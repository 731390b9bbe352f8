"""The plan taken along says what the diagnosis would say, and tells who leaves it."""

import pytest
from tests.core.told import CONDENSER

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Range, Standing
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.tools.take_along import GrowingPlan, TakeAlong, TakenBranch, branch_for


def grown(job: Job, answers: int) -> TakeAlong:
    """A plan of so many answers."""
    plan, left = GrowingPlan(job), iter(range(answers))
    plan.grow(lambda: next(left, None) is not None)
    assert plan.told().nodes == () or plan.is_done
    plan.end()
    return plan.told()


@pytest.fixture(scope="module")
def dead() -> tuple[Job, TakeAlong]:
    """A dead condenser, and the first answers of its plan."""
    job = Job(circuit=CONDENSER, looks=(Look(id="told", sign="nothing_runs"),))
    return job, grown(job, 12)


def test_it_begins_where_the_call_stands_and_goes_on_as_the_diagnosis_would(dead: tuple[Job, TakeAlong]) -> None:
    job, plan = dead
    assert plan.is_done
    assert plan.answers == 12
    first = plan.nodes[0]
    assert first.words == diagnose(job).verdict.words
    assert first.test is not None
    # Nothing anywhere, as a tripped breaker shows it.
    to = branch_for(first, [0.1, 0.2, 0.3])
    assert to is not None
    readings = tuple(
        {"id": str(i), "measurement": m.model_dump(), "value": value, "unit": "V"}
        for i, (m, value) in enumerate(zip(first.test.measurements, (0.1, 0.2, 0.3), strict=True))
    )
    there = diagnose(Job.model_validate(job.model_dump() | {"readings": readings}))
    assert plan.nodes[to].words == there.verdict.words
    likely = [suspect.words for suspect in there.suspects[:4]]
    assert {one.words for one in plan.nodes[to].suspects} & set(likely)


def test_who_reads_what_nobody_foresaw_leaves_the_plan(dead: tuple[Job, TakeAlong]) -> None:
    _, plan = dead
    assert branch_for(plan.nodes[0], [666.0, 1.0, 450.0]) is None
    assert branch_for(plan.nodes[0], [0.2]) is None


def test_of_two_bands_the_nearer_middle_is_meant(dead: tuple[Job, TakeAlong]) -> None:
    _, plan = dead
    bands = [(Range(low=0, high=40), 1), (Range(low=30, high=130), 2)]
    node = plan.nodes[0].model_copy(
        update={"branches": tuple(TakenBranch(ranges=(band,), to=to) for band, to in bands)}
    )
    assert [branch_for(node, [value]) for value in (5.0, 33.0, 38.0, 90.0)] == [1, 1, 2, 2]


def test_what_stops_the_work_stops_it_in_the_plan_too() -> None:
    job = Job(circuit=ready_made()["rooftop_208"], looks=(Look(id="told", sign="trips_at_once"),))
    answer, plan = diagnose(job), grown(job, 6)
    assert answer.stop is not None
    assert plan.nodes[0].stop == answer.stop


def test_every_branch_leads_to_an_answer_and_every_end_says_where_it_stands() -> None:
    plan = grown(Job(circuit=ready_made()["heat_strip"], looks=(Look(id="told", sign="weak"),)), 30)
    ends = [node for node in plan.nodes if node.test is None]
    assert ends
    assert all(node.standing is not Standing.OPEN for node in ends)
    led_to = [branch.to for node in plan.nodes for branch in node.branches]
    assert sorted(led_to) == list(range(1, len(plan.nodes)))
    assert 0 < plan.share <= 1
