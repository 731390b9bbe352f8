"""Run with `python -m benchmarks.take_along [--cases N] [--seed S]`: how many calls end within the plan taken along."""

import argparse
import time
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial

import numpy as np

from benchmarks.diagnosis.score import Way, looked, world_of
from benchmarks.diagnosis.world import World
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.tools.take_along import GrowingPlan, TakeAlong, branch_for

SEED = 61_211
"""Never tuned on."""
MOST_SECONDS = 20.0


@dataclass(frozen=True)
class Outcome:
    """How one call went with the plan alone."""

    circuit: str
    truth: str
    ended: bool
    right: bool
    tests: int
    answers: int
    kilobytes: float
    seconds: float
    share: float


def plan_of(job: Job) -> tuple[TakeAlong, float]:
    """The plan of a job as far as the time allows, and what it took [s]."""
    begun = time.monotonic()
    plan = GrowingPlan(job)
    plan.grow(lambda: time.monotonic() - begun < MOST_SECONDS)
    plan.end()
    return plan.told(), time.monotonic() - begun


def named(world: World, keys: Sequence[str]) -> bool:
    """Whether a verdict speaks of the truth, or of another fault in its place."""
    faults = {fault.key: fault for fault in faults_of(world.circuit)}
    places = {faults[key].place for key in keys if key in faults}
    return any(truth.key in keys or truth.place in places for truth in world.faults)


def walk(world: World, plan: TakeAlong) -> tuple[bool, bool, int]:
    """Go on by the plan alone: whether it ended there, whether what was said is true, and how many tests it took."""
    at, tests = 0, 0
    while (test := plan.nodes[at].test) is not None:
        node = plan.nodes[at]
        tests += 1
        if test.look is not None:
            found = {(look.part, look.leg) for look in looked(world, test.look, 0) if look.seen}
            place = next((i for i, one in enumerate(test.look.places) if (one.part, one.leg) in found), None)
            to = next((one.to for one in node.branches if one.found == place and not one.ranges), None)
        else:
            to = branch_for(node, [world.read(measurement) for measurement in test.measurements])
        if to is None:
            return False, False, tests
        at = to
    return True, named(world, plan.nodes[at].named), tests


def run(case: int, seed: int) -> Outcome:
    """One call, as it is told on the telephone, and the plan that is taken along to it."""
    world = world_of(seed, case, Way.BY_PRIOR)
    job = Job(circuit=world.circuit, looks=tuple(world.told()), scope=Scope(panel_may_be_opened=True))
    plan, seconds = plan_of(job)
    ended, right, tests = walk(world, plan)
    truth = "+".join(one.key for one in world.faults)
    size = len(plan.model_dump_json()) / 1000
    return Outcome(world.circuit.name, truth, ended, right, tests, plan.answers, size, seconds, plan.share)


def main() -> None:
    """Print a table in Markdown, and the calls that left the plan."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=40)
    parser.add_argument("--seed", type=int, default=SEED)
    chosen = parser.parse_args()
    with ProcessPoolExecutor() as pool:
        outcomes = list(pool.map(partial(run, seed=chosen.seed), range(chosen.cases)))
    print("| calls | ended within the plan | right | answers, median | kB, most | seconds, most | tests, median |")
    print("|---|---|---|---|---|---|---|")
    ended, right = (np.mean([getattr(o, name) for o in outcomes]) for name in ("ended", "right"))
    answers, tests = (np.median([getattr(o, name) for o in outcomes]) for name in ("answers", "tests"))
    size, seconds = (max(getattr(o, name) for o in outcomes) for name in ("kilobytes", "seconds"))
    print(f"| {len(outcomes)} | {ended:.1%} | {right:.1%} | {answers:.0f} | {size:.0f} | {seconds:.1f} | {tests:.0f} |")
    for one in outcomes:
        if not one.right:
            how = "wrong" if one.ended else "left"
            print(f"  {how} {one.circuit} {one.truth} after {one.tests}, {one.share:.2f}")


if __name__ == "__main__":
    main()
