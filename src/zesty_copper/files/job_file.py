"""The job file: JSON, open and versioned; its schema is generated from the same models that the core uses."""

import json
from typing import Any

from pydantic import ValidationError

from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.errors import BadInput

__all__ = ["MAX_BYTES", "bad_input_from", "job_schema", "read_job", "write_job"]

MAX_BYTES = 1_000_000


def read_job(text: str | bytes) -> Job:
    """Read a job file.

    Raises
    ------
    BadInput
        If it is too large, not JSON, or not a job; the field is named.
    """
    if len(text) > MAX_BYTES:
        raise BadInput("The job file is larger than 1 MB: it is not one of ours.")
    try:
        return Job.model_validate_json(text)
    except ValidationError as error:
        raise bad_input_from(error) from None


def bad_input_from(error: ValidationError) -> BadInput:
    """Turn the first of Pydantic's complaints into one sentence."""
    first = error.errors(include_url=False)[0]
    field = ".".join(str(step) for step in first["loc"])
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
        **json.loads(json.dumps(Job.model_json_schema())),
    }
