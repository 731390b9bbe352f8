"""A million rows of a logger, from the browser's first piece to the chart: `python -m benchmarks.logger`."""

import argparse
import time
from contextlib import suppress
from functools import partial
from pathlib import Path
from uuid import uuid4

import httpx
import numpy as np
from tests.api.test_api import new_call
from tests.client import client_of

from benchmarks.measured import most_mb, row, seconds, served

ROWS, SMALLEST_ROWS, PIECE = 1_000_000, 20_000, 900_000
MOST_SECONDS, MOST_MB, CHART_MS = 20.0, 400.0, 300.0
WINDOWS = {"all of it": {}, "two hours": {"from_s": 20e3, "to_s": 27e3}, "a minute": {"from_s": 500.0, "to_s": 560.0}}
OCTETS = {"content-type": "application/octet-stream"}


def a_log(rows: int) -> bytes:
    """Ten samples a second for a day and more, dates written as most loggers do, one row in ten thousand spoiled."""
    rng = np.random.default_rng(1)
    at = np.datetime64("2026-07-14T09:00:00.000") + np.arange(rows) * np.timedelta64(100, "ms")
    amps = np.where(np.arange(rows) % 36_000 > 9_000, 18.2, 0.0) + np.abs(rng.normal(0, 0.05, rows))
    volts = 240 - 0.2 * amps + rng.normal(0, 0.2, rows)
    lines = ["Date/Time,L1-L2 (V),L1 (A),L2 (A)"]
    for text, v, a in zip(np.datetime_as_string(at).tolist(), volts.tolist(), amps.tolist(), strict=True):
        lines.append(f"{text[5:7]}/{text[8:10]}/{text[:4]} {text[11:]},{v:.1f},{a:.2f},{a:.2f}")
    for i in range(5000, rows, 10_000):
        lines[i] = "logger restarted"
    return "\n".join(lines).encode()


def child_of(process: int) -> int | None:
    """The process that reads files, which is the one begun last."""
    tasks = Path(f"/proc/{process}/task").glob("*/children")
    found = [int(child) for task in tasks for child in task.read_text(encoding="utf-8").split()]
    return max(found, default=None)


def import_it(api: httpx.Client, call_id: str, data: bytes, server: int, rows: int) -> tuple[str, float, float, float]:
    """Send and read a file; gives its id, the seconds of sending and reading, and the most memory held [MB]."""
    test_id, begun = str(uuid4()), time.perf_counter()
    path = f"/api/calls/{call_id}/load-tests"
    guess = api.post(f"/api/calls/{call_id}/recognized-logs", json={"head": data[:60_000].decode()}).json()
    for place in range(-(-len(data) // PIECE)):
        piece = data[place * PIECE : (place + 1) * PIECE]
        api.put(f"{path}/{test_id}/pieces/{place}", content=piece, headers=OCTETS).raise_for_status()
    sent = time.perf_counter() - begun
    told = {"id": test_id, "title": "A million rows", "mapping": guess["mapping"]}
    api.post(f"/api/calls/{call_id}/file-load-tests", json=told).raise_for_status()
    most = 0.0
    while True:
        time.sleep(0.1)
        reader = child_of(server)
        with suppress(OSError, AssertionError):  # it may have ended meanwhile
            most = max(most, most_mb(reader) if reader else 0.0)
        (test,) = (one for one in api.get(path).json()["tests"] if one["id"] == test_id)
        if test["state"] != "running":
            break
    assert test["state"] == "ready", test["why"]
    assert test["rows"]["rows"] + test["rows"]["left_out"] == rows
    return test_id, sent, time.perf_counter() - begun - sent, most


def draw(api: httpx.Client, path: str, asked: dict[str, float]) -> None:
    """Ask for what a chart draws."""
    api.get(path, params=asked).raise_for_status()


def main() -> None:
    """Print what each takes."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.logger")
    parser.add_argument("--smallest", action="store_true", help="few rows: whether it runs, not how fast it is")
    rows = SMALLEST_ROWS if parser.parse_args().smallest else ROWS
    data = a_log(rows)
    print(f"{rows:,} rows, {len(data) / 1e6:.0f} MB\n\n| what | it takes | held to |\n|---|---|---|", flush=True)
    with served("logger") as (address, server, _), client_of(address, timeout=60) as api:
        call_id = new_call(api)
        test_id, sent, reading, most = import_it(api, call_id, data, server, rows)
        print(f"| sent in pieces | {sent:.1f} s | |\n| read, analyzed, kept | {reading:.1f} s | |")
        print(
            f"| both | {sent + reading:.1f} s | {MOST_SECONDS:.0f} s |\n| memory | {most:.0f} MB | {MOST_MB:.0f} MB |"
        )
        print("\n| chart data | median | 95 of 100 | held to |\n|---|---|---|---|")
        path = f"/api/calls/{call_id}/load-tests/{test_id}/chart"
        for name, asked in WINDOWS.items():
            row(name, [seconds(partial(draw, api, path, asked)) for _ in range(30)], CHART_MS)


if __name__ == "__main__":
    main()
