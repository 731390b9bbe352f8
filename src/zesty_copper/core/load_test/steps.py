"""Where the amps step: starts, stops, stages on and off."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from zesty_copper.core.load_test.bins import Binned
from zesty_copper.core.load_test.trace import Series

__all__ = ["LoadStep", "StepKind", "level_steps", "steps"]

WINDOW_S = 2.0
"""So long before and after a step is looked at [s]."""
LEAST_AMPS = 0.3
"""What is less is no step [A]; about a clamp's last digits."""
NOISE_TIMES = 6.0
"""A step stands so many times out of the noise."""
LEAST_SHARE, LEAST_SHARE_OF_FEW = 0.04, 0.15
"""Of the highest level: less is no stage. Between numbers typed minutes apart a level may drift."""
INRUSH_S = 12.0
"""What falls so soon after a start is its inrush [s]."""
OFF_SHARE = 0.05
"""Below this share of the highest level nothing runs."""


class StepKind(StrEnum):
    """What a step of the amps is."""

    START = "start"
    STOP = "stop"
    STAGE_ON = "stage_on"
    STAGE_OFF = "stage_off"


@dataclass(frozen=True)
class LoadStep:
    """One step of a channel.

    Attributes
    ----------
    at
        Bin in which the new level begins.
    before, after
        Level ahead of it and behind it [A].
    """

    at: int
    before: float
    after: float
    kind: StepKind


def level_steps(row: Series, window: int) -> tuple[Series, Series]:
    """Median of the bins before each bin, and of those from it on, (bins,)."""
    padded = np.concatenate([np.full(window, row[0]), row, np.full(window, row[-1])])
    medians = np.median(sliding_window_view(padded, window), axis=1)
    return medians[: len(row)], medians[window : window + len(row)]


def steps(bins: Binned, channel: int) -> tuple[LoadStep, ...]:
    """Find every step of a channel of amps, in order of time."""
    row = bins.values[channel]
    window = window_of(bins)
    before, after = level_steps(row, window)
    change = np.abs(after - before)
    noise = 1.4826 * float(np.median(change))
    top = float(np.percentile(row, 99))
    least = max(LEAST_AMPS, NOISE_TIMES * noise, (LEAST_SHARE_OF_FEW if bins.few else LEAST_SHARE) * top)
    off = max(LEAST_AMPS, OFF_SHARE * top)
    steps_seen: list[LoadStep] = []
    used = np.zeros(len(row), dtype=bool)
    over = np.flatnonzero(change >= least)
    # The largest first; what lies within its window belongs to it.
    for at in over[np.argsort(-change[over], kind="stable")]:
        if used[at]:
            continue
        used[max(0, at - window) : at + window + 1] = True
        was, became = float(before[at]), float(after[at])
        if became > was:
            kind = StepKind.START if was < off else StepKind.STAGE_ON
        else:
            kind = StepKind.STOP if became < off else StepKind.STAGE_OFF
        steps_seen.append(LoadStep(int(at), was, became, kind))
    return tuple(_without_inrush(sorted(steps_seen, key=lambda step: step.at), round(INRUSH_S / bins.width_s)))


def _without_inrush(found: Sequence[LoadStep], bins: int) -> Iterator[LoadStep]:
    """Take what falls soon after a start, without going off, as its inrush that dies away."""
    start: LoadStep | None = None
    for step in found:
        if start is not None:
            if step.kind is StepKind.STAGE_OFF and step.at - start.at <= bins:
                start = replace(start, after=step.after)
                continue
            yield start
        start = step if step.kind is StepKind.START else None
        if start is None:
            yield step
    if start is not None:
        yield start


def window_of(bins: Binned) -> int:
    """How many bins are looked at on each side of a step: of numbers typed by hand, one."""
    return 1 if bins.few else max(3, round(WINDOW_S / bins.width_s))
