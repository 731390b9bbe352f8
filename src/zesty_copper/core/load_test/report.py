"""What a load test found: starts, levels, stages, sag, unbalance and gaps."""

import itertools
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from zesty_copper.core.circuit.unbalance import unbalance_percent
from zesty_copper.core.load_test.bins import Binned, binned
from zesty_copper.core.load_test.gaps import gaps_of
from zesty_copper.core.load_test.measured import Level, Stage, TraceMeasured, longest_loaded
from zesty_copper.core.load_test.sag import Sag, sag_of
from zesty_copper.core.load_test.starts import Start, start_at
from zesty_copper.core.load_test.steadiness import CLIMB_SHARE, HEAT_CLIMB_SHARE, slope_of
from zesty_copper.core.load_test.steps import LoadStep, StepKind, steps
from zesty_copper.core.load_test.tell import TraceFinding, findings_of
from zesty_copper.core.load_test.trace import Series, Trace

__all__ = ["LoadReport", "analysed"]

SETTLE_S = 5.0
"""What follows a step so closely belongs to it and not to the level [s]."""
SLOW_S = 2.5
"""With samples farther apart a start is not seen at all [s]."""
LEVEL_S = 20.0
"""A shorter stretch is no level [s]."""


class LoadReport(TraceMeasured):
    """Everything that was found in a trace, and what it means."""

    findings: tuple[TraceFinding, ...]


def analysed(trace: Trace, expected_ohm: Mapping[tuple[str, str], float] | None = None) -> LoadReport:
    """Find everything in a trace.

    Parameters
    ----------
    expected_ohm
        Volts that wire and joints as new lose for each ampere, by the two conductors [ohm]; where none is given, ohms
        are told and not judged.
    """
    bins = binned(trace)
    amps = trace.of("amps")
    stepped = {i: steps(bins, i) for i in amps}
    levels = [level for i in range(len(trace.channels)) for level in _levels(trace, bins, i, stepped)]
    starts = [start for i in amps[:1] for start in _starts(trace, bins, i, stepped[i])]
    sags = list(_sags(trace, bins, stepped))
    unbalances = [_unbalance(trace, levels, kind) for kind in ("volts", "amps")]
    gaps = gaps_of(trace)
    stages = tuple(
        Stage(channel=i, at_s=step.at * bins.width_s, amps=step.after - step.before, kind=step.kind)
        for i in amps[:1]
        for step in stepped[i]
    )
    measured = TraceMeasured(
        channels=trace.channels,
        samples=len(trace.seconds),
        duration_s=trace.duration_s,
        step_s=trace.step_s,
        starts=tuple(starts),
        stages=stages,
        levels=tuple(levels),
        sags=tuple(sags),
        volts_unbalance_percent=unbalances[0],
        amps_unbalance_percent=unbalances[1],
        gaps=gaps,
    )
    return LoadReport(**dict(measured), findings=findings_of(measured, expected_ohm or {}))


def _levels(trace: Trace, bins: Binned, channel: int, stepped: Mapping[int, Sequence[LoadStep]]) -> Iterator[Level]:
    """Stretches between steps; of volts, between the steps of every channel of amps."""
    own_channels = [channel] if channel in stepped else list(stepped)
    edges = sorted({step.at * bins.width_s for i in own_channels for step in stepped[i]})
    ends = [0.0, *edges, trace.duration_s]
    for begin, end in itertools.pairwise(ends):
        after = begin + (min(SETTLE_S, (end - begin) / 4) if begin and not bins.few else 0.0)
        # The bin ahead of a step may hold some of it; a number typed by hand does not.
        ahead = 0.0 if bins.few else bins.width_s
        before = end - (ahead if end < trace.duration_s else -trace.step_s)
        window = slice(*np.searchsorted(trace.seconds, [after, before]))
        times, values = trace.seconds[window], trace.values[channel][window]
        finite = np.isfinite(values)
        times, values = times[finite], values[finite]
        if len(values) == 0 or (edges and end - begin < min(LEVEL_S, trace.duration_s / 4)):
            continue
        kind = trace.channels[channel]
        share = HEAT_CLIMB_SHARE if kind.heats or kind.kind == "volts" else CLIMB_SHARE
        yield Level(
            channel=channel,
            from_s=float(times[0]),
            to_s=float(times[-1]),
            level=float(np.median(values)),
            slope=slope_of(times, values, share),
        )


def _starts(trace: Trace, bins: Binned, channel: int, found: Sequence[LoadStep]) -> Iterator[Start]:
    if trace.channels[channel].heats or trace.step_s > SLOW_S:
        return
    times = [step.at * bins.width_s for step in found]
    for i, start in enumerate(found):
        if start.kind is StepKind.START:
            until = times[i + 1] if i + 1 < len(times) else trace.duration_s
            yield start_at(trace, channel, times[i], until)


def _sags(trace: Trace, bins: Binned, stepped: Mapping[int, Sequence[LoadStep]]) -> Iterator[Sag]:
    for i in trace.of("volts"):
        lanes = trace.channels[i].lanes
        own_channels = [k for k in stepped if trace.channels[k].lanes[0] in lanes] or list(stepped)[:1]
        if len(lanes) != 2 or not own_channels:
            continue
        sag = sag_of(bins, i, own_channels[0], (lanes[0], lanes[1]), stepped[own_channels[0]])
        if sag is not None:
            yield sag


def _unbalance(trace: Trace, levels: Sequence[Level], kind: str) -> float | None:
    """How far three channels lie apart over the longest stretch under load [%]; none where nothing runs."""
    places = [i for i, channel in enumerate(trace.channels) if channel.kind == kind]
    if len(places) != 3:
        return None
    loaded = longest_loaded(trace.channels, levels)
    if loaded is None:
        return None
    window = slice(*np.searchsorted(trace.seconds, [loaded.from_s, loaded.to_s]))
    means: Series = np.nanmean(trace.values[places][:, window], axis=1)
    return unbalance_percent(means.tolist())
