"""One session for each request, and which version it changes."""

from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, Query, Request
from sqlalchemy.orm import Session

__all__ = ["Database", "Seen"]


def _session(request: Request) -> Iterator[Session]:
    """Open a session for the request; what it changed is committed before the answer goes out.

    A route that has long to compute commits first: nobody then waits for its rows, nor for its connection.
    """
    with Session(request.app.state.engine, expire_on_commit=False) as session:
        yield session
        session.commit()


Database = Annotated[Session, Depends(_session, scope="function")]

Seen = Annotated[str | None, Query(max_length=16, description="version that was changed; none: whatever it is by now")]
