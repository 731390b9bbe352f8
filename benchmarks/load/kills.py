"""Kill the application and its database, again and again, while people type; count what was lost or doubled.

Whoever types sends an entry until it is acknowledged, as the page does. What counts is what stands in the history at
the end: every acknowledged entry, once.
"""

import os
import random
import shutil
import signal
import subprocess
import sys
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from threading import Event
from typing import Any
from uuid import uuid4

import httpx
from tests.client import client_of
from tests.conftest import free_port

from benchmarks.measured import CHECKOUT
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.launch.cluster import cluster_folder

__all__ = ["kill_again_and_again", "new_call"]

PEOPLE = 8
PORT = free_port()
ADDRESS = f"http://127.0.0.1:{PORT}"
START_SECONDS = 420
"""The first start compiles what was copied, on a busy machine too."""
POINTS = ("L1@whip", "L2@whip", "G@whip", "L1@blade", "L2@blade", "L1@branch", "L2@branch")


class Miniature:
    """A checkout apart, with a cluster of its own, served as `./zesty start` does."""

    def __init__(self) -> None:
        self.folder = CHECKOUT / "var" / f"load-{os.getpid()}"
        shutil.copytree(CHECKOUT / "src" / "zesty_copper", self.folder / "src" / "zesty_copper")
        (self.folder / "web" / "dist").mkdir(parents=True)
        self.cluster = cluster_folder(self.folder, "postgres")
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Serve, and return when it answers."""
        environment = {k: v for k, v in os.environ.items() if k not in ("ZESTY_DATABASE_URL", "ZESTY_CHECKOUT")}
        environment |= {"PYTHONPATH": str(self.folder / "src"), "PYTHONSAFEPATH": "1"}
        command = [sys.executable, "-m", "zesty_copper.launch", "--port", str(PORT)]
        sink = subprocess.DEVNULL
        self._process = subprocess.Popen(command, env=environment, cwd=self.folder, stdout=sink, stderr=sink)
        deadline = time.monotonic() + START_SECONDS
        while time.monotonic() < deadline:
            with suppress(httpx.TransportError):
                if httpx.get(f"{ADDRESS}/readyz", timeout=5).is_success:
                    return
            if self._process.poll() is not None:
                raise RuntimeError(f"it did not start again: exit code {self._process.returncode}")
            time.sleep(0.1)
        raise RuntimeError("it did not start again in time")

    def kill_application(self) -> None:
        """End it as a power cut would; its database server stays behind."""
        assert self._process
        self._process.kill()
        self._process.wait()

    def kill_database(self) -> None:
        """End every process of the database server at once; the application must then end by itself."""
        assert self._process
        for server in self._servers():
            with suppress(ProcessLookupError):
                os.kill(server, signal.SIGKILL)
        self._process.wait(60)

    def end(self) -> None:
        """Stop it and take everything away."""
        assert self._process
        self._process.terminate()
        self._process.wait(60)
        shutil.rmtree(self.cluster, ignore_errors=True)
        shutil.rmtree(self.folder, ignore_errors=True)

    def _servers(self) -> list[int]:
        """The server's own process and all its children."""
        first = int((self.cluster / "data" / "postmaster.pid").read_text().split("\n", 1)[0])
        children = Path(f"/proc/{first}/task/{first}/children").read_text().split()
        return [first, *map(int, children)]


def kill_again_and_again(times: int, seed: int) -> tuple[int, int, int, int]:
    """Kill so many times under load; returns the entries acknowledged, lost and doubled, and the requests refused."""
    served, rng, ended = Miniature(), random.Random(seed), Event()
    try:
        served.start()
        with client_of(ADDRESS) as client:
            calls = [new_call(client) for _ in range(PEOPLE)]
        with ThreadPoolExecutor(PEOPLE) as pool:
            typing = [pool.submit(_type, call, ended, seed + number) for number, call in enumerate(calls)]
            for number in range(times):
                time.sleep(rng.uniform(1, 6))
                if number % 2:
                    served.kill_database()
                else:
                    served.kill_application()
                served.start()
            time.sleep(2)
            ended.set()
            told = [one.result(120) for one in typing]
        lost = doubled = 0
        with client_of(ADDRESS) as client:
            for call, (acknowledged, _) in zip(calls, told, strict=True):
                stored = _history(client, call)
                lost += sum(stored[one] == 0 for one in acknowledged)
                doubled += sum(count > 1 for count in stored.values()) + len(set(stored) - set(acknowledged))
        return sum(len(one) for one, _ in told), lost, doubled, sum(count for _, count in told)
    finally:
        served.end()


def _type(call: str, ended: Event, seed: int) -> tuple[list[tuple[str, str]], int]:
    """Say one thing after the other, each until it is acknowledged; what was, and how often it was not at first."""
    rng, acknowledged, refused = random.Random(seed), [], 0
    readings: list[str] = []
    while not ended.is_set():
        with suppress(httpx.TransportError, httpx.HTTPStatusError), client_of(ADDRESS, timeout=20) as client:
            while not ended.is_set():
                entry, until = _entry(rng, readings), time.monotonic() + START_SECONDS
                while True:
                    try:
                        answer = client.post(f"/api/calls/{call}/entries", params={"first": True}, json=entry)
                        if answer.is_success:
                            break
                    except httpx.TransportError:
                        pass
                    refused += 1
                    if time.monotonic() > until:
                        raise RuntimeError("an entry is refused for ever")
                    time.sleep(0.1)
                acknowledged.append((entry["id"], entry["action"]))
                if entry["action"] == "add":
                    readings.append(entry["reading_id"])
    return acknowledged, refused


def _entry(rng: random.Random, readings: list[str]) -> dict[str, Any]:
    """A new reading, or another number for one that is there."""
    is_new = len(readings) < 12 or (len(readings) < 60 and rng.random() < 0.2)
    key = str(uuid4()) if is_new else rng.choice(readings)
    a, b = rng.sample(POINTS, 2)
    place = {"kind": "between", "a": a, "b": b}
    reading = {"id": key, "measurement": {"place": place}, "value": round(rng.uniform(0, 245), 1), "unit": "V"}
    action = "add" if is_new else "correct"
    return {"id": str(uuid4()), "action": action, "reading_id": key, "reading": reading, "confirmed": True}


def _history(client: httpx.Client, call: str) -> Counter[tuple[str, str]]:
    stored: Counter[tuple[str, str]] = Counter()
    after: str | None = None
    while True:
        asked = {"most": 1000} | ({"after": after} if after else {})
        page = client.get(f"/api/calls/{call}/history", params=asked).raise_for_status().json()
        stored.update((one["id"], one["action"]) for one in page["entries"])
        after = page["next"]
        if after is None:
            return stored


def new_call(client: httpx.Client) -> str:
    """Open a call on new equipment; returns its id."""
    call = str(uuid4())
    equipment = {"equipment_id": str(uuid4()), "equipment_name": "Unit", "circuit": "heat_strip"}
    assert equipment["circuit"] in ready_made()
    told = {
        "id": call,
        "technician_id": client.get("/api/session").json()["person"]["id"],
        "complaint": "load",
        "starts_at": "2026-03-01T08:00:00Z",
        "new_equipment": equipment | {"site_id": str(uuid4()), "site_name": "Load"},
    }
    client.post("/api/calls", json=told).raise_for_status()
    return call
