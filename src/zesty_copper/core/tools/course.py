"""How the suspects fared as the readings came in: which of them each reading raised, and which it took away."""

from collections.abc import Sequence

from pydantic import Field

from zesty_copper.core.diagnosis.diagnose import first_answer
from zesty_copper.core.diagnosis.model.answer import Suspect
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.frozen import Frozen

__all__ = ["Course", "CourseStep", "course_of"]

MOST_STEPS = 24
"""The last so many readings are told: more lines than that nobody reads."""
MOST_PLACES = 5


class CourseStep(Frozen):
    """Where it stood after one more reading."""

    reading: str | None = Field(description="id of the reading; none before the first that is told")
    shares: tuple[float, ...] = Field(description="probability of each place of the course, in its order")


class Course(Frozen):
    """The places that were likeliest at some time, and their probabilities from reading to reading."""

    places: tuple[str, ...] = Field(description="in words, the likeliest at the end first")
    steps: tuple[CourseStep, ...]


def course_of(job: Job) -> Course:
    """Weigh the readings one after the other, in the order in which they were taken.

    What was seen and told counts from the start: it has no place among the readings.
    """
    begin = max(0, len(job.readings) - MOST_STEPS)
    answers = [
        _by_place(first_answer(job.model_copy(update={"readings": job.readings[:count]})).suspects)
        for count in range(begin, len(job.readings) + 1)
    ]
    most: dict[str, float] = {}
    for answer in answers:
        for place, (share, _) in answer.items():
            most[place] = max(most.get(place, 0.0), share)
    places = sorted(most, key=lambda place: -most[place])[:MOST_PLACES]
    last = answers[-1]
    places.sort(key=lambda place: -last.get(place, (0.0, ""))[0])
    words = {place: place_words for answer in answers for place, (_, place_words) in answer.items()}
    ids = [None, *(reading.id for reading in job.readings[begin:])]
    return Course(
        places=tuple(words[place] for place in places),
        steps=tuple(
            CourseStep(reading=reading, shares=tuple(answer.get(place, (0.0, ""))[0] for place in places))
            for reading, answer in zip(ids, answers, strict=True)
        ),
    )


def _by_place(suspects: Sequence[Suspect]) -> dict[str, tuple[float, str]]:
    """Probability of each place, and the words of its likeliest suspect."""
    places: dict[str, tuple[float, str]] = {}
    for suspect in suspects:
        share, words = places.get(suspect.place, (0.0, suspect.words))
        places[suspect.place] = (share + suspect.probability, words)
    return places
