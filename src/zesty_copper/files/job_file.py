"""The job file: JSON, open and versioned; its schema is generated from the same models that the core uses.

It is a job, and what a call keeps besides: everything that was ever said with its times, kept calculations, what was
decided and proven, load tests and photos.
"""

import json
from collections.abc import Sequence
from datetime import datetime
from typing import Any, Self
from uuid import UUID, uuid5

from pydantic import Field, ValidationError, model_validator

from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.files.kept import KeptPhoto, KeptTrace
from zesty_copper.service.jobs import job_to_keep
from zesty_copper.store.records import (
    MOST_ENTRIES,
    MOST_KEPT,
    Action,
    Call,
    Kept,
    RatingNotes,
    Said,
    StoredEntry,
    check_entry,
    fold,
)

__all__ = [
    "MAX_BYTES",
    "JobFile",
    "SaidThen",
    "bad_input_from",
    "entries_of",
    "job_file_of",
    "job_schema",
    "notes_of",
    "read_job",
    "write_job",
]

MAX_BYTES = 40_000_000
"""Room for a call's traces and photos; what a job holds is far less."""


class SaidThen(Frozen):
    """One thing that was said about one reading or look, and when."""

    action: Action
    reading_id: str = Field(min_length=1, max_length=64)
    reading: Said | None = Field(default=None, description="as it then stood; none when withdrawn")
    entered_at: datetime

    @model_validator(mode="after")
    def _check(self) -> Self:
        check_entry(self)
        return self


class JobFile(Job):
    """A job with everything that a call keeps besides; all of it may be left out."""

    history: tuple[SaidThen, ...] = Field(default=(), max_length=MOST_ENTRIES)
    kept: tuple[Kept, ...] = Field(default=(), max_length=MOST_KEPT)
    repair: RepairNotes = RepairNotes()
    load_tests: tuple[KeptTrace, ...] = Field(default=(), max_length=40)
    photos: tuple[KeptPhoto, ...] = Field(default=(), max_length=40)

    @model_validator(mode="after")
    def _check_history(self) -> Self:
        standing: list[Reading | Look] = [*self.readings, *self.looks]
        stands = {entry.id: entry for entry in standing}
        if self.history and {entry.id: entry for entry in fold(self.history)} != stands:
            raise ValueError("The history does not end at the readings and looks of the file: leave the history out.")
        return self

    @property
    def job(self) -> Job:
        """What of it a diagnosis needs."""
        return Job.model_validate({name: getattr(self, name) for name in Job.model_fields})


def read_job(text: str | bytes) -> JobFile:
    """Read a job file.

    Raises
    ------
    BadInput
        If it is too large, not JSON, or not a job; the field is named.
    """
    if len(text) > MAX_BYTES:
        raise BadInput(f"The job file is larger than {MAX_BYTES / 1e6:.0f} MB: it is not one of ours.")
    try:
        return JobFile.model_validate_json(text)
    except ValidationError as error:
        raise bad_input_from(error) from None


def bad_input_from(error: ValidationError) -> BadInput:
    """Turn the first of Pydantic's complaints into one sentence."""
    first = error.errors(include_url=False)[0]
    field = ".".join(str(step) for step in first["loc"] if not str(step).startswith("~"))
    message = first["msg"].removeprefix("Value error, ")
    if first["type"] == "value_error" and message.startswith(("readings.", "looks.")):
        field, _, message = message.partition(": ")
    return BadInput(message if message.endswith(".") else f"{message}.", field)


def write_job(job: Job) -> str:
    """Write a job file, readable by eye."""
    return job.model_dump_json(indent=2, exclude_none=True) + "\n"


def job_schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) of the job file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **json.loads(json.dumps(JobFile.model_json_schema())),
    }


def job_file_of(
    call: Call, history: Sequence[StoredEntry], load_tests: Sequence[KeptTrace] = (), photos: Sequence[KeptPhoto] = ()
) -> JobFile:
    """Return everything of a call."""
    entries = (SaidThen(**entry.model_dump(exclude={"id", "entered_by"})) for entry in history)
    return JobFile(
        **dict(job_to_keep(call)),
        history=tuple(entries),
        kept=call.ratings.kept,
        repair=call.repair,
        load_tests=tuple(load_tests),
        photos=tuple(photos),
    )


def entries_of(told: JobFile, call_id: UUID, now: datetime) -> list[StoredEntry]:
    """Return what is said in a file as the entries of a call, the same whenever it is asked for.

    Their ids are made of the call's and their place, so the same file sent again is known by them. A file without a
    history begins one at a given time.
    """
    standing: list[Reading | Look] = [*told.readings, *told.looks]
    entries: Sequence[SaidThen] = told.history or [
        SaidThen(action=Action.ADD, reading_id=entry.id, reading=entry, entered_at=now) for entry in standing
    ]
    return [StoredEntry(id=uuid5(call_id, f"{place}"), **dict(entry)) for place, entry in enumerate(entries)]


def notes_of(told: JobFile) -> RatingNotes:
    """Return what a file tells for a call's ratings."""
    return RatingNotes(
        sheets={sheet.source: sheet.sheet for sheet in told.sheets}, kept=told.kept, prior_factors=told.prior_factors
    )
