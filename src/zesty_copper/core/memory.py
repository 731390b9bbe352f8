"""Results that are kept for the next time, within a bound of bytes."""

from collections.abc import Callable, Hashable
from threading import RLock
from typing import TypeVar

from cachetools import LRUCache

__all__ = ["Memory"]

_Result = TypeVar("_Result")
LEAST_BYTES = 200
"""What any result takes besides its arrays, roughly [byte]."""


class Memory:
    """Results by key; what was longest not asked for is let go once all hold too many bytes.

    A result tells its size by `nbytes`, as arrays do.
    """

    def __init__(self, most_bytes: int) -> None:
        self._held: LRUCache[Hashable, object] = LRUCache(most_bytes, getsizeof=_bytes_of)
        self._lock = RLock()
        self._making: dict[Hashable, RLock] = {}

    @property
    def bytes(self) -> int:
        """How much is held [byte]."""
        return int(self._held.currsize)

    def forget(self) -> None:
        """Let go of everything."""
        with self._lock:
            self._held.clear()

    def kept(self, key: Hashable, make: Callable[[], _Result]) -> _Result:
        """Return what is held under a key, made first if need be; who asks meanwhile waits instead of making it too."""
        with self._lock:
            if key in self._held:
                return self._held[key]  # type: ignore[return-value] # whoever asks by this key made it
            making = self._making.setdefault(key, RLock())
        with making:
            with self._lock:
                if key in self._held:
                    return self._held[key]  # type: ignore[return-value] # the same
            try:
                made = make()
                with self._lock:
                    # What is larger than all that may be held is made again each time.
                    if _bytes_of(made) <= self._held.maxsize:
                        self._held[key] = made
            finally:
                with self._lock:
                    self._making.pop(key, None)
        return made


def _bytes_of(value: object) -> int:
    """Bytes of a result: what it says itself, as arrays do, and what a few of them in a tuple or mapping say [byte]."""
    if isinstance(value, tuple):
        return LEAST_BYTES + sum(map(_bytes_of, value))
    return LEAST_BYTES + int(getattr(value, "nbytes", 0))
