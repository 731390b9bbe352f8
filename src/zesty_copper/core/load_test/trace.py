"""Volts and amps over time, as arrays, and what each channel is."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["LEAST_SAMPLES", "MOST_CHANNELS", "MOST_SAMPLES", "Channel", "Series", "Trace", "trace_of"]

Series = NDArray[np.float64]

MOST_SAMPLES = 1_000_000
MOST_CHANNELS = 8
LEAST_SAMPLES = 3


class Channel(Frozen):
    """What one column of a trace measures."""

    kind: Literal["volts", "amps"]
    lanes: tuple[str, ...] = Field(
        min_length=1, max_length=2, description="two conductors of a voltage, or the one in the clamp"
    )
    heats: bool = Field(default=False, description="amps of resistive heat alone, which never climb")
    rated_amps: float | None = Field(
        default=None, ge=0.001, le=2000, description="of what is in the clamp, by its plate"
    )

    @property
    def unit(self) -> Literal["V", "A"]:
        """In what it is measured."""
        return "V" if self.kind == "volts" else "A"

    @property
    def label(self) -> str:
        """What a chart calls it."""
        return " to ".join(self.lanes)


@dataclass(frozen=True, eq=False)
class Trace:
    """A trace.

    Attributes
    ----------
    seconds
        (samples,): since it began, rising [s].
    values
        (channels, samples) [V or A]; NaN where the logger gave nothing.
    """

    channels: tuple[Channel, ...]
    seconds: Series
    values: Series

    @property
    def duration_s(self) -> float:
        """From the first sample to the last [s]."""
        return float(self.seconds[-1] - self.seconds[0])

    @property
    def step_s(self) -> float:
        """The usual time between two samples [s]."""
        return float(np.median(np.diff(self.seconds)))

    def of(self, kind: Literal["volts", "amps"]) -> list[int]:
        """Return the places of the channels of a kind."""
        return [i for i, channel in enumerate(self.channels) if channel.kind == kind]


def trace_of(channels: Sequence[Channel], seconds: Series, values: Series) -> Trace:
    """Make a trace, checked.

    Parameters
    ----------
    seconds
        (samples,) [s], rising.
    values
        (channels, samples) [V or A]; NaN where nothing was read.

    Raises
    ------
    BadInput
        If there are too few or too many samples or channels, time does not rise, or two channels are the same.
    """
    if not 1 <= len(channels) <= MOST_CHANNELS:
        raise BadInput(say("load_test.channels", most=MOST_CHANNELS), "channels")
    if len({(channel.kind, channel.lanes) for channel in channels}) < len(channels):
        raise BadInput(say("load_test.channel_twice"), "channels")
    if not LEAST_SAMPLES <= len(seconds) <= MOST_SAMPLES:
        raise BadInput(say("load_test.samples", least=LEAST_SAMPLES, most=f"{MOST_SAMPLES:,}"), "seconds")
    if values.shape != (len(channels), len(seconds)):
        raise BadInput(say("load_test.not_as_many"), "values")
    if not np.all(np.diff(seconds) > 0):
        raise BadInput(say("load_test.time_must_rise"), "seconds")
    if not np.isfinite(values).any(axis=1).all():
        raise BadInput(say("load_test.empty_channel"), "values")
    return Trace(tuple(channels), seconds - seconds[0], values)
