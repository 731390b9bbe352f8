"""Routes by which calls come in and go out: opened on equipment, or from a job file; a call as a file."""

import json
from uuid import UUID, uuid5

from fastapi import APIRouter, BackgroundTasks, Response
from pydantic import Field, StrictBool
from sqlalchemy.orm import Session

from zesty_copper.api.gate.access import CallSeen, Opener
from zesty_copper.api.gate.afterwards import do_afterwards
from zesty_copper.api.gate.database import Database
from zesty_copper.api.pages.noted import shown_before_it_is_kept
from zesty_copper.api.problems import responses
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.errors import BadInput, Conflict, NotAllowed, Unreadable
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Line, Name, Person, Role, check_scope
from zesty_copper.core.tools.complaints import check_told
from zesty_copper.files.job_file import MAX_BYTES, JobFile, entries_of, job_file_of, notes_of, read_job, write_job
from zesty_copper.files.travelling import keep_all, kept_photos, kept_traces
from zesty_copper.service.answers import (
    whole_answer,
)
from zesty_copper.service.jobs import job_of
from zesty_copper.store import filing
from zesty_copper.store.calls import entries, queries
from zesty_copper.store.clock import now
from zesty_copper.store.records import (
    Action,
    Call,
    CallSummary,
    CallTime,
    Entry,
    Equipment,
    Site,
    Visit,
)

__all__ = ["opening_router"]

opening_router = APIRouter(prefix="/api")


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


@opening_router.post("/calls", status_code=201, responses=responses(404, 409, 422))
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


@opening_router.post("/imported-calls", status_code=201, responses=responses(404, 409, 422))
def import_call(imported: ImportedCall, session: Database, person: Opener) -> CallSummary:
    """Open a call from a job file, with everything that it tells."""
    job_file = read_job(imported.job)
    new_entries = entries_of(job_file, imported.call.id, now())
    is_there = queries.has_call(session, imported.call.id)
    call = _open(session, person, imported.call, job_file.circuit)
    if is_there:
        if entries.has_entries(session, call.summary.id, [entry.id for entry in new_entries]):
            return call.summary
        raise Conflict("Another call is on file under this id: it is never overwritten.", "call.id")
    check_scope(person, None, job_file.scope)
    entries.add_entries(session, call.summary.id, new_entries)
    _keep(session, call.summary.id, job_file)
    shown_before_it_is_kept(session, person, call.summary.id)
    return queries.call(session, call.summary.id).summary


@opening_router.get("/calls/{call_id}/job", responses=responses(404, 409))
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


def _keep(session: Session, call_id: UUID, job_file: JobFile) -> None:
    """Keep what a file tells besides what is said in it."""
    queries.set_scope(session, call_id, job_file.scope)
    queries.set_ratings(session, call_id, notes_of(job_file))
    queries.set_repair(session, call_id, job_file.repair)
    keep_all(session, call_id, job_file)
