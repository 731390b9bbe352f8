"""What is asked of a circuit in time, and what is answered."""

from typing import Self

from pydantic import Field, model_validator

from zesty_copper.core.circuit.part import Identifier
from zesty_copper.core.frozen import Figure, Frozen
from zesty_copper.core.observations.measurement import OpenSwitches
from zesty_copper.core.ratings.rules.finding import Status
from zesty_copper.core.ratings.worked import Worked
from zesty_copper.core.tools.what_if import Move

__all__ = ["CallStep", "Click", "Moment", "SeenLevel", "Timed", "TimedStage", "TimingAsked", "TimingFinding"]

MOST_SECONDS = 3600.0


class CallStep(Frozen):
    """From a moment on these switches are open by hand, or do not call."""

    at_s: Figure = Field(ge=0, le=MOST_SECONDS)
    open_switches: OpenSwitches = frozenset()


class SeenLevel(Frozen):
    """Amps that were read, from a moment on."""

    at_s: Figure = Field(ge=0, le=MOST_SECONDS)
    amps: Figure = Field(ge=0, le=5000)


class TimingAsked(Frozen):
    """A run to be followed: calls in order, changes tried in the model, and what was seen."""

    steps: tuple[CallStep, ...] = Field(min_length=1, max_length=12)
    until_s: Figure = Field(default=600.0, ge=1, le=MOST_SECONDS)
    moves: tuple[Move, ...] = Field(default=(), max_length=8)
    suspect: str | None = Field(default=None, description="on top of which suspect; none: nothing wrong")
    clamp: Identifier | None = Field(default=None, description="part around whose conductor the clamp is")
    leg: str = Field(default="L1", max_length=4)
    seen: tuple[SeenLevel, ...] = Field(default=(), max_length=200)
    fan: Identifier | None = Field(default=None, description="what blows over the heat; by default what runs longest")
    cfm: Figure | None = Field(default=None, ge=1, le=20000)

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        for name in ("steps", "seen"):
            times = [event.at_s for event in getattr(self, name)]
            if times != sorted(times):
                raise ValueError("What happens later must stand later: put the times in order.")
        return self


class Click(Frozen):
    """A contact that moves, and when: nominally, and by the ranges of the delays at the soonest and the latest."""

    switch: str
    name: str
    pulls_in: bool
    at_s: float
    soonest_s: float
    latest_s: float


class Moment(Frozen):
    """A stretch in which nothing moves, nominally: what every reading should be."""

    from_s: float
    to_s: float
    pulled_in: tuple[str, ...] = Field(description="switches whose coils hold them in")
    running: tuple[str, ...] = Field(description="loads that run or heat, by their ids")
    amps: dict[str, float] = Field(description="of each conductor where the clamp is [A]")
    volts: dict[str, float] = Field(description="from each conductor to ground there [V]")


class TimedStage(Frozen):
    """A step of the amps: when it is due, and when it was seen."""

    words: str
    amps: Figure = Field(description="by how much the amps change; negative where they fall")
    at_s: float
    soonest_s: float
    latest_s: float
    seen_s: float | None
    status: Status


class TimingFinding(Frozen):
    """What follows."""

    label: str
    status: Status
    words: str
    worked: Worked | None = None


class Timed(Frozen):
    """A run in time."""

    clamp: str
    clicks: tuple[Click, ...]
    moments: tuple[Moment, ...]
    stages: tuple[TimedStage, ...]
    findings: tuple[TimingFinding, ...]
    chatters: bool
