"""Everything of a firm, out of the database and into it."""

from collections.abc import Iterator, Mapping
from datetime import UTC
from typing import Any

from sqlalchemy import inspect, literal, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload

from zesty_copper.core.errors import Conflict
from zesty_copper.store.tables import Base, CallRow, EntryRow, EquipmentRow, PersonRow, ShareRow, SiteRow

__all__ = ["all_calls", "all_people", "all_sites", "put"]


def all_people(session: Session) -> list[dict[str, Any]]:
    """Everybody, as stored, without their passwords."""
    columns = ("id", "name", "role", "may_open_panels", "is_active")
    return [_of(row, *columns) for row in session.scalars(select(PersonRow).order_by(PersonRow.id))]


def all_sites(session: Session) -> list[dict[str, Any]]:
    """Every site with its equipment, as stored."""
    rows = session.scalars(select(SiteRow).options(selectinload(SiteRow.equipment)).order_by(SiteRow.id))
    return [
        _of(row, "id", "name", "address", "feeds")
        | {
            "equipment": [
                _of(record, "id", "name", "circuit") for record in sorted(row.equipment, key=lambda record: record.id)
            ]
        }
        for row in rows
    ]


def all_calls(session: Session) -> Iterator[dict[str, Any]]:
    """Every call with everything said in it, as stored, one at a time."""
    columns = (
        "id",
        "technician_id",
        "equipment_id",
        "complaint",
        "scope",
        "circuit",
        "ratings",
        "repair",
        "found",
        "status",
        "visit",
    )
    for call_id in session.scalars(select(CallRow.id).order_by(CallRow.id)).all():
        row = session.get_one(CallRow, call_id, options=[selectinload(CallRow.entries)])
        shared = select(ShareRow.person_id).where(ShareRow.call_id == call_id).order_by(ShareRow.person_id)
        entries = [
            _of(entry, "id", "action", "reading_id", "reading", "person_id")
            | {"entered_at": entry.entered_at.astimezone(UTC)}
            for entry in row.entries
        ]
        yield _of(row, *columns) | {
            "starts_at": row.starts_at.astimezone(UTC),
            "deleted_at": None if row.deleted_at is None else row.deleted_at.astimezone(UTC),
            "shared_with": list(session.scalars(shared)),
            "entries": entries,
        }
        session.expunge_all()


def put(session: Session, table: type[Base], values: Mapping[str, Any]) -> bool:
    """Store a row that is not there yet; tells whether it was not. What is there stays as it is.

    Raises
    ------
    Conflict
        If it is not there and something else has its name.
    """
    key = {column.name: values[column.name] for column in inspect(table).primary_key}
    if session.get(table, key) is not None:
        return False
    added = session.execute(insert(table).values(**values).on_conflict_do_nothing().returning(literal(1)))
    if added.first() is None:
        raise Conflict(f"Another {table.__tablename__} has the name “{values.get('name')}”: rename one of them first.")
    return True


def _of(row: PersonRow | SiteRow | EquipmentRow | CallRow | EntryRow, *names: str) -> dict[str, Any]:
    return {name: getattr(row, name) for name in names}
