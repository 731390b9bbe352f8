"""A start: how high its amps went, and how soon they settled."""

import numpy as np

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.trace import Series, Trace

__all__ = ["Start", "start_at"]

PEAK_S = 3.0
"""The peak of a start lies within so many seconds of it."""
LOOK_S = 10.0
"""A start that has not settled by then is one that does not [s]."""
LATE_SHARE = 0.3
"""The level is that of the last part of what is looked at."""
SETTLED_SHARE = 0.10
"""Settled is what stays this near to the level that follows."""
FAST_S = 0.2
"""Samples farther apart than this miss the peak of a start [s]."""


class Start(Frozen):
    """One start."""

    at_s: float
    peak_amps: float
    settles_s: float | None = None
    """Seconds until the amps stay near their level; none where they had not within ten."""
    level_amps: float
    sees_peak: bool = True
    """Whether the samples lie near enough to each other to see the peak."""


def start_at(trace: Trace, channel: int, at_s: float, until_s: float) -> Start:
    """Measure the start that begins at a time, on the samples themselves.

    Parameters
    ----------
    until_s
        When the next step comes, or the trace ends [s].
    """
    seconds, row = trace.seconds, trace.values[channel]
    end = min(until_s, at_s + LOOK_S)
    # The bin's beginning lies up to a sample ahead of the rise.
    window = slice(*np.searchsorted(seconds, [at_s - trace.step_s / 2, end]))
    times, amps = _known(seconds[window], row[window])
    late = amps[times >= end - LATE_SHARE * (end - at_s)]
    level = float(np.median(late if len(late) else amps))
    rise = float(times[int(np.argmax(amps >= level / 2))])
    peak = float(amps[times <= rise + PEAK_S].max())
    off = np.flatnonzero((np.abs(amps - level) > SETTLED_SHARE * level) & (times >= rise))
    settles: float | None = 0.0
    if len(off):
        settles = None if off[-1] == len(amps) - 1 else float(times[off[-1] + 1] - rise)
    return Start(at_s=rise, peak_amps=peak, settles_s=settles, level_amps=level, sees_peak=trace.step_s <= FAST_S)


def _known(times: Series, amps: Series) -> tuple[Series, Series]:
    finite = np.isfinite(amps)
    return times[finite], amps[finite]
