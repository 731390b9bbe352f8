"""What the store hands out and takes in."""

from collections.abc import Sequence
from datetime import UTC, date, datetime
from enum import StrEnum
from typing import Annotated, Any, Literal, Protocol, Self
from uuid import UUID

from pydantic import AwareDatetime, Discriminator, Field, Tag, model_validator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.diagnosis.model.job import PriorFactor, Scope
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.people import Line, Name, Person
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.core.repair.proving.notes import Outcome

__all__ = [
    "MOST_ENTRIES",
    "MOST_KEPT",
    "Action",
    "AuditLine",
    "AuditPage",
    "Call",
    "CallDetails",
    "CallPage",
    "CallStatus",
    "CallSummary",
    "CallTime",
    "Entry",
    "Equipment",
    "EquipmentName",
    "Found",
    "HistoryPage",
    "Kept",
    "Names",
    "RatingNotes",
    "Said",
    "Site",
    "SitePage",
    "SiteSummary",
    "StandingEntry",
    "StoredEntry",
    "Unread",
    "Versions",
    "Visit",
    "check_entry",
    "fold",
    "found_of",
    "status_of",
]

CallTime = Annotated[AwareDatetime, Field(ge=datetime(2000, 1, 1, tzinfo=UTC), lt=datetime(2100, 1, 1, tzinfo=UTC))]
"""When somebody comes: a day that a calendar and a sheet can name."""


MOST_ENTRIES = 10_000
"""What may be said in one call, corrections and withdrawals among it."""
MOST_KEPT = 100
"""Calculations that one call keeps."""


class Equipment(Frozen):
    """One piece of equipment."""

    id: UUID
    name: Name
    circuit: Circuit


class Site(Frozen):
    """A customer's address and what stands there."""

    id: UUID
    name: Name
    address: Line = Field(default="", max_length=160)
    equipment: tuple[Equipment, ...] = ()


class EquipmentName(Frozen):
    """A piece of equipment as a list shows it."""

    id: UUID
    name: str
    circuit_name: str


class Names(Frozen):
    """What may be changed of a site or a piece of equipment without touching its circuit; none stays as it is."""

    name: Name | None = None
    address: Line | None = Field(default=None, max_length=160, description="of a site alone")


class SiteSummary(Frozen):
    """A site as a list shows it."""

    id: UUID
    name: str
    address: str
    equipment: tuple[EquipmentName, ...]


class SitePage(Frozen):
    """Some sites of many."""

    sites: tuple[SiteSummary, ...]
    next: UUID | None = Field(description="site after which the next page begins; none on the last")


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


class _Tells(Protocol):
    """What tells something about one reading or look."""

    @property
    def action(self) -> Action: ...
    @property
    def reading_id(self) -> str: ...
    @property
    def reading(self) -> Reading | Look | None: ...


def check_entry(entry: _Tells) -> None:
    """Check that an entry carries its own reading, and one that withdraws carries none.

    Raises
    ------
    ValueError
        If not.
    """
    if (entry.reading is None) != (entry.action is Action.WITHDRAW):
        raise ValueError("An entry that adds or corrects carries its reading; one that withdraws carries none.")
    if entry.reading is not None and entry.reading.id != entry.reading_id:
        raise ValueError("The entry and its reading name different readings.")


class Entry(Frozen):
    """One thing said about one reading or look."""

    id: UUID = Field(description="made where it was typed: sending it twice changes nothing")
    action: Action
    reading_id: str = Field(min_length=1, max_length=64)
    reading: Said | None = Field(default=None, description="as it now stands; none when withdrawn")

    @model_validator(mode="after")
    def _check(self) -> Self:
        check_entry(self)
        return self


class StoredEntry(Entry):
    """An entry, when it arrived, and who said it."""

    entered_at: datetime
    entered_by: str | None = Field(default=None, description="none where it is not known")


class Unread(Frozen):
    """Something that was said and can no longer be read."""

    reading_id: str
    entry_id: UUID = Field(description="the entry, the last about it where it stands")
    why: str


class HistoryPage(Frozen):
    """Some entries of many, in the order in which they arrived."""

    entries: tuple[StoredEntry, ...]
    unread: tuple[Unread, ...] = Field(default=(), description="what can no longer be read, left out of the entries")
    next: UUID | None = Field(description="entry after which the next page begins; none on the last")


class StandingEntry(Frozen):
    """A reading or look that stands, and what became of it since it was first said."""

    said: Said
    entered_at: datetime = Field(description="when it was first said")
    corrected: bool
    entry_id: UUID = Field(description="the last entry about it")


class Found(Frozen):
    """What a call's diagnosis says: its verdict, and the stop card's title where one stands."""

    standing: Standing
    words: str
    stop: str | None = None
    fault: str = Field(default="", description="key of the fault that was found; empty while none was")


class CallStatus(StrEnum):
    """How far a call is."""

    OPEN = "open"
    FOUND = "found"
    WAITING = "waiting"
    DONE = "done"


class Visit(StrEnum):
    """What a visit is for."""

    SERVICE = "service"
    CALL_BACK = "call_back"
    MAINTENANCE = "maintenance"
    PROOF = "proof"


class CallDetails(Frozen):
    """What may be changed of a call's head; what is none stays as it is."""

    complaint: Line | None = Field(default=None, min_length=1, max_length=300)
    technician_id: UUID | None = None
    starts_at: CallTime | None = None
    visit: Visit | None = None
    status: Literal["open", "waiting", "done"] | None = Field(
        default=None, description="“found” is not chosen: an open call is found when its fault is"
    )


class CallSummary(Frozen):
    """A call as the list shows it."""

    id: UUID
    technician: Person
    site_id: UUID
    site_name: str
    site_address: str
    equipment_id: UUID
    equipment_name: str
    complaint: str
    starts_at: datetime
    status: CallStatus = CallStatus.OPEN
    visit: Visit = Visit.SERVICE
    scope: Scope
    readings: int
    found: Found | None = Field(default=None, description="none while nothing was read or seen")
    proof: Outcome = Field(default=Outcome.OPEN, description="how the proof of its repair was left")
    not_proven: str = Field(default="", description="the reason why it is not")
    return_on: date | None = Field(default=None, description="when somebody comes back: for a bypass, or a proof")


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
    prior_factors: tuple[PriorFactor, ...] = Field(
        default=(), max_length=200, description="what was known beforehand, besides what the sheets tell"
    )


class Versions(Frozen):
    """Which circuit, scope and sheets a call has: whoever changes one says which it saw."""

    circuit: str
    scope: str
    sheets: dict[str, str] = Field(default_factory=dict, description="by the supply's source; those entered")


class Call(Frozen):
    """A call and everything that stands in it."""

    summary: CallSummary
    circuit: Circuit
    stands: tuple[StandingEntry, ...]
    last: int = Field(description="place of the last entry among all entries; 0 while there is none")
    unread: tuple[Unread, ...] = Field(default=(), description="what stands and can no longer be read")
    ratings: RatingNotes = RatingNotes()
    unread_ratings: str = Field(default="", description="why what was entered for the ratings can no longer be read")
    repair: RepairNotes = RepairNotes()
    past: tuple[PriorFactor, ...] = Field(default=(), description="what the firm has found before makes likelier")
    versions: Versions
    shared_with: tuple[UUID, ...] = ()

    @property
    def readings(self) -> tuple[Reading, ...]:
        """The readings that stand."""
        return tuple(entry.said for entry in self.stands if isinstance(entry.said, Reading))

    @property
    def looks(self) -> tuple[Look, ...]:
        """The looks that stand."""
        return tuple(entry.said for entry in self.stands if isinstance(entry.said, Look))


class AuditLine(Frozen):
    """Who changed what, when."""

    sequence: int
    at: datetime
    who: str | None = Field(description="none: the program itself, or nobody who was signed in")
    what: str
    call_id: UUID | None
    about: str | None = Field(description="name of the person, equipment or site, or complaint of the call")
    before: Any = None
    after: Any = None


class AuditPage(Frozen):
    """Some lines of many, the latest first."""

    lines: tuple[AuditLine, ...]
    next: int | None = Field(description="line after which the next page begins; none on the last")


def status_of(marked: str, found: Found | None) -> CallStatus:
    """Return how far a call is: one that is marked open is found when its fault is."""
    is_found = found is not None and found.standing is Standing.SURE
    return CallStatus.FOUND if marked == CallStatus.OPEN and is_found else CallStatus(marked)


def found_of(diagnosis: Diagnosis) -> Found:
    """Return what a diagnosis says, for the list of calls."""
    stop = diagnosis.stop.title if diagnosis.stop else None
    verdict = diagnosis.verdict
    fault = verdict.suspects[0] if verdict.standing is Standing.SURE and verdict.suspects else ""
    return Found(standing=verdict.standing, words=verdict.words, stop=stop, fault=fault)


def fold(entries: Sequence[_Tells]) -> tuple[Reading | Look, ...]:
    """Return the readings and looks that stand after all entries, in the order in which they were first added.

    A withdrawn reading that is corrected later stands again: that is how an undo is undone.
    """
    standing: dict[str, Reading | Look | None] = {}
    for entry in entries:
        standing[entry.reading_id] = entry.reading
    return tuple(reading for reading in standing.values() if reading is not None)
