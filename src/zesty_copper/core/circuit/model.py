"""A circuit: an ordered chain of parts from the source to the load, on every leg."""

from collections.abc import Iterator
from enum import StrEnum
from functools import cached_property
from typing import Annotated, Self

from pydantic import Field, model_validator

from zesty_copper.core.circuit.catalogue import PartEntry, Role, entry
from zesty_copper.core.circuit.conductor import Conductor
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen

__all__ = ["GROUND", "Circuit", "Identifier", "LoadData", "Part", "Switch", "System", "Zone"]

GROUND = "G"
"""The point id of the equipment ground, to which every other point is measured."""

Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,39}$")]


class System(StrEnum):
    """The supply system."""

    SPLIT_PHASE_120_240 = "split_phase_120_240"

    @property
    def legs(self) -> tuple[str, ...]:
        """Names of the ungrounded conductors."""
        return ("L1", "L2")

    @property
    def leg_volts(self) -> tuple[complex, ...]:
        """Nominal phasor of each leg to ground [V]."""
        return (120 + 0j, -120 + 0j)

    @property
    def line_volts(self) -> float:
        """Nominal voltage from leg to leg [V]."""
        return 240.0


class Zone(StrEnum):
    """Which cover has to be open for a hand to reach a point."""

    PANEL = "panel"
    DISCONNECT = "disconnect"
    UNIT = "unit"


class Switch(Frozen):
    """Something a hand or a thermostat opens and closes on all legs together."""

    id: Identifier
    name: str
    closed: str = Field(description="word for the closed position")
    open: str = Field(description="word for the open position")
    removes_carrier: bool = Field(default=False, description="opening it takes the parts between its contacts away")


class LoadData(Frozen):
    """What a shunt part draws at its rated voltage."""

    rated_volts: float = Field(gt=0, le=1000)
    rated_amps: float = Field(gt=0, le=1000)
    power_factor: float = Field(default=1.0, gt=0, le=1, description="lagging")

    @property
    def impedance_ohm(self) -> complex:
        """Impedance that draws the rated current at the rated voltage [ohm]."""
        magnitude = self.rated_volts / self.rated_amps
        return magnitude * complex(self.power_factor, (1 - self.power_factor**2) ** 0.5)


class Part(Frozen):
    """One row of the path, the same on every leg."""

    id: Identifier
    kind: str
    name: str = Field(min_length=1, max_length=60)
    device: str = Field(default="", max_length=60, description="the box it sits in, for the eye only")
    zone: Zone = Field(description="the cover to open to reach its load-side point")
    point: str = Field(default="", max_length=60, description="words for its load-side point, if not the catalogue's")
    switch: Identifier | None = Field(default=None, description="the switch that opens it")
    conductor: Conductor | None = None
    load: LoadData | None = None
    rating_amps: float | None = Field(default=None, gt=0, le=1000)

    @cached_property
    def entry(self) -> PartEntry:
        """What all parts of this kind have in common."""
        return entry(self.kind)

    @property
    def point_name(self) -> str:
        """Words for the point on its load side."""
        return self.point or self.entry.point


class Circuit(Frozen):
    """Parts in order from the source to the load. Between two parts, on each leg, lies a point."""

    name: str = Field(min_length=1, max_length=80)
    system: System
    switches: tuple[Switch, ...] = Field(max_length=8)
    parts: tuple[Part, ...] = Field(min_length=3, max_length=200)

    @model_validator(mode="after")
    def _check(self) -> Self:
        ids = [part.id for part in self.parts]
        if len(set(ids)) != len(ids):
            raise ValueError("Two parts share one id: give each part its own.")
        if self.parts[0].entry.role is not Role.SOURCE or sum(p.entry.role is Role.SOURCE for p in self.parts) != 1:
            raise ValueError("The circuit must begin with its one source.")
        if self.parts[-1].entry.role is not Role.SHUNT:
            raise ValueError("The circuit must end with its load.")
        known = {switch.id for switch in self.switches}
        for part in self.parts:
            _check_part(part, known)
        for unused in known - {part.switch for part in self.parts}:
            raise ValueError(f"No part is opened by the switch “{unused}”: name it on a part or leave it out.")
        return self

    @cached_property
    def legs(self) -> tuple[str, ...]:
        """Names of the ungrounded conductors."""
        return self.system.legs

    @cached_property
    def _by_id(self) -> dict[str, Part]:
        return {part.id: part for part in self.parts}

    @cached_property
    def series(self) -> tuple[Part, ...]:
        """The source and the parts that carry a leg's current, in order."""
        return tuple(part for part in self.parts if part.entry.role is not Role.SHUNT)

    @property
    def load(self) -> Part:
        """The load at the end of the path."""
        return self.parts[-1]

    def part(self, part_id: str) -> Part:
        """Return the part with this id, or raise BadInput."""
        try:
            return self._by_id[part_id]
        except KeyError:
            raise BadInput(f"This circuit has no part “{part_id}”.", "place") from None

    def points(self) -> Iterator[str]:
        """Every point a probe may touch, leg by leg, then ground."""
        for leg in self.legs:
            for part in self.series:
                yield f"{leg}@{part.id}"
        yield GROUND

    def split_point(self, point: str) -> tuple[str, Part]:
        """Return the leg and the part on whose load side the point lies; BadInput if there is no such point."""
        leg, at, part_id = point.partition("@")
        if at and leg not in self.legs:
            raise BadInput(f"This circuit has no leg “{leg}”: its legs are {', '.join(self.legs)}.", "place")
        part = self._by_id.get(part_id)
        if not at or part is None or part.entry.role is Role.SHUNT:
            raise BadInput(f"This circuit has no point “{point}”.", "place")
        return leg, part

    def on_removed_carrier(self, part: Part, open_switches: frozenset[str]) -> bool:
        """Whether the part's load-side point leaves the box when these switches are open."""
        for switch in self.switches:
            if switch.removes_carrier and switch.id in open_switches:
                places = [i for i, p in enumerate(self.series) if p.switch == switch.id]
                if places[0] <= self.series.index(part) < places[-1]:
                    return True
        return False


def _check_part(part: Part, switches: set[str]) -> None:
    """Check one part against its catalogue entry and the circuit's switches."""
    if part.switch is not None and part.switch not in switches:
        raise ValueError(f"Part “{part.id}” names the switch “{part.switch}”, which the circuit does not list.")
    if part.entry.role is Role.SHUNT:
        if part.load is None:
            raise ValueError(f"Part “{part.id}” needs its rated volts and amps.")
    elif part.entry.resistance_mohm is None and part.conductor is None:
        raise ValueError(f"Part “{part.id}” needs its conductor's size, metal and length.")
