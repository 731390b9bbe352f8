"""Everything that reads or writes people: who they are, where they are signed in, and how they get in."""

import secrets
from datetime import datetime, timedelta
from hashlib import sha256
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, delete, exists, func, or_, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from zesty_copper.core.errors import Conflict, NotFound
from zesty_copper.core.people import Person, Role
from zesty_copper.store import audit
from zesty_copper.store.tables import LinkRow, PersonRow, SecretRow, SessionRow

__all__ = [
    "LINK_LASTS",
    "add_person",
    "begin_session",
    "change_person",
    "demo_people",
    "end_session",
    "end_sessions",
    "has_lead",
    "link_of",
    "make_link",
    "make_set_up_link",
    "password_of",
    "people",
    "person",
    "person_of",
    "secret",
    "session_person",
    "set_password",
    "take_link",
]

LINK_LASTS = timedelta(days=3)
"""How long a link may be used."""
SESSION_LASTS, SESSION_IDLES = timedelta(days=30), timedelta(days=4)
"""How long somebody stays signed in, at most and without asking for anything: over a long weekend, not longer."""
USED_AT_STEP = timedelta(minutes=10)
"""How often it is noted that a session is used."""


_PERSON = (PersonRow.id, PersonRow.name, PersonRow.role, PersonRow.may_open_panels, PersonRow.is_active)


def people(session: Session) -> list[Person]:
    """Everybody, by name."""
    return [person_of(row) for row in session.scalars(select(PersonRow).order_by(PersonRow.name))]


def demo_people(session: Session) -> list[Person]:
    """Whom the demo made up, leads first."""
    demo = select(PersonRow).where(PersonRow.is_demo, PersonRow.is_active)
    return [person_of(row) for row in session.scalars(demo.order_by(PersonRow.role != Role.LEAD, PersonRow.name))]


def person(session: Session, person_id: UUID) -> Person:
    """Return somebody, or raise NotFound."""
    return person_of(_row(session, person_id))


def has_lead(session: Session) -> bool:
    """Whether a lead can sign in."""
    may = or_(PersonRow.password.is_not(None), PersonRow.is_demo)
    return bool(session.scalar(select(exists().where(PersonRow.role == Role.LEAD, PersonRow.is_active, may))))


def add_person(session: Session, told: Person, *, is_demo: bool = False) -> None:
    """Put somebody on the list; the same sent again changes nothing.

    Raises
    ------
    Conflict
        If somebody else is on it under this name or id.
    """
    _check_name(session, told)
    values = told.model_dump(mode="json") | {"is_demo": is_demo}
    added = session.execute(insert(PersonRow).values(**values).on_conflict_do_nothing().returning(PersonRow.id)).all()
    if person(session, told.id) != told:
        raise Conflict("Somebody else is on the list under this id: look again before you add them.", "id")
    if added:
        audit.note(session, "person.added", about_id=told.id, after=told.model_dump(mode="json"))


def change_person(session: Session, told: Person) -> None:
    """Change somebody's name, role, grant or whether they may sign in; who may not is signed out.

    Raises
    ------
    NotFound
        If they are not on the list.
    Conflict
        If the name is taken, or no lead would be left.
    """
    # One at a time: two leads who step down at once would each count on the other.
    session.execute(select(PersonRow.id).where(PersonRow.role == Role.LEAD).order_by(PersonRow.id).with_for_update())
    row = session.get(PersonRow, told.id, with_for_update=True, populate_existing=True)
    if row is None:
        raise NotFound("This person is not on the list.", "person_id")
    _check_name(session, told)
    row.name, row.role = told.name, told.role
    row.may_open_panels, row.is_active = told.may_open_panels, told.is_active
    session.flush()
    if not has_lead(session):
        raise Conflict("Somebody must be able to lead: make another person a lead first.", "role")
    if not told.is_active:
        end_sessions(session, told.id)


def _check_name(session: Session, told: Person) -> None:
    same = func.lower(PersonRow.name) == told.name.lower()
    if session.scalar(select(exists().where(same, PersonRow.id != told.id))):
        raise Conflict("Somebody of this name is on the list already: add an initial.", "name")


def password_of(session: Session, name: str) -> tuple[UUID, str] | None:
    """Return who signs in by a name, and the hash of their password; none where nobody can."""
    row = session.execute(
        select(PersonRow.id, PersonRow.password)
        .where(func.lower(PersonRow.name) == name.strip().lower(), PersonRow.is_active, PersonRow.password.is_not(None))
        .order_by((PersonRow.name == name.strip()).desc())
        .limit(1)
    ).one_or_none()
    return None if row is None or row[1] is None else (row[0], row[1])


def set_password(session: Session, person_id: UUID, password: str) -> None:
    """Keep the hash of a new password; every session begun by the old one ends."""
    _row(session, person_id).password = password
    end_sessions(session, person_id)
    session.execute(delete(LinkRow).where(LinkRow.person_id == person_id))
    audit.note(session, "person.password", about_id=person_id)


def begin_session(session: Session, person_id: UUID) -> str:
    """Sign somebody in; returns what the cookie is to hold, which is kept nowhere else."""
    cookie = secrets.token_urlsafe(32)
    ended = or_(_now() - SessionRow.begun_at > SESSION_LASTS, _now() - SessionRow.used_at > SESSION_IDLES)
    session.execute(delete(SessionRow).where(ended))
    session.add(SessionRow(key=_key(cookie), person_id=person_id))
    session.flush()
    return cookie


def session_person(session: Session, cookie: str) -> Person | None:
    """Return who is signed in by a cookie; none where nobody is, or no longer."""
    record = session.execute(
        select(*_PERSON, SessionRow.begun_at, SessionRow.used_at, _now().label("now"))
        .join(SessionRow.person)
        .where(SessionRow.key == _key(cookie))
    )
    row = record.one_or_none()
    if row is None or not row.is_active:
        return None
    if row.now - row.begun_at > SESSION_LASTS or row.now - row.used_at > SESSION_IDLES:
        return None
    if row.now - row.used_at > USED_AT_STEP:
        session.execute(update(SessionRow).where(SessionRow.key == _key(cookie)).values(used_at=_now()))
    return person_of(row)


def end_session(session: Session, cookie: str) -> None:
    """Sign somebody out here."""
    session.execute(delete(SessionRow).where(SessionRow.key == _key(cookie)))


def end_sessions(session: Session, person_id: UUID) -> None:
    """Sign somebody out everywhere."""
    session.execute(delete(SessionRow).where(SessionRow.person_id == person_id))


def make_link(session: Session, person_id: UUID) -> str:
    """Return what a link is to hold that lets somebody choose a password; links made before no longer do."""
    _row(session, person_id)
    session.execute(delete(LinkRow).where(LinkRow.person_id == person_id))
    audit.note(session, "person.link", about_id=person_id)
    return _new_link(session, person_id)


def make_set_up_link(session: Session) -> str:
    """Return what a link is to hold that makes whoever opens it the first lead; the one before no longer does."""
    session.execute(delete(LinkRow).where(LinkRow.person_id.is_(None)))
    return _new_link(session, None)


def link_of(session: Session, token: str) -> UUID | None:
    """Return whose link this is; none for the first lead's.

    Raises
    ------
    NotFound
        If it was used, is too old, or never was one.
    """
    row = session.execute(
        select(LinkRow.person_id).where(LinkRow.key == _key(token), LinkRow.expires_at > _now())
    ).one_or_none()
    person_id: UUID | None = row[0] if row else None
    if row is None or (person_id is None and has_lead(session)):
        raise NotFound("This link was used already, or is too old: ask a lead for another.", "token")
    return person_id


def take_link(session: Session, token: str) -> None:
    """Use a link up, or raise NotFound where somebody else just did."""
    taken_link = delete(LinkRow).where(LinkRow.key == _key(token), LinkRow.expires_at > _now()).returning(LinkRow.key)
    if session.execute(taken_link).one_or_none() is None:
        raise NotFound("This link was used already, or is too old: ask a lead for another.", "token")


def secret(session: Session, purpose: str) -> str:
    """Return what this installation signs with for a purpose, made when it is first asked for."""
    new_secret = insert(SecretRow).values(purpose=purpose, value=secrets.token_urlsafe(48))
    session.execute(new_secret.on_conflict_do_nothing())
    return session.scalars(select(SecretRow.value).where(SecretRow.purpose == purpose)).one()


def person_of(row: Any) -> Person:
    """Return a stored person, from a row or from the columns of `_PERSON`."""
    return Person(
        id=row.id,
        name=row.name,
        role=Role(row.role),
        may_open_panels=row.may_open_panels,
        is_active=row.is_active,
    )


def _new_link(session: Session, person_id: UUID | None) -> str:
    token = secrets.token_urlsafe(24)
    expires_at = _now() + LINK_LASTS
    session.execute(insert(LinkRow).values(key=_key(token), person_id=person_id, expires_at=expires_at))
    return token


def _row(session: Session, person_id: UUID) -> PersonRow:
    row = session.get(PersonRow, person_id)
    if row is None:
        raise NotFound("This person is not on the list.", "person_id")
    return row


def _key(token: str) -> str:
    """What is kept of a token: enough to know it again, not to make it."""
    return sha256(token.encode()).hexdigest()


def _now() -> ColumnElement[datetime]:
    """The time by the database, which every process shares."""
    return func.now()
