"""A real PostgreSQL cluster of the tests' own, and the application served from it as a user gets it."""

import os
import re
import select
import shutil
import socket
import subprocess
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from functools import cached_property
from itertools import count
from pathlib import Path
from threading import Thread

import httpx
import psycopg
import pytest
from hypothesis import settings
from psycopg import sql
from sqlalchemy import make_url
from sqlalchemy.orm import Session
from tests.client import client_of

from zesty_copper.launch.cluster import CLUSTER_ROLE, ROLE, Cluster, cluster_folder
from zesty_copper.launch.serving import listen, server_on, settle
from zesty_copper.stand_ins.logging_clamp import LoggingClamp
from zesty_copper.store.database import connect, migrate

# Every run tries the same examples; `--hypothesis-profile random` tries others, and more of them.
settings.register_profile("repeatable", derandomize=True, deadline=None)
settings.register_profile("random", max_examples=400, deadline=None)
settings.load_profile("repeatable")

CHECKOUT = Path(__file__).parents[1]
LOOPBACK = "127.0.0.1"


def pytest_addoption(parser: pytest.Parser) -> None:
    """Take the option that runs what a night has time for."""
    parser.addoption("--night", action="store_true", help="run the tests marked `night` too")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Leave out what is for the night, unless it is asked for; begin with what takes longest."""
    if not config.getoption("--night"):
        night = [item for item in items if item.get_closest_marker("night")]
        config.hook.pytest_deselected(items=night)
        items[:] = [item for item in items if not item.get_closest_marker("night")]
    items.sort(key=lambda item: item.get_closest_marker("slow") is None)


def free_port() -> int:
    """Ask for a port that nobody uses."""
    with socket.socket() as probe:
        probe.bind((LOOPBACK, 0))
        return int(probe.getsockname()[1])


@contextmanager
def serving(
    command: Sequence[str], environment: Mapping[str, str], folder: Path
) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """Run the application; gives the process and its address. However the block ends, the process ends with it."""
    process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True, cwd=folder)
    assert process.stdout is not None
    try:
        # On a machine that is busy with everything else a start takes its time.
        assert select.select([process.stdout], [], [], 420)[0], "the server says nothing"
        line = process.stdout.readline()
        match = re.search(r"https?://\S+", line)
        assert match, f"the server said {line!r}"
        yield process, match.group()
    finally:
        process.terminate()
        try:
            process.wait(30)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        process.stdout.close()


class Databases:
    """Databases of one cluster: bare, with tables, or with the demo; the last two are copies of what was made once."""

    def __init__(self, cluster: Cluster, folder: Path) -> None:
        self._url = make_url(cluster.url)
        secret = (folder / "cluster-password").read_text()
        self._admin = psycopg.connect(
            host=LOOPBACK, port=self._url.port, user=CLUSTER_ROLE, password=secret, dbname="postgres", autocommit=True
        )
        self._numbers = count(1)

    def close(self) -> None:
        """Let go of the cluster."""
        self._admin.close()

    def bare(self) -> str:
        """Address of a database in which nothing is."""
        return self._made("template1")

    def with_tables(self) -> str:
        """Address of a database with tables and nothing in them."""
        return self._made(self._tables)

    def with_demo(self) -> str:
        """Address of a database with the demo in it."""
        return self._made(self._demo)

    def _made(self, template: str) -> str:
        name = f"made_{next(self._numbers)}"
        self._admin.execute(
            sql.SQL("create database {} template {} owner {}").format(*map(sql.Identifier, (name, template, ROLE)))
        )
        return self._url.set(database=name).render_as_string(hide_password=False)

    @cached_property
    def _tables(self) -> str:
        url = self.bare()
        engine = connect(url)
        migrate(engine)
        engine.dispose()
        return str(make_url(url).database)

    @cached_property
    def _demo(self) -> str:
        url = self.with_tables()
        engine = connect(url)
        with Session(engine) as session, session.begin():
            settle(session, with_demo=True, is_local=True)
        engine.dispose()
        return str(make_url(url).database)


@pytest.fixture(scope="session")
def databases() -> Iterator[Databases]:
    """A cluster that ends with the session."""
    folder = cluster_folder(CHECKOUT, f"test-{os.getpid()}")
    try:
        with Cluster(folder) as cluster:
            databases = Databases(cluster, folder)
            yield databases
            databases.close()
    finally:
        shutil.rmtree(folder)


@contextmanager
def application(url: str) -> Iterator[str]:
    """The application served from a database that has its tables, as `./zesty start` does; gives its address."""
    engine = connect(url)
    port = free_port()
    with listen(LOOPBACK, port) as listening, LoggingClamp() as clamp:
        server = server_on(engine, clamp.address, is_local=True)
        listening.listen()
        thread = Thread(target=server.run, kwargs={"sockets": [listening]}, name="application")
        thread.start()
        yield f"http://{LOOPBACK}:{port}"
        server.should_exit = True
        thread.join(30)
        assert not thread.is_alive(), "it does not end"
    engine.dispose()


@pytest.fixture(scope="session")
def database_url(databases: Databases) -> str:
    """Address of the database that is served."""
    return databases.with_demo()


@pytest.fixture(scope="session")
def served(database_url: str) -> Iterator[str]:
    """Serve the application with the demo; gives its address."""
    with application(database_url) as address:
        yield address


@pytest.fixture
def api(served: str) -> Iterator[httpx.Client]:
    """A client of the served application, the demo's lead signed in."""
    with client_of(served) as client:
        yield client
