"""Run with `python -m benchmarks.take_along [--cases N] [--seed S]`: how many calls end within the plan taken along."""

import argparse
import time
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from benchmarks.diagnosis.score import Way, looked, world_of
from benchmarks.diagnosis.world import World
from zesty_copper.core.diagnosis.diagnose import stop_at
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.tools.take_along import GrowingPlan, TakeAlong, TakenNode, branch_for

SEED = 61_211
"""Never tuned on."""
MOST_SECONDS = 18.0
"""As `api/plans` has it."""
THREADS = 2


@dataclass(frozen=True)
class Outcome:
    """How one call went with the plan alone."""

    circuit: str
    truth: str
    ended: bool
    right: bool
    stop_missed: bool
    tests: int
    answers: int
    kilobytes: float
    seconds: float
    share: float


def plan_of(job: Job) -> tuple[TakeAlong, float]:
    """The plan of a job as far as the time allows, and what it took [s]."""
    begun = time.monotonic()
    plan = GrowingPlan(job)
    plan.grow(lambda: time.monotonic() - begun < MOST_SECONDS, THREADS)
    plan.end()
    return plan.told(), time.monotonic() - begun


def named(world: World, keys: Sequence[str]) -> bool:
    """Whether a verdict speaks of the truth, or of another fault in its place."""
    faults = {fault.key: fault for fault in faults_of(world.circuit)}
    places = {faults[key].place for key in keys if key in faults}
    return any(truth.key in keys or truth.place in places for truth in world.faults)


def walk(world: World, job: Job, plan: TakeAlong) -> tuple[TakenNode | None, Job, int]:
    """Go on by the plan alone: where it ended, none where it was left; what was said on the way; how many tests."""
    at, tests = 0, 0
    while (test := plan.nodes[at].test) is not None:
        node = plan.nodes[at]
        tests += 1
        if test.look is not None:
            looks = [look for look in looked(world, test.look, 0) if look.seen]
            found = {(look.part, look.leg) for look in looks}
            place = next((i for i, one in enumerate(test.look.places) if (one.part, one.leg) in found), None)
            to = next((branch.to for branch in node.branches if branch.found == place and not branch.ranges), None)
            job = job.model_copy(update={"looks": (*job.looks, *looks)})
        else:
            readings = [
                Reading(id=f"{tests}-{i}", measurement=one, value=world.read(one), unit=one.unit)
                for i, one in enumerate(test.measurements)
            ]
            to = branch_for(node, [reading.value for reading in readings])
            job = job.model_copy(update={"readings": (*job.readings, *readings)})
        if to is None:
            return None, job, tests
        at = to
    return plan.nodes[at], job, tests


def run(case: int, seed: int) -> Outcome:
    """One call, as it is told on the telephone, and the plan that is taken along to it."""
    world = world_of(seed, case, Way.BY_PRIOR)
    job = Job(circuit=world.circuit, looks=tuple(world.told()), scope=Scope(panel_may_be_opened=True))
    plan, seconds = plan_of(job)
    end, read, tests = walk(world, job, plan)
    # What was read along the way, judged by the diagnosis itself: a stop that the plan does not show is its worst miss.
    stop_missed = end is not None and end.stop is None and stop_at(read) is not None
    truth = "+".join(fault.key for fault in world.faults)
    size = len(plan.model_dump_json()) / 1000
    right = end is not None and named(world, end.named)
    name = world.circuit.name
    return Outcome(name, truth, end is not None, right, stop_missed, tests, plan.answers, size, seconds, plan.share)


def main() -> None:
    """Print a table in Markdown, and the calls that left the plan."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=40)
    parser.add_argument("--seed", type=int, default=SEED)
    chosen = parser.parse_args()
    # One plan at a time, as the server has it.
    outcomes = [run(case, chosen.seed) for case in range(chosen.cases)]
    shares = {
        "ended within the plan": np.mean([outcome.ended for outcome in outcomes]),
        "right": np.mean([one.right for one in outcomes]),
        "stop missed": np.mean([one.stop_missed for one in outcomes]),
    }
    sizes = {
        "answers, median": np.median([one.answers for one in outcomes]),
        "tests, median": np.median([one.tests for one in outcomes]),
        "kB, most": max(one.kilobytes for one in outcomes),
        "s, most": max(one.seconds for one in outcomes),
    }
    print(" | ".join(["| calls", *shares, *sizes]), "|")
    print("|---" * (1 + len(shares) + len(sizes)) + "|")
    told = [f"{share:.1%}" for share in shares.values()] + [f"{siz:.0f}" for siz in sizes.values()]
    print(" | ".join([f"| {len(outcomes)}", *told]), "|")
    for one in outcomes:
        if not one.right or one.stop_missed:
            how = "stop missed" if one.stop_missed else "wrong" if one.ended else "left"
            print(f"  {how} {one.circuit} {one.truth} after {one.tests}, {one.share:.2f}")


if __name__ == "__main__":
    main()
