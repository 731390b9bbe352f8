"""The plan that goes along where there is no signal: the next tests some steps deep, and what each number would mean.

A tree of answers. From each test branches lead on by bands of what it may show, as the suspects predict it; the answer
behind a branch is the diagnosis's own at the middle of its band. What is likeliest is worked out first, so that whoever
goes on within the plan hears what the diagnosis would have said there; who leaves it is told so.
"""

import heapq
from collections.abc import Callable, Iterator, Sequence
from itertools import count

from pydantic import Field

from zesty_copper.core.circuit.measurement import Measurement, Reading
from zesty_copper.core.diagnosis.diagnose import diagnose, first_answer
from zesty_copper.core.diagnosis.model.answer import Diagnosis, LookPlace, NextTest, Range, Standing, Stop
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.frozen import Frozen

__all__ = ["GrowingPlan", "TakeAlong", "TakenBranch", "TakenNode", "TakenSuspect", "branch_for"]

MOST_NODES = 220
"""Answers in a plan: some 4 kB each, so less than a megabyte together."""
NAMED = 16
TOLD_SUSPECTS = 4
LEAST_SHARE = 0.0005
"""What is less likely than this is left out of the plan."""
LEAST_LOOKED_AT_ENDS = 0.01
"""What is less likely is judged at the middle of its band alone: its ends would cost others their place in the plan."""
WIDE_VOLTS = 20.0
"""A band wider than this is told in two: what follows from its two ends may differ [V]."""
REACH = 1.0
"""By how much of its own width a band reaches beyond what is predicted nine times in ten."""
LEAST_REACH = {"V": 4.0, "A": 1.5, "ohm": 0.6, "degF": 6.0}
"""The same at least, in the reading's unit."""
FINDS = 0.5
"""How often a look finds what is there, roughly (`faults/signs.toml`)."""
BAD_NOW = 0.6
"""How often a contact that comes and goes is found bad (`infer/two_state`)."""


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


class GrowingPlan:
    """A plan that is worked out in pieces, the likeliest outcome first.

    Parameters
    ----------
    job
        Where the call stands.
    """

    def __init__(self, job: Job) -> None:
        self._answers: list[tuple[Diagnosis, Stop | None]] = []
        self._branches: list[list[TakenBranch]] = []
        self._order = count()
        self._ended = 0.0
        # The likeliest first; each with the answer it comes from and the branch that leads to it.
        self._waiting: list[tuple[float, int, Job, tuple[Job, ...], int | None, TakenBranch | None]] = []
        self._push(1.0, job, (), None, None)

    @property
    def is_done(self) -> bool:
        """Whether nothing likely is left, or the plan is as large as it may be."""
        return not self._waiting or len(self._answers) >= MOST_NODES

    def grow(self, go_on: Callable[[], bool]) -> None:
        """Work out answers for as long as `go_on` says so."""
        while not self.is_done and go_on():
            share, _, job, ends, parent, branch = heapq.heappop(self._waiting)
            self._add(-share, job, ends, parent, branch)

    def end(self) -> None:
        """Leave it at what is worked out."""
        self._waiting.clear()

    def told(self) -> TakeAlong:
        """The plan as far as it goes; its answers once it is done."""
        nodes: tuple[TakenNode, ...] = ()
        if self.is_done:
            nodes = tuple(
                _node(answer, stop, branches)
                for (answer, stop), branches in zip(self._answers, self._branches, strict=True)
            )
        progress = 1.0 if self.is_done else len(self._answers) / MOST_NODES
        return TakeAlong(
            is_done=self.is_done, progress=progress, answers=len(self._answers), share=self._ended, nodes=nodes
        )

    def _push(
        self, share: float, job: Job, ends: tuple[Job, ...], parent: int | None, branch: TakenBranch | None
    ) -> None:
        heapq.heappush(self._waiting, (-share, next(self._order), job, ends, parent, branch))

    def _add(
        self, share: float, job: Job, ends: tuple[Job, ...], parent: int | None, branch: TakenBranch | None
    ) -> None:
        answer = diagnose(job)
        # What stops the work at an end of the band stops it in all of it.
        ends = ends if share >= LEAST_LOOKED_AT_ENDS else ()
        stop = answer.stop or next((found for end in ends if (found := first_answer(end).stop) is not None), None)
        number = len(self._answers)
        self._answers.append((answer, stop))
        self._branches.append([])
        if parent is not None and branch is not None:
            self._branches[parent].append(branch.model_copy(update={"to": number}))
        if answer.next_test is None:
            self._ended += share
            return
        for chance, more, at_ends, one in _outcomes(job, answer, answer.next_test):
            if share * chance >= LEAST_SHARE:
                self._push(share * chance, more, at_ends, number, one)


def branch_for(node: TakenNode, values: Sequence[float]) -> int | None:
    """Return the answer that some numbers lead to; none where they leave the plan.

    Of bands that all hold them it is the one whose middle is nearest, measured by the bands' own widths.
    """
    best, nearest = None, 1.0
    for branch in node.branches:
        if len(branch.ranges) != len(values) or not values:
            continue
        far = max(_distance(value, band) for value, band in zip(values, branch.ranges, strict=True))
        if far <= nearest:
            best, nearest = branch.to, far
    return best


def _distance(value: float, band: Range) -> float:
    """How far a value is from a band's middle: 1 at its ends."""
    half = (band.high - band.low) / 2
    return abs(value - (band.low + band.high) / 2) / half if half > 0 else float(value != band.low) * 2


_Outcome = tuple[float, Job, tuple[Job, ...], TakenBranch]


def _outcomes(job: Job, answer: Diagnosis, test: NextTest) -> Iterator[_Outcome]:
    """What a test may show: how likely, the job it makes, the same at the ends of its band, and the branch."""
    if test.look is not None:
        yield from _of_a_look(job, answer, test)
        return
    chance = {suspect.key: suspect.probability for suspect in answer.suspects}
    total = sum(chance.get(key, 0.0) for one in test.predictions for key in one.suspects)
    for one in test.predictions:
        share = sum(chance.get(key, 0.0) for key in one.suspects) / max(total, 1e-9)
        ways = max(len(ranges) for ranges in one.ranges)
        for way in range(ways):
            part = share if ways == 1 else share * (BAD_NOW if way == 0 else 1 - BAD_NOW)
            bands = [ranges[min(way, len(ranges) - 1)] for ranges in one.ranges]
            for piece, weight in _pieces(test.measurements, bands):
                yield part * weight, *_read_at(job, test.measurements, piece)


def _pieces(measurements: Sequence[Measurement], bands: Sequence[Range]) -> Iterator[tuple[list[Range], float]]:
    """A band whole, or in two where a single reading's is wide."""
    if len(bands) == 1 and measurements[0].unit == "V" and bands[0].high - bands[0].low > WIDE_VOLTS:
        middle = (bands[0].low + bands[0].high) / 2
        yield [Range(low=bands[0].low, high=middle)], 0.5
        yield [Range(low=middle, high=bands[0].high)], 0.5
        return
    yield list(bands), 1.0


def _read_at(
    job: Job, measurements: Sequence[Measurement], bands: Sequence[Range]
) -> tuple[Job, tuple[Job, ...], TakenBranch]:
    """The job with the middle of each band read, with either end read, and the branch that leads there."""
    numbers = [m.unit in LEAST_REACH for m in measurements]
    middle = [
        (band.low + band.high) / 2 if number else round(band.low) for band, number in zip(bands, numbers, strict=True)
    ]
    ends: tuple[Job, ...] = ()
    if any(n and band.high - band.low > LEAST_REACH["V"] * 2 for band, n in zip(bands, numbers, strict=True)):
        ends = tuple(
            _with(job, measurements, [max(e, 0.0) if n else round(e) for e, n in zip(at, numbers, strict=True)])
            for at in ([band.low for band in bands], [band.high for band in bands])
        )
    wider = tuple(_wider(band, m.unit) for band, m in zip(bands, measurements, strict=True))
    return _with(job, measurements, middle), ends, TakenBranch(ranges=wider, to=0)


def _wider(band: Range, unit: str) -> Range:
    if unit not in LEAST_REACH:
        return Range(low=round(band.low), high=round(band.low))
    reach = max(LEAST_REACH[unit], REACH * (band.high - band.low))
    return Range(low=max(band.low - reach, 0.0), high=band.high + reach)


def _with(job: Job, measurements: Sequence[Measurement], values: Sequence[float]) -> Job:
    said = [
        Reading(id=f"plan-{len(job.readings) + i}", measurement=measurement, value=value, unit=measurement.unit)
        for i, (measurement, value) in enumerate(zip(measurements, values, strict=True))
    ]
    return job.model_copy(update={"readings": (*job.readings, *said)})


def _of_a_look(job: Job, answer: Diagnosis, test: NextTest) -> Iterator[_Outcome]:
    """A look that finds nothing, or something at one of its places; how often, roughly by the suspects there."""
    asked = test.look
    if asked is None:
        return
    name = f"plan-look-{len(job.looks)}"

    def seen(look: Look) -> Job:
        return job.model_copy(update={"looks": (*job.looks, look)})

    def at(place: LookPlace) -> float:
        here = (s for s in answer.suspects if s.part == place.part and place.leg in (None, s.leg))
        return sum(s.probability for s in here) * FINDS

    chance = [at(place) for place in asked.places]
    nothing = seen(Look(id=name, sign=asked.sign, zone=asked.zone, seen=False))
    yield max(1 - sum(chance), 0.2), nothing, (), TakenBranch(ranges=(), to=0)
    for i, place in enumerate(asked.places):
        there = seen(Look(id=name, sign=asked.sign, part=place.part, leg=place.leg))
        yield chance[i], there, (), TakenBranch(ranges=(), found=i, to=0)


def _node(answer: Diagnosis, stop: Stop | None, branches: Sequence[TakenBranch]) -> TakenNode:
    test = answer.next_test
    verdict = answer.verdict
    return TakenNode(
        standing=verdict.standing,
        probability=verdict.probability,
        words=verdict.words,
        named=verdict.suspects[:NAMED],
        advice=verdict.advice,
        suspects=tuple(
            TakenSuspect(words=one.words, probability=one.probability) for one in answer.suspects[:TOLD_SUSPECTS]
        ),
        stop=stop,
        test=None if test is None else test.model_copy(update={"predictions": ()}),
        branches=tuple(branches),
    )
