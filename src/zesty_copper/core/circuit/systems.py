"""Supply systems, read once from `systems.toml`."""

import cmath
import itertools
import math
import tomllib
from collections.abc import Mapping
from enum import StrEnum
from functools import cache, cached_property
from importlib.resources import files
from types import MappingProxyType
from typing import Annotated

from pydantic import AfterValidator, Field

from zesty_copper.core.frozen import Frozen

__all__ = ["Grounding", "Supply", "SystemName", "supplies"]


class Grounding(StrEnum):
    """What holds the system to ground."""

    SOLID = "solid"
    NONE = "none"


class Supply(Frozen):
    """One supply system; the fields are explained in the head of `systems.toml`."""

    label: str
    legs: dict[str, tuple[float, float]]
    unseen: dict[str, tuple[float, float]] = Field(default_factory=dict)
    neutral: bool
    grounding: Grounding
    primary_delta: bool = False
    high_leg: str | None = None
    other: str | None = None

    @cached_property
    def phasors(self) -> dict[str, complex]:
        """Nominal phasor of each leg to the grounded point [V]."""
        return _phasors(self.legs)

    @cached_property
    def unseen_phasors(self) -> dict[str, complex]:
        """The same of legs that only share its neutral [V]."""
        return _phasors(self.unseen)

    @cached_property
    def line_volts(self) -> float:
        """Nominal voltage from leg to leg, or to neutral where there is one leg [V]."""
        return max(self.gathering_volts)

    @cached_property
    def gathering_volts(self) -> tuple[float, ...]:
        """Voltages that a healthy supply shows between two conductors, or to ground, without repetition [V]."""
        phasors = [*self.phasors.values(), 0j]
        volts = {round(abs(a - b), 1) for a, b in itertools.combinations(phasors, 2)}
        return tuple(sorted(volts - {0.0}))


def _phasors(legs: Mapping[str, tuple[float, float]]) -> dict[str, complex]:
    return {leg: cmath.rect(volts, math.radians(degrees)) for leg, (volts, degrees) in legs.items()}


@cache
def supplies() -> Mapping[str, Supply]:
    """Every supply system, by its name."""
    table = tomllib.loads(files(__package__).joinpath("systems.toml").read_text("utf-8"))
    return MappingProxyType({name: Supply.model_validate(row) for name, row in table.items()})


def _known(name: str) -> str:
    if name not in supplies():
        raise ValueError(f"No supply system “{name}” is known: use one of {', '.join(supplies())}.")
    return name


SystemName = Annotated[str, AfterValidator(_known)]
