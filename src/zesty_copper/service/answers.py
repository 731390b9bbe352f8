"""The answer to a job: worked out once, in its turn, and kept for the next time."""

import os
from collections.abc import Callable, Sequence
from hashlib import sha256

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.diagnose import anticipate, diagnose, first_answer, why_not
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Suspect
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.memory import Memory
from zesty_copper.core.tools.course import Course, course_of
from zesty_copper.core.tools.what_if import Move, WhatIf, what_if
from zesty_copper.service.at_work import AtWork

__all__ = [
    "Answers",
    "answer_at_once",
    "coursed",
    "explained",
    "forget_answers",
    "make_ready",
    "tried",
    "whole_answer",
]

Answers = Callable[[Job], Diagnosis]
"""How a job is answered: wholly, or at once with the next test still to come."""

ANSWER_BYTES = 16_000_000
"""What the answers given last may hold [byte]: some hundred."""
MOST_SECONDS = 30.0
"""What one answer may take, ten times what the largest circuit that is accepted does alone."""

_at_work = AtWork(at_once=os.cpu_count() or 1, waiting=24, seconds=MOST_SECONDS)
_answers = Memory(ANSWER_BYTES)


def whole_answer(job: Job) -> Diagnosis:
    """Answer a job wholly; the answers given last are kept, so that a page opened again stands at once."""

    def answered() -> memoryview:
        with _at_work.place():
            return memoryview(diagnose(job).model_dump_json().encode())

    # As JSON it takes a sixth of the room, and is read back in a millisecond.
    key = sha256(job.model_dump_json().encode()).digest()
    return Diagnosis.model_validate_json(_answers.kept(key, answered).tobytes())


def forget_answers() -> None:
    """Let go of the answers that are kept."""
    _answers.forget()


def answer_at_once(job: Job) -> Diagnosis:
    """Answer a job as far as that goes without looking for the next test."""
    with _at_work.place():
        return first_answer(job)


def explained(job: Job, key: str) -> Suspect:
    """Explain one suspect, in its turn."""
    with _at_work.place():
        return why_not(job, key)


def coursed(job: Job) -> Course:
    """Weigh the readings one after the other, in its turn."""
    with _at_work.place():
        return course_of(job)


def tried(circuit: Circuit, moves: Sequence[Move], open_switches: frozenset[str], suspect: str | None) -> WhatIf:
    """Try some moves in the model, in its turn."""
    with _at_work.place():
        return what_if(circuit, moves, open_switches, suspect)


def make_ready(job: Job, diagnosis: Diagnosis) -> None:
    """Make ready for the next reading, where nobody waits for anything else meanwhile."""
    with _at_work.free_place() as free:
        if free:
            anticipate(job, diagnosis)
