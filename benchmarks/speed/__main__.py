"""Run with `python -m benchmarks.speed` after `./zesty test` or with the pages built; prints a table in Markdown.

It starts a database cluster and a server of its own and leaves neither behind.
"""

import argparse
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple
from uuid import uuid4

import httpx
import numpy as np
from playwright.sync_api import sync_playwright
from tests.client import LEAD, client_of
from tests.network_by_hand import system_matrix
from tests.outside.ngspice import spice_phasors
from tests.web.doing import be, send

from zesty_copper.core.circuit.editing import Insert
from zesty_copper.core.circuit.editing import edited as edited_circuit
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import anticipate, diagnose, first_answer
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit, release
from zesty_copper.core.diagnosis.predict.states import state_of
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.network.netlist import build_netlist
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.ratings.rules.check import check

from benchmarks.diagnosis.world import World  # isort: skip
from benchmarks.measured import resident_mb, row, seconds, served  # isort: skip

FLAGS = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking"
FLAGS += " --disable-component-update --disable-sync"
MOST_READINGS = 10


class Size(NamedTuple):
    """How much of each is done."""

    cases: int
    parts: int
    readings: int
    at_once: int
    pages: int


WHOLE = Size(cases=32, parts=200, readings=200, at_once=16, pages=8)
SMALLEST = Size(cases=1, parts=30, readings=8, at_once=2, pages=1)
WALK_SECONDS = 0.4
"""Between an answer and the next number: much less than anybody takes to set the probes."""


def worlds(count: int, only: Circuit | None = None) -> Iterator[World]:
    """Circuits with faults, in turn."""
    rng = np.random.default_rng(88)
    for i in range(count):
        circuit = only or list(ready_made().values())[i % len(ready_made())]
        faults = faults_of(circuit)[:-1]
        yield World(circuit, faults[int(rng.integers(len(faults)))], rng)


def next_job(world: World, job: Job) -> tuple[Job, bool]:
    """Add what the next test asks, a look that finds nothing too; whether there was one."""
    test = diagnose(job).next_test
    if test is None or len(job.readings) > MOST_READINGS:
        return job, False
    if test.look is not None:
        look = Look(id=uuid4().hex, sign=test.look.sign, zone=test.look.zone, seen=False)
        return job.model_copy(update={"looks": (*job.looks, look)}), True
    readings = (Reading(id=uuid4().hex, measurement=m, value=world.read(m), unit=m.unit) for m in test.measurements)
    return job.model_copy(update={"readings": (*job.readings, *readings)}), True


def core(what: str, cases: Iterator[World], cold_ms: float, first_ms: float, next_ms: float) -> None:
    """The first diagnosis of a new circuit, then after each further reading the verdict and the next test."""
    cold, first, following = [], [], []
    for world in cases:
        release()
        job = Job(circuit=world.circuit, scope=Scope(panel_may_be_opened=True))
        cold.append(seconds(lambda job=job: diagnose(job)))  # type: ignore[misc] # bound at once
        going = True
        while going:
            # What the card asks is predicted while somebody walks there.
            anticipate(job, diagnose(job))
            job, going = next_job(world, job)
            first.append(seconds(lambda job=job: first_answer(job)))  # type: ignore[misc] # bound at once
            following.append(seconds(lambda job=job: diagnose(job)))  # type: ignore[misc] # bound at once
    row(f"core, {what}: first diagnosis of a new circuit", cold, cold_ms)
    row(f"core, {what}: verdict after a further reading", first, first_ms)
    row(f"core, {what}: and the next test", following, next_ms)


def in_turn(size: Size) -> None:
    """Every ready-made circuit in turn against one by itself: what is kept of each is still there."""
    jobs = [Job(circuit=c, scope=Scope(panel_may_be_opened=True)) for c in list(ready_made().values())[: size.cases]]
    release()
    rounds = [[seconds(lambda job=job: diagnose(job)) for job in jobs] for _ in range(4)]  # type: ignore[misc]
    alone = []
    for job in jobs:
        release()
        diagnose(job)
        alone += [seconds(lambda job=job: diagnose(job)) for _ in range(3)]  # type: ignore[misc]
    row(f"core, {len(jobs)} circuits in turn, warm", [one for listed in rounds[1:] for one in listed])
    row("core, the same one by one, warm", alone)


def longest(parts: int = WHOLE.parts) -> Circuit:
    """One circuit of so many parts: with splices in its whip."""
    longer = ready_made()["condenser_switch"]
    while len(longer.parts) < parts:
        splice = Part(id=f"splice_{len(longer.parts)}", kind="splice", name="splice", zone=Zone.UNIT)
        longer = edited_circuit(longer, Insert(behind="whip", part=splice))
    return longer


def growth(size: Size) -> None:
    """A circuit of very many parts in a process of its own, and very many readings."""
    told = subprocess.run(
        [sys.executable, "-m", "benchmarks.speed.longest", str(size.parts)], capture_output=True, text=True, check=True
    )
    cold, warm, most_mb = map(float, told.stdout.split())
    print(f"| core, {size.parts} parts: first, and again | {cold:.0f} ms | {warm:.0f} ms | 3000 ms |", flush=True)
    print(f"| core, {size.parts} parts: memory of the process | {most_mb:.0f} MB | | 500 MB |", flush=True)
    world = next(worlds(1, ready_made()["condenser_fused"]))
    job = Job(circuit=world.circuit, scope=Scope(panel_may_be_opened=True))
    going = True
    while going:
        job, going = next_job(world, job)
    measurements = [reading.measurement for reading in job.readings]
    readings = tuple(
        Reading(id=f"r{i}", measurement=m, value=world.read(m), unit=m.unit)
        for i in range(size.readings)
        for m in [measurements[i % len(measurements)]]
    )
    diagnose(job.model_copy(update={"readings": readings[:-6]}))
    times = [
        seconds(lambda n=n: diagnose(job.model_copy(update={"readings": readings[: size.readings - n]})))  # type: ignore[misc]
        for n in range(5, -1, -1)
    ]
    row(f"core, one reading more up to {size.readings}, with its next test", times, 1000)


def through_the_api(address: str, size: Size) -> None:
    """Each reading posted to the served application: the verdict received, then the next test."""
    first, following = [], []
    with client_of(address) as client:
        for world, call in calls_of(client, size.cases):
            bench = client.get(f"/api/calls/{call}").json()
            while (test := bench["diagnosis"]["next_test"]) and 0 < len(test["measurements"]) < MOST_READINGS - len(
                bench["readings"]
            ):
                for asked in test["measurements"]:
                    body = entry_of(world, asked)
                    time.sleep(WALK_SECONDS)
                    path = f"/api/calls/{call}/entries"
                    first.append(seconds(lambda: client.post(path, params={"first": True}, json=body)))  # noqa: B023
                    begun = time.perf_counter()
                    bench = client.get(f"/api/calls/{call}").json()
                    following.append(time.perf_counter() - begun)
    row("API: verdict after a further reading", first, 60)
    row("API: and the next test", following, 100)


def calls_of(client: httpx.Client, count: int) -> Iterator[tuple[World, str]]:
    """Calls opened on the demo's equipment, for numbers alone: every test asks for one."""
    technician = client.get("/api/people").json()[0]["id"]
    equipment = {e["circuit_name"]: e["id"] for s in client.get("/api/sites").json()["sites"] for e in s["equipment"]}
    for world in (world for world in worlds(count) if world.circuit.name in equipment):
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
        scope = {"panel_may_be_opened": True, "tools": ["loz", "sequence"]}
        client.put(f"/api/calls/{call}/scope", json=scope).raise_for_status()
        yield world, call


def entry_of(world: World, asked: dict[str, dict[str, str]]) -> dict[str, object]:
    """What the page sends of one reading."""
    reading = Reading.model_validate({"id": uuid4().hex, "measurement": asked, "value": 0, "unit": unit_of(asked)})
    reading = reading.model_copy(update={"value": world.read(reading.measurement)})
    said = {"action": "add", "reading_id": reading.id, "reading": reading.model_dump(mode="json")}
    return {"id": str(uuid4()), "confirmed": True, **said}


def many_at_once(address: str, size: Size) -> None:
    """So many first diagnoses at once, and how long the list of people takes meanwhile."""
    others: list[float] = []
    with client_of(address, timeout=60) as client, ThreadPoolExecutor(size.at_once) as pool:
        listed = [call for _, call in calls_of(client, 4 * size.at_once)][: size.at_once]
        # Each by a connection of its own, so that none waits for another's on our side.
        told = {"cookies": client.cookies, "timeout": 60}
        busy = [pool.submit(httpx.get, f"{address}/api/calls/{call}", **told) for call in listed]  # type: ignore[arg-type]
        while not all(one.done() for one in busy):
            others.append(seconds(lambda: client.get("/api/people")))
    row(f"API: another request while {size.at_once} diagnoses run", others, 200)


def unit_of(asked: dict[str, dict[str, str]]) -> str:
    """V, A or seq."""
    return {"between": "V", "around": "A", "turning": "seq"}[asked["place"]["kind"]]


def in_the_browser(address: str, size: Size) -> None:
    """First paint of the workbench, and Enter to the new verdict on the screen."""
    paints, answers = [], []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS.split())
        for _ in range(size.pages):
            context = browser.new_context(base_url=address, viewport={"width": 390, "height": 844})
            be(context, LEAD)
            page = context.new_page()
            page.goto("/")
            link = page.locator(".call-row a", has_text="Weak heat").first.get_attribute("href")
            assert link, "the demo has a call about weak heat"
            page.goto(link)
            page.locator(".verdict").wait_for()
            paints.append(page.evaluate("performance.now()") / 1e3)
            call = str(link).rsplit("/", 1)[1]
            send(context, "PUT", f"/api/calls/{call}/scope", {"tools": ["loz", "sequence"]})
            page.reload()
            fields = page.locator(".entry-number input")
            fields.first.wait_for()
            page.evaluate("""() => {
              const answered = () => (window.answeredAt ??= window.enteredAt && performance.now())
              new MutationObserver(answered).observe(
                document.querySelector('.bench-rest'), { childList: true, subtree: true, characterData: true })
              document.addEventListener('keydown', () => (window.enteredAt ??= performance.now()), true)
            }""")
            # A number in each field of the card; Enter after the last of them records.
            for i in range(fields.count()):
                fields.nth(i).fill("0.2")
            fields.last.press("Enter")
            waited = page.evaluate("""new Promise((done, fail) => {
              const look = () => {
                if (window.answeredAt) done(window.answeredAt - window.enteredAt)
                else if (performance.now() > window.enteredAt + 60000) fail(new Error('no answer within a minute'))
                else requestAnimationFrame(look)
              }
              look()
            })""")
            answers.append(waited / 1e3)
            page.keyboard.press("Control+z")
            page.wait_for_timeout(500)
            context.close()
        browser.close()
    row("page: workbench opened until the verdict stands", paints, 1500)
    row("page: Enter until the new verdict stands", answers, 200)


def whole_check() -> None:
    """Everything that the ratings judge of one circuit."""
    (sheet,) = sheets_of(ready_made()["condenser_fused"]).values()
    check(sheet)  # reads the tables
    row("ratings: a full check", [seconds(lambda: check(sheet)) for _ in range(7)], 20)


def low_rank(circuit: Circuit) -> None:
    """All faults in all samples of one state: edited, inverted afresh as dense matrices, and by ngspice."""
    opened = frozenset({"contactor"})

    def edited() -> None:
        compiled = compile_circuit(circuit)
        compiled.memory.forget()
        state_of(compiled, opened)

    known = compile_circuit(circuit)
    matrix = system_matrix(state_of(known, opened).topologies[0].solved)
    networks = len(known.edits.rows) * known.samples
    ours = [seconds(edited) for _ in range(5)]
    afresh = [seconds(lambda: [np.linalg.inv(matrix) for _ in known.edits.rows]) for _ in range(3)]
    row(f"{networks} faulted networks: eliminated and edited", ours)
    row(f"{networks} faulted networks: inverted afresh", afresh)
    print(f"| the one against the other | {np.median(afresh) / np.median(ours):.0f} times | | |", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        each = [seconds(lambda: spice_phasors(circuit, Path(folder), open_switches=opened)) for _ in range(10)]
    row("ngspice, one of them (process included)", each)


def main() -> None:
    """Run everything."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.speed")
    parser.add_argument("--smallest", action="store_true", help="one of each: whether it runs, not how fast it is")
    size = SMALLEST if parser.parse_args().smallest else WHOLE
    diagnose(Job(circuit=ready_made()["condenser_fused"]))  # what is compiled on first use is not timed
    print("| what | p50 | p95 | aim |\n|---|---|---|---|")
    core("every ready-made circuit", worlds(size.cases), 150, 25, 60)
    largest = max(ready_made().values(), key=lambda circuit: build_netlist(circuit).size)
    core(f"the largest ({largest.name})", worlds(min(6, size.cases), largest), 150, 25, 60)
    in_turn(size)
    growth(size)
    low_rank(ready_made()["condenser_fused"])
    whole_check()
    with served("speed") as (address, process, _):
        print(f"| server, nothing asked yet: memory | {resident_mb(process):.0f} MB | | 300 MB |", flush=True)
        through_the_api(address, size)
        many_at_once(address, size)
        in_the_browser(address, size)


if __name__ == "__main__":
    main()
