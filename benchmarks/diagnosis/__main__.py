"""Run with `python -m benchmarks.diagnosis [--cases N] [--seed S]`; prints tables in Markdown."""

import argparse
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np

from benchmarks.diagnosis.score import RUN, Outcome, Technician, Way, calibration, run_case, run_habit_case

REPORTED_SEED = 47_209
"""Never tuned on."""

TECHNICIAN_SEED = 82_411
"""The same, for what looking and measuring dead are worth."""

SHARE = {Way.BY_PRIOR: 1.0, Way.UNIFORM: 1 / 2, Way.TWO_FAULTS: 1 / 4, Way.MISTYPED: 1 / 3}
"""Cases of each way, of those by prior."""

HEAD = (
    "right | kind right too | by a set | median readings | 90th | sound held guilty | wrong verdict "
    "| calibration error | of suspects over 5 % | log score (bits)"
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
        f"{share([o.held_sound_guilty for o in outcomes]):.2%} | {share([o.wrong_verdict for o in outcomes]):.2%} | "
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


def compare(pool: ProcessPoolExecutor, cases: int) -> None:
    """Print what a technician gains who listens, looks and measures dead, against volts and amps alone."""
    print(f"\n| technician | cases | minutes, mean | median | {HEAD} |\n|---{'|---' * 13}|")
    for technician in Technician:
        run = partial(run_case, TECHNICIAN_SEED, way=Way.BY_PRIOR, panel=True, technician=technician)
        outcomes = list(pool.map(run, range(cases), chunksize=RUN))
        minutes = [outcome.minutes for outcome in outcomes]
        row = f"{np.mean(minutes):.2f} | {np.median(minutes):.2f} | {report(outcomes)}"
        print(f"| {technician} | {len(outcomes)} | {row} |", flush=True)


def main() -> None:
    """Run every way of drawing the truth, and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=1920, help="by prior, panel open; a quarter with it closed")
    parser.add_argument("--seed", type=int, default=REPORTED_SEED)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--misses", action="store_true", help="list what was missed")
    parser.add_argument("--ways", nargs="*", default=list(Way), type=Way)
    parser.add_argument("--technicians", type=int, default=480, help="cases to compare technicians by")
    chosen = parser.parse_args()
    print(f"| truth drawn | panel | cases | {HEAD} |\n|---{'|---' * 12}|")
    families: dict[Way, list[Outcome]] = {}
    with ProcessPoolExecutor(chosen.jobs) as pool:
        for way in chosen.ways:
            for panel, share in ((True, 1.0), (False, 0.25)):
                run = partial(run_case, chosen.seed, way=way, panel=panel)
                outcomes = list(pool.map(run, range(round(chosen.cases * SHARE[way] * share)), chunksize=RUN))
                row = f"| {way} | {'open' if panel else 'closed'} | {len(outcomes)} | {report(outcomes)} |"
                print(row, flush=True)
                if panel:
                    families[way] = outcomes
                if chosen.misses:
                    for o in outcomes:
                        if not o.right:
                            print("   ", o.circuit, [t.key for t in o.truth], o.standing, o.readings, o.answer)
        if chosen.technicians:
            compare(pool, chosen.technicians)
        for way, outcomes in families.items():
            print(f"\n{way}:\n\n{by_family(outcomes)}", flush=True)
        if not chosen.cases:
            return
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
