"""The plan taken along says what the diagnosis would say, and tells who leaves it."""

from itertools import combinations, pairwise

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.stats import entropy
from tests.core.told import CONDENSER

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose, foresee
from zesty_copper.core.diagnosis.model.answer import Standing
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.diagnosis.plan.outcomes import bands_of
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.kinds.volts import Volts
from zesty_copper.core.tools.take_along import GrowingPlan, TakeAlong, branch_for


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
    diagnosis = diagnose(Job.model_validate(job.model_dump() | {"readings": readings}))
    assert plan.nodes[to].words == diagnosis.verdict.words
    likely = [suspect.words for suspect in diagnosis.suspects[:4]]
    assert {taken_suspect.words for taken_suspect in plan.nodes[to].suspects} & set(likely)


def test_who_reads_what_nobody_foresaw_leaves_the_plan(dead: tuple[Job, TakeAlong]) -> None:
    _, plan = dead
    assert branch_for(plan.nodes[0], [666.0, 1.0, 450.0]) is None
    assert branch_for(plan.nodes[0], [0.2]) is None


def test_no_number_means_two_things(dead: tuple[Job, TakeAlong]) -> None:
    """Bands of one card never meet, and at their ends a number still means what it does in the middle."""
    _, plan = dead
    forks = [node for node in plan.nodes if len(node.branches) > 1 and node.branches[0].ranges]
    assert forks
    for node in forks:
        for taken_branch, other in combinations(node.branches, 2):
            assert any(
                a.high <= b.low or b.high <= a.low or a == b
                for a, b in zip(taken_branch.ranges, other.ranges, strict=True)
            )
            assert taken_branch.ranges != other.ranges


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


@pytest.mark.parametrize("kind", ["rooftop_208", "furnace_120", "condenser_fused"])
def test_what_is_foreseen_is_what_would_be_said(kind: str) -> None:
    """The same verdict, stop and next test; and whatever that test may show lies in one of its bands."""
    job = Job(circuit=ready_made()[kind], looks=(Look(id="told", sign="nothing_runs"),))
    diagnosis, foreseen = diagnose(job), foresee(job, 0.0)
    assert (foreseen.verdict, foreseen.stop, foreseen.next_test) == (
        diagnosis.verdict,
        diagnosis.stop,
        diagnosis.next_test,
    )
    assert sum(outcome.chance for outcome in foreseen.outcomes) == pytest.approx(1)
    for one in foreseen.outcomes:
        assert all(low <= value <= high for value, (low, high) in zip(one.values, one.ranges, strict=True))


def test_bands_lose_little_of_what_a_number_tells() -> None:
    """Two places 20 V apart, one that reads as the first, and one spread over both: information by scipy, in bits."""
    rng = np.random.default_rng(5)
    middles, spreads = np.repeat([100.0, 120.0, 100.0, 110.0], 500), np.repeat([0.5, 0.5, 0.5, 8.0], 500)
    points, label = rng.normal(middles, spreads), np.repeat([0, 1, 2, 3], 500)
    weight = np.full(2000, 1 / 2000)
    bands = bands_of(points, spreads, weight, label, Volts())

    def told(cut: list[NDArray[np.bool_]]) -> float:
        joint = np.array([[weight[inside & (label == place)].sum() for place in range(4)] for inside in cut])
        return float(entropy(joint.sum(0), base=2) + entropy(joint.sum(1), base=2) - entropy(joint.ravel(), base=2))

    fine = np.digitize(points, np.arange(80, 140, 1.0))
    assert np.sum([band.holds for band in bands]) == 2000, "each number lies in one band"
    assert len(bands) <= 8
    assert told([band.holds for band in bands]) > 0.9 * told([fine == one for one in np.unique(fine)])
    assert all(one.high <= two.low for one, two in pairwise(bands))
