"""Everything that reads or writes what is on file: people, sites, equipment, and what feeds what."""

from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.errors import Conflict, NotFound
from zesty_copper.core.tools.feeds import Feeds, Unit
from zesty_copper.store.records import (
    Equipment,
    EquipmentName,
    Site,
    SiteSummary,
    Technician,
)
from zesty_copper.store.stored import read
from zesty_copper.store.tables import EquipmentRow, SiteRow, TechnicianRow

__all__ = [
    "add_equipment",
    "add_site",
    "add_technician",
    "equipment",
    "feeds",
    "is_empty",
    "set_feeds",
    "sites",
    "technician_of",
    "technicians",
]


def is_empty(session: Session) -> bool:
    """Whether nothing was ever stored."""
    return session.scalar(select(func.count()).select_from(TechnicianRow)) == 0


def technicians(session: Session) -> list[Technician]:
    """Every technician, by name."""
    return [technician_of(row) for row in session.scalars(select(TechnicianRow).order_by(TechnicianRow.name))]


def add_technician(session: Session, technician: Technician) -> None:
    """Store a technician; the same one sent again changes nothing.

    Raises
    ------
    Conflict
        If somebody else is stored under this name or id.
    """
    taken = session.scalar(select(TechnicianRow.id).where(TechnicianRow.name == technician.name))
    if taken not in (None, technician.id):
        raise Conflict("A technician of this name is on the list already: add an initial.", "name")
    session.execute(insert(TechnicianRow).values(technician.model_dump()).on_conflict_do_nothing())
    if technician_of(session.get_one(TechnicianRow, technician.id)) != technician:
        raise Conflict("Another technician is on the list under this id: look again before you add one.", "id")


def sites(session: Session) -> list[SiteSummary]:
    """Every site with its equipment, by name."""
    equipment_of: dict[UUID, list[EquipmentName]] = {}
    named = select(EquipmentRow.site_id, EquipmentRow.id, EquipmentRow.name, EquipmentRow.circuit["name"].astext)
    for site_id, equipment_id, name, circuit_name in session.execute(named.order_by(EquipmentRow.name)):
        one = EquipmentName(id=equipment_id, name=name, circuit_name=circuit_name or "")
        equipment_of.setdefault(site_id, []).append(one)
    rows = session.execute(select(SiteRow.id, SiteRow.name, SiteRow.address).order_by(SiteRow.name))
    return [
        SiteSummary(id=site_id, name=name, address=address, equipment=tuple(equipment_of.get(site_id, ())))
        for site_id, name, address in rows
    ]


def add_site(session: Session, site: Site) -> None:
    """Store a site and its equipment; the same one sent again changes nothing.

    Raises
    ------
    Conflict
        If another site is stored under this id.
    """
    session.execute(insert(SiteRow).values(id=site.id, name=site.name, address=site.address).on_conflict_do_nothing())
    stored = session.get_one(SiteRow, site.id)
    if (stored.name, stored.address) != (site.name, site.address):
        raise Conflict("Another site is on file under this id: look again before you add one.", "site_id")
    for item in site.equipment:
        add_equipment(session, site.id, item)


def add_equipment(session: Session, site_id: UUID, item: Equipment) -> None:
    """Store a piece of equipment; the same one sent again changes nothing, whatever became of its circuit since.

    Raises
    ------
    NotFound
        If the site is not on file.
    Conflict
        If other equipment is stored under this id.
    """
    if session.get(SiteRow, site_id) is None:
        raise NotFound("This site is not on file.", "site_id")
    circuit = item.circuit.model_dump(mode="json")
    session.execute(
        insert(EquipmentRow)
        .values(id=item.id, site_id=site_id, name=item.name, circuit=circuit)
        .on_conflict_do_nothing()
    )
    stored = session.get_one(EquipmentRow, item.id)
    if (stored.site_id, stored.name) != (site_id, item.name):
        raise Conflict("Other equipment is on file under this id: look again before you add some.", "equipment_id")


def feeds(session: Session, site_id: UUID) -> tuple[str, Feeds]:
    """Return a site's name and its map; one that was never kept begins with the equipment on file."""
    row = session.get(SiteRow, site_id, options=[selectinload(SiteRow.equipment)])
    if row is None:
        raise NotFound("This site is not on file.", "site_id")
    if row.feeds is not None:
        return row.name, read(Feeds, row.feeds)
    units = tuple(Unit(id=f"unit_{i}", name=item.name[:60]) for i, item in enumerate(row.equipment[:20], 1))
    return row.name, Feeds(units=units)


def set_feeds(session: Session, site_id: UUID, map_of_site: Feeds) -> None:
    """Keep a site's map.

    Raises
    ------
    NotFound
        If the site is not on file.
    """
    row = session.get(SiteRow, site_id)
    if row is None:
        raise NotFound("This site is not on file.", "site_id")
    row.feeds = map_of_site.model_dump(mode="json")
    session.flush()


def equipment(session: Session, equipment_id: UUID) -> Equipment:
    """Return one piece of equipment, or raise NotFound."""
    row = session.get(EquipmentRow, equipment_id)
    if row is None:
        raise NotFound("This equipment is not on file.", "equipment_id")
    return _equipment_of(row)


def technician_of(row: TechnicianRow) -> Technician:
    """Return a stored technician."""
    return Technician(id=row.id, name=row.name, may_open_panels=row.may_open_panels)


def _equipment_of(row: EquipmentRow) -> Equipment:
    return Equipment(id=row.id, name=row.name, circuit=read(Circuit, row.circuit))
