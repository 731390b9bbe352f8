"""Run with `python -m benchmarks.diagnosis [--cases N] [--seed S]`; prints tables in Markdown."""

import argparse
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np

from benchmarks.diagnosis.score import RUN, Outcome, Technician, Way, calibration, run_case, run_habit_case

REPORTED_SEED = 84_017
"""Never tuned on."""

TECHNICIAN_SEED = 90_533
"""The same, for what looking and measuring dead are worth."""

SHARE = {
    Way.BY_PRIOR: 1.0,
    Way.UNIFORM: 1 / 2,
    Way.TWO_FAULTS: 1 / 8,
    Way.MISTYPED: 1 / 8,
    Way.MISREAD: 1 / 8,
    Way.ODD: 1 / 8,
}
"""Cases of each way, of those by prior."""

HEAD = (
    "one place, right | right, sets too | wrong | kind right | sets | set size, median | 90th | worst | "
    "median readings | 90th | stopped in time | in one go | false stops | calibration error | of suspects over 5 % "
    "| log score (bits)"
)


def report(outcomes: Sequence[Outcome]) -> str:
    """One row of the table."""
    readings = [o.readings for o in outcomes]
    sets = [o.places for o in outcomes if o.standing == "inseparable"] or [0]
    stops = [o.stopped_in_time for o in outcomes if o.stopped_in_time is not None]
    in_one_go = [o.stopped_in_one_go for o in outcomes if o.stopped_in_one_go is not None]
    error, _ = calibration([pair for o in outcomes for pair in o.said])
    top, _ = calibration([pair for o in outcomes for pair in o.said if pair[0] >= 0.05])
    share = np.mean
    safe = [o.false_stop for o in outcomes if not o.dangerous] or [False]
    return (
        f"{share([o.one_right for o in outcomes]):.1%} | {share([o.right for o in outcomes]):.1%} | "
        f"{share([o.wrong for o in outcomes]):.2%} | {share([o.kind_right for o in outcomes]):.1%} | "
        f"{share([o.standing == 'inseparable' for o in outcomes]):.1%} | {np.median(sets):.0f} | "
        f"{np.percentile(sets, 90):.0f} | {max(sets)} | "
        f"{np.median(readings):.0f} | {np.percentile(readings, 90):.0f} | "
        f"{f'{share(stops):.1%} of {len(stops)}' if stops else 'none shown'} | "
        f"{f'{share(in_one_go):.1%}' if in_one_go else 'none shown'} | {share(safe):.2%} of {len(safe)} | "
        f"{error:.2%} | {top:.1%} | {share([o.log_score for o in outcomes]):.2f}"
    )


def reliability(outcomes: Sequence[Outcome]) -> str:
    """How often the leading place was the truth's, by how probable it was held to be."""
    _, rows = calibration([pair for o in outcomes for pair in o.place_said])
    lines = ["| held at | true | times |", "|---|---|---|"]
    return "\n".join(lines + [f"| {said:.1%} | {true:.1%} | {count} |" for said, true, count in rows])


def by_family(outcomes: Sequence[Outcome]) -> str:
    """Share right by the kind of the fault, and by circuit."""
    groups: dict[str, list[Outcome]] = defaultdict(list)
    for o in outcomes:
        groups[f"  {o.odd or o.truth[0].kind}"].append(o)
        groups["drawn" if o.circuit.startswith("drawn") else o.circuit].append(o)
    lines = [
        "| family | cases | one place, right | right, sets too | wrong | median readings |",
        "|---|---|---|---|---|---|",
    ]
    for name, group in sorted(groups.items()):
        one, right, wrong = (np.mean([getattr(o, key) for o in group]) for key in ("one_right", "right", "wrong"))
        readings = np.median([o.readings for o in group])
        lines.append(f"| {name.strip()} | {len(group)} | {one:.1%} | {right:.1%} | {wrong:.1%} | {readings:.0f} |")
    return "\n".join(lines)


def compare(pool: ProcessPoolExecutor, cases: int) -> None:
    """Print what a technician gains who listens, looks and measures dead, against volts and amps alone."""
    print(f"\n| technician | cases | minutes, mean | median | {HEAD} |\n|---{'|---' * 19}|")
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
    parser.add_argument("--circuits", nargs="*", default=(), help="keys of ready-made circuits, to ask of those alone")
    parser.add_argument("--technicians", type=int, default=480, help="cases to compare technicians by")
    chosen = parser.parse_args()
    print(f"| truth drawn | panel | cases | {HEAD} |\n|---{'|---' * 18}|")
    families: dict[Way, list[Outcome]] = {}
    with ProcessPoolExecutor(chosen.jobs) as pool:
        for way in chosen.ways:
            for panel, share in ((True, 1.0), (False, 0.25)):
                run = partial(
                    run_case,
                    chosen.seed,
                    way=way,
                    panel=panel,
                    technician=Technician.WHOLE,
                    among=tuple(chosen.circuits),
                )
                outcomes = list(pool.map(run, range(round(chosen.cases * SHARE[way] * share)), chunksize=RUN))
                row = f"| {way} | {'open' if panel else 'closed'} | {len(outcomes)} | {report(outcomes)} |"
                print(row, flush=True)
                if panel:
                    families[way] = outcomes
                if chosen.misses:
                    for o in outcomes:
                        if not o.right or o.false_stop or o.stopped_in_time is False:
                            flags = ("wrong",) * o.wrong + ("false stop",) * o.false_stop
                            flags += ("no stop",) * (o.stopped_in_time is False)
                            truth = [t.key for t in o.truth]
                            print("   ", o.circuit, truth, o.odd, o.standing, o.readings, o.answer, *flags, flush=True)
        if chosen.technicians:
            compare(pool, chosen.technicians)
        for way, outcomes in families.items():
            print(f"\n{way}:\n\n{by_family(outcomes)}\n\n{reliability(outcomes)}", flush=True)
        if not chosen.cases or chosen.circuits:
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
