"""A call as the workbench shows it: strip, readings that stand, and the diagnosis."""

from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Diagnosis
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.faults.signs import Look, look_words, signs
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.observations.strip import Strip, strip_of
from zesty_copper.core.observations.words import asked_words, state_words, value_words
from zesty_copper.core.people import Person, Role
from zesty_copper.core.ratings.sizing.staircase import Tread, staircase
from zesty_copper.core.tools.quick_entry import line_of
from zesty_copper.service.answers import whole_answer
from zesty_copper.service.jobs import job_for
from zesty_copper.store.records import Call, CallSummary, Unread, Versions

__all__ = ["ShownLook", "ShownReading", "Workbench", "workbench_of", "workbench_with"]


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


def workbench_of(call: Call, viewer: Person) -> Workbench:
    """Lay a call out for its page, answered wholly."""
    job = job_for(call, viewer)
    return workbench_with(call, viewer, job, whole_answer(job))


def workbench_with(call: Call, viewer: Person, job: Job, diagnosis: Diagnosis) -> Workbench:
    """Lay a call out for its page, and for who looks at it: with the job that they have there, and its answer."""
    readings, looks = [], []
    for entry in call.stands:
        entry_fields: dict[str, Any] = {
            "entered_at": entry.entered_at,
            "entry_id": entry.entry_id,
            "line": line_of(call.circuit, entry.said),
        }
        if isinstance(entry.said, Look):
            words, reason = look_words(call.circuit, entry.said), signs()[entry.said.sign].reason
            looks.append(ShownLook(look=entry.said, words=words, reason=reason, **entry_fields))
        else:
            readings.append(_shown(call.circuit, entry.said, corrected=entry.corrected, **entry_fields))
    return Workbench(
        call=call.summary.model_copy(update={"scope": job.scope}),
        versions=call.versions,
        shared_with=call.shared_with,
        may_change=viewer.role.changes_calls,
        may_open_panels=viewer.role is Role.LEAD or viewer.may_open_panels,
        circuit=call.circuit,
        strip=strip_of(call.circuit),
        readings=tuple(readings),
        looks=tuple(looks),
        unread=call.unread,
        diagnosis=diagnosis,
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
