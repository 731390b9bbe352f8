"""The key by which a number of a proof is kept: what is measured, at which part, on which conductors."""

from typing import Any, Self

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

__all__ = ["ProofKey"]


class ProofKey(str):
    """What is measured, and where: `load:main:L1:L2`. Put together and taken apart here alone."""

    __slots__ = ()

    @classmethod
    def of(cls, what: str, part_id: str, *lanes: str) -> Self:
        """Return the key of what is measured at a part, on one conductor or between two."""
        return cls(":".join((what, part_id, *lanes)))

    @property
    def what(self) -> str:
        """What is measured."""
        return self.partition(":")[0]

    @property
    def part_id(self) -> str:
        """The part at which it is; empty where it is about the whole equipment."""
        return (*self.split(":"), "")[1]

    @property
    def lanes(self) -> tuple[str, ...]:
        """The conductors."""
        return tuple(self.split(":")[2:])

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Read any short text: whether a proof asks it is the proof's to say."""
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema(min_length=1, max_length=120))
