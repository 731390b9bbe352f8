"""Photos of calls."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field
from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from zesty_copper.core.errors import BadInput, NotFound
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Line
from zesty_copper.store import audit
from zesty_copper.store.tables import PhotoRow

__all__ = ["MOST_PHOTOS", "NewPhoto", "PhotoAt", "ShownPhoto", "add", "jpegs", "listed", "picture", "remove"]

MOST_PHOTOS = 40


class PhotoAt(Frozen):
    """Where a photo was taken, and what it shows."""

    part: str | None = Field(default=None, max_length=60, description="of the circuit; none: of the whole")
    lane: str | None = Field(default=None, max_length=8)
    words: Line = Field(default="", max_length=160)


class NewPhoto(PhotoAt):
    """A photo to keep."""

    id: UUID = Field(description="made where it was taken: sending it twice changes nothing")
    width: int
    height: int


class ShownPhoto(NewPhoto):
    """A photo as a list shows it."""

    added_at: datetime


def add(
    session: Session, call_id: UUID, new: NewPhoto, jpeg: bytes, thumb: bytes, *, added_at: datetime | None = None
) -> None:
    """Keep a photo, and a small one of it; the same one sent again changes nothing.

    Parameters
    ----------
    added_at
        When it was first kept; none: now.

    Raises
    ------
    BadInput
        If the call holds as many as it can.
    """
    if session.get(PhotoRow, new.id) is not None:
        return
    if (session.scalar(select(func.count()).where(PhotoRow.call_id == call_id)) or 0) >= MOST_PHOTOS:
        raise BadInput(f"A call keeps {MOST_PHOTOS} photos: remove one first.", "photo")
    at = {} if added_at is None else {"added_at": added_at}
    session.execute(insert(PhotoRow).values(call_id=call_id, **new.model_dump(), jpeg=jpeg, thumb=thumb, **at))
    audit.note(session, "call.photo", call_id=call_id, after=new.words or "photo")


def listed(session: Session, call_id: UUID) -> tuple[ShownPhoto, ...]:
    """Every photo of a call, the first first."""
    names = tuple(ShownPhoto.model_fields)
    columns = [getattr(PhotoRow, name) for name in names]
    rows = session.execute(select(*columns).where(PhotoRow.call_id == call_id).order_by(PhotoRow.added_at, PhotoRow.id))
    return tuple(ShownPhoto.model_validate(dict(zip(names, row, strict=True))) for row in rows)


def jpegs(session: Session, call_id: UUID) -> list[bytes]:
    """Every photo of a call itself, in the order of the list."""
    query = select(PhotoRow.jpeg).where(PhotoRow.call_id == call_id).order_by(PhotoRow.added_at, PhotoRow.id)
    return list(session.scalars(query))


def picture(session: Session, call_id: UUID, photo_id: UUID, size: Literal["whole", "thumb"]) -> bytes:
    """Return one photo, or the small one of it; raises NotFound."""
    column = PhotoRow.jpeg if size == "whole" else PhotoRow.thumb
    picture_bytes = session.scalar(select(column).where(PhotoRow.id == photo_id, PhotoRow.call_id == call_id))
    if picture_bytes is None:
        raise NotFound("This photo is not on file.", "photo_id")
    return picture_bytes


def remove(session: Session, call_id: UUID, photo_id: UUID) -> None:
    """Remove a photo; one that is gone already changes nothing."""
    gone = delete(PhotoRow).where(PhotoRow.id == photo_id, PhotoRow.call_id == call_id).returning(PhotoRow.words)
    words = session.scalar(gone)
    if words is not None:
        audit.note(session, "call.photo", call_id=call_id, before=words or "photo")
