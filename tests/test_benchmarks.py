"""Every benchmark runs: its smallest run, its table read."""

import os
import subprocess
import sys

import pytest
from tests.conftest import CHECKOUT

SMALLEST = {
    "diagnosis": ["--cases", "4", "--jobs", "1", "--technicians", "0", "--ways", "by prior"],
    "load": ["--smallest", "--kills", "0"],
    "logger": ["--smallest"],
    "mutation": ["--only", "ratings/rules/wires/boxes", "--workers", "1"],
    "speed": ["--smallest"],
    "take_along": ["--cases", "1"],
}


@pytest.mark.timeout(900)
@pytest.mark.parametrize("name", SMALLEST)
def test_a_benchmark_runs_to_its_table(name: str) -> None:
    environment = {key: value for key, value in os.environ.items() if key != "ZESTY_DATABASE_URL"}
    done = subprocess.run(
        [sys.executable, "-m", f"benchmarks.{name}", *SMALLEST[name]],
        cwd=CHECKOUT, env=environment, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-3000:]
    rows = [line for line in done.stdout.splitlines() if line.startswith("|")]
    assert len(rows) >= 3, done.stdout
