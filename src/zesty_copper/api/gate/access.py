"""Who asks, and what of it is theirs: every route says so in the types of what it takes."""

from typing import Annotated
from uuid import UUID

from fastapi import Depends, Request
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from zesty_copper.api.gate.database import Database
from zesty_copper.api.problems import SignedOut
from zesty_copper.core.errors import NotAllowed, NotFound
from zesty_copper.core.people import Person, Role
from zesty_copper.store import audit, people
from zesty_copper.store.calls import queries

__all__ = [
    "CallChanged",
    "CallFiled",
    "CallRestored",
    "CallSeen",
    "EquipmentSeer",
    "Lead",
    "Opener",
    "SignedIn",
    "SiteChanged",
    "SiteSeen",
    "asked_by",
    "cookie_name",
    "is_signed_in",
    "must_be_signed_in",
]


def cookie_name(request: Request) -> str:
    """Name of the session's cookie; over TLS one that no other host, and nothing unencrypted, can set."""
    return "__Host-zesty-session" if request.url.scheme == "https" else "zesty-session"


def asked_by(request: Request, session: Database) -> Person | None:
    """Return who is signed in; none where nobody is."""
    cookie = request.cookies.get(cookie_name(request), "")
    person = people.session_person(session, cookie) if cookie else None
    audit.act_as(session, person.id if person else None)
    return person


def is_signed_in(engine: Engine | None, request: Request) -> bool:
    """Whether someone is signed in, asked before anything else of a request is looked at."""
    cookie = request.cookies.get(cookie_name(request), "")
    if engine is None or not cookie:
        return False
    with Session(engine) as session:
        return people.session_person(session, cookie) is not None


def _signed_in(person: Annotated[Person | None, Depends(asked_by)]) -> Person:
    if person is None:
        raise SignedOut("Sign in first: nothing that you typed is lost.")
    return person


must_be_signed_in = Depends(_signed_in)
"""For a whole router: nobody who is not signed in gets an answer."""
SignedIn = Annotated[Person, must_be_signed_in]
"""Anyone who is signed in."""


def _lead(person: SignedIn) -> Person:
    if person.role is not Role.LEAD:
        raise NotAllowed("Only a lead can do that: ask yours.")
    return person


def _opener(person: SignedIn) -> Person:
    if not person.role.opens_calls:
        raise NotAllowed("Only technicians and leads open calls and put things on file: ask one of them.")
    return person


def _equipment_seer(person: SignedIn) -> Person:
    if not person.role.sees_all_sites:
        raise NotAllowed("You see the sites of the calls that were handed to you: open them from there.")
    return person


def _call_seen(call_id: UUID, person: SignedIn, session: Database) -> UUID:
    if not queries.is_seen_by(session, call_id, person):
        raise NotFound("This call is not on file, or not yours: ask a lead to share it with you.", "call_id")
    return call_id


def _call_changed(call_id: Annotated[UUID, Depends(_call_seen)], person: SignedIn) -> UUID:
    _check_changes(person)
    return call_id


def _call_filed(call_id: Annotated[UUID, Depends(_call_seen)], person: SignedIn) -> UUID:
    _opener(person)
    return call_id


def _call_restored(call_id: UUID, person: Annotated[Person, Depends(_opener)], session: Database) -> UUID:
    if not (queries.is_seen_by(session, call_id, person, deleted=True) or queries.is_seen_by(session, call_id, person)):
        raise NotFound("This call is not on file, or not yours.", "call_id")
    return call_id


def _site_seen(site_id: UUID, person: SignedIn, session: Database) -> UUID:
    if not queries.sees_site(session, site_id, person):
        raise NotFound("This site is not on file, or none of your calls is there.", "site_id")
    return site_id


def _site_changed(site_id: Annotated[UUID, Depends(_site_seen)], person: SignedIn) -> UUID:
    _check_changes(person)
    return site_id


def _check_changes(person: Person) -> None:
    if not person.role.changes_calls:
        raise NotAllowed("You may look at this, not change it: ask a lead for more.")


Lead = Annotated[Person, Depends(_lead)]
"""A lead."""
Opener = Annotated[Person, Depends(_opener)]
"""Someone who opens calls, and puts sites and equipment on file."""
EquipmentSeer = Annotated[Person, Depends(_equipment_seer)]
"""Someone who sees every site and what stands there."""
CallSeen = Annotated[UUID, Depends(_call_seen)]
"""A call that is theirs to see who ask."""
CallChanged = Annotated[UUID, Depends(_call_changed)]
"""A call that is theirs to change who ask."""
CallFiled = Annotated[UUID, Depends(_call_filed)]
"""A call whose head is theirs to change who ask, or that they may take off the list."""
CallRestored = Annotated[UUID, Depends(_call_restored)]
"""A call of theirs, even when it was taken off the list."""
SiteSeen = Annotated[UUID, Depends(_site_seen)]
"""A site that is theirs to see who ask."""
SiteChanged = Annotated[UUID, Depends(_site_changed)]
"""A site whose map is theirs to change who ask."""
