"""The launcher: one line for what is wrong, data kept from start to start, nothing left behind."""

import json
import os
import re
import shutil
import signal
import socket
import ssl
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest
import trustme
from tests.client import LEAD, client_of
from tests.conftest import CHECKOUT, Databases, free_port, serving

from zesty_copper.launch.cluster import Cluster, cluster_folder

COMMAND = [sys.executable, "-m", "zesty_copper.launch"]


def refused(*arguments: str, **environment: str) -> str:
    """Start where it cannot start; the one line it says."""
    inherited = {name: value for name, value in os.environ.items() if name != "ZESTY_CHECKOUT"}
    done = subprocess.run(
        [*COMMAND, *arguments], env=inherited | environment, capture_output=True, text=True, timeout=60, check=False
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


def test_what_was_installed_for_another_checkout_serves_nothing() -> None:
    line = refused("--port", str(free_port()), ZESTY_CHECKOUT="/srv/copy")
    assert f"this was installed for {CHECKOUT}" in line


def test_a_copied_checkout_uses_nothing_that_was_installed_for_the_first(tmp_path: Path) -> None:
    """Its packages point at the first one's source: they are thrown away before anything of them runs."""
    copy, ran = tmp_path / "copy", tmp_path / "ran"
    for name, of in (("copy/.venv/bin/python", "the first one's"), ("stubs/python3.11", "this machine's")):
        program = tmp_path / name
        program.parent.mkdir(parents=True)
        program.write_text(f'#!/bin/sh\necho "{of} $*" >>{ran}\n')
        program.chmod(0o755)
    (copy / ".venv" / "checkout").write_text("/srv/first\n")
    shutil.copy2(CHECKOUT / "zesty", copy)
    for name in ("requirements.txt", "pyproject.toml"):
        shutil.copy2(CHECKOUT / name, copy)
    environment = os.environ | {"PATH": f"{tmp_path / 'stubs'}:/usr/bin:/bin"}
    done = subprocess.run([copy / "zesty", "export", "x"], env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert not (copy / ".venv" / "bin" / "python").exists()
    assert "the first one's" not in ran.read_text()
    assert "this machine's -m venv --clear .venv" in ran.read_text()


def test_passwords_and_the_demo_stay_on_this_machine() -> None:
    nowhere = {"ZESTY_DATABASE_URL": "postgresql://127.0.0.1:1/none"}
    assert "in the clear" in refused("--host", "0.0.0.0", "--port", str(free_port()), **nowhere)
    assert "give both" in refused("--certificate", "here.pem", "--port", str(free_port()), **nowhere)


@pytest.fixture(scope="module")
def elsewhere() -> Iterator[tuple[Path, dict[str, str]]]:
    """A folder for data, so that the developer's own are not touched, and what to run with it."""
    folder = CHECKOUT / "var" / f"launch-{os.getpid()}"
    folder.mkdir(parents=True)
    environment = {k: v for k, v in os.environ.items() if k not in ("ZESTY_DATABASE_URL", "ZESTY_CHECKOUT")}
    yield folder, environment | {"ZESTY_HOME": str(folder)}
    shutil.rmtree(cluster_folder(folder, "postgres"))
    shutil.rmtree(folder, ignore_errors=True)


@contextmanager
def started(
    elsewhere: tuple[Path, dict[str, str]], *, exit_code: int = 0, who: str | None = LEAD
) -> Iterator[tuple[Any, httpx.Client]]:
    """The application served on it, and a client of it; it must end so, and leave no server behind."""
    folder, environment = elsewhere
    with serving([*COMMAND, "--port", str(free_port())], environment, folder) as (process, served):
        with client_of(served, who) as client:
            yield process, client
        process.terminate()
        assert process.wait(30) == exit_code
    assert not servers_on(cluster_folder(folder, "postgres"))


def people(client: httpx.Client) -> set[str]:
    return {person["name"] for person in client.get("/api/people").json()}


def put(client: httpx.Client, name: str) -> None:
    told = {"id": str(uuid4()), "name": name}
    assert client.post("/api/people", json=told).status_code == 201


def keeping(elsewhere: tuple[Path, dict[str, str]], *told: str) -> subprocess.CompletedProcess[str]:
    """Back up, or restore."""
    command = [sys.executable, "-m", "zesty_copper.launch.backup", *told]
    return subprocess.run(command, env=elsewhere[1], capture_output=True, text=True, check=False, timeout=60)


def test_data_outlive_every_end_and_travel_in_a_backup(elsewhere: tuple[Path, dict[str, str]]) -> None:
    folder, environment = elsewhere
    cluster = cluster_folder(folder, "postgres")
    # An attempt to make the cluster that was cut off.
    (cluster / "data.new" / "base").mkdir(parents=True)
    backup = str(folder / "all.dump")
    with started(elsewhere) as (process, client):
        put(client, "Pell Stayer")
        assert "is being served already" in refused("--port", str(free_port()), **environment)
        assert client.get("/readyz").json() == {"status": "ready"}, "the first goes on"
        kept = keeping(elsewhere, "backup", backup)
        assert (kept.returncode, kept.stderr) == (0, "")
        put(client, "Rook Latecomer")
        assert keeping(elsewhere, "restore", backup).stderr.count("served already") == 1, "not while it is served"
        process.send_signal(signal.SIGINT)
        assert process.wait(30) == 0
    assert (cluster / "password").stat().st_mode & 0o777 == 0o600

    # The number that an unclean end left in the file belongs to another program by now: to these tests.
    (cluster / "data" / "postmaster.pid").write_text(f"{os.getpid()}\n{cluster / 'data'}\n")
    with started(elsewhere, exit_code=1) as (process, client):
        assert {"Pell Stayer", "Rook Latecomer"} <= people(client)
        for server in servers_on(cluster):
            with suppress(ProcessLookupError):
                os.kill(int(server), signal.SIGKILL)
        assert process.wait(30) == 1, "it ends with its database"

    assert keeping(elsewhere, "restore", str(CHECKOUT / "src")).returncode == 1, "no backup"
    back = keeping(elsewhere, "restore", backup)
    assert (back.returncode, back.stderr) == (0, "")
    with started(elsewhere) as (_, client):
        assert "Pell Stayer" in people(client)
        assert "Rook Latecomer" not in people(client)

    # Nothing is forgotten before the checkout's name was typed.
    fresh = [*COMMAND, "--fresh", "--port", str(free_port())]
    for typed in ("", "yes\n"):
        done = subprocess.run(
            fresh, env=environment, input=typed, capture_output=True, text=True, check=False, timeout=60
        )
        assert done.returncode == 1
        assert f"type its name ({folder.name})" in done.stderr
        assert "nothing was forgotten" in done.stderr
    with started(elsewhere) as (_, client):
        assert "Pell Stayer" in people(client)

    with Cluster(cluster) as running, psycopg.connect(running.url) as connection:
        assert connection.execute("select rolsuper from pg_roles where rolname = current_user").fetchone() == (False,)
        assert connection.execute("show data_checksums").fetchone() == ("on",)
        connection.execute("update alembic_version set version_num = '9999'")
    assert "written by a newer version" in refused("--port", str(free_port()), **environment)


def test_an_older_database_is_backed_up_and_brought_up_to_date(elsewhere: tuple[Path, dict[str, str]]) -> None:
    """A backup that the version before people signed in has written, and what its pages showed of it."""
    folder, _ = elsewhere
    shutil.rmtree(cluster_folder(folder, "postgres"))
    put_back = keeping(elsewhere, "restore", str(CHECKOUT / "tests" / "older" / "version-0005.dump"))
    assert (put_back.returncode, put_back.stderr) == (0, "")
    shown = json.loads((CHECKOUT / "tests" / "older" / "version-0005.json").read_text("utf-8"))
    with started(elsewhere, who=None) as (process, client):
        assert {one["name"] for one in client.get("/api/session").json()["demo"]} == {"Ines Quarrell", "Tobin Marsh"}
        told = {"token": link_in(process), "name": "Hazel Anvil", "password": "kettle on the slipway"}
        assert client.post("/api/link/use", json=told).status_code == 201
        assert "Alder Finch" in people(client)
        calls = client.get("/api/calls").json()["calls"]
        assert {one["id"] for one in calls} == set(shown)
        for call in calls:
            page = client.get(f"/api/calls/{call['id']}").json()
            ratings = client.get(f"/api/calls/{call['id']}/ratings").json()
            assert shown[call["id"]] == {
                "complaint": page["call"]["complaint"],
                "technician": page["call"]["technician"]["name"],
                "values": [one["reading"]["value"] for one in page["readings"]],
                "circuit": page["circuit"]["name"],
                "kept": len(ratings["kept"]),
            }
    assert len(list((folder / "var" / "backups").glob("before-upgrade-*.dump"))) == 1


def test_without_the_demo_the_first_lead_begins_by_a_link(databases: Databases, tmp_path: Path) -> None:
    certificate, key = certificate_in(tmp_path)
    environment = os.environ | {"ZESTY_DATABASE_URL": databases.bare()}
    command = [*COMMAND, "--no-demo", "--port", str(free_port())]
    with serving(command, environment, CHECKOUT) as (process, served), client_of(served, None) as client:
        token = link_in(process)
        assert client.get("/api/session").json() == {"person": None, "demo": [], "is_set_up": False}
    with serving(command, environment, CHECKOUT) as (process, served), client_of(served, None) as client:
        told = {"token": token, "name": "Hazel Anvil", "password": "kettle on the slipway"}
        assert client.post("/api/link/use", json=told).status_code == 404, "each start makes another"
        lead = client.post("/api/link/use", json=told | {"token": link_in(process)}).json()["person"]
        assert (lead["name"], lead["role"], lead["may_open_panels"]) == ("Hazel Anvil", "lead", False)
        assert client.get("/api/calls").json()["calls"] == []
        # Two processes serve one database: who is signed in at one is at the other.
        with serving([*command[:-1], str(free_port())], environment, CHECKOUT) as (_, other):
            with client_of(other, None) as elsewhere:
                elsewhere.cookies.update(client.cookies)
                assert elsewhere.get("/api/session").json()["person"] == lead
                put(elsewhere, "Birch Mallet")
            assert people(client) == {"Hazel Anvil", "Birch Mallet"}
    # With a certificate others than this machine may ask, and the link is no longer offered.
    encrypted = [*command, "--host", "0.0.0.0", "--certificate", str(certificate), "--key", str(key)]
    with serving(encrypted, environment, CHECKOUT) as (_, served):
        trusted = ssl.create_default_context(cafile=tmp_path / "authority.pem")
        assert httpx.get(served.replace("0.0.0.0", "127.0.0.1") + "/readyz", verify=trusted).is_success
    with serving(command, environment, CHECKOUT) as (process, _):
        process.terminate()
        said, _ = process.communicate(timeout=30)
        assert said == "", "no further link"


def test_the_demo_is_served_to_nobody_else(databases: Databases) -> None:
    told = {"ZESTY_DATABASE_URL": databases.with_demo()}
    with serving([*COMMAND, "--port", str(free_port())], os.environ | told, CHECKOUT):
        pass
    assert "holds the demo" in refused("--no-demo", "--port", str(free_port()), **told)


def link_in(process: subprocess.Popen[str]) -> str:
    """What the first lead's link holds."""
    assert process.stdout is not None
    match = re.search(r"/join#(\S+)", process.stdout.readline())
    assert match
    return match[1]


def certificate_in(folder: Path) -> tuple[Path, Path]:
    """A certificate for this machine, and its key."""
    authority = trustme.CA()
    issued = authority.issue_cert("127.0.0.1")
    issued.private_key_pem.write_to_path(str(folder / "key.pem"))
    issued.cert_chain_pems[0].write_to_path(str(folder / "certificate.pem"))
    authority.cert_pem.write_to_path(str(folder / "authority.pem"))
    return folder / "certificate.pem", folder / "key.pem"


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
