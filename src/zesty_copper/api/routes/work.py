"""Routes of the work on a call: its page, what is said in it, and what follows from that."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, BackgroundTasks, Query
from pydantic import Field, StrictBool
from sqlalchemy.orm import Session

from zesty_copper.api.gate.access import CallChanged, CallFiled, CallSeen, SignedIn
from zesty_copper.api.gate.database import Database, Seen
from zesty_copper.api.pages.noted import shown, shown_before_it_is_kept
from zesty_copper.api.pages.workbench import Workbench
from zesty_copper.api.problems import StrangeValue, responses
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Suspect
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import BadInput, ZestyError
from zesty_copper.core.faults.signs import Look, check_look, look_words
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import OpenSwitches, Reading, check_reading, doubts_about
from zesty_copper.core.observations.words import measurement_words, value_words
from zesty_copper.core.people import check_scope, narrowed
from zesty_copper.core.tools.course import Course
from zesty_copper.core.tools.quick_entry import completions, line_of, lines_meant, read_line
from zesty_copper.core.tools.take_along import TakeAlong
from zesty_copper.core.tools.timing.model import Timed, TimingAsked
from zesty_copper.core.tools.timing.timed import timed
from zesty_copper.core.tools.what_if import Move, WhatIf
from zesty_copper.service.answers import (
    answer_at_once,
    coursed,
    explained,
    tried,
    whole_answer,
)
from zesty_copper.service.jobs import job_for, job_of
from zesty_copper.service.plans import planned
from zesty_copper.store.calls import entries, queries
from zesty_copper.store.records import (
    Entry,
    HistoryPage,
)

__all__ = ["work_router"]

work_router = APIRouter(prefix="/api")


class NewEntry(Entry):
    """An entry on its way in."""

    confirmed: StrictBool = Field(default=False, description="asked about a strange value, the user stands by it")
    follows: UUID | None = Field(
        default=None, description="the last entry about this reading that the sender knew; a later one wins over it"
    )


class NewEntries(Frozen):
    """Entries on their way in, in the order in which they were made: all of them are taken, or none."""

    entries: tuple[NewEntry, ...] = Field(min_length=1, max_length=100)


class Trial(Frozen):
    """Moves to try in the model."""

    moves: tuple[Move, ...] = Field(min_length=1, max_length=8)
    open_switches: OpenSwitches = frozenset()
    suspect: str | None = Field(default=None, description="on top of which suspect; none: nothing wrong")


class Sharing(Frozen):
    """Who else works on a call, or was handed it."""

    people: frozenset[UUID] = Field(max_length=50)


class Stamp(Frozen):
    """Another text as soon as anything of a call was changed."""

    stamp: str


class LineTyped(Frozen):
    """A quick-entry line, as far as it is typed."""

    text: str = Field(max_length=200)
    id: str = Field(min_length=1, max_length=64, description="of the reading or look that it will be")


class LineRead(Frozen):
    """What a quick-entry line says, and what its last word may become."""

    said: Reading | Look | None = Field(description="none while it is not whole")
    words: str = Field(description="the same in words, or what is missing")
    completions: tuple[str, ...]
    choices: tuple[str, ...] = Field(default=(), description="whole lines that it may mean, where it asks")


@work_router.put("/calls/{call_id}/circuit", responses=responses(404, 409, 422))
def change_circuit(
    call_id: CallChanged, circuit: Circuit, session: Database, person: SignedIn, seen: Seen = None
) -> Workbench:
    """Put a changed circuit on file, if every reading that stands still has its place in it."""
    # Not the call itself: this is how a circuit is mended that can no longer be read.
    for entry in entries.stands(session, call_id)[0]:
        try:
            _check(circuit, entry.said)
        except BadInput as error:
            kind_of_entry = "reading" if isinstance(entry.said, Reading) else "look"
            where = line_of(queries.call(session, call_id).circuit, entry.said)
            raise BadInput(
                f"A {kind_of_entry} stands there ({where}): withdraw it first. {error.message}", "circuit"
            ) from None
    queries.set_circuit(session, call_id, circuit, seen)
    return shown_before_it_is_kept(session, person, call_id)


@work_router.get("/calls/{call_id}", responses=responses(404, 409))
def open_workbench(call_id: CallSeen, session: Database, person: SignedIn, later: BackgroundTasks) -> Workbench:
    """One call's page."""
    return shown(session, person, queries.call(session, call_id), whole_answer, later)


@work_router.get("/calls/{call_id}/stamp", responses=responses(404, 409))
def show_stamp(call_id: CallSeen, session: Database) -> Stamp:
    """Whether anything of a call was changed: asked every few seconds by a page that shows it."""
    return Stamp(stamp=queries.stamp(session, call_id))


@work_router.put("/calls/{call_id}/scope", responses=responses(404, 409, 422))
def change_scope(
    call_id: CallChanged, scope: Scope, session: Database, person: SignedIn, seen: Seen = None
) -> Workbench:
    """Say how far the technician may go, in which order and with what."""
    before = queries.scope(session, call_id)
    check_scope(person, before, scope)
    if narrowed(before, person) != before:
        # What a call lets others do is not theirs to see, so not theirs to take back with something else.
        panel = before.model_dump(include={"panel_may_be_opened", "panel_volts_only"})
        scope = scope.model_copy(update=panel)
    queries.set_scope(session, call_id, scope, seen)
    return shown(session, person, queries.call(session, call_id))


@work_router.put("/calls/{call_id}/people", responses=responses(404, 409, 422))
def share_call(call_id: CallFiled, sharing: Sharing, session: Database, person: SignedIn) -> Workbench:
    """Say who else works on a call, or hand it to an electrician."""
    queries.share(session, call_id, sharing.people)
    return shown(session, person, queries.call(session, call_id))


@work_router.get("/calls/{call_id}/suspects/{key}", responses=responses(404, 409, 422))
def explain_suspect(call_id: CallSeen, key: str, session: Database) -> Suspect:
    """Why not? What any suspect would have made every reading show."""
    job = job_of(queries.call(session, call_id))
    session.commit()
    return explained(job, key)


@work_router.get("/calls/{call_id}/plan", responses=responses(404, 409))
def show_plan(call_id: CallSeen, session: Database, person: SignedIn) -> TakeAlong:
    """The plan to take along where there is no signal; asked again and again until it is done."""
    call = queries.call(session, call_id)
    session.commit()
    return planned(call_id, job_for(call, person))


@work_router.get("/calls/{call_id}/course", responses=responses(404, 409))
def show_course(call_id: CallSeen, session: Database) -> Course:
    """How the suspects fared as the readings came in."""
    job = job_of(queries.call(session, call_id))
    session.commit()
    return coursed(job)


@work_router.post("/calls/{call_id}/what-if", responses=responses(404, 409, 422))
def try_change(call_id: CallSeen, trial: Trial, session: Database) -> WhatIf:
    """What a jumper, a lifted or moved lead would do, in the model."""
    circuit = queries.call(session, call_id).circuit
    session.commit()
    return tried(circuit, trial.moves, trial.open_switches, trial.suspect)


@work_router.post("/calls/{call_id}/timing", responses=responses(404, 409, 422))
def follow_in_time(call_id: CallSeen, asked: TimingAsked, session: Database) -> Timed:
    """What the circuit does in time: clicks, what each moment reads, stages, and the fan after the heat."""
    circuit = queries.call(session, call_id).circuit
    session.commit()
    return timed(circuit, asked)


@work_router.post("/calls/{call_id}/line", responses=responses(404, 409, 422))
def read_typed_line(call_id: CallSeen, typed: LineTyped, session: Database) -> LineRead:
    """Read a quick-entry line without recording it."""
    circuit = queries.call(session, call_id).circuit
    offered = completions(circuit, typed.text)
    try:
        entry = read_line(circuit, typed.text, typed.id)
    except BadInput as error:
        choices = lines_meant(circuit, typed.text, error)
        return LineRead(said=None, words=error.message, completions=offered, choices=choices)
    if isinstance(entry, Look):
        return LineRead(said=entry, words=look_words(circuit, entry), completions=offered)
    words = f"{value_words(entry.value, entry.unit)}, {measurement_words(circuit, entry.measurement)}"
    return LineRead(said=entry, words=words, completions=offered)


@work_router.post("/calls/{call_id}/entries", responses=responses(404, 409, 422))
def add_entry(
    call_id: CallChanged,
    new: NewEntry,
    session: Database,
    person: SignedIn,
    later: BackgroundTasks,
    *,
    first: bool = False,
) -> Workbench:
    """Add, correct or withdraw a reading or look, and answer with what follows from it.

    With `first` the answer comes at once, and the next test is found meanwhile: ask for the call to have it.
    """
    _store(session, call_id, new)
    call = queries.call(session, call_id)
    _check_new(call.circuit, new)
    return shown(session, person, call, answer_at_once if first else whole_answer, later)


@work_router.post("/calls/{call_id}/entry-lists", responses=responses(404, 409, 422))
def add_entries(
    call_id: CallChanged,
    new: NewEntries,
    session: Database,
    person: SignedIn,
    later: BackgroundTasks,
    *,
    first: bool = False,
) -> Workbench:
    """Add what was said in one go, or while there was no signal, in its order; see `add_entry`."""
    for i, new_entry in enumerate(new.entries):
        with _named(i):
            _store(session, call_id, new_entry)
    call = queries.call(session, call_id)
    for i, new_entry in enumerate(new.entries):
        with _named(i):
            _check_new(call.circuit, new_entry)
    return shown(session, person, call, answer_at_once if first else whole_answer, later)


@work_router.get("/calls/{call_id}/history", responses=responses(404, 409, 422))
def show_history(
    call_id: CallSeen,
    session: Database,
    after: UUID | None = None,
    most: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> HistoryPage:
    """Everything ever said in a call, withdrawn readings included; `after` is the last of the page before."""
    return entries.history(session, call_id, after, most)


def _store(session: Session, call_id: UUID, new: NewEntry) -> None:
    """Store an entry; what is refused afterwards takes it back with it."""
    entry = Entry.model_validate(new.model_dump(exclude={"confirmed", "follows"}))
    entries.add_entry(session, call_id, entry, follows=new.follows)


def _check_new(circuit: Circuit, new: NewEntry) -> None:
    """Check that a circuit has such a place, and that somebody stands by a strange value."""
    if new.reading is None:
        return
    _check(circuit, new.reading)
    doubt = doubts_about(circuit, new.reading) if isinstance(new.reading, Reading) else ""
    if doubt and not new.confirmed:
        raise StrangeValue(doubt, "reading.value")


@contextmanager
def _named(place: int) -> Iterator[None]:
    """Have what is refused within the block name its place in the list."""
    try:
        yield
    except ZestyError as error:
        error.field = f"entries.{place}.{error.field}"
        raise


def _check(circuit: Circuit, said: Reading | Look) -> None:
    if isinstance(said, Reading):
        check_reading(circuit, said)
    else:
        check_look(circuit, said)
