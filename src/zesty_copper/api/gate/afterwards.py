"""What is done after an answer has gone out: whatever becomes of it, the connection goes on to the next request."""

import logging
from collections.abc import Callable
from functools import partial
from typing import ParamSpec

from fastapi import BackgroundTasks

from zesty_copper.core.errors import Busy, Gone

__all__ = ["do_afterwards"]

_log = logging.getLogger(__name__)
_P = ParamSpec("_P")


def do_afterwards(later: BackgroundTasks, task: Callable[_P, object], *args: _P.args, **kwargs: _P.kwargs) -> None:
    """Do something once the answer is out; an error in it is noted and goes no further."""
    later.add_task(_contained, partial(task, *args, **kwargs))


def _contained(task: Callable[[], object]) -> None:
    try:
        task()
    except (Busy, Gone):
        pass  # it is worked out when it is asked for
    except Exception:  # an error that left here would end the connection under the next request
        _log.exception("what was done after an answer failed")
