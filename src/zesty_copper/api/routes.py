"""Every route; each calls one function that knows no HTTP."""

from collections.abc import Iterator
from typing import Annotated, Literal
from uuid import UUID, uuid5

from fastapi import APIRouter, Depends, Request, Response
from pydantic import AwareDatetime, Field
from sqlalchemy.orm import Session

from zesty_copper.api.problems import StrangeValue, responses
from zesty_copper.api.workbench import Workbench, job_of, workbench_of
from zesty_copper.core.circuit.catalogue import PartEntry, Role, catalogue
from zesty_copper.core.circuit.editing import Edit, edited
from zesty_copper.core.circuit.measurement import check_reading, doubts_about
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.circuit.strip import Strip, strip_of
from zesty_copper.core.circuit.words import place_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.files.job_file import read_job, write_job
from zesty_copper.store import queries
from zesty_copper.store.records import Action, Call, CallSummary, Entry, Equipment, Site, Technician

__all__ = ["router"]

router = APIRouter(prefix="/api")


def _session(request: Request) -> Iterator[Session]:
    """Open one transaction for the request; it is committed before the answer goes out."""
    with Session(request.app.state.engine, expire_on_commit=False) as session, session.begin():
        yield session


Database = Annotated[Session, Depends(_session, scope="function")]


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
    panel_may_be_opened: bool = False
    equipment_id: UUID | None = None
    new_equipment: NewEquipment | None = None


class ImportedCall(Frozen):
    """A job file to open as a call."""

    call: NewCall
    job: str = Field(description="the job file's text")


class NewEntry(Entry):
    """An entry on its way in."""

    confirmed: bool = Field(default=False, description="the user was asked about a strange value and stands by it")


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


class CallChange(Frozen):
    """What can be changed on a call."""

    panel_may_be_opened: bool


@router.get("/technicians")
def list_technicians(session: Database) -> list[Technician]:
    """Everyone who takes readings."""
    return queries.technicians(session)


@router.post("/technicians", status_code=201, responses=responses(422))
def add_technician(technician: Technician, session: Database) -> Technician:
    """Put a technician on the list."""
    queries.add_technician(session, technician)
    return technician


@router.get("/sites")
def list_sites(session: Database) -> list[Site]:
    """Every site with its equipment."""
    return queries.sites(session)


@router.post("/sites", status_code=201, responses=responses(422))
def add_site(site: Site, session: Database) -> Site:
    """Put a site on file, with its equipment."""
    queries.add_site(session, site)
    return site


@router.post("/sites/{site_id}/equipment", status_code=201, responses=responses(404, 422))
def add_equipment(site_id: UUID, equipment: Equipment, session: Database) -> Equipment:
    """Put a piece of equipment on file."""
    queries.add_equipment(session, site_id, equipment)
    return equipment


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


@router.post("/circuits/edit", responses=responses(422))
def edit_circuit(told: CircuitEdit) -> EditedCircuit:
    """Change a circuit without storing it."""
    circuit = edited(told.circuit, told.edit)
    return EditedCircuit(circuit=circuit, strip=strip_of(circuit))


@router.put("/calls/{call_id}/circuit", responses=responses(404, 422))
def change_circuit(call_id: UUID, circuit: Circuit, session: Database) -> Workbench:
    """Put a changed circuit on file, if every reading that stands still has its place in it."""
    for reading in job_of(queries.call(session, call_id)).readings:
        try:
            check_reading(circuit, reading)
        except BadInput as error:
            where = place_words(queries.call(session, call_id).circuit, reading.measurement.place)
            raise BadInput(f"A reading stands there ({where}): withdraw it first. {error.message}", "circuit") from None
    queries.set_circuit(session, call_id, circuit)
    session.expire_all()
    return workbench_of(queries.call(session, call_id))


@router.get("/calls")
def list_calls(session: Database) -> list[CallSummary]:
    """Every call, the latest first."""
    return queries.calls(session)


@router.post("/calls", status_code=201, responses=responses(404, 422))
def open_call(new: NewCall, session: Database) -> CallSummary:
    """Open a call."""
    return _open(session, new, None).summary


@router.post("/calls/import", status_code=201, responses=responses(404, 422))
def import_call(imported: ImportedCall, session: Database) -> CallSummary:
    """Open a call from a job file, its readings included."""
    job = read_job(imported.job)
    call = _open(session, imported.call, job.circuit)
    for reading in job.readings:
        # An entry id made of call and reading: importing twice changes nothing.
        entry = Entry(id=uuid5(call.summary.id, reading.id), action=Action.ADD, reading_id=reading.id, reading=reading)
        queries.add_entry(session, call.summary.id, entry)
    queries.set_panel(session, call.summary.id, panel_may_be_opened=job.scope.panel_may_be_opened)
    session.expire_all()
    return queries.call(session, call.summary.id).summary


@router.get("/calls/{call_id}", responses=responses(404))
def open_workbench(call_id: UUID, session: Database) -> Workbench:
    """One call's page."""
    return workbench_of(queries.call(session, call_id))


@router.patch("/calls/{call_id}", responses=responses(404, 422))
def change_call(call_id: UUID, change: CallChange, session: Database) -> Workbench:
    """Say whether the panel may be opened."""
    queries.set_panel(session, call_id, panel_may_be_opened=change.panel_may_be_opened)
    return workbench_of(queries.call(session, call_id))


@router.post("/calls/{call_id}/entries", responses=responses(404, 409, 422))
def add_entry(call_id: UUID, new: NewEntry, session: Database) -> Workbench:
    """Add, correct or withdraw a reading, and answer with what follows from it."""
    call = queries.call(session, call_id)
    if new.reading is not None:
        check_reading(call.circuit, new.reading)
        if not new.confirmed and (doubt := doubts_about(call.circuit, new.reading)):
            raise StrangeValue(doubt, "reading.value")
    queries.add_entry(session, call_id, Entry.model_validate(new.model_dump(exclude={"confirmed"})))
    session.expire_all()
    return workbench_of(queries.call(session, call_id))


@router.get("/calls/{call_id}/history", responses=responses(404))
def show_history(call_id: UUID, session: Database) -> Call:
    """Everything ever said in a call, withdrawn readings included."""
    return queries.call(session, call_id)


@router.get("/calls/{call_id}/job", responses=responses(404))
def export_job(call_id: UUID, session: Database) -> Response:
    """The call as a job file."""
    text = write_job(job_of(queries.call(session, call_id)))
    headers = {"content-disposition": f'attachment; filename="zesty-copper-{call_id}.json"'}
    return Response(text, media_type="application/json", headers=headers)


def _needs(entry: PartEntry) -> Literal["conductor", "load", "plate", "capacitance", "nothing"]:
    if entry.role is Role.TRANSFORMER:
        return "plate"
    if entry.capacitive:
        return "capacitance"
    if entry.role is Role.SHUNT:
        return "load"
    return "conductor" if entry.resistance_mohm is None else "nothing"


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
        panel_may_be_opened=new.panel_may_be_opened,
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
