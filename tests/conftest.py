"""A real PostgreSQL cluster of the tests' own, and the application served from it as a user gets it."""

import os
import re
import select
import shutil
import socket
import subprocess
import sys
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest
from hypothesis import settings
from tests.client import client_of

from zesty_copper.launch.cluster import Cluster, cluster_folder

# Every run tries the same examples; `--hypothesis-profile random` tries others, and more of them.
settings.register_profile("repeatable", derandomize=True, deadline=None)
settings.register_profile("random", max_examples=400, deadline=None)
settings.load_profile("repeatable")

CHECKOUT = Path(__file__).parents[1]


def free_port() -> int:
    """Ask for a port that nobody uses."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def serving(
    command: Sequence[str], environment: Mapping[str, str], folder: Path
) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """Run the application; gives the process and its address. However the block ends, the process ends with it."""
    process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True, cwd=folder)
    assert process.stdout is not None
    try:
        # A copy of the source is compiled first, on a busy machine beside everything else.
        assert select.select([process.stdout], [], [], 420)[0], "the server says nothing"
        line = process.stdout.readline()
        found = re.search(r"https?://\S+", line)
        assert found, f"the server said {line!r}"
        yield process, found.group()
    finally:
        process.terminate()
        try:
            process.wait(30)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        process.stdout.close()


@contextmanager
def database(name: str) -> Iterator[str]:
    """A cluster that ends with the block; gives its address."""
    folder = cluster_folder(CHECKOUT, f"{name}-{os.getpid()}")
    try:
        with Cluster(folder) as cluster:
            yield cluster.url
    finally:
        shutil.rmtree(folder)


@contextmanager
def application(url: str) -> Iterator[str]:
    """The application served from a database, demo loaded, as `./zesty start` does; gives its address."""
    command = [sys.executable, "-m", "zesty_copper.launch", "--port", str(free_port())]
    with serving(command, os.environ | {"ZESTY_DATABASE_URL": url}, CHECKOUT) as (process, address):
        yield address
        process.terminate()
        assert process.wait(30) == 0


@pytest.fixture(scope="session")
def database_url() -> Iterator[str]:
    """Start a cluster that ends with the session."""
    with database("test") as url:
        yield url


@pytest.fixture(scope="session")
def served(database_url: str) -> Iterator[str]:
    """Serve the application; gives its address."""
    with application(database_url) as address:
        yield address


@pytest.fixture
def api(served: str) -> Iterator[httpx.Client]:
    """A client of the served application, the demo's lead signed in."""
    with client_of(served) as client:
        yield client
