"""Routes of the work on a call: opening it, its page, what is said in it, and what follows from that."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated
from uuid import UUID, uuid5

from fastapi import APIRouter, BackgroundTasks, Query, Response
from numpy.linalg import LinAlgError
from pydantic import Field, StrictBool
from sqlalchemy.orm import Session

from zesty_copper.api.gate.access import CallChanged, CallFiled, CallSeen, Opener, SignedIn
from zesty_copper.api.gate.afterwards import do_afterwards
from zesty_copper.api.gate.database import Database, Seen
from zesty_copper.api.pages.ratings import ratings_of
from zesty_copper.api.pages.travelling import keep_all, kept_photos, kept_traces
from zesty_copper.api.pages.unread import answers_kept_in
from zesty_copper.api.pages.workbench import Workbench, workbench_of, workbench_with
from zesty_copper.api.problems import StrangeValue, responses
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier
from zesty_copper.core.circuit.reading.measurement import OpenSwitches, Reading, check_reading, doubts_about
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.circuit.words import measurement_words, value_words
from zesty_copper.core.diagnosis.model.answer import Suspect
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import BadInput, Conflict, NotAllowed, NumericalError, Unreadable, ZestyError
from zesty_copper.core.faults.signs import Look, check_look, look_words
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Line, Name, Person, Role, check_scope, narrowed
from zesty_copper.core.tools.complaints import check_told
from zesty_copper.core.tools.course import Course
from zesty_copper.core.tools.quick_entry import completions, line_of, lines_meant, read_line
from zesty_copper.core.tools.take_along import TakeAlong
from zesty_copper.core.tools.timing.model import Timed, TimingAsked
from zesty_copper.core.tools.timing.timed import timed
from zesty_copper.core.tools.what_if import Move, WhatIf
from zesty_copper.files.job_file import MAX_BYTES, entries_of, job_file_of, notes_of, read_job, write_job
from zesty_copper.service.answers import (
    Answers,
    answer_at_once,
    coursed,
    explained,
    make_ready,
    tried,
    whole_answer,
)
from zesty_copper.service.jobs import job_for, job_of
from zesty_copper.service.plans import planned
from zesty_copper.store import filing
from zesty_copper.store.calls import entries, queries
from zesty_copper.store.clock import now
from zesty_copper.store.records import (
    Action,
    Call,
    CallStatus,
    CallSummary,
    CallTime,
    Entry,
    Equipment,
    HistoryPage,
    Site,
    Visit,
    found_of,
    status_of,
)

__all__ = ["work_router"]

work_router = APIRouter(prefix="/api")


class NewEquipment(Frozen):
    """Equipment to put on file with its site, from a ready-made circuit."""

    equipment_id: UUID
    equipment_name: Name
    circuit: str = Field(description="key of a ready-made circuit")
    site_id: UUID
    site_name: Line = Field(default="", max_length=80, description="only for a site that is not on file")
    site_address: Line = Field(default="", max_length=160)


class NewCall(Frozen):
    """A call to open: on equipment that is on file, or on new equipment."""

    id: UUID
    technician_id: UUID
    complaint: Line = Field(min_length=1, max_length=300)
    starts_at: CallTime
    panel_may_be_opened: StrictBool = False
    visit: Visit = Visit.SERVICE
    equipment_id: UUID | None = None
    new_equipment: NewEquipment | None = None
    told: frozenset[Identifier] = Field(default=frozenset(), max_length=20, description="signs of the call, as told")


class ImportedCall(Frozen):
    """A job file to open as a call."""

    call: NewCall
    job: str = Field(max_length=MAX_BYTES, description="the job file's text")


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
            what = "reading" if isinstance(entry.said, Reading) else "look"
            where = line_of(queries.call(session, call_id).circuit, entry.said)
            raise BadInput(f"A {what} stands there ({where}): withdraw it first. {error.message}", "circuit") from None
    queries.set_circuit(session, call_id, circuit, seen)
    return _shown_before_it_is_kept(session, person, call_id)


@work_router.post("/calls", status_code=201, responses=responses(404, 409, 422))
def open_call(new: NewCall, session: Database, person: Opener, later: BackgroundTasks) -> CallSummary:
    """Open a call; its circuit is made ready while its page is fetched."""
    check_told(new.told)
    _open(session, person, new, None)
    for sign in sorted(new.told):
        # The same call sent twice says the same twice, which changes nothing.
        look = Look(id=f"told-{sign}", sign=sign)
        entry = Entry(id=uuid5(new.id, sign), action=Action.ADD, reading_id=look.id, reading=look)
        entries.add_entry(session, new.id, entry)
    call = queries.call(session, new.id)
    do_afterwards(later, whole_answer, job_of(call))
    return call.summary


@work_router.post("/imported-calls", status_code=201, responses=responses(404, 409, 422))
def import_call(imported: ImportedCall, session: Database, person: Opener) -> CallSummary:
    """Open a call from a job file, with everything that it tells."""
    job_file = read_job(imported.job)
    said = entries_of(job_file, imported.call.id, now())
    is_there = queries.has_call(session, imported.call.id)
    call = _open(session, person, imported.call, job_file.circuit)
    if is_there:
        if entries.has_entries(session, call.summary.id, [entry.id for entry in said]):
            return call.summary
        raise Conflict("Another call is on file under this id: it is never overwritten.", "call.id")
    check_scope(person, None, job_file.scope)
    entries.add_entries(session, call.summary.id, said)
    queries.set_scope(session, call.summary.id, job_file.scope)
    queries.set_ratings(session, call.summary.id, notes_of(job_file))
    queries.set_repair(session, call.summary.id, job_file.repair)
    keep_all(session, call.summary.id, job_file)
    _shown_before_it_is_kept(session, person, call.summary.id)
    return queries.call(session, call.summary.id).summary


@work_router.get("/calls/{call_id}", responses=responses(404, 409))
def open_workbench(call_id: CallSeen, session: Database, person: SignedIn, later: BackgroundTasks) -> Workbench:
    """One call's page."""
    return _shown(session, person, queries.call(session, call_id), whole_answer, later)


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
    return _shown(session, person, queries.call(session, call_id))


@work_router.put("/calls/{call_id}/people", responses=responses(404, 409, 422))
def share_call(call_id: CallFiled, sharing: Sharing, session: Database, person: SignedIn) -> Workbench:
    """Say who else works on a call, or hand it to an electrician."""
    queries.share(session, call_id, sharing.people)
    return _shown(session, person, queries.call(session, call_id))


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
        said = read_line(circuit, typed.text, typed.id)
    except BadInput as error:
        choices = lines_meant(circuit, typed.text, error)
        return LineRead(said=None, words=error.message, completions=offered, choices=choices)
    if isinstance(said, Look):
        return LineRead(said=said, words=look_words(circuit, said), completions=offered)
    words = f"{value_words(said.value, said.unit)}, {measurement_words(circuit, said.measurement)}"
    return LineRead(said=said, words=words, completions=offered)


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
    return _shown(session, person, call, answer_at_once if first else whole_answer, later)


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
    return _shown(session, person, call, answer_at_once if first else whole_answer, later)


@work_router.get("/calls/{call_id}/history", responses=responses(404, 409, 422))
def show_history(
    call_id: CallSeen,
    session: Database,
    after: UUID | None = None,
    most: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> HistoryPage:
    """Everything ever said in a call, withdrawn readings included; `after` is the last of the page before."""
    return entries.history(session, call_id, after, most)


@work_router.get("/calls/{call_id}/job", responses=responses(404, 409))
def export_job(call_id: CallSeen, session: Database) -> Response:
    """Everything of the call as a job file; one that can no longer be read, as it is stored."""
    try:
        call = queries.call(session, call_id)
        if call.unread or call.unread_ratings:
            raise Unreadable(call.unread_ratings)
        history = entries.history(session, call_id).entries
        traces, photos = kept_traces(session, call_id), kept_photos(session, call_id)
        text = write_job(job_file_of(call, history, list(traces.values()), list(photos.values())))
    except Unreadable:
        text = json.dumps(entries.raw_call(session, call_id), indent=2)
    headers = {"content-disposition": f'attachment; filename="zesty-copper-{call_id}.json"'}
    return Response(text, media_type="application/json", headers=headers)


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


def _shown(
    session: Session,
    viewer: Person,
    call: Call,
    answer: Answers = whole_answer,
    later: BackgroundTasks | None = None,
) -> Workbench:
    """One call's page as it stands; what it says is kept for the list, and what it asks is reckoned out later."""
    job = job_for(call, viewer)
    page = workbench_with(call, viewer, job, answers_kept_in(session, answer)(job))
    if later is not None:
        do_afterwards(later, make_ready, job, page.diagnosis)
    return _noted(session, call, page)


def _noted(session: Session, call: Call, page: Workbench) -> Workbench:
    """The page, once what it found is noted for the list."""
    if page.diagnosis.planning or page.call.scope != call.summary.scope:
        return page
    found = found_of(page.diagnosis) if call.stands else None
    if found == call.summary.found:
        return page
    queries.set_found(session, call.summary.id, found, call.last)
    marked = CallStatus.OPEN if page.call.status is CallStatus.FOUND else page.call.status
    summary = page.call.model_copy(update={"found": found, "status": status_of(marked, found)})
    return page.model_copy(update={"call": summary})


def _shown_before_it_is_kept(session: Session, person: Person, call_id: UUID) -> Workbench:
    """One call's page with a circuit that is new to it: one that cannot be shown is not kept.

    Raises
    ------
    BadInput
        If the circuit cannot be worked out.
    """
    call = queries.call(session, call_id)
    try:
        page = workbench_of(call, person)
        ratings_of(call)
    except (NumericalError, ArithmeticError, LinAlgError):
        raise BadInput("This circuit cannot be worked out: look at its numbers again.", "circuit") from None
    return _noted(session, call, page)


def _open(session: Session, person: Person, new: NewCall, circuit: Circuit | None) -> Call:
    """Store the call, and its equipment where that is new; a circuit from a file takes precedence."""
    if new.technician_id != person.id and person.role is not Role.LEAD:
        raise NotAllowed("Calls of others are opened by a lead: open it as your own.", "technician_id")
    scope = Scope(panel_may_be_opened=new.panel_may_be_opened)
    check_scope(person, None, scope)
    if (new.equipment_id is None) == (new.new_equipment is None):
        raise BadInput("Choose equipment that is on file, or describe new equipment.", "equipment_id")
    equipment_id = new.equipment_id
    if new.new_equipment is not None:
        equipment_id = new.new_equipment.equipment_id
        _put_on_file(session, new.new_equipment, circuit)
    assert equipment_id is not None  # one of the two was given
    queries.add_call(
        session,
        call_id=new.id,
        technician_id=new.technician_id,
        equipment_id=equipment_id,
        complaint=new.complaint,
        starts_at=new.starts_at,
        scope=scope,
        circuit=circuit or filing.equipment(session, equipment_id).circuit,
        visit=new.visit,
    )
    return queries.call(session, new.id)


def _put_on_file(session: Session, new: NewEquipment, circuit: Circuit | None) -> None:
    if circuit is None:
        if new.circuit not in ready_made():
            raise BadInput("There is no such ready-made circuit: choose one from the list.", "new_equipment.circuit")
        circuit = ready_made()[new.circuit]
    if new.site_name:
        filing.add_site(session, Site(id=new.site_id, name=new.site_name, address=new.site_address))
    item = Equipment(id=new.equipment_id, name=new.equipment_name, circuit=circuit)
    filing.add_equipment(session, new.site_id, item)
