"""Everything that reads or writes what is on file: people, sites, equipment, and what feeds what."""

from uuid import UUID

from sqlalchemy import func, or_, select, tuple_
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.errors import Conflict, NotFound
from zesty_copper.core.tools.feeds import Feeds, Unit
from zesty_copper.store.calls.stored import check_seen, read, version
from zesty_copper.store.records import (
    Equipment,
    EquipmentName,
    Names,
    Site,
    SitePage,
    SiteSummary,
)
from zesty_copper.store.tables import EquipmentRow, PersonRow, SiteRow

__all__ = [
    "add_equipment",
    "add_site",
    "equipment",
    "feeds",
    "is_empty",
    "rename_equipment",
    "rename_site",
    "set_feeds",
    "site",
    "site_of",
    "sites",
]


def is_empty(session: Session) -> bool:
    """Whether nothing was ever stored."""
    return session.scalar(select(func.count()).select_from(PersonRow)) == 0


def sites(session: Session, search: str = "", after: UUID | None = None, most: int = 50) -> SitePage:
    """Return some sites with their equipment, by name, whose names or addresses hold all words of a search.

    Parameters
    ----------
    after
        The last site of the page before.
    most
        How many at most.
    """
    query = select(SiteRow.id, SiteRow.name, SiteRow.address).order_by(SiteRow.name, SiteRow.id).limit(most + 1)
    for word in search.split():
        has_equipment = SiteRow.equipment.any(EquipmentRow.name.icontains(word, autoescape=True))
        named = (column.icontains(word, autoescape=True) for column in (SiteRow.name, SiteRow.address))
        query = query.where(or_(*named, has_equipment))
    if after is not None:
        last = select(SiteRow.name, SiteRow.id).where(SiteRow.id == after).subquery()
        query = query.where(tuple_(SiteRow.name, SiteRow.id) > select(last.c.name, last.c.id).scalar_subquery())
    rows = session.execute(query).all()
    page_rows = rows[:most]
    equipment_of: dict[UUID, list[EquipmentName]] = {}
    named_equipment = (
        select(EquipmentRow.site_id, EquipmentRow.id, EquipmentRow.name, EquipmentRow.circuit["name"].astext)
        .where(EquipmentRow.site_id.in_([row.id for row in page_rows]))
        .order_by(EquipmentRow.name)
    )
    for site_id, equipment_id, name, circuit_name in session.execute(named_equipment):
        equipment_name = EquipmentName(id=equipment_id, name=name, circuit_name=circuit_name or "")
        equipment_of.setdefault(site_id, []).append(equipment_name)
    listed = tuple(
        SiteSummary(id=site_id, name=name, address=address, equipment=tuple(equipment_of.get(site_id, ())))
        for site_id, name, address in page_rows
    )
    return SitePage(sites=listed, next=listed[-1].id if len(rows) > most else None)


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


def feeds(session: Session, site_id: UUID) -> tuple[str, Feeds, str]:
    """Return a site's name, its map and the map's version; one never kept begins with the equipment on file."""
    row = session.get(SiteRow, site_id, options=[selectinload(SiteRow.equipment)])
    if row is None:
        raise NotFound("This site is not on file.", "site_id")
    if row.feeds is not None:
        return row.name, read(Feeds, row.feeds), version(row.feeds)
    units = tuple(Unit(id=f"unit_{i}", name=item.name[:60]) for i, item in enumerate(row.equipment[:20], 1))
    return row.name, Feeds(units=units), version(None)


def set_feeds(session: Session, site_id: UUID, map_of_site: Feeds, seen: str | None = None) -> None:
    """Keep a site's map.

    Raises
    ------
    NotFound
        If the site is not on file.
    Conflict
        If its map is no longer the version that was seen.
    """
    row = session.get(SiteRow, site_id, with_for_update=True, populate_existing=True)
    if row is None:
        raise NotFound("This site is not on file.", "site_id")
    check_seen(row.feeds, seen, "map")
    row.feeds = map_of_site.model_dump(mode="json")
    session.flush()


def site(session: Session, site_id: UUID) -> SiteSummary:
    """Return one site with the names of what stands there, or raise NotFound."""
    row = session.get(SiteRow, site_id)
    if row is None:
        raise NotFound("This site is not on file.", "site_id")
    named = tuple(
        EquipmentName(
            id=equipment_row.id, name=equipment_row.name, circuit_name=equipment_row.circuit.get("name") or ""
        )
        for equipment_row in row.equipment
    )
    return SiteSummary(id=row.id, name=row.name, address=row.address, equipment=named)


def site_of(session: Session, equipment_id: UUID) -> UUID:
    """Return where a piece of equipment stands, or raise NotFound."""
    site_id = session.scalar(select(EquipmentRow.site_id).where(EquipmentRow.id == equipment_id))
    if site_id is None:
        raise NotFound("This equipment is not on file.", "equipment_id")
    return site_id


def rename_site(session: Session, site_id: UUID, names: Names) -> None:
    """Change a site's name or address; what is none stays as it is."""
    row = session.get(SiteRow, site_id, with_for_update=True)
    if row is None:
        raise NotFound("This site is not on file.", "site_id")
    row.name = row.name if names.name is None else names.name
    row.address = row.address if names.address is None else names.address
    session.flush()


def rename_equipment(session: Session, equipment_id: UUID, name: str) -> None:
    """Change the name of a piece of equipment."""
    row = session.get(EquipmentRow, equipment_id, with_for_update=True)
    if row is None:
        raise NotFound("This equipment is not on file.", "equipment_id")
    row.name = name
    session.flush()


def equipment(session: Session, equipment_id: UUID) -> Equipment:
    """Return one piece of equipment, or raise NotFound."""
    row = session.get(EquipmentRow, equipment_id)
    if row is None:
        raise NotFound("This equipment is not on file.", "equipment_id")
    return _equipment_of(row)


def _equipment_of(row: EquipmentRow) -> Equipment:
    return Equipment(id=row.id, name=row.name, circuit=read(Circuit, row.circuit))
