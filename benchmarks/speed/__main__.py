"""Run with `python -m benchmarks.speed` after `./zesty test` or with the pages built; prints a table in Markdown.

It starts a database cluster and a server of its own and leaves neither behind.
"""

import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import httpx
import numpy as np
from playwright.sync_api import sync_playwright
from tests.outside.ngspice import spice_phasors

from zesty_copper.core.circuit.editing import Insert
from zesty_copper.core.circuit.editing import edited as edited_circuit
from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.circuit.model import Circuit, Part, Zone
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.infer import looks
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.plan import candidates
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit, release
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.network.netlist import build_netlist
from zesty_copper.core.network.solve import solve
from zesty_copper.launch.cluster import Cluster, cluster_folder

from benchmarks.diagnosis.world import World  # isort: skip

CHECKOUT = Path(__file__).parents[2]
FLAGS = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking"
FLAGS += " --disable-component-update --disable-sync"
CASES = 32
MOST_READINGS = 10
SIZES = (13, 20, 40, 80, 120, 160, 200)
"""Parts. Memory grows as their square and time as their cube: the last takes a minute and a half, and 5 GB."""


def worlds(count: int, only: Circuit | None = None) -> Iterator[World]:
    """Circuits with faults, in turn."""
    rng = np.random.default_rng(88)
    for i in range(count):
        circuit = only or list(ready_made().values())[i % len(ready_made())]
        faults = faults_of(circuit)[:-1]
        yield World(circuit, faults[int(rng.integers(len(faults)))], rng)


def seconds(work: Callable[[], object]) -> float:
    """Time one call."""
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def row(what: str, times: list[float], aim_ms: float | None = None) -> None:
    """Print one row of the table."""
    p50, p95 = (1e3 * float(np.percentile(times, share)) for share in (50, 95))
    print(f"| {what} | {p50:.0f} ms | {p95:.0f} ms | {f'{aim_ms:.0f} ms' if aim_ms else ''} |", flush=True)


def next_job(world: World, job: Job) -> tuple[Job, bool]:
    """Add what the next test asks, a look that finds nothing too; whether there was one."""
    test = diagnose(job).next_test
    if test is None or len(job.readings) > MOST_READINGS:
        return job, False
    if test.look is not None:
        look = Look(id=uuid4().hex, sign=test.look.sign, zone=test.look.zone, seen=False)
        return job.model_copy(update={"looks": (*job.looks, look)}), True
    taken = (Reading(id=uuid4().hex, measurement=m, value=world.read(m), unit=m.unit) for m in test.measurements)
    return job.model_copy(update={"readings": (*job.readings, *taken)}), True


def core(what: str, cases: Iterator[World], cold_ms: float, warm_ms: float) -> None:
    """The first diagnosis of a new circuit, and each further reading with its next test."""
    cold, warm = [], []
    for world in cases:
        release()
        job = Job(circuit=world.circuit, scope=Scope(panel_may_be_opened=True))
        cold.append(seconds(lambda job=job: diagnose(job)))  # type: ignore[misc] # bound at once
        going = True
        while going:
            job, going = next_job(world, job)
            warm.append(seconds(lambda job=job: diagnose(job)))  # type: ignore[misc] # bound at once
    row(f"core, {what}: first diagnosis of a new circuit", cold, cold_ms)
    row(f"core, {what}: each further reading, with its next test", warm, warm_ms)


def growth() -> None:
    """How the first diagnosis grows with the number of parts: splices are put into one circuit's whip."""
    circuit = ready_made()["condenser_switch"]
    for parts in SIZES:
        longer = circuit
        while len(longer.parts) < parts:
            splice = Part(id=f"splice_{len(longer.parts)}", kind="splice", name="splice", zone=Zone.UNIT)
            longer = edited_circuit(longer, Insert(behind="whip", part=splice))
        release()
        size = build_netlist(longer).size
        job = Job(circuit=longer, scope=Scope(panel_may_be_opened=True))
        cold = seconds(lambda job=job: diagnose(job))  # type: ignore[misc] # bound at once
        warm = seconds(lambda job=job: diagnose(job))  # type: ignore[misc] # bound at once
        told = f"{len(longer.parts)} parts ({size} unknowns, {len(faults_of(longer))} faults)"
        print(f"| core, {told}: first, and again | {1e3 * cold:.0f} ms | {1e3 * warm:.0f} ms | |", flush=True)


@contextmanager
def served() -> Iterator[str]:
    """Serve the application on a cluster of its own."""
    folder = cluster_folder(CHECKOUT, f"speed-{os.getpid()}")
    with Cluster(folder) as cluster:
        command = [sys.executable, "-m", "zesty_copper.launch", "--port", "8429"]
        environment = os.environ | {"ZESTY_DATABASE_URL": cluster.url}
        with subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True, cwd=CHECKOUT) as process:
            assert process.stdout is not None
            found = re.search(r"http://\S+", process.stdout.readline())
            assert found
            yield found.group()
            process.terminate()
            process.wait(20)
    shutil.rmtree(folder)


def through_the_api(address: str) -> None:
    """Each reading posted to the served application, its answer received whole."""
    times = []
    with httpx.Client(base_url=address, timeout=30) as client:
        technician = client.get("/api/technicians").json()[0]["id"]
        equipment = {e["circuit"]["name"]: e["id"] for s in client.get("/api/sites").json() for e in s["equipment"]}
        for world in (world for world in worlds(CASES) if world.circuit.name in equipment):
            call = str(uuid4())
            told = {
                "id": call,
                "technician_id": technician,
                "equipment_id": equipment[world.circuit.name],
                "complaint": "speed",
                "starts_at": "2026-03-01T08:00:00Z",
                "panel_may_be_opened": True,
            }
            client.post("/api/calls", json=told).raise_for_status()
            # Numbers alone: every test asks for one.
            scope = {"panel_may_be_opened": True, "tools": ["loz", "sequence"]}
            bench = client.put(f"/api/calls/{call}/scope", json=scope).json()
            while (test := bench["diagnosis"]["next_test"]) and len(bench["readings"]) < 10:
                for asked in test["measurements"]:
                    reading = Reading.model_validate(
                        {"id": uuid4().hex, "measurement": asked, "value": 0, "unit": unit_of(asked)}
                    )
                    value = world.read(reading.measurement)
                    body = {
                        "id": str(uuid4()),
                        "action": "add",
                        "reading_id": reading.id,
                        "reading": reading.model_copy(update={"value": value}).model_dump(mode="json"),
                        "confirmed": True,
                    }
                    begun = time.perf_counter()
                    bench = client.post(f"/api/calls/{call}/entries", json=body).json()
                    times.append(time.perf_counter() - begun)
    row("API: each reading, answer received", times, 100)


def unit_of(asked: dict[str, dict[str, str]]) -> str:
    """V, A or seq."""
    return {"between": "V", "around": "A", "turning": "seq"}[asked["place"]["kind"]]


def in_the_browser(address: str) -> None:
    """First paint of the workbench, and Enter to the new verdict on the screen."""
    paints, answers = [], []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS.split())
        for _ in range(8):
            context = browser.new_context(base_url=address, viewport={"width": 390, "height": 844})
            page = context.new_page()
            page.goto("/")
            link = page.locator(".call-row", has_text="Weak heat").first.get_attribute("href")
            context.clear_cookies()
            page.goto(str(link))
            page.locator(".verdict").wait_for()
            paints.append(page.evaluate("performance.now()") / 1e3)
            call = str(link).rsplit("/", 1)[1]
            page.request.put(f"/api/calls/{call}/scope", data={"tools": ["loz", "sequence"]})
            page.reload()
            page.get_by_role("button", name="Set it up").click()
            page.evaluate("""() => {
              new MutationObserver(() => (window.answeredAt ??= performance.now())).observe(
                document.querySelector('.bench-rest'), { childList: true, subtree: true, characterData: true })
              document.addEventListener('keydown', () => (window.enteredAt = performance.now()), true)
            }""")
            page.get_by_label("Number the meter shows").press_sequentially("0.2")
            page.keyboard.press("Enter")
            page.wait_for_function("window.answeredAt !== undefined")
            answers.append(page.evaluate("window.answeredAt - window.enteredAt") / 1e3)
            page.keyboard.press("Control+z")
            page.wait_for_timeout(500)
            context.close()
        browser.close()
    row("page: workbench opened until the verdict stands", paints, 1500)
    row("page: Enter until the new verdict stands", answers, 200)


def low_rank(circuit: Circuit) -> None:
    """All faults in all samples of one state: edited, solved afresh, and by ngspice."""
    known = compiled.compile_circuit(circuit)
    state = frozenset({"contactor"})

    def edited() -> None:
        compiled._topology.cache_clear()
        compiled.state_of.cache_clear()
        for block in compiled.state_of(known, state).blocks:
            assert block.edited.amount is not None

    def afresh() -> None:
        for _ in known.edits.rows:
            solve(known.netlist, known.nuisance.conditions, state)

    networks = len(known.edits.rows) * known.samples
    row(f"{networks} faulted networks: edited", [seconds(edited) for _ in range(5)])
    row(f"{networks} faulted networks: inverted afresh", [seconds(afresh) for _ in range(3)])
    with tempfile.TemporaryDirectory() as folder:
        each = [seconds(lambda: spice_phasors(circuit, Path(folder), open_switches=state)) for _ in range(10)]
    row("ngspice, one of them (process included)", each)


def main() -> None:
    """Run everything."""
    print("| what | p50 | p95 | aim |\n|---|---|---|---|")
    core("every ready-made circuit", worlds(CASES), 300, 40)
    largest = max(ready_made().values(), key=lambda circuit: build_netlist(circuit).size)
    core(f"the largest ({largest.name})", worlds(6, largest), 500, 60)
    growth()
    low_rank(ready_made()["condenser_fused"])
    with served() as address:
        through_the_api(address)
        in_the_browser(address)


if __name__ == "__main__":
    main()
