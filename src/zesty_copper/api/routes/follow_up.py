"""Routes of what follows a visit: the board, and equipment over its visits; each calls one function without HTTP."""

from uuid import UUID

from fastapi import APIRouter

from zesty_copper.api.gate.access import EquipmentSeer, SignedIn
from zesty_copper.api.gate.database import Database
from zesty_copper.api.problems import responses
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.tools.trends import Trend, trends_of
from zesty_copper.store.calls import board, visits

__all__ = ["follow_up_router"]

follow_up_router = APIRouter(prefix="/api")


class Trends(Frozen):
    """A piece of equipment over its visits."""

    visits: int
    trends: tuple[Trend, ...]


@follow_up_router.get("/board")
def show_board(session: Database, person: SignedIn) -> board.Board:
    """What is due over all calls that are theirs to see, the most dangerous first."""
    return board.board(session, person)


@follow_up_router.get("/equipment/{equipment_id}/trends", responses=responses(404, 409))
def show_trends(equipment_id: UUID, session: Database, person: EquipmentSeer) -> Trends:
    """What a piece of equipment measured over its visits, and what is getting worse."""
    past_visits = visits.visits_to(session, equipment_id, person)
    session.commit()
    return Trends(visits=len(past_visits), trends=trends_of(past_visits))
