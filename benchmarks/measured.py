"""What benchmarks share: times, rows of a table, and the application served for them."""

import os
import re
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from tests.conftest import free_port

from zesty_copper.launch.cluster import Cluster, cluster_folder

__all__ = ["CHECKOUT", "most_mb", "resident_mb", "row", "seconds", "served"]

CHECKOUT = Path(__file__).parents[1]


def seconds(work: Callable[[], object]) -> float:
    """Time one call."""
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def row(what: str, times: list[float], aim_ms: float | None = None) -> None:
    """Print one row of the table."""
    p50, p95 = (1e3 * float(np.percentile(times, share)) for share in (50, 95))
    print(f"| {what} | {p50:.0f} ms | {p95:.0f} ms | {f'{aim_ms:.0f} ms' if aim_ms else ''} |", flush=True)


@contextmanager
def served(name: str) -> Iterator[tuple[str, int, str]]:
    """Serve the application on a cluster of its own; gives its address, its process and its database's address."""
    folder = cluster_folder(CHECKOUT, f"{name}-{os.getpid()}")
    with Cluster(folder) as cluster:
        command = [sys.executable, "-m", "zesty_copper.launch", "--port", str(free_port())]
        environment = os.environ | {"ZESTY_DATABASE_URL": cluster.url}
        with subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True, cwd=CHECKOUT) as process:
            assert process.stdout is not None
            match = re.search(r"http://\S+", process.stdout.readline())
            assert match
            try:
                yield match.group(), process.pid, cluster.url
            finally:
                process.terminate()
                process.wait(20)
    shutil.rmtree(folder)


def resident_mb(process: int) -> float:
    """What a process holds in memory [MB]."""
    return _status_mb(process, "VmRSS")


def most_mb(process: int) -> float:
    """The most that a process has held in memory [MB]."""
    return _status_mb(process, "VmHWM")


def _status_mb(process: int, line: str) -> float:
    status = Path(f"/proc/{process}/status").read_text(encoding="utf-8")
    match = re.search(rf"{line}:\s+(\d+) kB", status)
    assert match  # Linux has the line
    return int(match[1]) / 1024
