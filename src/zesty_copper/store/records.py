"""What the store hands out and takes in."""

from collections.abc import Sequence
from datetime import datetime
from enum import StrEnum
from typing import Annotated, Self
from uuid import UUID

from pydantic import Discriminator, Field, StrictBool, Tag, model_validator

from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.sheet import Sheet

__all__ = [
    "MOST_KEPT",
    "Action",
    "Call",
    "CallPage",
    "CallSummary",
    "Entry",
    "Equipment",
    "EquipmentName",
    "Found",
    "Kept",
    "RatingNotes",
    "Site",
    "SiteSummary",
    "StoredEntry",
    "Technician",
    "Versions",
    "fold",
    "fold_readings",
    "found_of",
]


MOST_KEPT = 100
"""Calculations that one call keeps."""


class Technician(Frozen):
    """Someone who takes readings."""

    id: UUID
    name: str = Field(min_length=1, max_length=80)
    may_open_panels: StrictBool = Field(default=False, description="licensed for it, or working under someone who is")


class Equipment(Frozen):
    """One piece of equipment."""

    id: UUID
    name: str = Field(min_length=1, max_length=80)
    circuit: Circuit


class Site(Frozen):
    """A customer's address and what stands there."""

    id: UUID
    name: str = Field(min_length=1, max_length=80)
    address: str = Field(default="", max_length=160)
    equipment: tuple[Equipment, ...] = ()


class EquipmentName(Frozen):
    """A piece of equipment as a list shows it."""

    id: UUID
    name: str
    circuit_name: str


class SiteSummary(Frozen):
    """A site as a list shows it."""

    id: UUID
    name: str
    address: str
    equipment: tuple[EquipmentName, ...]


def _kind(said: object) -> str:
    """Tell a look from a reading by its sign, so that what is wrong with one is not said of the other."""
    sign = "sign" in said if isinstance(said, dict) else isinstance(said, Look)
    return "~look" if sign else "~reading"


Said = Annotated[Annotated[Reading, Tag("~reading")] | Annotated[Look, Tag("~look")], Discriminator(_kind)]
"""What may be said in a call; the tags never reach a user."""


class Action(StrEnum):
    """What an entry does to a reading or look."""

    ADD = "add"
    CORRECT = "correct"
    WITHDRAW = "withdraw"


class Entry(Frozen):
    """One thing said about one reading or look."""

    id: UUID = Field(description="made where it was typed: sending it twice changes nothing")
    action: Action
    reading_id: str = Field(min_length=1, max_length=64)
    reading: Said | None = Field(default=None, description="as it now stands; none when withdrawn")

    @model_validator(mode="after")
    def _check(self) -> Self:
        if (self.reading is None) != (self.action is Action.WITHDRAW):
            raise ValueError("An entry that adds or corrects carries its reading; one that withdraws carries none.")
        if self.reading is not None and self.reading.id != self.reading_id:
            raise ValueError("The entry and its reading name different readings.")
        return self


class StoredEntry(Entry):
    """An entry and when it arrived."""

    entered_at: datetime


class Found(Frozen):
    """What a call's diagnosis says: its verdict, and the stop card's title where one stands."""

    standing: Standing
    words: str
    stop: str | None = None


class CallSummary(Frozen):
    """A call as the list shows it."""

    id: UUID
    technician: Technician
    site_id: UUID
    site_name: str
    site_address: str
    equipment_name: str
    complaint: str
    starts_at: datetime
    scope: Scope
    readings: int
    found: Found | None = Field(default=None, description="none while nothing was read or seen")


class CallPage(Frozen):
    """Some calls of many."""

    calls: tuple[CallSummary, ...]
    next: UUID | None = Field(description="call after which the next page begins; none on the last")


class Kept(Frozen):
    """A calculation of the bench that was kept to a call."""

    id: UUID = Field(description="made where it was typed: sending it twice changes nothing")
    tool: str = Field(min_length=1, max_length=40)
    values: dict[str, float | str | None] = Field(max_length=12)


class RatingNotes(Frozen):
    """What was entered for the ratings: sheets by the supply's source, and calculations."""

    sheets: dict[str, Sheet] = Field(default_factory=dict)
    kept: tuple[Kept, ...] = Field(default=(), max_length=MOST_KEPT)


class Versions(Frozen):
    """Which circuit and scope a call has: whoever changes one says which it saw."""

    circuit: str
    scope: str


class Call(Frozen):
    """A call with everything said in it."""

    summary: CallSummary
    circuit: Circuit
    entries: tuple[StoredEntry, ...]
    ratings: RatingNotes = RatingNotes()
    versions: Versions


def found_of(diagnosis: Diagnosis) -> Found:
    """Return what a diagnosis says, for the list of calls."""
    stop = diagnosis.stop.title if diagnosis.stop else None
    return Found(standing=diagnosis.verdict.standing, words=diagnosis.verdict.words, stop=stop)


def fold(entries: Sequence[Entry]) -> tuple[Reading | Look, ...]:
    """Return the readings and looks that stand after all entries, in the order in which they were first added.

    A withdrawn reading that is corrected later stands again: that is how an undo is undone.
    """
    standing: dict[str, Reading | Look | None] = {}
    for entry in entries:
        standing[entry.reading_id] = entry.reading
    return tuple(reading for reading in standing.values() if reading is not None)


def fold_readings(entries: Sequence[Entry]) -> tuple[Reading, ...]:
    """Return the readings alone that stand."""
    return tuple(said for said in fold(entries) if isinstance(said, Reading))
