"""Routes of what is on file: sites, equipment, and what feeds what; each calls one function without HTTP."""

from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response
from pydantic import Field

from zesty_copper.api.downloads import file_response
from zesty_copper.api.gate.access import EquipmentSeer, Opener, SiteChanged, SiteSeen
from zesty_copper.api.gate.database import Database, Seen
from zesty_copper.api.problems import responses
from zesty_copper.core.errors import NotFound
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.strip import Strip, strip_of
from zesty_copper.core.tools.feeds import Feeds, FeedsAnswer, answer_of
from zesty_copper.core.tools.panel_map import PanelAnswer, panels_of
from zesty_copper.files.pdf.panel_label import panel_label_pdf
from zesty_copper.store import filing
from zesty_copper.store.records import (
    Equipment,
    Names,
    Site,
    SitePage,
    SiteSummary,
)

__all__ = ["filing_router"]

filing_router = APIRouter(prefix="/api")


class SiteFeeds(Frozen):
    """A site's map of what feeds what, and what follows from it."""

    site_name: str
    feeds: Feeds
    version: str = Field(description="of the map: whoever changes it says which one was seen")
    answer: FeedsAnswer
    panels: tuple[PanelAnswer, ...]


class EquipmentOnFile(Frozen):
    """A piece of equipment, where it stands, and what else stands there."""

    equipment: Equipment
    strip: Strip
    site: SiteSummary


@filing_router.get("/sites", responses=responses(422))
def list_sites(
    session: Database,
    _: EquipmentSeer,
    search: Annotated[str, Query(max_length=80)] = "",
    after: UUID | None = None,
    most: Annotated[int, Query(ge=1, le=200)] = 50,
) -> SitePage:
    """Some sites with their equipment, by name, found by words; `after` is the last of the page before."""
    return filing.sites(session, search, after, most)


@filing_router.post("/sites", status_code=201, responses=responses(409, 422))
def add_site(site: Site, session: Database, _: Opener) -> Site:
    """Put a site on file, with its equipment."""
    filing.add_site(session, site)
    return site


@filing_router.post("/sites/{site_id}/equipment", status_code=201, responses=responses(404, 409, 422))
def add_equipment(site_id: UUID, equipment: Equipment, session: Database, _: Opener) -> Equipment:
    """Put a piece of equipment on file."""
    filing.add_equipment(session, site_id, equipment)
    return equipment


@filing_router.get("/sites/{site_id}", responses=responses(404, 409))
def show_site(site_id: SiteSeen, session: Database) -> SiteSummary:
    """A site and the names of what stands there."""
    return filing.site(session, site_id)


@filing_router.patch("/sites/{site_id}", responses=responses(404, 409, 422))
def rename_site(site_id: SiteSeen, names: Names, session: Database, _: Opener) -> SiteSummary:
    """Change a site's name or address."""
    filing.rename_site(session, site_id, names)
    return filing.site(session, site_id)


@filing_router.get("/equipment/{equipment_id}", responses=responses(404, 409))
def show_equipment(equipment_id: UUID, session: Database, _: EquipmentSeer) -> EquipmentOnFile:
    """A piece of equipment with its circuit, and where it stands."""
    site = filing.site(session, filing.site_of(session, equipment_id))
    equipment = filing.equipment(session, equipment_id)
    return EquipmentOnFile(equipment=equipment, strip=strip_of(equipment.circuit), site=site)


@filing_router.patch("/equipment/{equipment_id}", responses=responses(404, 409, 422))
def rename_equipment(equipment_id: UUID, names: Names, session: Database, opener: Opener) -> EquipmentOnFile:
    """Change the name of a piece of equipment."""
    if names.name is not None:
        filing.rename_equipment(session, equipment_id, names.name)
    return show_equipment(equipment_id, session, opener)


@filing_router.get("/sites/{site_id}/feeds", responses=responses(404, 409))
def show_feeds(site_id: SiteSeen, session: Database) -> SiteFeeds:
    """Which breaker, disconnect and thermostat belong to which piece of equipment."""
    name, feeds, version = filing.feeds(session, site_id)
    answer = answer_of(feeds)
    return SiteFeeds(site_name=name, feeds=feeds, version=version, answer=answer, panels=panels_of(feeds, answer.fed))


@filing_router.get(
    "/sites/{site_id}/panels/{panel_id}/label", response_class=Response, responses=responses(404, 409, 422)
)
def show_panel_label(site_id: SiteSeen, panel_id: str, session: Database, day: date) -> Response:
    """The label sheet of a panel as PDF, with the day on which it was drawn up."""
    feeds = show_feeds(site_id, session)
    session.commit()
    panel = next((each_panel for each_panel in feeds.feeds.panels if each_panel.id == panel_id), None)
    answer = next((panel_answer for panel_answer in feeds.panels if panel_answer.panel == panel_id), None)
    if panel is None or answer is None:
        raise NotFound("This site has no such panel.", "panel_id")
    written = panel_label_pdf(feeds.site_name, feeds.feeds, panel, answer, f"{day:%B %-d, %Y}")
    return file_response(written, "application/pdf", f"panel-{panel.id}.pdf")


@filing_router.put("/sites/{site_id}/feeds", responses=responses(404, 409, 422))
def change_feeds(site_id: SiteChanged, feeds: Feeds, session: Database, seen: Seen = None) -> SiteFeeds:
    """Keep a site's map, and say what follows from it."""
    filing.set_feeds(session, site_id, feeds, seen)
    return show_feeds(site_id, session)
