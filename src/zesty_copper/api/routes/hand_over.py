"""Routes of what is handed over: sheets, calendar, tables, photos; each calls one function that knows no HTTP."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Body, Query, Response
from pydantic import Field

from zesty_copper.api.downloads import file_response
from zesty_copper.api.gate.access import CallChanged, CallSeen, SignedIn
from zesty_copper.api.gate.database import Database
from zesty_copper.api.pages.hand_over import Zone, hand_over_of, photo_words, reading_rows, returns_of
from zesty_copper.api.pages.workbench import workbench_of
from zesty_copper.api.problems import responses
from zesty_copper.core.errors import NotFound
from zesty_copper.core.frozen import Frozen
from zesty_copper.files.calendar import calendar_of
from zesty_copper.files.pdf.report import SheetKind, report_pdf
from zesty_copper.files.photo import taken_in
from zesty_copper.files.readings_csv import readings_csv
from zesty_copper.store.calls import photos, queries
from zesty_copper.store.calls.photos import NewPhoto, PhotoAt, ShownPhoto
from zesty_copper.store.clock import now

__all__ = ["hand_over_router"]

hand_over_router = APIRouter(prefix="/api/calls/{call_id}")


class PhotoShown(ShownPhoto):
    """A photo, and where it was taken in words."""

    at: str


class PhotoList(Frozen):
    """The photos of a call."""

    photos: tuple[PhotoShown, ...]


class WhichSheet(Frozen):
    """Which sheet, and in whose time."""

    sheet: SheetKind = SheetKind.ALL
    zone: Zone = Field(default="UTC", max_length=60)


@hand_over_router.get("/report", response_class=Response, responses=responses(404, 409, 422, 503))
def show_report(
    call_id: CallSeen, session: Database, viewer: SignedIn, asked: Annotated[WhichSheet, Query()]
) -> Response:
    """A sheet of a call as PDF."""
    hand_over = hand_over_of(session, queries.call(session, call_id), viewer, asked.zone)
    session.commit()
    return file_response(report_pdf(hand_over, asked.sheet), "application/pdf", f"{asked.sheet}-{call_id}.pdf")


@hand_over_router.get("/returns", response_class=Response, responses=responses(404, 409))
def show_returns(call_id: CallSeen, session: Database) -> Response:
    """The return visits of a call as iCalendar."""
    call = queries.call(session, call_id)
    returns = returns_of(call)
    if not returns:
        raise NotFound("Nobody has to come back: give a date first.", "return_on")
    where = f"{call.summary.equipment_name}, {call.summary.site_name}"
    written = calendar_of(call_id, where, call.summary.site_address, returns, now())
    return file_response(written, "text/calendar", f"return-{call_id}.ics")


@hand_over_router.get("/readings", response_class=Response, responses=responses(404, 409, 503))
def show_readings(call_id: CallSeen, session: Database, viewer: SignedIn) -> Response:
    """The readings and looks of a call as CSV (RFC 4180)."""
    page = workbench_of(queries.call(session, call_id), viewer)
    return file_response(readings_csv(list(reading_rows(page))), "text/csv; charset=utf-8", f"readings-{call_id}.csv")


@hand_over_router.get("/photos", responses=responses(404, 409))
def list_photos(call_id: CallSeen, session: Database) -> PhotoList:
    """The photos of a call, each at its place."""
    call = queries.call(session, call_id)
    return PhotoList(
        photos=tuple(
            PhotoShown(**dict(shown_photo), at=photo_words(call, shown_photo))
            for shown_photo in photos.listed(session, call_id)
        )
    )


@hand_over_router.put("/photos/{photo_id}", responses=responses(404, 409, 422))
def add_photo(
    call_id: CallChanged,
    photo_id: UUID,
    session: Database,
    at: Annotated[PhotoAt, Query()],
    photo: Annotated[bytes, Body(media_type="application/octet-stream")],
) -> PhotoList:
    """Keep a photo, JPEG or PNG, at a place of the circuit; the same sent again changes nothing."""
    if at.part is not None:
        part = queries.call(session, call_id).circuit.part(at.part)
        if at.lane is not None:
            queries.call(session, call_id).circuit.check_reaches(at.lane, part, "lane")
    taken_photo = taken_in(photo)
    new = NewPhoto(**at.model_dump(), id=photo_id, width=taken_photo.width, height=taken_photo.height)
    photos.add(session, call_id, new, taken_photo.jpeg, taken_photo.thumb)
    return list_photos(call_id, session)


@hand_over_router.get("/photos/{photo_id}", response_class=Response, responses=responses(404, 409, 422))
def show_photo(
    call_id: CallSeen, photo_id: UUID, session: Database, size: Literal["whole", "thumb"] = "whole"
) -> Response:
    """One photo."""
    headers = {"cache-control": "private, max-age=86400"}
    return Response(photos.picture(session, call_id, photo_id, size), media_type="image/jpeg", headers=headers)


@hand_over_router.delete("/photos/{photo_id}", responses=responses(404, 409))
def remove_photo(call_id: CallChanged, photo_id: UUID, session: Database) -> PhotoList:
    """Remove a photo; one that is gone already changes nothing."""
    photos.remove(session, call_id, photo_id)
    return list_photos(call_id, session)
