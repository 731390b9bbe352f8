"""One transaction for each request."""

from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import Session

__all__ = ["Database"]


def _session(request: Request) -> Iterator[Session]:
    """Open one transaction for the request; it is committed before the answer goes out."""
    with Session(request.app.state.engine, expire_on_commit=False) as session, session.begin():
        yield session


Database = Annotated[Session, Depends(_session, scope="function")]
