"""Routes at the door: who is signed in, signing in and out, and choosing a password."""

from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Request, Response
from pydantic import Field
from sqlalchemy.orm import Session

from zesty_copper.api.gate.access import SignedIn, asked_by, cookie_name
from zesty_copper.api.gate.database import Database
from zesty_copper.api.gate.tries import at_own_password, at_the_door
from zesty_copper.api.problems import SignedOut, responses
from zesty_copper.core.errors import BadInput, NotAllowed
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Name, Person, Role
from zesty_copper.service import passwords
from zesty_copper.service.at_work import AtWork
from zesty_copper.store import audit, people

__all__ = ["door_router"]

door_router = APIRouter(prefix="/api")

_at_work = AtWork(at_once=2, waiting=24, seconds=10)
"""Each hash takes 64 MiB and a good part of a second, so few are made side by side."""

Password = Annotated[str, Field(max_length=passwords.MOST, repr=False)]
Token = Annotated[str, Field(min_length=1, max_length=64, repr=False)]


class Door(Frozen):
    """Who is signed in, and what else may be done at the door."""

    person: Person | None = Field(description="none where nobody is signed in")
    demo: tuple[Person, ...] = Field(description="whom the demo offers to be, on this machine alone")
    is_set_up: bool = Field(
        description="whether anyone can lead; if not, the program printed a link for the first lead"
    )


class SignIn(Frozen):
    """A name and a password."""

    name: str = Field(max_length=80)
    password: Password


class DemoChoice(Frozen):
    """Whom of the demo to be."""

    person_id: UUID


class Link(Frozen):
    """What an invitation's link holds."""

    token: Token


class Invited(Frozen):
    """Whose link it is."""

    person: Person | None = Field(description="none: whoever uses it becomes the first lead")


class LinkUsed(Frozen):
    """A link with the password that was chosen."""

    token: Token
    name: Name | None = Field(default=None, description="only of the first lead")
    password: Password


class NewPassword(Frozen):
    """The password so far and the next one."""

    now: Password
    password: Password


@door_router.get("/session")
def show_door(request: Request, session: Database, person: Annotated[Person | None, Depends(asked_by)]) -> Door:
    """Who is signed in here."""
    demo = people.demo_people(session) if person is None and _is_here(request) else []
    return Door(person=person, demo=tuple(demo), is_set_up=people.has_lead(session))


@door_router.post("/session", status_code=201, responses=responses(401, 403, 422, 429, 503))
def sign_in(told: SignIn, request: Request, response: Response, session: Database) -> Door:
    """Sign in by name and password."""
    name = told.name.strip().lower()
    client_host = request.client.host if request.client else ""
    tries = at_the_door(request.app.state.limiter, name, client_host)
    tries.count()
    stored = people.password_of(session, name)
    with _at_work.place():
        is_right = passwords.is_right(stored[1] if stored else None, told.password)
    if stored is None or not is_right:
        audit.note(session, "person.refused", about_id=stored[0] if stored else None, after={"from": client_host})
        session.commit()
        raise SignedOut("That name and password do not go together: try again, or ask a lead for a new link.")
    tries.was_right()
    return _let_in(stored[0], request, response, session)


@door_router.post("/session/demo", status_code=201, responses=responses(403, 422))
def be_someone_of_the_demo(choice: DemoChoice, request: Request, response: Response, session: Database) -> Door:
    """Sign in as someone made up, on this machine alone."""
    if not _is_here(request) or choice.person_id not in {person.id for person in people.demo_people(session)}:
        raise NotAllowed("Only the demo's people sign in without a password, and only on the machine that serves it.")
    return _let_in(choice.person_id, request, response, session)


@door_router.delete("/session", responses=responses(403))
def sign_out(
    request: Request,
    response: Response,
    session: Database,
    person: Annotated[Person | None, Depends(asked_by)],
    everywhere: bool = False,
) -> Door:
    """Sign out here, or everywhere; who is signed out already stays so."""
    if person is not None and everywhere:
        people.end_sessions(session, person.id)
    people.end_session(session, request.cookies.get(cookie_name(request), ""))
    response.delete_cookie(cookie_name(request), secure=request.url.scheme == "https", httponly=True, samesite="strict")
    return show_door(request, session, None)


@door_router.post("/link", responses=responses(403, 404, 422))
def look_at_link(link: Link, session: Database) -> Invited:
    """Whose link it is."""
    person_id = people.link_of(session, link.token)
    return Invited(person=people.person(session, person_id) if person_id else None)


@door_router.post("/link/use", status_code=201, responses=responses(403, 404, 409, 422, 503))
def use_link(told: LinkUsed, request: Request, response: Response, session: Database) -> Door:
    """Choose a password by a link, which then is used up, and come in."""
    person_id = people.link_of(session, told.token)
    if person_id is None:
        if told.name is None:
            raise BadInput("Say your name: it is what you sign in with.", "name")
        first = Person(id=uuid4(), name=told.name, role=Role.LEAD)
        people.add_person(session, first)
        person_id = first.id
    people.take_link(session, told.token)
    _choose(session, people.person(session, person_id), told.password)
    return _let_in(person_id, request, response, session)


@door_router.put("/password", responses=responses(401, 403, 422, 429, 503))
def change_password(
    told: NewPassword, request: Request, response: Response, session: Database, person: SignedIn
) -> Door:
    """Choose another password; everywhere else one is signed out."""
    tries = at_own_password(request.app.state.limiter, person.id)
    tries.count()
    stored = people.password_of(session, person.name)
    with _at_work.place():
        is_right = passwords.is_right(stored[1] if stored else None, told.now)
    if not is_right:
        raise BadInput("That is not your current password: type it again.", "now")
    tries.was_right()
    _choose(session, person, told.password)
    return _let_in(person.id, request, response, session)


def _choose(session: Session, person: Person, password: str) -> None:
    passwords.check_password(password, person.name)
    with _at_work.place():
        hashed = passwords.hashed(password)
    audit.act_as(session, person.id)
    people.set_password(session, person.id, hashed)


def _let_in(person_id: UUID, request: Request, response: Response, session: Session) -> Door:
    """Begin a session; one that the browser had before ends."""
    people.end_session(session, request.cookies.get(cookie_name(request), ""))
    person = people.person(session, person_id)
    if not person.is_active:
        raise NotAllowed("You no longer have access: ask a lead.")
    audit.act_as(session, person_id)
    audit.note(session, "person.signed_in", about_id=person_id)
    response.set_cookie(
        cookie_name(request),
        people.begin_session(session, person_id),
        max_age=int(people.SESSION_LASTS.total_seconds()),
        secure=request.url.scheme == "https",
        httponly=True,
        samesite="strict",
    )
    return Door(person=person, demo=(), is_set_up=True)


def _is_here(request: Request) -> bool:
    """Whether the server serves this machine alone, and who asks sits at it and not behind a proxy."""
    asked_at = request.url.hostname in ("localhost", "127.0.0.1", "::1")
    asked_from = request.client is not None and request.client.host == "127.0.0.1"
    return bool(request.app.state.is_local) and asked_at and asked_from and "x-forwarded-for" not in request.headers
