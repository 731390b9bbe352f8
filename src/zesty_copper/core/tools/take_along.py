"""The plan that goes along where there is no signal: the next tests some steps deep, and what each number would mean.

A tree of answers. From each test branches lead on by bands of what it may show (`diagnosis/plan/outcomes`); the answer
behind a branch is the diagnosis's own at what is typical of its band. What is likeliest is worked out first, so that
whoever goes on within the plan hears what the diagnosis would have said there; who leaves it is told so.
"""

import heapq
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import count
from typing import NamedTuple

from pydantic import Field

from zesty_copper.core.diagnosis.diagnose import Foreseen, foresee, stop_at
from zesty_copper.core.diagnosis.model.answer import LookPlace, NextTest, Range, Standing, Stop
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import Tool

__all__ = ["GrowingPlan", "TakeAlong", "TakenBranch", "TakenNode", "TakenSuspect", "branch_for"]

MOST_BYTES = 950_000
"""How large a plan grows [byte]."""
BRANCH_BYTES = 150
"""About what the branch to an answer takes [byte]."""
NAMED = 16
TOLD_SUSPECTS = 4
LEAST_SHARE = 0.0005
"""What is less likely than this is left out of the plan."""
LEAST_LOOKED_AT_ENDS = 0.01
"""What is less likely is judged at the middle of its band alone: its ends would cost others their place in the plan."""
WIDE_VOLTS = 8.0
"""From this width on a band's ends are judged too, for what stops the work [V]."""
FINDS = 0.5
"""How often a look finds what is there, roughly (`faults/signs.toml`)."""


class TakenSuspect(Frozen):
    """A suspect in a plan."""

    words: str
    probability: float


class TakenBranch(Frozen):
    """Where one outcome of a test leads."""

    ranges: tuple[Range, ...] = Field(description="of each reading of the card; none where it is a look")
    found: int | None = Field(default=None, description="of a look: which of its places; none: nothing is found")
    to: int = Field(description="number of the answer")


class TakenNode(Frozen):
    """One answer of a plan."""

    standing: Standing
    probability: float
    words: str
    named: tuple[str, ...] = Field(description="keys of the suspects that the verdict speaks of, the likeliest first")
    advice: str
    suspects: tuple[TakenSuspect, ...]
    stop: Stop | None
    test: NextTest | None = Field(description="what to do next, without its predictions")
    branches: tuple[TakenBranch, ...]


class TakeAlong(Frozen):
    """A plan, or how far it is."""

    is_done: bool
    progress: float = Field(ge=0, le=1)
    answers: int = Field(description="how many are worked out")
    share: float = Field(description="probability that the call ends within the plan")
    nodes: tuple[TakenNode, ...] = Field(description="the first is where the call stands; none while it grows")


class _Waiting(NamedTuple):
    """An outcome whose answer is not worked out yet.

    Attributes
    ----------
    ends
        What is read at either end of its bands; none where they are narrow.
    parent, branch
        The answer it comes from, and the branch that leads to it; none for where the call stands.
    """

    minus_share: float
    number: int
    job: Job
    ends: tuple[Job, ...]
    parent: int | None
    branch: TakenBranch | None


class GrowingPlan:
    """A plan that is worked out in pieces, the likeliest outcome first.

    Parameters
    ----------
    job
        Where the call stands.
    """

    def __init__(self, job: Job) -> None:
        self._nodes: list[TakenNode] = []
        self._branches: list[list[TakenBranch]] = []
        self._order = count()
        self._ended = 0.0
        self._bytes = 0
        self._waiting = [_Waiting(-1.0, next(self._order), job, (), None, None)]

    @property
    def is_done(self) -> bool:
        """Whether nothing likely is left, or the plan is as large as it may be."""
        return not self._waiting or self._bytes >= MOST_BYTES

    def grow(self, go_on: Callable[[], bool], threads: int = 1) -> None:
        """Work out answers for as long as `go_on` says so, some at a time."""
        with ThreadPoolExecutor(threads) as at_once:
            while not self.is_done and go_on():
                likeliest = [heapq.heappop(self._waiting) for _ in range(min(threads, len(self._waiting)))]
                for branch, (answer, stop) in zip(likeliest, at_once.map(_answered, likeliest), strict=True):
                    self._add(branch, answer, stop)

    def end(self) -> None:
        """Leave it at what is worked out."""
        self._waiting.clear()

    def told(self) -> TakeAlong:
        """The plan as far as it goes; its answers once it is done."""
        nodes: tuple[TakenNode, ...] = ()
        if self.is_done:
            nodes = tuple(
                node.model_copy(update={"branches": tuple(branches)})
                for node, branches in zip(self._nodes, self._branches, strict=True)
            )
        progress = 1.0 if self.is_done else self._bytes / MOST_BYTES
        return TakeAlong(
            is_done=self.is_done, progress=progress, answers=len(self._nodes), share=self._ended, nodes=nodes
        )

    def _add(self, one: _Waiting, answer: Foreseen, stop: Stop | None) -> None:
        number, share = len(self._nodes), -one.minus_share
        node = _node(answer, stop)
        self._nodes.append(node)
        self._branches.append([])
        self._bytes += len(node.model_dump_json()) + BRANCH_BYTES
        if one.parent is not None and one.branch is not None:
            self._branches[one.parent].append(one.branch.model_copy(update={"to": number}))
        if answer.next_test is None:
            self._ended += share
            return
        for chance, job, at_ends, branch in _after(one.job, answer, answer.next_test):
            if share * chance >= LEAST_SHARE:
                waiting = _Waiting(-share * chance, next(self._order), job, at_ends, number, branch)
                heapq.heappush(self._waiting, waiting)


def _answered(one: _Waiting) -> tuple[Foreseen, Stop | None]:
    """What would be said of an outcome: what stops the work at an end of its band stops it in all of it."""
    answer = foresee(one.job, LEAST_SHARE / -one.minus_share)
    ends = one.ends if -one.minus_share >= LEAST_LOOKED_AT_ENDS else ()
    return answer, answer.stop or next((stop for end in ends if (stop := stop_at(end)) is not None), None)


def branch_for(node: TakenNode, values: Sequence[float]) -> int | None:
    """Return the answer that some numbers lead to: whose bands hold them all; none where they leave the plan."""
    for branch in node.branches:
        if len(branch.ranges) == len(values) > 0 and all(
            band.low <= value <= band.high for value, band in zip(values, branch.ranges, strict=True)
        ):
            return branch.to
    return None


_Next = tuple[float, Job, tuple[Job, ...], TakenBranch]
"""How likely an outcome is, the job it makes, the same at the ends of its bands, and the branch that leads there."""


def _after(job: Job, answer: Foreseen, test: NextTest) -> Iterator[_Next]:
    """What a test may show, and what follows."""
    if test.look is not None:
        yield from _of_a_look(job, answer, test)
        return
    on = _by_numbers(job)
    for outcome in answer.outcomes:
        ranges = tuple(Range(low=low, high=high) for low, high in outcome.ranges)
        is_wide = any(
            m.is_volts and band.high - band.low > WIDE_VOLTS for band, m in zip(ranges, test.measurements, strict=True)
        )
        ends = zip(*outcome.ranges, strict=True) if is_wide else ()
        yield (
            outcome.chance,
            _with(on, test.measurements, outcome.values),
            tuple(_with(on, test.measurements, end) for end in ends),
            TakenBranch(ranges=ranges, to=0),
        )


def _with(job: Job, measurements: Sequence[Measurement], values: Sequence[float]) -> Job:
    readings = [
        Reading(
            id=f"plan-{len(job.readings) + i}",
            measurement=measurement,
            value=measurement.observation.nearest_possible(value),
            unit=measurement.unit,
        )
        for i, (measurement, value) in enumerate(zip(measurements, values, strict=True))
    ]
    return job.model_copy(update={"readings": (*job.readings, *readings)})


def _by_numbers(job: Job) -> Job:
    """The job without a look over boxes: each of its many places would be an outcome, and few of them are likely."""
    tools = job.scope.tools - {Tool.EYES}
    return job.model_copy(update={"scope": job.scope.model_copy(update={"tools": tools})})


def _of_a_look(job: Job, answer: Foreseen, test: NextTest) -> Iterator[_Next]:
    """A look that finds nothing, or something at one of its places; how often, roughly by the suspects there."""
    look_asked = test.look
    if look_asked is None:
        return
    name = f"plan-look-{len(job.looks)}"
    on = _by_numbers(job)

    def seen(look: Look) -> Job:
        return on.model_copy(update={"looks": (*job.looks, look)})

    def at(place: LookPlace) -> float:
        here = (
            suspect.probability
            for suspect in answer.suspected
            if suspect.part == place.part and place.leg in (None, suspect.leg)
        )
        return sum(here) * FINDS

    chance = [at(place) for place in look_asked.places]
    nothing = seen(Look(id=name, sign=look_asked.sign, zone=look_asked.zone, seen=False))
    yield max(1 - sum(chance), 0.2), nothing, (), TakenBranch(ranges=(), to=0)
    for i, place in enumerate(look_asked.places):
        there = seen(Look(id=name, sign=look_asked.sign, part=place.part, leg=place.leg))
        yield chance[i], there, (), TakenBranch(ranges=(), found=i, to=0)


def _node(answer: Foreseen, stop: Stop | None) -> TakenNode:
    test = answer.next_test
    verdict = answer.verdict
    likely = sorted(answer.suspected, key=lambda one: -one.probability)[:TOLD_SUSPECTS]
    return TakenNode(
        standing=verdict.standing,
        probability=verdict.probability,
        words=verdict.words,
        named=verdict.suspects[:NAMED],
        advice=verdict.advice,
        suspects=tuple(TakenSuspect(words=suspect.words, probability=suspect.probability) for suspect in likely),
        stop=stop,
        test=None if test is None else test.model_copy(update={"predictions": ()}),
        branches=(),
    )
