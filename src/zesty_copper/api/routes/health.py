"""Whether the application runs, and whether it can answer: for whoever watches over it."""

from fastapi import APIRouter
from sqlalchemy import text

from zesty_copper.api.gate.database import Database
from zesty_copper.api.problems import responses
from zesty_copper.core.frozen import Frozen

__all__ = ["health_router"]

health_router = APIRouter()


class Health(Frozen):
    """How it is."""

    status: str


@health_router.get("/healthz")
async def is_alive() -> Health:
    """Whether it runs at all."""
    return Health(status="alive")


@health_router.get("/readyz", responses=responses(503))
def is_ready(session: Database) -> Health:
    """Whether it can answer: its database does."""
    session.execute(text("select 1"))
    return Health(status="ready")
