"""Plans to take along: worked out a little with each request for one, where nobody waits for anything else."""

import time
from hashlib import sha256
from threading import Lock

from cachetools import LRUCache

from zesty_copper.api.at_work import AtWork
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.tools.take_along import GrowingPlan, TakeAlong

__all__ = ["Plans"]

PIECE_SECONDS = 1.0
"""What one request adds to a plan [s]; between two of them others have their turn."""
MOST_SECONDS = 20.0
"""What a plan may take together [s]."""
AT_ONCE = 3
"""How many plans grow side by side; each holds some megabytes meanwhile."""
KEPT = 30


class Plans:
    """Plans by the job that they are of."""

    def __init__(self) -> None:
        self._growing: LRUCache[bytes, tuple[GrowingPlan, list[float]]] = LRUCache(AT_ONCE)
        self._done: LRUCache[bytes, bytes] = LRUCache(KEPT)
        self._lock = Lock()

    def of(self, job: Job, at_work: AtWork) -> TakeAlong:
        """Return the plan of a job once it is done, else how far it is; one piece is added where there is room."""
        key = sha256(job.model_dump_json().encode()).digest()
        with self._lock:
            if (done := self._done.get(key)) is not None:
                return TakeAlong.model_validate_json(done)
            plan, spent = self._growing.setdefault(key, (GrowingPlan(job), []))
        with at_work.free_place() as free:
            if not free:
                return plan.told()
            begun = time.monotonic()
            with self._lock:
                # Two who ask for the same plan do not work on it at once.
                if spent and spent[-1] < 0:
                    return plan.told()
                spent.append(-1.0)
            try:
                plan.grow(lambda: time.monotonic() - begun < PIECE_SECONDS)
            finally:
                spent[-1] = time.monotonic() - begun
            if sum(spent) >= MOST_SECONDS:
                plan.end()
        told = plan.told()
        if told.is_done:
            with self._lock:
                self._done[key] = told.model_dump_json().encode()
                self._growing.pop(key, None)
        return told
