"""Loads the scenario once, into an empty store."""

import json
from datetime import date, datetime, timedelta
from importlib.resources import files
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy.orm import Session

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Scope, SupplySheet
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.people import Person
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.service.jobs import job_of
from zesty_copper.store import filing, people
from zesty_copper.store.calls import entries, queries
from zesty_copper.store.records import Action, CallDetails, Entry, Equipment, Site, Visit, found_of

__all__ = ["load_demo"]

_NAMESPACE = UUID("5a1f3c0e-8420-4c0b-9a77-c0de00c0ffee")


def load_demo(session: Session, today: datetime) -> None:
    """Put the scenario's people, sites, calls and readings on file, the calls on the given (aware) day."""
    scenario = json.loads(files(__package__).joinpath("scenario.json").read_text("utf-8"))
    for person in scenario["people"]:
        key = person.pop("key")
        people.add_person(session, Person(id=_id("technician", key), **person), is_demo=True)
    for site in scenario["sites"]:
        equipment = tuple(
            Equipment(id=_id("equipment", item["key"]), name=item["name"], circuit=ready_made()[item["circuit"]])
            for item in site["equipment"]
        )
        filing.add_site(
            session,
            Site(id=_id("site", site["key"]), name=site["name"], address=site["address"], equipment=equipment),
        )
    for call in scenario["calls"]:
        _load_call(session, call, today)
    _find(session, [call for call in scenario["calls"] if call["readings"]])


def _load_call(session: Session, call: dict[str, Any], today: datetime) -> None:
    call_id = _id("call", call["key"])
    equipment_id = _id("equipment", call["equipment"])
    circuit, scope = filing.equipment(session, equipment_id).circuit, Scope(panel_may_be_opened=call["panel"])
    day = today - timedelta(call.get("days_ago", 0))
    queries.add_call(
        session,
        call_id=call_id,
        technician_id=_id("technician", call["technician"]),
        equipment_id=equipment_id,
        complaint=call["complaint"],
        starts_at=day.replace(hour=call["hour"], minute=0, second=0, microsecond=0),
        scope=scope,
        circuit=circuit,
        visit=Visit(call.get("visit", "service")),
    )
    if "repair" in call:
        queries.set_repair(session, call_id, _repair(call["repair"], today.date()))
    sheets = [
        SupplySheet(source=source, sheet=_known(sheets_of(circuit)[source], sheet_facts))
        for source, sheet_facts in call.get("ratings", {}).items()
    ]
    for sheet in sheets:
        queries.set_sheet(session, call_id, sheet.source, sheet.sheet)
    looks = tuple(
        Look(id=f"demo-look-{n}", seen=True, **reading_line) for n, reading_line in enumerate(call.get("looks", ()), 1)
    )
    for look in looks:
        entry_id = _id("entry", f"{call['key']}-{look.id}")
        entries.add_entry(session, call_id, Entry(id=entry_id, action=Action.ADD, reading_id=look.id, reading=look))
    for number, reading_line in enumerate(call["readings"], 1):
        measurement = Measurement.model_validate({"place": _place(reading_line), "open_switches": reading_line["open"]})
        reading = Reading(
            id=f"demo-{number}", measurement=measurement, value=reading_line["value"], unit=measurement.unit
        )
        entry_id = _id("entry", f"{call['key']}-{number}")
        entries.add_entry(
            session, call_id, Entry(id=entry_id, action=Action.ADD, reading_id=reading.id, reading=reading)
        )
    queries.change_details(session, call_id, CallDetails(status=call.get("status", "open")))
    queries.share(session, call_id, {_id("technician", key) for key in call.get("shared_with", ())})


def _find(session: Session, calls: list[dict[str, Any]]) -> None:
    """Note for the list of calls what each call's page says."""
    done = [call for call in calls if call.get("status") == "done"]
    # What was done is the past of the rest, and of each other.
    for call in (*done, *done, *(call for call in calls if call not in done)):
        call_id = _id("call", call["key"])
        diagnosis = diagnose(job_of(queries.call(session, call_id)))
        queries.set_found(session, call_id, found_of(diagnosis), entries.last_of(session, call_id))


def _repair(told: dict[str, Any], today: date) -> RepairNotes:
    """Notes of a repair; days are told from today on."""

    def dated(value: Any) -> Any:
        if isinstance(value, dict):
            return {
                "return_on" if name == "return_in_days" else name: today + timedelta(field)
                if name == "return_in_days"
                else dated(field)
                for name, field in value.items()
            }
        return value

    return RepairNotes.model_validate(dated(told))


def _known(sheet: Sheet, known: dict[str, Any]) -> Sheet:
    """Put what was noted at the equipment over what the circuit says: the plate's, and each thing's by its part."""
    fields = sheet.model_dump()
    fields["plate"] |= known.get("plate", {})
    for things in ("runs", "devices", "disconnects", "contactors"):
        fields[things] = [item | known.get("parts", {}).get(item["part"], {}) for item in fields[things]]
    return Sheet.model_validate(fields)


def _id(kind: str, key: str) -> UUID:
    return uuid5(_NAMESPACE, f"{kind}/{key}")


def _place(told: dict[str, Any]) -> dict[str, Any]:
    if "turning" in told:
        return {"kind": "turning", "part": told["turning"]}
    if "around" in told:
        return {"kind": "around", "leg": told["around"], "part": told["part"]}
    return {"kind": "between", "a": told["a"], "b": told["b"]}
