"""A real PostgreSQL cluster of the tests' own, and the application served from it as a user gets it."""

import os
import re
import shutil
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from zesty_copper.launch.cluster import Cluster, cluster_folder

CHECKOUT = Path(__file__).parents[1]


def free_port() -> int:
    """Ask for a port that nobody uses."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@pytest.fixture(scope="session")
def database_url() -> Iterator[str]:
    """Start a cluster that ends with the session."""
    folder = cluster_folder(CHECKOUT, f"test-{os.getpid()}")
    with Cluster(folder) as cluster:
        yield cluster.url
    shutil.rmtree(folder)


@pytest.fixture(scope="session")
def served(database_url: str) -> Iterator[str]:
    """Serve the application, demo loaded, as `./zesty start` does; gives its address."""
    port = free_port()
    command = [sys.executable, "-m", "zesty_copper.launch", "--port", str(port)]
    environment = os.environ | {"ZESTY_DATABASE_URL": database_url}
    with subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True, cwd=CHECKOUT) as process:
        assert process.stdout is not None
        line = process.stdout.readline()
        found = re.search(r"http://\S+", line)
        assert found, f"the server said {line!r}"
        yield found.group()
        process.terminate()
        assert process.wait(20) == 0


@pytest.fixture
def api(served: str) -> Iterator[httpx.Client]:
    """A client of the served application."""
    with httpx.Client(base_url=served, timeout=30) as client:
        yield client
