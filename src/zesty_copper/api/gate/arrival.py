"""How a request arrives: whole, within bounds of size and time. And whether whoever sent it still waits."""

import asyncio
import re
from collections.abc import Callable
from contextlib import suppress
from threading import Event

from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from zesty_copper.api.problems import problem
from zesty_copper.files.job_file import MAX_BYTES as MAX_JOB_BYTES
from zesty_copper.files.photo import MOST_PHOTO_BYTES
from zesty_copper.service.waiting import waited_for_until

__all__ = ["MAX_BODY_BYTES", "Arrival"]

MAX_BODY_BYTES = 1_000_000
LARGER_BODIES = (
    (re.compile(r"/api/imported-calls"), 2 * MAX_JOB_BYTES),
    (re.compile(r"/api/calls/[^/]+/photos/[^/]+"), MOST_PHOTO_BYTES),
)
"""A job file is sent as text within JSON, which takes more room than the file itself."""
STRANGERS_BYTES = 20_000
"""What signing in takes at most: who is not signed in sends no more."""
BODY_SECONDS = 20.0
"""How long the next piece of a body is waited for."""


class Arrival:
    """Refuses a body that is too large, announced or not, or stops arriving, and notes who goes away.

    Parameters
    ----------
    is_signed_in
        Whether a request comes from someone who is signed in: asked before more than a stranger's bytes are taken in.
    """

    def __init__(self, app: ASGIApp, is_signed_in: Callable[[Request], bool]) -> None:
        self._app = app
        self._is_signed_in = is_signed_in

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, its body read and bounded."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        most = next((most for path, most in LARGER_BODIES if path.fullmatch(scope["path"])), MAX_BODY_BYTES)
        body = bytearray()
        more = True
        is_known = False
        while more:
            try:
                message = await asyncio.wait_for(receive(), BODY_SECONDS)
            except TimeoutError:
                response = problem(408, "too_slow", "The request did not arrive whole: send it again.")
                await response(scope, receive, send)
                return
            if message["type"] == "http.disconnect":
                return
            body += message.get("body", b"")
            more = message.get("more_body", False)
            if len(body) > STRANGERS_BYTES and not is_known:
                is_known = await run_in_threadpool(self._is_signed_in, Request(scope))
                if not is_known:
                    response = problem(401, "signed_out", "Sign in first: nothing that you typed is lost.")
                    await response(scope, receive, send)
                    return
            if len(body) > most:
                response = problem(413, "too_large", f"That is more than {most / 1e6:.0f} MB: send a smaller file.")
                await response(scope, receive, send)
                return
        await self._answer(scope, bytes(body), receive, send)

    async def _answer(self, scope: Scope, body: bytes, receive: Receive, send: Send) -> None:
        """Have it answered, and note meanwhile whether whoever sent it goes away."""
        gone, given = Event(), False

        async def watch() -> None:
            while (await receive())["type"] != "http.disconnect":
                pass
            # A change is made whether or not anyone waits to hear of it: a page sends it as it is left.
            if scope["method"] not in ("PUT", "PATCH", "DELETE"):
                gone.set()

        async def replay() -> Message:
            nonlocal given
            if given:
                await asyncio.Event().wait()  # there is nothing more to come
            given = True
            return {"type": "http.request", "body": body, "more_body": False}

        async def answered(message: Message) -> None:
            # Once the answer is out, nobody is expected to wait for what is done after it.
            if message["type"] == "http.response.body" and not message.get("more_body", False):
                watching.cancel()
            await send(message)

        watching = asyncio.create_task(watch())
        try:
            with waited_for_until(gone.is_set):
                await self._app(scope, replay, answered)
        finally:
            watching.cancel()
            with suppress(asyncio.CancelledError):
                await watching
