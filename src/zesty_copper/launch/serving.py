"""The application on a database, ready to answer: who may come in, what is offered, where it listens."""

import socket
from collections.abc import Iterable
from pathlib import Path

import uvicorn
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from zesty_copper.api.app import create_app
from zesty_copper.api.gate.idle import let_go
from zesty_copper.demo.load import load_demo
from zesty_copper.launch.cluster import ClusterError
from zesty_copper.launch.places import CHECKOUT
from zesty_copper.store import filing, people
from zesty_copper.store.clock import now

__all__ = ["listen", "server_on", "settle"]

KEEP_ALIVE_SECONDS = 400
"""Longer than any client keeps an idle connection (browsers: 300 s at most), so that none is closed under a request."""
PAGES = CHECKOUT / "web" / "dist"


def settle(session: Session, *, with_demo: bool, is_local: bool) -> str:
    """See to who may come in; returns what the first lead's link is to hold, or nothing where someone can lead.

    Raises
    ------
    ClusterError
        If the demo's people would be where others than this machine reach them, or are where they are not wanted.
    """
    if filing.is_empty(session) and with_demo:
        if not is_local:
            raise ClusterError("the demo is for this machine alone: add --no-demo to begin with your own people.")
        load_demo(session, now().astimezone())
        let_go()
    if people.demo_people(session) and not (with_demo and is_local):
        raise ClusterError(
            "this database holds the demo, whose people anyone can be: begin anew with --fresh --no-demo."
        )
    return "" if people.has_lead(session) else people.make_set_up_link(session)


def server_on(
    engine: Engine,
    clamp: tuple[str, int],
    *,
    is_local: bool,
    names: Iterable[str] = (),
    certificate: Path | None = None,
    key: Path | None = None,
) -> uvicorn.Server:
    """Make the server of a database whose tables are up to date.

    Parameters
    ----------
    engine
        The database.
    clamp
        Where a logging clamp is reached.
    is_local
        Whether it serves this machine alone.
    names
        Host names by which it is known, besides this machine's.
    certificate, key
        Files for TLS; none: in the clear.
    """
    with Session(engine) as session, session.begin():
        secret = people.secret(session, "pages")
    app = create_app(engine, PAGES, [socket.gethostname(), *names], secret=secret, clamp=clamp, is_local=is_local)
    return uvicorn.Server(
        uvicorn.Config(
            app,
            log_level="warning",
            timeout_graceful_shutdown=3,
            timeout_keep_alive=KEEP_ALIVE_SECONDS,
            server_header=False,
            ssl_certfile=certificate,
            ssl_keyfile=key,
        )
    )


def listen(host: str, port: int) -> socket.socket:
    """Take the port before anything else is started, so that a taken one costs nothing.

    Raises
    ------
    ClusterError
        If it cannot be used.
    """
    # By its protocol the loop knows it for TCP, and lets no answer wait for the one before to be acknowledged.
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((host, port))
    except OSError as error:
        listening.close()
        raise ClusterError(
            f"port {port} on {host} cannot be used ({error.strerror}): choose another with --port."
        ) from None
    return listening
