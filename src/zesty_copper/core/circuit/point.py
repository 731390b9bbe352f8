"""Where a probe touches: on one conductor, right behind one part."""

from typing import Any, Final, Self

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

__all__ = ["GROUND", "Point"]


class Point(str):
    """A conductor and the part behind which it is touched, written `L1@whip`; or `G`, the ground at hand.

    It is the string that files, pages and the database hold; only here is that string put together and taken apart.
    """

    __slots__ = ()

    @classmethod
    def at(cls, lane: str, part_id: str) -> Self:
        """Return the point on a conductor behind a part."""
        return cls(f"{lane}@{part_id}")

    @property
    def lane(self) -> str:
        """Its conductor."""
        return self.partition("@")[0]

    @property
    def part_id(self) -> str | None:
        """The part behind which it lies; none of the ground at hand, which is wherever the other probe is."""
        return self.partition("@")[2] or None

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Read any string: whether a circuit has the point is the circuit's to say."""
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema())


GROUND: Final = Point("G")
"""The equipment ground: a conductor of its own, and the point for the ground where the other probe is."""
