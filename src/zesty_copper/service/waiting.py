"""Whether anybody still waits for what is being worked out."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["nobody_waits", "waited_for_until"]

_gone: ContextVar[Callable[[], bool] | None] = ContextVar("gone", default=None)


@contextmanager
def waited_for_until(gone: Callable[[], bool]) -> Iterator[None]:
    """Have what is worked out within the block know, by asking `gone`, when whoever asked for it has left."""
    token = _gone.set(gone)
    try:
        yield
    finally:
        _gone.reset(token)


def nobody_waits() -> bool:
    """Whether whoever asked for what is being worked out has left."""
    gone = _gone.get()
    return gone is not None and gone()
