"""Routes of calls, sites, circuits and the workbench; each calls one function that knows no HTTP."""

import json
from typing import Annotated, Literal
from uuid import UUID, uuid5

from fastapi import APIRouter, BackgroundTasks, Query, Response
from pydantic import AwareDatetime, Field, StrictBool
from sqlalchemy.orm import Session

from zesty_copper.api.database import Database
from zesty_copper.api.problems import StrangeValue, responses
from zesty_copper.api.unread import answers_kept_in
from zesty_copper.api.workbench import (
    Answers,
    Workbench,
    answer_at_once,
    explained,
    job_of,
    make_ready,
    tried,
    whole_answer,
    workbench_of,
)
from zesty_copper.core.circuit.catalogue import PartEntry, Role, catalogue
from zesty_copper.core.circuit.editing import Edit, edited
from zesty_copper.core.circuit.measurement import OpenSwitches, Reading, check_reading, doubts_about
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.circuit.strip import Strip, strip_of
from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.circuit.words import measurement_words, value_words
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Suspect
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.errors import BadInput, Conflict, Unreadable
from zesty_copper.core.faults.signs import Look, SignOf, check_look, look_words, signs
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.tools.feeds import Feeds, FeedsAnswer, answer_of
from zesty_copper.core.tools.quick_entry import completions, line_of, read_line
from zesty_copper.core.tools.quick_read import AskedVolts, Meaning, QuickRead, asked_of, meanings_of, quick_job
from zesty_copper.core.tools.what_if import Move, WhatIf
from zesty_copper.files.job_file import read_job, write_job
from zesty_copper.store import queries
from zesty_copper.store.records import (
    Action,
    Call,
    CallPage,
    CallSummary,
    Entry,
    Equipment,
    Site,
    SiteSummary,
    Technician,
    fold,
    found_of,
)

__all__ = ["router"]

router = APIRouter(prefix="/api")

Seen = Annotated[str | None, Query(max_length=16, description="version that was changed; none: whatever it is by now")]


class ReadyMade(Frozen):
    """A ready-made circuit to choose."""

    key: str
    circuit: Circuit
    strip: Strip


class NewEquipment(Frozen):
    """Equipment to put on file with its site, from a ready-made circuit."""

    equipment_id: UUID
    equipment_name: str = Field(min_length=1, max_length=80)
    circuit: str = Field(description="key of a ready-made circuit")
    site_id: UUID
    site_name: str = Field(default="", max_length=80, description="only for a site that is not on file")
    site_address: str = Field(default="", max_length=160)


class NewCall(Frozen):
    """A call to open: on equipment that is on file, or on new equipment."""

    id: UUID
    technician_id: UUID
    complaint: str = Field(min_length=1, max_length=300)
    starts_at: AwareDatetime
    panel_may_be_opened: StrictBool = False
    equipment_id: UUID | None = None
    new_equipment: NewEquipment | None = None


class ImportedCall(Frozen):
    """A job file to open as a call."""

    call: NewCall
    job: str = Field(description="the job file's text")


class NewEntry(Entry):
    """An entry on its way in."""

    confirmed: StrictBool = Field(default=False, description="asked about a strange value, the user stands by it")
    follows: UUID | None = Field(
        default=None, description="the last entry about this reading that the sender knew; a later one wins over it"
    )


class PartKind(Frozen):
    """A kind of part to put in."""

    kind: str
    label: str
    role: Role
    is_switch: bool
    needs: Literal["conductor", "load", "plate", "capacitance", "nothing"]


class EditedCircuit(Frozen):
    """A circuit after a change, laid out."""

    circuit: Circuit
    strip: Strip


class CircuitEdit(Frozen):
    """A circuit and a change to it."""

    circuit: Circuit
    edit: Edit


class SignKind(Frozen):
    """A sign that can be looked for, or asked about."""

    key: str
    label: str
    of: SignOf
    parts: tuple[str, ...] = Field(description="kinds of part it is looked for at; none: any")
    reason: str


class KnownSystem(Frozen):
    """A supply system, and the pairs that a quick read asks for."""

    key: str
    label: str
    asked: tuple[AskedVolts, ...]


class QuickAnswer(Frozen):
    """What the numbers of a quick read can mean; the job is what a call is made of."""

    job: Job
    meanings: tuple[Meaning, ...]
    diagnosis: Diagnosis


class Trial(Frozen):
    """Moves to try in the model."""

    moves: tuple[Move, ...] = Field(min_length=1, max_length=8)
    open_switches: OpenSwitches = frozenset()
    suspect: str | None = Field(default=None, description="on top of which suspect; none: nothing wrong")


class SiteFeeds(Frozen):
    """A site's map of what feeds what, and what follows from it."""

    site_name: str
    feeds: Feeds
    answer: FeedsAnswer


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


@router.get("/technicians")
def list_technicians(session: Database) -> list[Technician]:
    """Everyone who takes readings."""
    return queries.technicians(session)


@router.post("/technicians", status_code=201, responses=responses(409, 422))
def add_technician(technician: Technician, session: Database) -> Technician:
    """Put a technician on the list."""
    queries.add_technician(session, technician)
    return technician


@router.get("/sites")
def list_sites(session: Database) -> list[SiteSummary]:
    """Every site with its equipment."""
    return queries.sites(session)


@router.post("/sites", status_code=201, responses=responses(409, 422))
def add_site(site: Site, session: Database) -> Site:
    """Put a site on file, with its equipment."""
    queries.add_site(session, site)
    return site


@router.post("/sites/{site_id}/equipment", status_code=201, responses=responses(404, 409, 422))
def add_equipment(site_id: UUID, equipment: Equipment, session: Database) -> Equipment:
    """Put a piece of equipment on file."""
    queries.add_equipment(session, site_id, equipment)
    return equipment


@router.get("/equipment/{equipment_id}", responses=responses(404, 409))
def show_equipment(equipment_id: UUID, session: Database) -> Equipment:
    """A piece of equipment with its circuit."""
    return queries.equipment(session, equipment_id)


@router.get("/ready-made-circuits")
def list_ready_made() -> list[ReadyMade]:
    """Circuits to start from."""
    return [ReadyMade(key=key, circuit=circuit, strip=strip_of(circuit)) for key, circuit in ready_made().items()]


@router.get("/part-kinds")
def list_part_kinds() -> list[PartKind]:
    """Every kind of part that can be put into a circuit."""
    return [
        PartKind(kind=kind, label=entry.label, role=entry.role, is_switch=entry.is_switch, needs=_needs(entry))
        for kind, entry in catalogue().items()
        if entry.role is not Role.SOURCE
    ]


@router.get("/signs")
def list_signs() -> list[SignKind]:
    """Every sign that can be looked for, or asked about."""
    return [
        SignKind(key=key, label=sign.label, of=sign.of, parts=sign.parts, reason=sign.reason)
        for key, sign in signs().items()
    ]


@router.post("/circuits/edit", responses=responses(422))
def edit_circuit(told: CircuitEdit) -> EditedCircuit:
    """Change a circuit without storing it."""
    circuit = edited(told.circuit, told.edit)
    return EditedCircuit(circuit=circuit, strip=strip_of(circuit))


@router.put("/calls/{call_id}/circuit", responses=responses(404, 409, 422))
def change_circuit(call_id: UUID, circuit: Circuit, session: Database, seen: Seen = None) -> Workbench:
    """Put a changed circuit on file, if every reading that stands still has its place in it."""
    # Not the call itself: this is how a circuit is mended that can no longer be read.
    for said in fold(queries.entries(session, call_id)):
        try:
            _check(circuit, said)
        except BadInput as error:
            what = "reading" if isinstance(said, Reading) else "look"
            where = line_of(queries.call(session, call_id).circuit, said)
            raise BadInput(f"A {what} stands there ({where}): withdraw it first. {error.message}", "circuit") from None
    queries.set_circuit(session, call_id, circuit, seen)
    return _shown(session, _loaded(session, call_id))


@router.get("/calls", responses=responses(404, 409, 422))
def list_calls(
    session: Database,
    search: Annotated[str, Query(max_length=80)] = "",
    after: UUID | None = None,
    most: Annotated[int, Query(ge=1, le=200)] = 50,
) -> CallPage:
    """Some calls, the latest first, that hold all words of a search; `after` is the last of the page before."""
    return queries.calls(session, search, after, most)


@router.post("/calls", status_code=201, responses=responses(404, 409, 422))
def open_call(new: NewCall, session: Database, later: BackgroundTasks) -> CallSummary:
    """Open a call; its circuit is made ready while its page is fetched."""
    call = _open(session, new, None)
    later.add_task(whole_answer, job_of(call))
    return call.summary


@router.post("/imported-calls", status_code=201, responses=responses(404, 409, 422))
def import_call(imported: ImportedCall, session: Database) -> CallSummary:
    """Open a call from a job file, its readings included."""
    job = read_job(imported.job)
    stands: list[Reading | Look] = [*job.readings, *job.looks]
    # Entries' ids are made of call and reading, so the same file sent again is known by them.
    entries = [
        Entry(id=uuid5(imported.call.id, one.id), action=Action.ADD, reading_id=one.id, reading=one) for one in stands
    ]
    is_there = queries.has_call(session, imported.call.id)
    call = _open(session, imported.call, job.circuit)
    if is_there:
        if {entry.id for entry in entries} <= {entry.id for entry in call.entries}:
            return call.summary
        raise Conflict("Another call is on file under this id: it is never overwritten.", "call.id")
    for entry in entries:
        queries.add_entry(session, call.summary.id, entry)
    queries.set_scope(session, call.summary.id, job.scope)
    for one in job.sheets:
        queries.set_sheet(session, call.summary.id, one.source, one.sheet)
    _shown(session, _loaded(session, call.summary.id))
    return _loaded(session, call.summary.id).summary


@router.get("/calls/{call_id}", responses=responses(404, 409))
def open_workbench(call_id: UUID, session: Database, later: BackgroundTasks) -> Workbench:
    """One call's page."""
    return _shown(session, queries.call(session, call_id), whole_answer, later)


@router.get("/calls/{call_id}/stamp", responses=responses(404, 409))
def show_stamp(call_id: UUID, session: Database) -> Stamp:
    """Whether anything of a call was changed: asked every few seconds by a page that shows it."""
    return Stamp(stamp=queries.stamp(session, call_id))


@router.put("/calls/{call_id}/scope", responses=responses(404, 409, 422))
def change_scope(call_id: UUID, scope: Scope, session: Database, seen: Seen = None) -> Workbench:
    """Say how far the technician may go, in which order and with what."""
    queries.set_scope(session, call_id, scope, seen)
    return _shown(session, _loaded(session, call_id))


@router.get("/calls/{call_id}/suspects/{key}", responses=responses(404, 409, 422))
def explain_suspect(call_id: UUID, key: str, session: Database) -> Suspect:
    """Why not? What any suspect would have made every reading show."""
    job = job_of(queries.call(session, call_id))
    session.commit()
    return explained(job, key)


@router.post("/calls/{call_id}/what-if", responses=responses(404, 409, 422))
def try_change(call_id: UUID, trial: Trial, session: Database) -> WhatIf:
    """What a jumper, a lifted or moved lead would do, in the model."""
    circuit = queries.call(session, call_id).circuit
    session.commit()
    return tried(circuit, trial.moves, trial.open_switches, trial.suspect)


@router.get("/systems")
def list_systems() -> list[KnownSystem]:
    """Every supply system that a quick read knows."""
    return [KnownSystem(key=key, label=supply.label, asked=asked_of(key)) for key, supply in supplies().items()]


@router.post("/quick-read", responses=responses(422))
def read_quickly(told: QuickRead) -> QuickAnswer:
    """What a few numbers at the unit can mean, before any call exists."""
    job = quick_job(told)
    found = whole_answer(job)
    return QuickAnswer(job=job, meanings=meanings_of(found), diagnosis=found)


@router.get("/sites/{site_id}/feeds", responses=responses(404, 409))
def show_feeds(site_id: UUID, session: Database) -> SiteFeeds:
    """Which breaker, disconnect and thermostat belong to which piece of equipment."""
    name, feeds = queries.feeds(session, site_id)
    return SiteFeeds(site_name=name, feeds=feeds, answer=answer_of(feeds))


@router.put("/sites/{site_id}/feeds", responses=responses(404, 409, 422))
def change_feeds(site_id: UUID, feeds: Feeds, session: Database) -> SiteFeeds:
    """Keep a site's map, and say what follows from it."""
    queries.set_feeds(session, site_id, feeds)
    return show_feeds(site_id, session)


@router.post("/calls/{call_id}/line", responses=responses(404, 409, 422))
def read_typed_line(call_id: UUID, typed: LineTyped, session: Database) -> LineRead:
    """Read a quick-entry line without recording it."""
    circuit = queries.call(session, call_id).circuit
    offered = completions(circuit, typed.text)
    try:
        said = read_line(circuit, typed.text, typed.id)
    except BadInput as error:
        return LineRead(said=None, words=error.message, completions=offered)
    if isinstance(said, Look):
        return LineRead(said=said, words=look_words(circuit, said), completions=offered)
    words = f"{value_words(said.value, said.unit)}, {measurement_words(circuit, said.measurement)}"
    return LineRead(said=said, words=words, completions=offered)


@router.post("/calls/{call_id}/entries", responses=responses(404, 409, 422))
def add_entry(
    call_id: UUID, new: NewEntry, session: Database, later: BackgroundTasks, first: bool = False
) -> Workbench:
    """Add, correct or withdraw a reading or look, and answer with what follows from it.

    With `first` the answer comes at once, and the next test is found meanwhile: ask for the call to have it.
    """
    told = Entry.model_validate(new.model_dump(exclude={"confirmed", "follows"}))
    queries.add_entry(session, call_id, told, follows=new.follows)
    call = queries.call(session, call_id)
    # What is refused now takes the entry back with it.
    if new.reading is not None:
        _check(call.circuit, new.reading)
        doubt = doubts_about(call.circuit, new.reading) if isinstance(new.reading, Reading) else ""
        if doubt and not new.confirmed:
            raise StrangeValue(doubt, "reading.value")
    return _shown(session, call, answer_at_once if first else whole_answer, later)


@router.get("/calls/{call_id}/history", responses=responses(404, 409))
def show_history(call_id: UUID, session: Database) -> Call:
    """Everything ever said in a call, withdrawn readings included."""
    return queries.call(session, call_id)


@router.get("/calls/{call_id}/job", responses=responses(404, 409))
def export_job(call_id: UUID, session: Database) -> Response:
    """The call as a job file; one that can no longer be read, as it is stored."""
    try:
        text = write_job(job_of(queries.call(session, call_id)))
    except Unreadable:
        text = json.dumps(queries.raw_call(session, call_id), indent=2)
    headers = {"content-disposition": f'attachment; filename="zesty-copper-{call_id}.json"'}
    return Response(text, media_type="application/json", headers=headers)


def _check(circuit: Circuit, said: Reading | Look) -> None:
    if isinstance(said, Reading):
        check_reading(circuit, said)
    else:
        check_look(circuit, said)


def _needs(entry: PartEntry) -> Literal["conductor", "load", "plate", "capacitance", "nothing"]:
    if entry.role is Role.TRANSFORMER:
        return "plate"
    if entry.capacitive:
        return "capacitance"
    if entry.role is Role.SHUNT:
        return "load"
    return "conductor" if entry.resistance_mohm is None else "nothing"


def _loaded(session: Session, call_id: UUID) -> Call:
    """Load a call anew after something of it was changed."""
    session.expire_all()
    return queries.call(session, call_id)


def _shown(
    session: Session, call: Call, answer: Answers = whole_answer, later: BackgroundTasks | None = None
) -> Workbench:
    """One call's page as it stands; what it says is kept for the list, and what it asks is reckoned out later."""
    page = workbench_of(call, answers_kept_in(session, answer))
    if later is not None:
        later.add_task(make_ready, job_of(call), page.diagnosis)
    if page.diagnosis.planning:
        return page
    found = found_of(page.diagnosis) if page.readings or page.looks else None
    if found == call.summary.found:
        return page
    queries.set_found(session, call.summary.id, found, len(call.entries))
    return page.model_copy(update={"call": call.summary.model_copy(update={"found": found})})


def _open(session: Session, new: NewCall, circuit: Circuit | None) -> Call:
    """Store the call, and its equipment where that is new; a circuit from a file takes precedence."""
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
        scope=Scope(panel_may_be_opened=new.panel_may_be_opened),
        circuit=circuit or queries.equipment(session, equipment_id).circuit,
    )
    return queries.call(session, new.id)


def _put_on_file(session: Session, new: NewEquipment, circuit: Circuit | None) -> None:
    if circuit is None:
        if new.circuit not in ready_made():
            raise BadInput("There is no such ready-made circuit: choose one from the list.", "new_equipment.circuit")
        circuit = ready_made()[new.circuit]
    if new.site_name:
        queries.add_site(session, Site(id=new.site_id, name=new.site_name, address=new.site_address))
    item = Equipment(id=new.equipment_id, name=new.equipment_name, circuit=circuit)
    queries.add_equipment(session, new.site_id, item)
