"""A whole firm in one archive: a zip of JSON, `firm.json` and one file for each call, by a published schema."""

import json
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from datetime import datetime
from pathlib import Path
from typing import Any, Literal, TypeVar
from uuid import UUID

from pydantic import AwareDatetime, BaseModel, Field, ValidationError

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Line, Person
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.core.tools.feeds import Feeds
from zesty_copper.files.job_file import bad_input_from
from zesty_copper.files.kept import KeptPhoto, KeptTrace
from zesty_copper.store.records import MOST_ENTRIES, CallTime, Entry, Found, RatingNotes, Site, Visit

__all__ = ["Firm", "FirmCall", "FirmEntry", "FirmSite", "firm_schema", "read_firm", "write_firm"]

FIRM, CALLS = "firm.json", "calls/"
MOST_BYTES = 100_000_000
"""Of one file within the archive, unpacked."""

_Model = TypeVar("_Model", bound=BaseModel)


class FirmSite(Site):
    """A site with its equipment, and what was found to feed what."""

    feeds: Feeds | None = None


class Firm(Frozen):
    """Who works for the firm, and where; passwords stay where they are."""

    format: Literal["zesty-copper-firm/1"] = "zesty-copper-firm/1"
    people: tuple[Person, ...]
    sites: tuple[FirmSite, ...]


class FirmEntry(Entry):
    """An entry, when it arrived, and who said it."""

    entered_at: AwareDatetime
    person_id: UUID | None = None


class FirmTrace(KeptTrace):
    """A load test under its id."""

    id: UUID


class FirmPhoto(KeptPhoto):
    """A photo under its id."""

    id: UUID


class FirmCall(Frozen):
    """Everything of one call."""

    id: UUID
    technician_id: UUID
    equipment_id: UUID
    complaint: Line = Field(min_length=1, max_length=300)
    starts_at: CallTime
    scope: Scope
    circuit: Circuit
    ratings: RatingNotes | None = None
    repair: RepairNotes | None = None
    found: Found | None = None
    status: Literal["open", "waiting", "done"] = "open"
    deleted_at: AwareDatetime | None = Field(default=None, description="when it was taken off the list")
    shared_with: tuple[UUID, ...] = ()
    visit: Visit = Visit.SERVICE
    load_tests: tuple[FirmTrace, ...] = ()
    photos: tuple[FirmPhoto, ...] = ()
    entries: tuple[FirmEntry, ...] = Field(default=(), max_length=MOST_ENTRIES)


def firm_schema() -> dict[str, Any]:
    """JSON Schemas (draft 2020-12) of the files in the archive."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$defs": {
            FIRM: json.loads(json.dumps(Firm.model_json_schema())),
            f"{CALLS}*.json": json.loads(json.dumps(FirmCall.model_json_schema())),
        },
    }


def write_firm(file: Path, firm: dict[str, Any], calls: Iterable[dict[str, Any]]) -> int:
    """Write an archive, as things are stored, in place of one that is there; returns how many calls it holds."""
    aside, count = file.with_name(f"{file.name}.part"), 0
    aside.touch(mode=0o600)
    with zipfile.ZipFile(aside, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(FIRM, _text({"format": Firm.model_fields["format"].default} | firm))
        for call in calls:
            archive.writestr(f"{CALLS}{call['id']}.json", _text(call))
            count += 1
    aside.replace(file)
    return count


def read_firm(file: Path) -> tuple[Firm, Iterator[FirmCall]]:
    """Read an archive; its calls one after the other.

    Raises
    ------
    BadInput
        If it is none of ours; what is wrong in which file is named.
    """
    try:
        archive = zipfile.ZipFile(file)
        names = archive.namelist()
    except zipfile.BadZipFile:
        raise BadInput(f"{file} is no archive of a firm: choose one that was exported.") from None
    if FIRM not in names:
        raise BadInput(f"{file} is no archive of a firm: it has no {FIRM}.")
    firm = _read(archive, FIRM, Firm)

    def calls() -> Iterator[FirmCall]:
        with archive:
            for name in sorted(names):
                if name.startswith(CALLS) and name.endswith(".json"):
                    yield _read(archive, name, FirmCall)

    return firm, calls()


def _read(archive: zipfile.ZipFile, name: str, model: type[_Model]) -> _Model:
    if archive.getinfo(name).file_size > MOST_BYTES:
        raise BadInput(f"{name} is larger than {MOST_BYTES / 1e6:.0f} MB: it is not one of ours.")
    try:
        return model.model_validate_json(archive.read(name))
    except (zipfile.BadZipFile, zlib.error, EOFError):
        raise BadInput(f"{name} is damaged in this archive: take another copy of it.") from None
    except ValidationError as error:
        refusal = bad_input_from(error)
        raise BadInput(f"{name}, {refusal.field or 'all of it'}: {refusal.message}", refusal.field) from None


def _text(told: dict[str, Any]) -> str:
    def plain(value: object) -> str:
        return value.isoformat() if isinstance(value, datetime) else str(value)

    return json.dumps(told, indent=1, sort_keys=True, default=plain)
