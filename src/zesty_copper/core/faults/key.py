"""The name of a fault within its circuit: its kind, its part and its conductor."""

from typing import Self

__all__ = ["FaultKey"]


class FaultKey(str):
    """A fault's name, `open:fuse:L2`; of two at once both names. Put together and taken apart here alone."""

    __slots__ = ()

    @classmethod
    def of(cls, kind: str, part: str | None = None, leg: str | None = None) -> Self:
        """Return the key of a fault; without a conductor or part, of every such fault there."""
        return cls(":".join(text for text in (kind, part, leg) if text))

    @classmethod
    def together(cls, *keys: str) -> Self:
        """Return the key of faults that are there at once."""
        return cls("+".join(keys))

    @property
    def each(self) -> tuple[str, ...]:
        """The keys of faults that are there at once; of a single fault its own."""
        return tuple(self.split("+"))

    def is_among(self, beginning: str) -> bool:
        """Whether this is a fault, or one of the faults, that a key or its beginning names."""
        return f"{self}:".startswith(f"{beginning}:")
