"""What is missing from a trace, and short losses of volts or amps."""

from typing import Literal

import numpy as np
from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.trace import Trace

__all__ = ["Gap", "gaps_of"]

GAP_TIMES, GAP_S = 5.0, 1.0
"""So many times the usual time between samples, and so many seconds, without one are a gap."""
LOST_SHARE = 0.5
"""Below this share of their usual, volts or amps are lost."""
SHORT_S = 10.0
"""What is back within so many seconds was no stop but an interruption."""
MOST_TOLD = 100


class Gap(Frozen):
    """A stretch in which a logger gave nothing, or a conductor was lost for a short while."""

    what: Literal["no data", "volts lost", "amps lost"]
    channel: int | None = Field(description="place of the channel; none: all of them")
    at_s: float
    lasts_s: float


def gaps_of(trace: Trace) -> tuple[Gap, ...]:
    """Find every gap, in order of time, as many as are worth telling."""
    gaps = [
        Gap(what="no data", channel=None, at_s=float(trace.seconds[i]), lasts_s=float(step))
        for i, step in _long_steps(trace)
    ]
    for i, channel in enumerate(trace.channels):
        row = trace.values[i]
        missing = ~np.isfinite(row)
        gaps += [
            Gap(what="no data", channel=i, at_s=at, lasts_s=lasts)
            for at, lasts in _runs(trace, missing)
            if lasts > max(GAP_S, GAP_TIMES * trace.step_s)
        ]
        usual = float(np.nanpercentile(row, 90))
        with np.errstate(invalid="ignore"):
            lost = row < LOST_SHARE * usual
        inside = [(at, lasts) for at, lasts in _runs(trace, lost) if at > 0 and at + lasts < trace.duration_s]
        lost_words: Literal["volts lost", "amps lost"] = "volts lost" if channel.kind == "volts" else "amps lost"
        gaps += [Gap(what=lost_words, channel=i, at_s=at, lasts_s=lasts) for at, lasts in inside if lasts < SHORT_S]
    return tuple(sorted(gaps, key=lambda gap: gap.at_s)[:MOST_TOLD])


def _long_steps(trace: Trace) -> list[tuple[int, float]]:
    steps = np.diff(trace.seconds)
    return [(int(i), float(steps[i])) for i in np.flatnonzero(steps > max(GAP_S, GAP_TIMES * trace.step_s))[:MOST_TOLD]]


def _runs(trace: Trace, where: np.ndarray) -> list[tuple[float, float]]:
    """Begin and length of each stretch of samples in which something is so [s]."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], where, [False]])))
    begins, ends = edges[::2], np.minimum(edges[1::2], len(where) - 1)
    runs = list(zip(begins, ends, strict=True))[: 4 * MOST_TOLD]
    return [(float(trace.seconds[a]), float(trace.seconds[b] - trace.seconds[a])) for a, b in runs]
