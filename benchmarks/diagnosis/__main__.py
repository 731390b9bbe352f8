"""Run with `python -m benchmarks.diagnosis [--cases N] [--seed S]`; prints tables in Markdown."""

import argparse
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np

from benchmarks.diagnosis.score import RUN, Outcome, Way, calibration, run_case, run_habit_case

REPORTED_SEED = 91_117
"""Never tuned on."""

HEAD = (
    "right | kind right too | by a set | median readings | 90th | sound condemned | wrong at 90 % | calibration error "
    "| of suspects over 5 % | log score (bits)"
)


def report(outcomes: Sequence[Outcome]) -> str:
    """One row of the table."""
    readings = [outcome.readings for outcome in outcomes]
    error, _ = calibration([pair for outcome in outcomes for pair in outcome.said])
    top, _ = calibration([pair for outcome in outcomes for pair in outcome.said if pair[0] >= 0.05])
    share = np.mean
    return (
        f"{share([o.right for o in outcomes]):.1%} | {share([o.kind_right for o in outcomes]):.1%} | "
        f"{share([o.standing == 'inseparable' for o in outcomes]):.1%} | "
        f"{np.median(readings):.0f} | {np.percentile(readings, 90):.0f} | "
        f"{share([o.condemned_sound for o in outcomes]):.2%} | {share([o.mistyped_misled for o in outcomes]):.2%} | "
        f"{error:.2%} | {top:.1%} | {share([o.log_score for o in outcomes]):.2f}"
    )


def by_family(outcomes: Sequence[Outcome]) -> str:
    """Share right by the kind of the fault, and by circuit."""
    kinds: dict[str, list[Outcome]] = defaultdict(list)
    circuits: dict[str, list[Outcome]] = defaultdict(list)
    for outcome in outcomes:
        kinds[outcome.truth[0].kind].append(outcome)
        circuits[outcome.circuit].append(outcome)
    lines = ["| family | cases | right | median readings |", "|---|---|---|---|"]
    for name, group in [*sorted(kinds.items()), *sorted(circuits.items())]:
        right = np.mean([o.right for o in group])
        lines.append(f"| {name} | {len(group)} | {right:.1%} | {np.median([o.readings for o in group]):.0f} |")
    return "\n".join(lines)


def main() -> None:
    """Run every way of drawing the truth, and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=1920, help="of each way, panel open; a quarter with it closed")
    parser.add_argument("--seed", type=int, default=REPORTED_SEED)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--misses", action="store_true", help="list what was missed")
    parser.add_argument("--ways", nargs="*", default=list(Way), type=Way)
    chosen = parser.parse_args()
    print(f"| truth drawn | panel | cases | {HEAD} |\n|---{'|---' * 12}|")
    families: dict[Way, list[Outcome]] = {}
    with ProcessPoolExecutor(chosen.jobs) as pool:
        for way in chosen.ways:
            for panel, share in ((True, 1.0), (False, 0.25)):
                run = partial(run_case, chosen.seed, way=way, panel=panel)
                outcomes = list(pool.map(run, range(int(chosen.cases * share)), chunksize=RUN))
                row = f"| {way} | {'open' if panel else 'closed'} | {len(outcomes)} | {report(outcomes)} |"
                print(row, flush=True)
                if panel:
                    families[way] = outcomes
                if chosen.misses:
                    for o in outcomes:
                        if not o.right:
                            print("   ", o.circuit, [t.key for t in o.truth], o.standing, o.readings, o.answer)
        for way, outcomes in families.items():
            print(f"\n{way}:\n\n{by_family(outcomes)}", flush=True)
        print("\n| habit | panel | cases | right | median readings | 90th |\n|---|---|---|---|---|---|")
        for halving in (False, True):
            for panel in (True, False):
                habit = partial(run_habit_case, chosen.seed, panel=panel, halving=halving)
                results = [r for r in pool.map(habit, range(chosen.cases), chunksize=RUN) if r is not None]
                taken = [readings for _, readings in results]
                print(
                    f"| {'halving' if halving else 'unit back to source'} | {'open' if panel else 'closed'} "
                    f"| {len(results)} | {np.mean([right for right, _ in results]):.1%} "
                    f"| {np.median(taken):.0f} | {np.percentile(taken, 90):.0f} |",
                    flush=True,
                )


if __name__ == "__main__":
    main()
