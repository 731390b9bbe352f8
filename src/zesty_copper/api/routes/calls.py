"""Routes of the list of calls and of a call's head; each calls one function that knows no HTTP."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import Field

from zesty_copper.api.gate.access import CallFiled, CallRestored, SignedIn
from zesty_copper.api.gate.database import Database
from zesty_copper.api.pages.repair import check_closing
from zesty_copper.api.problems import responses
from zesty_copper.core.errors import NotAllowed
from zesty_copper.core.people import Role
from zesty_copper.store.calls import listing, queries
from zesty_copper.store.calls.listing import CallFilter
from zesty_copper.store.records import CallDetails, CallPage, CallSummary

__all__ = ["call_router"]

call_router = APIRouter(prefix="/api/calls")


class CallsAsked(CallFilter):
    """Which calls, and which page of them."""

    after: UUID | None = Field(default=None, description="the last call of the page before")
    most: int = Field(default=25, ge=1, le=200)


@call_router.get("", responses=responses(404, 409, 422))
def list_calls(session: Database, person: SignedIn, asked: Annotated[CallsAsked, Query()]) -> CallPage:
    """Some calls, the latest first, that are all of what is asked."""
    return listing.calls(session, person, asked, asked.after, asked.most)


@call_router.patch("/{call_id}", responses=responses(404, 409, 422))
def change_details(call_id: CallFiled, details: CallDetails, session: Database, person: SignedIn) -> CallSummary:
    """Change a call's complaint, whose it is, when, and how far it is."""
    if details.technician_id not in (None, person.id) and person.role is not Role.LEAD:
        raise NotAllowed("A lead gives calls to others: ask yours.", "technician_id")
    if details.status == "done":
        check_closing(queries.call(session, call_id))
    queries.change_details(session, call_id, details)
    return queries.call(session, call_id).summary


@call_router.delete("/{call_id}", responses=responses(404, 409))
def delete_call(call_id: CallFiled, session: Database) -> CallSummary:
    """Take a call off the list, and say which it was; it can be put back."""
    queries.delete_call(session, call_id)
    return queries.call(session, call_id).summary


@call_router.post("/{call_id}/restored", responses=responses(404, 409))
def restore_call(call_id: CallRestored, session: Database) -> CallSummary:
    """Put a call back on the list."""
    queries.restore_call(session, call_id)
    return queries.call(session, call_id).summary
