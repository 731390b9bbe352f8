"""A panel: its spaces, the leg that each is on, and the breakers' poles in them.

Legs follow each other row by row, and both sides of a row are on one leg; odd spaces on the left, even on the right, or
counted down one side and then the other. That is how nearly all American panels are built (common practice, no source):
where one is not, volts between two spaces say so.
"""

from typing import Annotated, Self

from pydantic import Field, StrictBool, model_validator

from zesty_copper.core.circuit.part import Identifier
from zesty_copper.core.circuit.systems import SystemName, supplies
from zesty_copper.core.frozen import Count, Figure, Frozen

__all__ = ["MOST_SPACES", "Panel", "Pole", "VoltsBetween", "halves_of", "space_of"]

MOST_SPACES = 84

Pole = Annotated[str, Field(pattern=r"^[1-9]\d?[AB]?$", description="a space, as 12; half of one, as 12A or 12B")]


class VoltsBetween(Frozen):
    """Volts read between the breaker terminals of two spaces."""

    a: Pole
    b: Pole
    volts: Figure = Field(ge=0, le=1000)


class Panel(Frozen):
    """One panel."""

    id: Identifier
    name: str = Field(min_length=1, max_length=60)
    system: SystemName
    spaces: Count = Field(ge=2, le=MOST_SPACES, multiple_of=2)
    down_one_side: StrictBool = Field(default=False, description="counted down the left side, then down the right")
    first_leg: str = Field(default="L1", description="the leg of the topmost row")
    read: tuple[VoltsBetween, ...] = Field(default=(), max_length=40)

    @model_validator(mode="after")
    def _check(self) -> Self:
        if self.first_leg not in self.legs:
            raise ValueError(
                f"This supply has no {self.first_leg}: the topmost row is on one of {', '.join(self.legs)}."
            )
        for pole in {end for pair in self.read for end in (pair.a, pair.b)}:
            if space_of(pole) > self.spaces:
                raise ValueError(f"Volts were read at space {pole}, but this panel has {self.spaces} spaces.")
        return self

    @property
    def legs(self) -> tuple[str, ...]:
        """Names of its ungrounded conductors."""
        return tuple(supplies()[self.system].legs)

    def place(self, space: int) -> tuple[int, int]:
        """Return the row from the top and the side, 0 left and 1 right, of a space."""
        if self.down_one_side:
            half = self.spaces // 2
            return (space - 1) % half, (space - 1) // half
        return (space - 1) // 2, (space - 1) % 2

    def space_at(self, row: int, side: int) -> int | None:
        """Return the space in a row on a side; None beyond the panel's ends."""
        if not 0 <= row < self.spaces // 2:
            return None
        return side * (self.spaces // 2) + row + 1 if self.down_one_side else 2 * row + side + 1

    def leg(self, pole: str) -> str:
        """Return the leg that a space is on.

        >>> panel = Panel(id="p", name="Main", system="split_phase_120_240", spaces=20)
        >>> [panel.leg(one) for one in ("1", "2", "3", "4", "6B")]
        ['L1', 'L1', 'L2', 'L2', 'L1']
        """
        row, _ = self.place(space_of(pole))
        return self.legs[(self.legs.index(self.first_leg) + row) % len(self.legs)]


def space_of(pole: str) -> int:
    """Return the space of a pole, whichever half of it."""
    return int(pole.rstrip("AB"))


def halves_of(pole: str) -> frozenset[str]:
    """Return the halves of a space that a pole takes up."""
    half = pole[-1] if pole[-1] in "AB" else ""
    return frozenset(half or "AB")
