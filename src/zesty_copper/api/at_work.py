"""How much is computed at a time: more would only slow each other, and everyone who asks for something small."""

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore

from zesty_copper.api.problems import Busy

__all__ = ["AtWork"]


class AtWork:
    """Places to compute at.

    Parameters
    ----------
    at_once
        How many are computed side by side.
    waiting
        How many more may wait for a place. Each keeps a thread from what is quick, so it must stay well below the
        server's threads; whoever comes then is told to come again.
    """

    def __init__(self, at_once: int, waiting: int) -> None:
        self._at_once = BoundedSemaphore(at_once)
        self._let_in = BoundedSemaphore(at_once + waiting)

    @contextmanager
    def place(self) -> Iterator[None]:
        """Wait for a place.

        Raises
        ------
        Busy
            If too many wait already.
        """
        if not self._let_in.acquire(blocking=False):
            raise Busy("Too much is being worked out at once: try again in a moment.")
        try:
            with self._at_once:
                yield
        finally:
            self._let_in.release()

    @contextmanager
    def free_place(self) -> Iterator[bool]:
        """Take a place that is free right now; tells whether there was one."""
        free = self._at_once.acquire(blocking=False)
        try:
            yield free
        finally:
            if free:
                self._at_once.release()
