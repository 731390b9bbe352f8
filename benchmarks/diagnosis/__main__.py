"""Run with `python -m benchmarks.diagnosis [--cases N] [--seed S]`; prints tables in Markdown."""

import argparse
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np

from benchmarks.diagnosis.score import Outcome, calibration, run_case, run_habit_case

REPORTED_SEED = 4711
"""Never tuned on."""


def report(outcomes: list[Outcome]) -> str:
    """One row of the table."""
    readings = [outcome.readings for outcome in outcomes]
    error, _ = calibration([pair for outcome in outcomes for pair in outcome.said])
    top, _ = calibration([pair for outcome in outcomes for pair in outcome.said if pair[0] >= 0.05])
    share = np.mean
    return (
        f"{share([o.right for o in outcomes]):.1%} | {share([o.kind_right for o in outcomes]):.1%} | "
        f"{share([o.standing == 'inseparable' for o in outcomes]):.1%} | "
        f"{np.median(readings):.0f} | {np.percentile(readings, 90):.0f} | "
        f"{share([o.condemned_sound for o in outcomes]):.2%} | {error:.2%} | {top:.1%} | "
        f"{share([o.log_score for o in outcomes]):.2f}"
    )


def main() -> None:
    """Run all four ways of scoring and print them."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=REPORTED_SEED)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--misses", action="store_true", help="list what was missed, by fault")
    chosen = parser.parse_args()
    print(
        "| truth drawn | panel | right | kind right too | by a set | median readings | 90th | sound condemned "
        "| calibration error | of suspects over 5 % | log score (bits) |"
    )
    print("|---|---|---|---|---|---|---|---|---|---|---|")
    with ProcessPoolExecutor(chosen.jobs) as pool:
        for uniform in (False, True):
            for panel in (True, False):
                run = partial(run_case, chosen.seed, uniform=uniform, panel=panel)
                outcomes = list(pool.map(run, range(chosen.cases), chunksize=10))
                drawn = "uniform" if uniform else "by prior"
                print(f"| {drawn} | {'open' if panel else 'closed'} | {report(outcomes)} |", flush=True)
                if chosen.misses:
                    print(
                        Counter((o.truth.key, o.standing, o.readings) for o in outcomes if not o.right).most_common(40)
                    )
                    _, rows = calibration([pair for outcome in outcomes for pair in outcome.said])
                    print([(f"{p:.2f}", f"{t:.2f}", n) for p, t, n in rows])
        print("\n| habit | truth drawn | panel | right | median readings | 90th |\n|---|---|---|---|---|---|")
        for halving in (False, True):
            for uniform in (False, True):
                for panel in (True, False):
                    habit = partial(run_habit_case, chosen.seed, uniform=uniform, panel=panel, halving=halving)
                    results = list(pool.map(habit, range(chosen.cases), chunksize=50))
                    taken = [readings for _, readings in results]
                    print(
                        f"| {'halving' if halving else 'unit back to source'} | {'uniform' if uniform else 'by prior'} "
                        f"| {'open' if panel else 'closed'} | {np.mean([right for right, _ in results]):.1%} "
                        f"| {np.median(taken):.0f} | {np.percentile(taken, 90):.0f} |",
                        flush=True,
                    )


if __name__ == "__main__":
    main()
