"""Run with `python -m benchmarks.mutation`; prints a table in Markdown and ends with 1 if a safety rule survives.

Each change of `changes.toml` is made by itself in a copy of the checkout, and its tests are run there until one fails.
"""

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import tomllib
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

CHECKOUT = Path(__file__).parents[2]
CORE = Path("src/zesty_copper/core")
COPIED = ("src", "tests", "benchmarks", "pyproject.toml")
LONGEST_SECONDS = 900


@dataclass(frozen=True)
class Change:
    """One line of one file of the core, what it becomes, and the tests that must notice."""

    what: str
    file: str
    line: str
    instead: str
    tests: tuple[str, ...]
    safety: bool = False


def changes() -> list[Change]:
    """The list, checked against the source: each line must stand there exactly once."""
    table = tomllib.loads(Path(__file__).with_name("changes.toml").read_text("utf-8"))
    listed = [Change(**{**one, "tests": tuple(one["tests"])}) for one in table["change"]]
    for change in listed:
        count = (CHECKOUT / CORE / change.file).read_text("utf-8").count(change.line)
        if count != 1:
            raise SystemExit(f"“{change.what}”: its line stands {count} times in {change.file}; mend changes.toml.")
    return listed


def is_killed(change: Change, copy: Path) -> bool:
    """Make one change in a copy, run its tests, and take it back."""
    path = copy / CORE / change.file
    before = path.read_text("utf-8")
    path.write_text(before.replace(change.line, change.instead), "utf-8")
    try:
        listed = [test for test in change.tests if (copy / test).exists()]
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *listed]
        environment = {key: value for key, value in os.environ.items() if key != "NUMBA_CACHE_DIR"}
        environment["OPENBLAS_NUM_THREADS"] = "1"
        run = subprocess.run(
            command, cwd=copy, env=environment, capture_output=True, timeout=LONGEST_SECONDS, check=False
        )
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(before, "utf-8")
    return run.returncode != 0


def survivors_of(listed: Sequence[Change], workers: int) -> list[Change]:
    """Try every change, so many at a time, each worker in its own copy."""
    with tempfile.TemporaryDirectory() as folder:
        copies: SimpleQueue[Path] = SimpleQueue()
        for number in range(workers):
            copy = Path(folder) / str(number)
            for name in COPIED:
                source = CHECKOUT / name
                (shutil.copytree if source.is_dir() else shutil.copy2)(source, copy / name)
            copies.put(copy)

        def tried(change: Change) -> bool:
            copy = copies.get()
            killed = is_killed(change, copy)
            copies.put(copy)
            print(f"{'killed  ' if killed else 'SURVIVED'} {change.file}: {change.what}", file=sys.stderr, flush=True)
            return killed

        with ThreadPoolExecutor(workers) as pool:
            return [change for change, killed in zip(listed, pool.map(tried, listed), strict=True) if not killed]


def main() -> None:
    """Run the list, or what is named, and report survivors by module."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.mutation")
    parser.add_argument("--only", nargs="*", default=[""], help="words of the changes to try")
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    told = parser.parse_args()
    listed = [one for one in changes() if any(words in f"{one.file} {one.what}" for words in told.only)]
    survived = survivors_of(listed, told.workers)
    by_module: dict[str, list[Change]] = defaultdict(list)
    for change in listed:
        by_module[change.file.split("/")[0]].append(change)
    print("| module | changes | killed | survivors |\n|---|---|---|---|")
    for module, of_module in by_module.items():
        left = [change.what for change in of_module if change in survived]
        print(f"| {module} | {len(of_module)} | {len(of_module) - len(left)} | {'; '.join(left)} |")
    print(f"| all | {len(listed)} | {len(listed) - len(survived)} | |")
    sys.exit(any(change.safety for change in survived))


if __name__ == "__main__":
    main()
