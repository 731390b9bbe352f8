"""Plans to take along: worked out in a process of their own that yields to everything else on the machine."""

import os
import time
from hashlib import sha256
from multiprocessing import get_context
from multiprocessing.pool import AsyncResult, Pool
from threading import Lock
from uuid import UUID

from cachetools import LRUCache

from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.tools.take_along import GrowingPlan, TakeAlong

__all__ = ["let_plans_go", "planned"]

MOST_SECONDS = 18.0
"""What one plan may take [s]; a little more goes by until it is fetched."""
MOST_SECONDS_BUSY = 75.0
"""What it may take where all else goes first, and it gets less than `MOST_SECONDS` of a processor [s]."""
GIVEN_UP_SECONDS = 120.0
"""After this one that did not come is begun again [s]."""
KEPT = 40
LEAST_URGENT = 19
THREADS = 2
"""How many answers are worked out at once."""


class Plans:
    """Plans by the job that they are of, one worked out at a time."""

    def __init__(self) -> None:
        self._pool: Pool | None = None
        self._going: dict[UUID, tuple[bytes, AsyncResult[bytes], float]] = {}
        self._done: LRUCache[bytes, bytes] = LRUCache(KEPT)
        self._lock = Lock()

    def of(self, call_id: UUID, job: Job) -> TakeAlong:
        """Return the plan of a call as it stands once it is done, else how far it is."""
        text = job.model_dump_json()
        key = sha256(text.encode()).digest()
        with self._lock:
            if (done := self._done.get(key)) is not None:
                return TakeAlong.model_validate_json(done)
            now = time.monotonic()
            before, result, begun = self._going.get(call_id, (b"", None, now))
            if result is not None and before == key and now - begun < GIVEN_UP_SECONDS:
                if not result.ready():
                    return _growing(min((now - begun) / MOST_SECONDS, 0.99))
                del self._going[call_id]
                plan_bytes: bytes = result.get()
                self._done[key] = plan_bytes
                return TakeAlong.model_validate_json(plan_bytes)
            # One at a time, and none waits: whoever still wants theirs asks again, and who has left does not.
            if all(running.ready() for _, running, _ in self._going.values()):
                self._going[call_id] = (key, self._process().apply_async(_worked_out, (text,)), now)
            return _growing(0.0)

    def close(self) -> None:
        """End the process, whatever it is doing."""
        with self._lock:
            if self._pool is not None:
                self._pool.terminate()
                self._pool = None
            self._going.clear()

    def _process(self) -> Pool:
        """The process, begun when it is first wanted: it holds as much memory as the server."""
        if self._pool is None:
            self._pool = get_context("spawn").Pool(1, initializer=os.nice, initargs=(LEAST_URGENT,))
        return self._pool


_plans = Plans()


def planned(call_id: UUID, job: Job) -> TakeAlong:
    """The plan to take along, or how far it is."""
    return _plans.of(call_id, job)


def let_plans_go() -> None:
    """End the work on plans."""
    _plans.close()


def _growing(progress: float) -> TakeAlong:
    return TakeAlong(is_done=False, progress=progress, answers=0, share=0.0, nodes=())


def _worked_out(text: str) -> bytes:
    """Work a plan out, in the process of its own."""
    begun, worked = time.monotonic(), time.process_time()
    plan = GrowingPlan(Job.model_validate_json(text))

    def go_on() -> bool:
        took = time.monotonic() - begun
        is_held_up = time.process_time() - worked < MOST_SECONDS
        return took < (MOST_SECONDS_BUSY if is_held_up else MOST_SECONDS)

    plan.grow(go_on, THREADS)
    plan.end()
    return plan.told().model_dump_json().encode()
