"""A trace in bins: means for the search of steps, lowest and highest for the eye."""

from dataclasses import dataclass

import numpy as np

from zesty_copper.core.load_test.trace import Series, Trace

__all__ = ["Binned", "Envelope", "binned", "envelope"]

LEAST_BIN_S = 0.25
MOST_BINS = 200_000
FEW_SAMPLES = 40
"""Fewer were typed by hand."""


@dataclass(frozen=True, eq=False)
class Binned:
    """Means of equal stretches of time.

    Attributes
    ----------
    width_s
        Length of one bin [s].
    values
        (channels, bins): the mean, and the one before where a bin has no sample.
    few
        Whether they are numbers that were typed by hand.
    """

    width_s: float
    values: Series
    few: bool


@dataclass(frozen=True, eq=False)
class Envelope:
    """The lowest and the highest of each stretch, which a chart draws.

    Attributes
    ----------
    seconds
        (stretches,): where each begins [s].
    low, high
        (channels, stretches); NaN where there is no sample.
    """

    seconds: Series
    low: Series
    high: Series


def binned(trace: Trace) -> Binned:
    """Average a trace over equal bins, none of them shorter than the usual time between samples.

    Numbers typed by hand lie as they may: each has its own bin.
    """
    few = len(trace.seconds) < FEW_SAMPLES
    usual = float(np.diff(trace.seconds).min()) if few else trace.step_s
    width = max(LEAST_BIN_S, usual, trace.duration_s / MOST_BINS)
    place = np.minimum((trace.seconds / width).astype(np.int64), int(trace.duration_s / width))
    count = int(place[-1]) + 1
    values = np.empty((len(trace.channels), count))
    for i, row in enumerate(trace.values):
        finite = np.isfinite(row)
        total = np.bincount(place[finite], row[finite], count)
        samples = np.bincount(place[finite], minlength=count)
        with np.errstate(invalid="ignore"):
            values[i] = _filled(total / samples)
    return Binned(width, values, few)


def _filled(row: Series) -> Series:
    """Fill what is missing with what came before it; ahead of the first, with the first."""
    finite = np.isfinite(row)
    if finite.all():
        return row
    last = np.maximum.accumulate(np.where(finite, np.arange(len(row)), -1))
    return row[np.where(last < 0, int(np.argmax(finite)), last)]


def envelope(seconds: Series, low: Series, high: Series, stretches: int) -> Envelope:
    """Draw samples, or stretches of them, together into fewer.

    Parameters
    ----------
    seconds
        (samples,) [s].
    low, high
        (channels, samples); of single samples the same twice.
    stretches
        How many at most.
    """
    count = len(seconds)
    if count <= stretches:
        return Envelope(seconds, low, high)
    starts = np.linspace(0, count, stretches, endpoint=False).astype(np.int64)
    # Of a stretch that has nothing at all, nothing is said; fmin and fmax pass over what is missing.
    return Envelope(seconds[starts], np.fmin.reduceat(low, starts, axis=1), np.fmax.reduceat(high, starts, axis=1))
