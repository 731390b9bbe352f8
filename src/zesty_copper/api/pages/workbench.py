"""A call as the workbench shows it: strip, readings that stand, and the diagnosis."""

import os
from collections.abc import Callable, Sequence
from datetime import datetime
from hashlib import sha256
from typing import Any
from uuid import UUID

from pydantic import Field

from zesty_copper.api.gate.at_work import AtWork
from zesty_copper.api.plans import Plans
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.reading.measurement import Reading
from zesty_copper.core.circuit.strip import Strip, strip_of
from zesty_copper.core.circuit.words import asked_words, state_words, value_words
from zesty_copper.core.diagnosis.diagnose import anticipate, diagnose, first_answer, why_not
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Suspect
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.faults.signs import Look, look_words, signs
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.memory import Memory
from zesty_copper.core.people import Person, Role, narrowed
from zesty_copper.core.ratings.sizing.staircase import Tread, staircase
from zesty_copper.core.tools.course import Course, course_of
from zesty_copper.core.tools.quick_entry import line_of
from zesty_copper.core.tools.take_along import TakeAlong
from zesty_copper.core.tools.what_if import Move, WhatIf, what_if
from zesty_copper.files.job_file import told_in
from zesty_copper.service.jobs import with_prior_factors
from zesty_copper.store.records import Call, CallSummary, Unread, Versions

__all__ = [
    "Answers",
    "ShownLook",
    "ShownReading",
    "Workbench",
    "answer_at_once",
    "coursed",
    "explained",
    "forget_answers",
    "job_of",
    "let_plans_go",
    "make_ready",
    "planned",
    "tried",
    "whole_answer",
    "workbench_of",
]


class ShownReading(Frozen):
    """A reading that stands, in words."""

    reading: Reading
    place: str
    state: str
    value: str
    line: str = Field(description="the same as a quick-entry line")
    entered_at: datetime
    corrected: bool
    entry_id: UUID = Field(description="the last entry about it: what changes it says that it follows this")


class ShownLook(Frozen):
    """A look that stands, in words."""

    look: Look
    words: str
    reason: str = Field(description="why the sign tells what it tells")
    line: str = Field(description="the same as a quick-entry line")
    entered_at: datetime
    entry_id: UUID = Field(description="the last entry about it: what changes it says that it follows this")


class Workbench(Frozen):
    """Everything that one call's page needs."""

    call: CallSummary
    versions: Versions
    shared_with: tuple[UUID, ...] = Field(description="who else works on it, or was handed it")
    may_change: bool = Field(description="whether who asks may change the call")
    may_open_panels: bool = Field(description="whether who asks may open its panel, or let it be opened")
    circuit: Circuit
    strip: Strip
    readings: tuple[ShownReading, ...]
    looks: tuple[ShownLook, ...]
    unread: tuple[Unread, ...] = Field(description="what was said and can no longer be read: it is left out")
    diagnosis: Diagnosis
    treads: tuple[Tread, ...] = Field(description="volts that each part should lose, and what it was read to lose")


Answers = Callable[[Job], Diagnosis]
"""How a job is answered: wholly, or at once with the next test still to come."""

ANSWER_BYTES = 16_000_000
"""What the answers given last may hold [byte]: some hundred."""
MOST_SECONDS = 30.0
"""What one answer may take, ten times what the largest circuit that is accepted does alone."""

_at_work = AtWork(at_once=os.cpu_count() or 1, waiting=24, seconds=MOST_SECONDS)
_answers = Memory(ANSWER_BYTES)
_plans = Plans()


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


def planned(call_id: UUID, job: Job) -> TakeAlong:
    """The plan to take along, or how far it is."""
    return _plans.of(call_id, job)


def let_plans_go() -> None:
    """End the work on plans."""
    _plans.close()


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


def job_of(call: Call) -> Job:
    """Return the call as a job: what stands, scope, and what its ratings and the firm's past make likelier."""
    job = with_prior_factors(told_in(call))
    # What is told of this very circuit goes before what was found elsewhere.
    told = {factor.key for factor in job.prior_factors}
    past = [prior_factor for prior_factor in call.past if prior_factor.key not in told] if job.scope.use_past else []
    return job.model_copy(update={"prior_factors": (*job.prior_factors, *past)}) if past else job


def workbench_of(call: Call, viewer: Person, answer: Answers = whole_answer) -> Workbench:
    """Lay a call out for its page, and for who looks at it: nobody is sent into a panel that is not theirs to open."""
    scope = narrowed(call.summary.scope, viewer)
    job = job_of(call).model_copy(update={"scope": scope})
    readings, looks = [], []
    for entry in call.stands:
        told: dict[str, Any] = {
            "entered_at": entry.entered_at,
            "entry_id": entry.entry_id,
            "line": line_of(call.circuit, entry.said),
        }
        if isinstance(entry.said, Look):
            words, reason = look_words(call.circuit, entry.said), signs()[entry.said.sign].reason
            looks.append(ShownLook(look=entry.said, words=words, reason=reason, **told))
        else:
            readings.append(_shown(call.circuit, entry.said, corrected=entry.corrected, **told))
    return Workbench(
        call=call.summary.model_copy(update={"scope": scope}),
        versions=call.versions,
        shared_with=call.shared_with,
        may_change=viewer.role.changes_calls,
        may_open_panels=viewer.role is Role.LEAD or viewer.may_open_panels,
        circuit=call.circuit,
        strip=strip_of(call.circuit),
        readings=tuple(readings),
        looks=tuple(looks),
        unread=call.unread,
        diagnosis=answer(job),
        treads=staircase(call.circuit, job.readings),
    )


def _shown(circuit: Circuit, reading: Reading, **told: Any) -> ShownReading:
    return ShownReading(
        reading=reading,
        place=asked_words(circuit, reading.measurement),
        state=state_words(circuit, reading.measurement),
        value=value_words(reading.value, reading.unit),
        **told,
    )
