"""A call's page as it stands, and what it found noted for the list of calls."""

from uuid import UUID

from fastapi import BackgroundTasks
from numpy.linalg import LinAlgError
from sqlalchemy.orm import Session

from zesty_copper.api.gate.afterwards import do_afterwards
from zesty_copper.api.pages.ratings import ratings_of
from zesty_copper.api.pages.unread import answers_kept_in
from zesty_copper.api.pages.workbench import Workbench, workbench_of, workbench_with
from zesty_copper.core.errors import BadInput, NumericalError
from zesty_copper.core.people import Person
from zesty_copper.service.answers import Answers, make_ready, whole_answer
from zesty_copper.service.jobs import job_for
from zesty_copper.store.calls import queries
from zesty_copper.store.records import Call, CallStatus, found_of, status_of

__all__ = ["shown", "shown_before_it_is_kept"]


def shown(
    session: Session,
    viewer: Person,
    call: Call,
    answer: Answers = whole_answer,
    later: BackgroundTasks | None = None,
) -> Workbench:
    """One call's page as it stands; what it says is kept for the list, and what it asks is reckoned out later."""
    job = job_for(call, viewer)
    page = workbench_with(call, viewer, job, answers_kept_in(session, answer)(job))
    if later is not None:
        do_afterwards(later, make_ready, job, page.diagnosis)
    return _noted(session, call, page)


def _noted(session: Session, call: Call, page: Workbench) -> Workbench:
    """The page, once what it found is noted for the list."""
    if page.diagnosis.planning or page.call.scope != call.summary.scope:
        return page
    found = found_of(page.diagnosis) if call.stands else None
    if found == call.summary.found:
        return page
    queries.set_found(session, call.summary.id, found, call.last)
    marked = CallStatus.OPEN if page.call.status is CallStatus.FOUND else page.call.status
    summary = page.call.model_copy(update={"found": found, "status": status_of(marked, found)})
    return page.model_copy(update={"call": summary})


def shown_before_it_is_kept(session: Session, person: Person, call_id: UUID) -> Workbench:
    """One call's page with a circuit that is new to it: one that cannot be shown is not kept.

    Raises
    ------
    BadInput
        If the circuit cannot be worked out.
    """
    call = queries.call(session, call_id)
    try:
        page = workbench_of(call, person)
        ratings_of(call)
    except (NumericalError, ArithmeticError, LinAlgError):
        raise BadInput("This circuit cannot be worked out: look at its numbers again.", "circuit") from None
    return _noted(session, call, page)
