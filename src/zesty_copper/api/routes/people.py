"""Routes of people, and of the log of who changed what."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import Field

from zesty_copper.api.gate.access import Lead
from zesty_copper.api.gate.database import Database
from zesty_copper.api.problems import responses
from zesty_copper.core.errors import BadInput, Conflict
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Person
from zesty_copper.service.log_words import words_of
from zesty_copper.store import audit, people
from zesty_copper.store.records import AuditLine

__all__ = ["people_router"]

people_router = APIRouter(prefix="/api")


class LogLine(AuditLine):
    """A line of the log, in words too."""

    words: str


class LogPage(Frozen):
    """Some lines of many, the latest first."""

    lines: tuple[LogLine, ...]
    next: int | None = Field(description="line after which the next page begins; none on the last")


class NewLink(Frozen):
    """A link to give to somebody, shown this once."""

    person: Person
    token: str = Field(description="goes behind `/join#`; lets them choose a password, once")
    lasts_days: int


@people_router.get("/people")
def list_people(session: Database) -> list[Person]:
    """Everybody."""
    return people.people(session)


@people_router.post("/people", status_code=201, responses=responses(409, 422))
def invite(person: Person, session: Database, lead: Lead) -> NewLink:
    """Put somebody on the list, with a link for them; the same sent again gives another link."""
    people.add_person(session, person)
    return make_link(person.id, session, lead)


@people_router.put("/people/{person_id}", responses=responses(404, 409, 422))
def change_person(person_id: UUID, person: Person, session: Database, _: Lead) -> Person:
    """Change somebody's name, role, whether they may open panels, or whether they may sign in."""
    if person.id != person_id:
        raise BadInput("This is about somebody else: the ids differ.", "id")
    people.change_person(session, person)
    return person


@people_router.post("/people/{person_id}/link", status_code=201, responses=responses(404, 409, 422))
def make_link(person_id: UUID, session: Database, _: Lead) -> NewLink:
    """Make a link by which somebody chooses a new password; they are signed out when they do."""
    person = people.person(session, person_id)
    if not person.is_active:
        raise Conflict("This person may not sign in: let them in again first.", "is_active")
    token = people.make_link(session, person_id)
    return NewLink(person=person, token=token, lasts_days=people.LINK_LASTS.days)


@people_router.get("/audit", responses=responses(422))
def show_log(
    session: Database,
    _: Lead,
    call_id: UUID | None = None,
    after: Annotated[int | None, Query(ge=1, le=2**62)] = None,
    most: Annotated[int, Query(ge=1, le=200)] = 50,
) -> LogPage:
    """Who changed what, the latest first; `after` is the last line of the page before."""
    page = audit.lines(session, call_id, after, most)
    lines = (LogLine(**dict(line), words=words_of(line.what, line.before, line.after)) for line in page.lines)
    return LogPage(lines=tuple(lines), next=page.next)
