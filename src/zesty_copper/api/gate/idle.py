"""What was computed is let go where nobody has asked for anything for a while."""

import ctypes
import gc
import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from threading import Event, Thread

from fastapi import FastAPI
from starlette.types import ASGIApp, Receive, Scope, Send

from zesty_copper.core.diagnosis.predict.compiled import release
from zesty_copper.service.answers import forget_answers
from zesty_copper.service.plans import let_plans_go

__all__ = ["LastAsked", "Times", "let_go", "letting_go"]

IDLE_SECONDS = 600.0
LOOKED_EVERY_SECONDS = 30.0


class Times:
    """When anything was last asked for [s, of a clock that only goes forward]."""

    def __init__(self) -> None:
        self.asked = time.monotonic()


class LastAsked:
    """Middleware that keeps the time of the last request."""

    def __init__(self, app: ASGIApp, state: Times) -> None:
        self.app = app
        self.state = state

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Note the time and go on."""
        self.state.asked = time.monotonic()
        await self.app(scope, receive, send)


def let_go() -> None:
    """Release what is kept of every circuit, and give the memory back to the system."""
    release()
    forget_answers()
    let_plans_go()
    gc.collect()
    # Python's allocator keeps what is freed; the C library hands it back when told to.
    ctypes.CDLL(None).malloc_trim(0)


@asynccontextmanager
async def letting_go(app: FastAPI) -> AsyncIterator[None]:
    """Let go once after each stretch of `IDLE_SECONDS` without a request, as long as the application runs."""
    ended = Event()
    times: Times = app.state.times

    def watch() -> None:
        let_go_at = 0.0
        while not ended.wait(LOOKED_EVERY_SECONDS):
            if times.asked > let_go_at and time.monotonic() - times.asked > IDLE_SECONDS:
                let_go()
                let_go_at = time.monotonic()

    Thread(target=watch, daemon=True, name="let go when idle").start()
    yield
    ended.set()
    let_plans_go()
    if (load_tests := getattr(app.state, "load_tests", None)) is not None:
        load_tests.close()
