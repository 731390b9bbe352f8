"""Routes that need no call: what a circuit may be made of, its signs and systems, and a quick read."""

from typing import Literal

from fastapi import APIRouter
from pydantic import Field

from zesty_copper.api.gate.database import Database
from zesty_copper.api.problems import responses
from zesty_copper.core.circuit.editing import Edit, edited
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.catalogue import PartEntry, PartRole, catalogue
from zesty_copper.core.circuit.ready_made import Family, ready_made_equipment
from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.diagnosis.model.answer import Diagnosis
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.faults.signs import SignOf, signs
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.strip import Strip, strip_of
from zesty_copper.core.tools.complaints import Complaint, complaints
from zesty_copper.core.tools.quick_read import AskedVolts, Meaning, QuickRead, asked_of, meanings_of, quick_job
from zesty_copper.service.answers import whole_answer

__all__ = ["catalogue_router"]

catalogue_router = APIRouter(prefix="/api")


class ReadyMade(Frozen):
    """A ready-made circuit to choose."""

    key: str
    family: Family
    family_label: str
    circuit: Circuit
    strip: Strip


class PartKind(Frozen):
    """A kind of part to put in."""

    kind: str
    label: str
    role: PartRole
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


@catalogue_router.get("/ready-made-circuits")
def list_ready_made() -> list[ReadyMade]:
    """Circuits to start from."""
    return [
        ReadyMade(
            key=key,
            family=equipment.family,
            family_label=equipment.family.label,
            circuit=equipment.circuit,
            strip=strip_of(equipment.circuit),
        )
        for key, equipment in ready_made_equipment().items()
    ]


@catalogue_router.get("/complaints")
def list_complaints() -> list[Complaint]:
    """What is told on the telephone, to choose from."""
    return list(complaints())


@catalogue_router.get("/part-kinds")
def list_part_kinds() -> list[PartKind]:
    """Every kind of part that can be put into a circuit."""
    return [
        PartKind(kind=kind, label=entry.label, role=entry.role, is_switch=entry.is_switch, needs=_needs(entry))
        for kind, entry in catalogue().items()
        if entry.role is not PartRole.SOURCE
    ]


@catalogue_router.get("/signs")
def list_signs() -> list[SignKind]:
    """Every sign that can be looked for, or asked about."""
    return [
        SignKind(key=key, label=sign.label, of=sign.of, parts=sign.parts, reason=sign.reason)
        for key, sign in signs().items()
    ]


@catalogue_router.post("/circuits/edit", responses=responses(422))
def edit_circuit(told: CircuitEdit) -> EditedCircuit:
    """Change a circuit without storing it."""
    circuit = edited(told.circuit, told.edit)
    return EditedCircuit(circuit=circuit, strip=strip_of(circuit))


@catalogue_router.get("/systems")
def list_systems() -> list[KnownSystem]:
    """Every supply system that a quick read knows."""
    return [KnownSystem(key=key, label=supply.label, asked=asked_of(key)) for key, supply in supplies().items()]


@catalogue_router.post("/quick-read", responses=responses(422))
def read_quickly(told: QuickRead, session: Database) -> QuickAnswer:
    """What a few numbers at the unit can mean, before any call exists."""
    job = quick_job(told)
    session.commit()  # who asks is known; no connection is held while it is thought about
    diagnosis = whole_answer(job)
    return QuickAnswer(job=job, meanings=meanings_of(diagnosis), diagnosis=diagnosis)


def _needs(entry: PartEntry) -> Literal["conductor", "load", "plate", "capacitance", "nothing"]:
    if entry.role is PartRole.TRANSFORMER:
        return "plate"
    if entry.capacitive:
        return "capacitance"
    if entry.role is PartRole.SHUNT:
        return "load"
    return "conductor" if entry.resistance_mohm is None else "nothing"
