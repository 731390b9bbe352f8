"""Every kind of observation: a new one is its file in `kinds/`, its place and unit here, and its messages."""

from typing import Annotated, Literal

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.kinds.amps import Amps, Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.ohms import Ohms
from zesty_copper.core.observations.kinds.sequence import PhaseSequence, Turning
from zesty_copper.core.observations.kinds.tester import Near, Tester
from zesty_copper.core.observations.kinds.volts import Volts
from zesty_copper.core.observations.kinds.warmth import TemperatureOver, Warmth
from zesty_copper.core.observations.kinds.watching import Watched, Watching
from zesty_copper.core.observations.observation import AnyObservation

__all__ = ["LINEAR_UNITS", "OBSERVATIONS", "Place", "Unit", "observation_at", "observation_in"]

Place = Annotated[Between | Around | Turning | Near | Watching | Warmth, Field(discriminator="kind")]
Unit = Literal["V", "A", "seq", "ohm", "beep", "run", "degF"]
"""Volts; amps; phase sequence, which is 1 in the order of the legs' names, −1 against it, 0 where nothing turns; ohms;
whether a tester beeps, 1 or 0; 0 still or out, 1 running or in, 2 humming or chattering; degrees Fahrenheit above the
coolest mate."""
OBSERVATIONS: tuple[AnyObservation, ...] = (
    Volts(),
    Amps(),
    Ohms(),
    PhaseSequence(),
    Watched(),
    Tester(),
    TemperatureOver(),
)
LINEAR_UNITS = tuple(kind.unit for kind in OBSERVATIONS if kind.is_linear)
"""Units of what is a magnitude of a sum of unknowns of the network; everything else has a way of its own."""
_IN = {kind.unit: kind for kind in OBSERVATIONS}
_AT = {(kind.place, kind.is_dead): kind for kind in OBSERVATIONS}


def observation_in(unit: str) -> AnyObservation:
    """Return the kind that is read in a unit."""
    return _IN[unit]


def observation_at(place: Frozen, *, is_dead: bool) -> AnyObservation:
    """Return the kind that is read at a place: between two points, ohms where the meter's mode is for what is dead."""
    return _AT.get((type(place), is_dead)) or _AT[type(place), False]
