"""Numbers of a proof that a load test has already measured."""

from collections.abc import Iterator

from zesty_copper.core.load_test.measured import Level, longest_loaded
from zesty_copper.core.load_test.report import LoadReport
from zesty_copper.core.repair.proving.items import Subject
from zesty_copper.core.repair.proving.key import ProofKey

__all__ = ["measured_in"]

LEAST_S = 60.0
"""A level that is to prove steadiness lasts at least so long [s]; ten minutes are asked where there is time."""


def measured_in(subject: Subject, report: LoadReport) -> dict[str, float]:
    """Return what a load test tells of a proof, by the items' keys: volts at rest and loaded, amps, and the start.

    Amps are only told of a conductor that a single load is on: of several together a clamp tells none.
    """
    return dict(_told(subject, report))


def _told(subject: Subject, report: LoadReport) -> Iterator[tuple[str, float]]:
    loaded = longest_loaded(report.channels, report.levels)
    for i, channel in enumerate(report.channels):
        levels = [each_level for each_level in report.levels if each_level.channel == i]
        if channel.kind == "volts":
            pair = next((pair for pair in subject.pairs if set(pair) == set(channel.lanes)), None)
            if pair is None:
                continue
            resting = next(
                (each_level for each_level in levels if loaded is None or each_level.to_s <= loaded.from_s), None
            )
            under = next(
                (each_level for each_level in levels if loaded is not None and _overlap(each_level, loaded)), None
            )
            for text, level in (("rest", resting), ("load", under)):
                if level is not None:
                    yield subject.key(text, *pair), round(level.level, 1)
        elif loaded is not None:
            yield from _amps(
                subject,
                channel.lanes[0],
                next((each_level for each_level in levels if _overlap(each_level, loaded)), None),
            )
    yield from _start(subject, report)


def _overlap(level: Level, other: Level) -> bool:
    return level.from_s < other.to_s and other.from_s < level.to_s


def _amps(subject: Subject, lane: str, level: Level | None) -> Iterator[tuple[str, float]]:
    on = [load for load in subject.loads if lane in subject.lanes_of(load)]
    if level is None or len(on) != 1:
        return
    change = level.slope.change_percent / 100 if level.slope is not None else 0.0
    yield ProofKey.of("amps", on[0].id, lane), round(level.level * (1 - change / 2), 2)
    if lane == subject.lanes_of(on[0])[0] and level.slope is not None and level.to_s - level.from_s >= LEAST_S:
        yield ProofKey.of("steady", on[0].id), round(level.level * (1 + change / 2), 2)


def _start(subject: Subject, report: LoadReport) -> Iterator[tuple[str, float]]:
    # Of several loads together nobody can tell whose start it was.
    if not report.starts or len(subject.loads) != 1 or subject.loads[0].entry.is_heat:
        return
    start, load = report.starts[-1], subject.loads[0]
    if start.settles_s is not None:
        yield ProofKey.of("settles", load.id), round(max(start.settles_s, 0.1), 1)
    if start.sees_peak:
        yield ProofKey.of("inrush", load.id), round(start.peak_amps, 1)
