"""How much is computed at a time, and how long: more would only slow each other, and all that is quick."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore

from zesty_copper.core.errors import Busy, Gone
from zesty_copper.core.patience import patience
from zesty_copper.service.waiting import nobody_waits

__all__ = ["AtWork"]

LOOKED_EVERY_SECONDS = 0.1
"""How often whoever waits for a place is looked for."""


class AtWork:
    """Places to compute at.

    Parameters
    ----------
    at_once
        How many are computed side by side.
    waiting
        How many more may wait for a place. Each keeps a thread from what is quick, so it must stay well below the
        server's threads; whoever comes then is told to come again.
    seconds
        How long one may take [s].
    """

    def __init__(self, at_once: int, waiting: int, seconds: float) -> None:
        self._at_once = BoundedSemaphore(at_once)
        self._let_in = BoundedSemaphore(at_once + waiting)
        self._seconds = seconds

    @contextmanager
    def place(self) -> Iterator[None]:
        """Wait for a place; what is worked out there ends when it takes too long, or nobody waits for it any more.

        Raises
        ------
        Busy
            If too many wait already, or it takes too long.
        Gone
            If nobody waits for it any more.
        """
        if not self._let_in.acquire(blocking=False):
            raise Busy("Too much is being worked out at once: try again in a moment.")
        try:
            while not self._at_once.acquire(timeout=LOOKED_EVERY_SECONDS):
                _check_waited_for()
            try:
                until = time.monotonic() + self._seconds

                def check() -> None:
                    _check_waited_for()
                    if time.monotonic() > until:
                        raise Busy("This took too long to work out: try again, or take parts out of the circuit.")

                with patience(check):
                    yield
            finally:
                self._at_once.release()
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


def _check_waited_for() -> None:
    if nobody_waits():
        raise Gone("Nobody waits for this any more.")
