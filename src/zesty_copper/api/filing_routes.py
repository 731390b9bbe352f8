"""Routes of what is on file: people, sites, equipment, and what feeds what; each calls one function without HTTP."""

from uuid import UUID

from fastapi import APIRouter

from zesty_copper.api.database import Database
from zesty_copper.api.problems import responses
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.tools.feeds import Feeds, FeedsAnswer, answer_of
from zesty_copper.store import filing
from zesty_copper.store.records import (
    Equipment,
    Site,
    SiteSummary,
    Technician,
)

__all__ = ["filing_router"]

filing_router = APIRouter(prefix="/api")


class SiteFeeds(Frozen):
    """A site's map of what feeds what, and what follows from it."""

    site_name: str
    feeds: Feeds
    answer: FeedsAnswer


@filing_router.get("/technicians")
def list_technicians(session: Database) -> list[Technician]:
    """Everyone who takes readings."""
    return filing.technicians(session)


@filing_router.post("/technicians", status_code=201, responses=responses(409, 422))
def add_technician(technician: Technician, session: Database) -> Technician:
    """Put a technician on the list."""
    filing.add_technician(session, technician)
    return technician


@filing_router.get("/sites")
def list_sites(session: Database) -> list[SiteSummary]:
    """Every site with its equipment."""
    return filing.sites(session)


@filing_router.post("/sites", status_code=201, responses=responses(409, 422))
def add_site(site: Site, session: Database) -> Site:
    """Put a site on file, with its equipment."""
    filing.add_site(session, site)
    return site


@filing_router.post("/sites/{site_id}/equipment", status_code=201, responses=responses(404, 409, 422))
def add_equipment(site_id: UUID, equipment: Equipment, session: Database) -> Equipment:
    """Put a piece of equipment on file."""
    filing.add_equipment(session, site_id, equipment)
    return equipment


@filing_router.get("/equipment/{equipment_id}", responses=responses(404, 409))
def show_equipment(equipment_id: UUID, session: Database) -> Equipment:
    """A piece of equipment with its circuit."""
    return filing.equipment(session, equipment_id)


@filing_router.get("/sites/{site_id}/feeds", responses=responses(404, 409))
def show_feeds(site_id: UUID, session: Database) -> SiteFeeds:
    """Which breaker, disconnect and thermostat belong to which piece of equipment."""
    name, feeds = filing.feeds(session, site_id)
    return SiteFeeds(site_name=name, feeds=feeds, answer=answer_of(feeds))


@filing_router.put("/sites/{site_id}/feeds", responses=responses(404, 409, 422))
def change_feeds(site_id: UUID, feeds: Feeds, session: Database) -> SiteFeeds:
    """Keep a site's map, and say what follows from it."""
    filing.set_feeds(session, site_id, feeds)
    return show_feeds(site_id, session)
