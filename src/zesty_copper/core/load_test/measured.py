"""Everything that is measured in a trace."""

from collections.abc import Sequence

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.gaps import Gap
from zesty_copper.core.load_test.sag import Sag
from zesty_copper.core.load_test.starts import Start
from zesty_copper.core.load_test.steadiness import Slope
from zesty_copper.core.load_test.steps import StepKind
from zesty_copper.core.load_test.trace import Channel

__all__ = ["Level", "Stage", "TraceMeasured", "longest_loaded"]

LOADED_AMPS = 1.0
"""With less than this nothing runs [A]."""


class Level(Frozen):
    """A stretch in which a channel keeps its level."""

    channel: int
    from_s: float
    to_s: float
    level: float
    slope: Slope | None


class Stage(Frozen):
    """A stage that came on or went off."""

    channel: int
    at_s: float
    amps: float = Field(description="by how much the amps changed; negative where it went off")
    kind: StepKind


class TraceMeasured(Frozen):
    """What was measured in a trace, before anything is made of it."""

    channels: tuple[Channel, ...]
    samples: int
    duration_s: float
    step_s: float
    starts: tuple[Start, ...]
    stages: tuple[Stage, ...]
    levels: tuple[Level, ...]
    sags: tuple[Sag, ...]
    volts_unbalance_percent: float | None
    amps_unbalance_percent: float | None
    gaps: tuple[Gap, ...]


def longest_loaded(channels: Sequence[Channel], levels: Sequence[Level]) -> Level | None:
    """Return the longest level under load, of the first conductor that was clamped; none where nothing ran."""
    amps = next((i for i, channel in enumerate(channels) if channel.kind == "amps"), None)
    loaded = [level for level in levels if level.channel == amps and level.level > LOADED_AMPS]
    return max(loaded, key=lambda one: one.to_s - one.from_s, default=None)
