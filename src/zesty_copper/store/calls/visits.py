"""Every visit to a piece of equipment, with what was read on it."""

from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.errors import NotFound
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.people import Person
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.core.repair.proving.volts import lost_under_load
from zesty_copper.core.tools.trends import LostVolts, Visited
from zesty_copper.store.calls.entries import stands
from zesty_copper.store.calls.listing import seen_by
from zesty_copper.store.calls.stored import read_or
from zesty_copper.store.tables import CallRow, EquipmentRow

__all__ = ["visits_to"]

MOST_VISITS = 40


def visits_to(session: Session, equipment_id: UUID, person: Person) -> tuple[Visited, ...]:
    """Return the latest visits that somebody sees; one that can no longer be read is left out.

    Raises
    ------
    NotFound
        If the equipment is not on file.
    """
    if session.get(EquipmentRow, equipment_id) is None:
        raise NotFound("This equipment is not on file.", "equipment_id")
    rows = session.execute(
        select(CallRow.id, CallRow.starts_at, CallRow.circuit, CallRow.repair)
        .where(CallRow.equipment_id == equipment_id, seen_by(person))
        .order_by(CallRow.starts_at.desc())
        .limit(MOST_VISITS)
    )
    visits = []
    for row in rows.all():
        circuit = read_or(Circuit, row.circuit, None)
        if circuit is None:
            continue
        notes = read_or(RepairNotes, row.repair or {}, RepairNotes())
        entries_said = (entry.said for entry in stands(session, row.id)[0])
        readings = tuple(reading for reading in entries_said if isinstance(reading, Reading))
        lost = tuple(
            LostVolts(part=part, lanes=lanes, percent=percent)
            for part, lanes, percent in lost_under_load(notes.proof.numbers)
        )
        visits.append(Visited(at=row.starts_at, circuit=circuit, readings=readings, lost=lost))
    return tuple(visits)
