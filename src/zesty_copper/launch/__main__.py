"""Serve the application: database, migrations, demo, pages. Called by `./zesty start`."""

import argparse
import os
import signal
import sys
from contextlib import ExitStack
from datetime import datetime
from pathlib import Path
from threading import Thread
from types import FrameType

import uvicorn
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from zesty_copper.launch.backup import back_up
from zesty_copper.launch.cluster import Cluster, ClusterError, cluster_folder, holds_data
from zesty_copper.launch.places import CHECKOUT, HOME
from zesty_copper.launch.serving import listen, server_on, settle
from zesty_copper.stand_ins.logging_clamp import LoggingClamp
from zesty_copper.store.database import NewerSchema, connect, is_behind, migrate

LOOPBACK = "127.0.0.1"


def main() -> int:
    """Serve until told to stop; the exit code is 0, or 1 with one line on standard error."""
    chosen = _arguments()
    signal.signal(signal.SIGTERM, _leave)
    try:
        with ExitStack() as running:
            _serve(chosen, running)
    except (ClusterError, OSError) as error:
        print(f"zesty: {error}", file=sys.stderr)
        return 1
    except DBAPIError as error:
        reason = str(error.orig).strip().splitlines()[0]
        print(f"zesty: the database does not answer: {reason}", file=sys.stderr)
        return 1
    except (KeyboardInterrupt, SystemExit):
        return 0
    return 0


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="zesty start", description="Serve Zesty Copper.")
    parser.add_argument("--port", type=int, default=8420)
    parser.add_argument("--host", default=LOOPBACK, help="address to listen on (default: this machine only)")
    parser.add_argument(
        "--name", action="append", default=[], help="host name by which others open it, if not by address; repeatable"
    )
    parser.add_argument("--fresh", action="store_true", help="forget all data of the private database and begin anew")
    parser.add_argument("--no-demo", action="store_true", help="begin without the demo, with a link for the first lead")
    parser.add_argument(
        "--certificate", type=Path, help="file of the TLS certificate, where others than this machine ask"
    )
    parser.add_argument("--key", type=Path, help="file of its private key")
    return parser.parse_args()


def _serve(chosen: argparse.Namespace, running: ExitStack) -> None:
    if (chosen.certificate is None) != (chosen.key is None):
        raise ClusterError("--certificate and --key go together: give both.")
    if chosen.host != LOOPBACK and chosen.certificate is None:
        raise ClusterError(
            "passwords would go over the network in the clear: give --certificate and --key, or listen on this machine "
            "alone behind a server that does TLS."
        )
    listening = running.enter_context(listen(chosen.host, chosen.port))
    if os.environ.get("ZESTY_CHECKOUT", str(CHECKOUT)) != str(CHECKOUT):
        raise ClusterError(f"this was installed for {CHECKOUT}: delete .venv here, and start again.")
    url = os.environ.get("ZESTY_DATABASE_URL", "")
    if url and chosen.fresh:
        raise ClusterError("--fresh only empties the private database: empty the one of ZESTY_DATABASE_URL yourself.")
    cluster = None
    if not url:
        folder = cluster_folder(HOME, "postgres")
        if chosen.fresh and holds_data(folder):
            _ask_before_forgetting(folder)
        cluster = running.enter_context(Cluster(folder, fresh=chosen.fresh))
        url = cluster.url
    engine = connect(url)
    running.callback(engine.dispose)
    _upgrade(engine, url)
    is_local = chosen.host == LOOPBACK
    with Session(engine) as session, session.begin():
        token = settle(session, with_demo=not chosen.no_demo, is_local=is_local)
    clamp = running.enter_context(LoggingClamp()).address
    server = server_on(
        engine, clamp, is_local=is_local, names=chosen.name, certificate=chosen.certificate, key=chosen.key
    )
    listening.listen()  # who comes at once waits for the server instead of being refused
    address = f"{'https' if chosen.certificate else 'http'}://{chosen.host}:{chosen.port}"
    print(f"Zesty Copper is at {address} (Ctrl-C stops it)", flush=True)
    if token:
        print(f"Nobody can lead yet. The first lead begins at {address}/join#{token}", flush=True)
    if cluster is not None:
        Thread(target=_end_with, args=(cluster, server), daemon=True, name="end with the database").start()
    server.run(sockets=[listening])
    if cluster is not None and cluster.has_ended:
        raise ClusterError(f"the database stopped by itself: see {cluster.log}, then start again.")


def _ask_before_forgetting(folder: Path) -> None:
    """Have the checkout's name typed before all its data are forgotten.

    Raises
    ------
    ClusterError
        If anything else is typed, or nothing.
    """
    print(
        f"This forgets every call, reading and photo of {HOME}, kept in {folder}.\n"
        f"To go on, type its name ({HOME.name}):",
        file=sys.stderr,
        flush=True,
    )
    if sys.stdin.readline().strip() != HOME.name:
        raise ClusterError("nothing was forgotten, since the name was not typed.")


def _upgrade(engine: Engine, url: str) -> None:
    """Bring the tables up to date, with all that they held in a file first."""
    try:
        behind = is_behind(engine)
    except NewerSchema:
        raise ClusterError(
            "this database was written by a newer version: update the program, or restore an older backup."
        ) from None
    if behind:
        folder = HOME / "var" / "backups"
        folder.mkdir(parents=True, exist_ok=True)
        file = folder / f"before-upgrade-{datetime.now().astimezone():%Y-%m-%d-%H%M%S}.dump"
        back_up(url, file)
        print(f"zesty: bringing the database up to date; as it was, it is in {file}", file=sys.stderr)
    migrate(engine)


def _end_with(cluster: Cluster, server: uvicorn.Server) -> None:
    """Stop serving when the database has stopped."""
    cluster.wait()
    server.should_exit = True


def _leave(_: int, __: FrameType | None) -> None:
    raise SystemExit(0)


if __name__ == "__main__":
    sys.exit(main())
