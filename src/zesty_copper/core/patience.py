"""Whether it is worth going on: long work asks between its steps, and whoever has it done may end it there."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["check_patience", "patience"]

_check: ContextVar[Callable[[], None] | None] = ContextVar("check", default=None)


@contextmanager
def patience(check: Callable[[], None]) -> Iterator[None]:
    """Have what is worked out within the block ask `check` between its steps; what it raises ends the work."""
    token = _check.set(check)
    try:
        yield
    finally:
        _check.reset(token)


def check_patience() -> None:
    """Ask whether to go on: between steps, where nothing is half done."""
    check = _check.get()
    if check is not None:
        check()
