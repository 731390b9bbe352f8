"""What was chosen and noted about a repair, and what still has to be put back before the call is closed."""

from collections.abc import Iterator, Sequence
from datetime import date
from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError, model_validator

from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.merging import FieldChange, merged
from zesty_copper.core.people import Line
from zesty_copper.core.repair.proving.notes import Outcome, ProofNotes
from zesty_copper.core.repair.rows import Ask, questions
from zesty_copper.core.words import say

__all__ = [
    "Chosen",
    "Declined",
    "Order",
    "PutBack",
    "Quote",
    "RepairNotes",
    "changed_notes",
    "check_notes",
    "check_put_back",
]

ROWS = ("put_back", "declined", "orders")
"""Lists whose rows are told apart by their id."""


RowId = Annotated[str, Field(max_length=40, description="made where the row was added")]


class Chosen(Frozen):
    """The way that was chosen where practitioners differ."""

    way: str = Field(max_length=40)
    reason: str = Field(default="", max_length=300, description="why not the usual way")
    tags: bool = Field(default=False, description="tags hang at both ends")
    breaker_lock: bool = Field(default=False, description="a lock is on the breaker")
    return_on: date | None = Field(default=None, description="when somebody comes back")


class PutBack(Frozen):
    """A setting changed for testing, a mark on a lead, an old part left there."""

    id: RowId = ""
    words: Line = Field(min_length=1, max_length=160)
    done: bool = False


class Declined(Frozen):
    """Something that was advised and that somebody would not have."""

    id: RowId = ""
    what: Line = Field(min_length=1, max_length=200)
    by: Line = Field(min_length=1, max_length=80, description="who declined it")
    on: date
    warning: Line = Field(min_length=1, max_length=300, description="what they were told may follow")


class Order(Frozen):
    """A part to bring."""

    id: RowId = ""
    words: Line = Field(min_length=1, max_length=200)
    state: Literal["to_order", "ordered", "here"] = "to_order"


class Quote(StrEnum):
    """How far an offer to the customer is."""

    NONE = "none"
    WAITING = "waiting"
    ACCEPTED = "accepted"
    DECLINED = "declined"


class RepairNotes(Frozen):
    """Everything that was chosen and noted about the repair of one call."""

    chosen: dict[str, Chosen] = Field(default_factory=dict, description="by the question's key")
    done: tuple[str, ...] = Field(default=(), max_length=200, description="lines that were ticked off")
    put_back: tuple[PutBack, ...] = Field(default=(), max_length=60)
    proof: ProofNotes = ProofNotes()
    work_done: str = Field(default="", max_length=2000, description="in the technician's own words")
    declined: tuple[Declined, ...] = Field(default=(), max_length=30)
    orders: tuple[Order, ...] = Field(default=(), max_length=60)
    quote: Quote = Quote.NONE

    @model_validator(mode="before")
    @classmethod
    def _identified(cls, value: Any) -> Any:
        """Rows that were stored before rows had an id, or were sent without one, are told apart by their place."""
        if not isinstance(value, dict):
            return value
        return value | {name: _with_ids(value[name]) for name in ROWS if name in value}

    @property
    def return_on(self) -> date | None:
        """The first day on which somebody has to come back; none where nobody does."""
        days = [self.proof.return_on, *(choice.return_on for choice in self.chosen.values())]
        return min((day for day in days if day is not None), default=None)


def _with_ids(rows: Any) -> Any:
    """Rows, each with an id that no other has; what is no list of objects is left for the model to refuse."""
    if not isinstance(rows, list | tuple):
        return rows
    used_ids: set[str] = set()
    identified = []
    for i, row in enumerate(rows):
        fields = row.model_dump() if isinstance(row, Frozen) else row
        if isinstance(fields, dict):
            name = fields.get("id") or f"row-{i}"
            while name in used_ids:
                name = f"{name}-{i}"
            used_ids.add(name)
            fields = fields | {"id": name}
        identified.append(fields)
    return identified


def changed_notes(notes: RepairNotes, changes: Sequence[FieldChange], *, anyway: bool = False) -> RepairNotes:
    """Return notes with some fields changed. A change of what a proof rests on opens the proof again.

    Raises
    ------
    Conflict
        If a field is no longer what the sender saw.
    BadInput
        If a field takes no such value; it is named.
    """
    try:
        after = RepairNotes.model_validate(merged(notes.model_dump(mode="json"), changes, anyway=anyway))
    except ValidationError as error:
        first = error.errors()[0]
        raise BadInput(str(first["msg"]).removeprefix("Value error, "), ".".join(map(str, first["loc"]))) from error
    is_outcome = any(change.path in (("proof",), ("proof", "outcome")) for change in changes)
    rests_on = [
        (repair_notes.proof.numbers, repair_notes.proof.ticked, repair_notes.proof.mode)
        for repair_notes in (notes, after)
    ]
    if is_outcome or rests_on[0] == rests_on[1]:
        return after
    return after.model_copy(update={"proof": after.proof.model_copy(update={"outcome": Outcome.OPEN})})


def check_notes(notes: RepairNotes) -> None:
    """Check that each way chosen exists, and that what it asks was said.

    Raises
    ------
    BadInput
        If a way is not among those of its question, or chosen without what it asks.
    """
    for key, chosen in notes.chosen.items():
        question = questions().get(key)
        way = question.way(chosen.way) if question else None
        if way is None:
            raise BadInput(say("repair.no_such_way"), f"chosen.{key}.way")
        for ask, field, words in _asked(chosen):
            if ask in way.asks:
                raise BadInput(words, f"chosen.{key}.{field}")


def _asked(chosen: Chosen) -> Iterator[tuple[Ask, str, str]]:
    """What a choice leaves unsaid."""
    if not chosen.reason.strip():
        yield Ask.REASON, "reason", say("repair.say_why_not_usual")
    if not chosen.tags:
        yield Ask.TAGS, "tags", say("repair.hang_tags_first")
    if not chosen.breaker_lock:
        yield Ask.BREAKER_LOCK, "breaker_lock", say("repair.lock_breaker_first")
    if chosen.return_on is None:
        yield Ask.RETURN, "return_on", say("repair.say_when_you_return")


def check_put_back(notes: RepairNotes) -> None:
    """Check that nothing changed for testing is left as it is when a call is closed.

    Raises
    ------
    BadInput
        If something is; it is named.
    """
    not_done = [item.words for item in notes.put_back if not item.done]
    if not_done:
        raise BadInput(say("repair.put_back_first", what="; ".join(not_done)), "status")
