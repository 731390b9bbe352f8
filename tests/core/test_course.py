"""How suspects fare from reading to reading."""

import pytest
from tests.core.told import CONDENSER, spot, volts

from zesty_copper.core.diagnosis.diagnose import first_answer
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.tools.course import MOST_STEPS, course_of


def test_each_step_is_what_was_said_after_that_reading() -> None:
    job = Job(circuit=CONDENSER, readings=tuple(spot("whip", 0.4, 121.3, 0.6)))
    course = course_of(job)
    assert [step.reading for step in course.steps] == [None, *(reading.id for reading in job.readings)]
    for count, step in enumerate(course.steps):
        suspects = first_answer(job.model_copy(update={"readings": job.readings[:count]})).suspects
        for words, share in zip(course.places, step.shares, strict=True):
            place = next((suspect.place for suspect in suspects if suspect.words == words), None)
            if place is not None:
                assert share == pytest.approx(sum(one.probability for one in suspects if one.place == place))
    last = course.steps[-1].shares
    assert list(last) == sorted(last, reverse=True)
    assert last[0] > course.steps[0].shares[0]


def test_a_long_call_tells_its_end() -> None:
    readings = tuple(volts("L1@whip", "L2@whip", 240 + i / 10, name=f"reading {i}") for i in range(MOST_STEPS + 3))
    course = course_of(Job(circuit=CONDENSER, readings=readings))
    assert len(course.steps) == 1 + MOST_STEPS
    assert course.steps[-1].reading == readings[-1].id
