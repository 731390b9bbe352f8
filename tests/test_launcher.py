"""The launcher: one line for what is wrong, data kept from start to start, nothing left behind."""

import os
import shutil
import signal
import socket
import subprocess
import sys
from pathlib import Path

import httpx
import pytest
from tests.conftest import CHECKOUT, free_port, serving

from zesty_copper.launch.cluster import cluster_folder

COMMAND = [sys.executable, "-m", "zesty_copper.launch"]


def refused(*arguments: str, **environment: str) -> str:
    """Start where it cannot start; the one line it says."""
    done = subprocess.run(
        [*COMMAND, *arguments], env=os.environ | environment, capture_output=True, text=True, timeout=60, check=False
    )
    assert done.returncode == 1
    assert done.stdout == ""
    assert done.stderr.count("\n") == 1, done.stderr
    return done.stderr


def test_a_taken_port_is_one_line() -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        assert f"port {port}" in refused("--port", port, ZESTY_DATABASE_URL="postgresql://127.0.0.1:1/none")


def test_a_dead_database_is_one_line() -> None:
    line = refused("--port", str(free_port()), ZESTY_DATABASE_URL="postgresql://127.0.0.1:1/none")
    assert "database does not answer" in line


def test_fresh_never_empties_someone_elses_database() -> None:
    line = refused("--fresh", "--port", str(free_port()), ZESTY_DATABASE_URL="postgresql://127.0.0.1:1/none")
    assert "--fresh only empties the private database" in line


@pytest.mark.parametrize("stop", [signal.SIGTERM, signal.SIGINT])
def test_a_stop_leaves_nothing_behind_and_the_next_start_keeps_the_data(stop: signal.Signals) -> None:
    """A checkout in miniature, so that the developer's own data are not touched."""
    elsewhere = CHECKOUT / "var" / f"launch-{os.getpid()}"
    (elsewhere / "src").mkdir(parents=True)
    shutil.copytree(CHECKOUT / "src" / "zesty_copper", elsewhere / "src" / "zesty_copper")
    (elsewhere / "web" / "dist").mkdir(parents=True)
    environment = {k: v for k, v in os.environ.items() if k != "ZESTY_DATABASE_URL"}
    environment |= {"PYTHONPATH": str(elsewhere / "src"), "PYTHONSAFEPATH": "1"}
    port = str(free_port())
    name = f"Pell {os.getpid()}"
    try:
        for round_number in (1, 2):
            with serving([*COMMAND, "--port", port], environment, elsewhere) as (process, served):
                assert served == f"http://127.0.0.1:{port}"
                address = f"{served}/api/technicians"
                names = [person["name"] for person in httpx.get(address, timeout=30).json()]
                assert (name in names) is (round_number == 2)
                if round_number == 1:
                    told = {"id": "7d1c3c9a-1111-4a4a-8a8a-000000000001", "name": name}
                    assert httpx.post(address, json=told, timeout=30).status_code == 201
                    second = refused("--port", str(free_port()), **environment)
                    assert "is being served already" in second
                    assert httpx.get(address, timeout=30).status_code == 200, "the first goes on"
                process.send_signal(stop)
                assert process.wait(30) == 0
            assert not servers_on(cluster_folder(elsewhere, "postgres"))
        password = cluster_folder(elsewhere, "postgres") / "password"
        assert password.stat().st_mode & 0o777 == 0o600
    finally:
        shutil.rmtree(cluster_folder(elsewhere, "postgres"))
        shutil.rmtree(elsewhere, ignore_errors=True)


def servers_on(folder: Path) -> list[str]:
    """Command lines of database servers that still run on a folder."""
    found = []
    for line in Path("/proc").glob("[0-9]*/cmdline"):
        try:
            words = line.read_bytes().split(b"\0")
        except OSError:
            continue  # it ended while we looked
        if any(str(folder).encode() in word for word in words) and words[0].endswith(b"postgres"):
            found.append(line.parent.name)
    return found
