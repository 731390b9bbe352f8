"""How it stands up to a whole firm, and to being killed: `python -m benchmarks.load [--kills N]`.

Every request goes to this machine alone, and every loop is bounded.
"""

import argparse
import asyncio
import time
from concurrent.futures import ThreadPoolExecutor
from threading import Event
from typing import NamedTuple
from uuid import uuid4

import httpx
import psycopg
from tests.client import client_of

from benchmarks.load.kills import kill_again_and_again, new_call
from benchmarks.measured import most_mb, row, seconds, served
from benchmarks.speed.__main__ import longest, worlds

THINK_SECONDS = 1.0
LONG_PARTS = 40
ENTRIES = 10_000
"""As many as a call holds."""


class Size(NamedTuple):
    """How much of each is done."""

    people: int
    seconds: float
    calls: int
    sites: int
    at_once: int
    long_at_once: int


WHOLE = Size(people=50, seconds=20.0, calls=5_000, sites=500, at_once=16, long_at_once=20)
SMALLEST = Size(people=2, seconds=1.0, calls=20, sites=4, at_once=1, long_at_once=1)
LISTS = ("/api/calls", "/api/calls?search=pier", "/api/sites?search=quay", "/api/people")


def fill(database_url: str, size: Size) -> None:
    """Copy the demo's calls until there are as many as a firm has."""
    with psycopg.connect(database_url) as connection:
        connection.execute(
            "insert into site (id, name, address) select gen_random_uuid(), 'Quay store ' || n, n || ' Pier Road' "
            "from generate_series(1, %s) n",
            (size.sites,),
        )
        connection.execute(
            "insert into equipment (id, site_id, name, circuit) select gen_random_uuid(), s.id, 'Condenser', e.circuit "
            "from site s, (select circuit from equipment limit 1) e where s.name like 'Quay store %%'"
        )
        connection.execute(
            "insert into call (id, technician_id, equipment_id, complaint, starts_at, scope, circuit, status, visit) "
            "select gen_random_uuid(), c.technician_id, e.id, 'No cooling ' || n, now() - n * interval '1 hour', "
            "c.scope, c.circuit, c.status, c.visit from generate_series(1, %s) n, (select * from call limit 1) c, "
            "lateral (select id from equipment where name = 'Condenser' offset n %% %s limit 1) e",
            (size.calls, size.sites),
        )
        connection.execute("analyze")


def at_lists(address: str, size: Size) -> None:
    """So many people who look at lists, each again after a moment."""

    async def look(client: httpx.AsyncClient, number: int, until: float, times: list[float]) -> None:
        await asyncio.sleep(THINK_SECONDS * number / size.people)
        asked = number
        while time.monotonic() < until:
            begun = time.perf_counter()
            (await client.get(LISTS[asked % len(LISTS)])).raise_for_status()
            times.append(time.perf_counter() - begun)
            asked += 1
            await asyncio.sleep(THINK_SECONDS)

    async def all_of_them(cookies: httpx.Cookies) -> list[float]:
        times: list[float] = []
        limits = httpx.Limits(max_connections=size.people)
        async with httpx.AsyncClient(base_url=address, timeout=30, limits=limits, cookies=cookies) as client:
            until = time.monotonic() + size.seconds
            await asyncio.gather(*(look(client, number, until, times) for number in range(size.people)))
        return times

    with client_of(address) as client:
        row(f"{size.people} people at lists of {size.calls:,} calls", asyncio.run(all_of_them(client.cookies)), 500)


def beside_diagnoses(address: str, size: Size) -> None:
    """So many new circuits diagnosed at once, and how long the list of calls takes meanwhile."""
    others: list[float] = []
    circuits = [world.circuit for world in worlds(size.at_once)]
    with client_of(address, timeout=60) as client, ThreadPoolExecutor(size.at_once) as pool:
        calls = [new_call(client) for _ in range(size.at_once)]

        def diagnosed(number: int) -> None:
            # Each by a name of its own, so that nothing that is kept of one helps another.
            told = circuits[number].model_copy(update={"name": f"New {number}"}).model_dump(mode="json")
            client.put(f"/api/calls/{calls[number]}/circuit", json=told).raise_for_status()

        begun = time.perf_counter()
        busy = [pool.submit(diagnosed, number) for number in range(size.at_once)]
        while not all(one.done() for one in busy):
            others.append(seconds(lambda: client.get("/api/calls").raise_for_status()))
        took = time.perf_counter() - begun
        for one in busy:
            one.result()
    row(f"the list while {size.at_once} new circuits are diagnosed, {took:.1f} s", others, 300)


def long_ones(address: str, process: int, size: Size) -> None:
    """So many circuits of so many parts opened at once."""
    circuit = longest(LONG_PARTS)
    ended = Event()
    with client_of(address, timeout=120) as client, ThreadPoolExecutor(size.long_at_once + 1) as pool:
        calls = [new_call(client) for _ in range(size.long_at_once)]

        def watched() -> list[float]:
            times = []
            while not ended.wait(0.05):
                times.append(seconds(lambda: client.get("/api/calls").raise_for_status()))
            return times

        def opened(number: int) -> int:
            # Each its own circuit, so that nothing that is kept of one helps another.
            told = circuit.model_copy(update={"name": f"Long {number}"}).model_dump(mode="json")
            return client.put(f"/api/calls/{calls[number]}/circuit", json=told).status_code

        watching = pool.submit(watched)
        begun = time.perf_counter()
        try:
            statuses = list(pool.map(opened, range(size.long_at_once)))
        finally:
            ended.set()
        took = time.perf_counter() - begun
        row(f"the list while {size.long_at_once} circuits of {LONG_PARTS} parts are opened", watching.result())
    told = ", ".join(f"{statuses.count(statuse)} × {statuse}" for statuse in sorted(set(statuses)))
    print(f"| {size.long_at_once} circuits of {LONG_PARTS} parts opened at once | {took:.1f} s | {told} | no 500 |")
    print(f"| the most memory held by then | {most_mb(process):.0f} MB | | 2000 MB |", flush=True)


def a_long_history(address: str, database_url: str) -> None:
    """A call in which very much was said."""
    with client_of(address, timeout=60) as client:
        call = next(one["id"] for one in client.get("/api/calls?search=hums").json()["calls"])
        with psycopg.connect(database_url) as connection:
            connection.execute(
                "insert into entry (id, call_id, reading_id, action, reading) select gen_random_uuid(), call_id, "
                "reading_id, 'correct', jsonb_set(reading, '{value}', to_jsonb((reading->>'value')::float + n * 1e-4)) "
                "from generate_series(1, 10000) n, lateral (select * from entry where call_id = %s "
                "order by sequence offset n %% 5 limit 1) e limit %s",
                (call, ENTRIES - 5),
            )
            connection.execute("analyze entry")
        page = f"/api/calls/{call}"
        row(f"a call of {ENTRIES:,} entries: its page, first", [seconds(lambda: client.get(page).raise_for_status())])
        times = [seconds(lambda: client.get(page).raise_for_status()) for _ in range(20)]
        row(f"a call of {ENTRIES:,} entries: its page again", times, 500)
        history = [seconds(lambda: client.get(f"{page}/history").raise_for_status()) for _ in range(20)]
        row(f"a call of {ENTRIES:,} entries: a page of its history", history)
        told = client.get(page).json()["readings"][0]
        reading = told["reading"] | {"value": told["reading"]["value"] + 0.1}
        entry = {"id": str(uuid4()), "action": "correct", "reading_id": reading["id"], "reading": reading}
        refused = client.post(f"{page}/entries", json=entry | {"confirmed": True})
        assert (refused.status_code, refused.json()["code"]) == (422, "bad_input"), "a call holds no more"


def main() -> None:
    """Run everything."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=20, help="how often to kill; 0 to leave it out")
    parser.add_argument("--only-kills", action="store_true")
    parser.add_argument("--seed", type=int, default=1826)
    parser.add_argument("--smallest", action="store_true", help="one of each: whether it runs, not how well")
    chosen = parser.parse_args()
    size = SMALLEST if chosen.smallest else WHOLE
    print("| what | p50 | p95 | aim |\n|---|---|---|---|")
    if not chosen.only_kills:
        with served("load") as (address, process, database_url):
            fill(database_url, size)
            at_lists(address, size)
            beside_diagnoses(address, size)
            long_ones(address, process, size)
            a_long_history(address, database_url)
    if chosen.kills:
        acknowledged, lost, doubled, refused = kill_again_and_again(chosen.kills, chosen.seed)
        print(f"| {chosen.kills} kills: {acknowledged} entries acknowledged | {lost} lost | {doubled} doubled | 0, 0 |")
        print(f"| tries in between that were not answered | {refused} | | |", flush=True)


if __name__ == "__main__":
    main()
