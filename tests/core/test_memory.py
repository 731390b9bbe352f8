"""What is kept, by whom it is made, and what is let go."""

import gc
import time
import weakref
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit, release
from zesty_copper.core.memory import Memory


def test_who_asks_at_once_gets_what_one_of_them_makes() -> None:
    memory, made = Memory(10_000), []

    def make() -> np.ndarray:
        time.sleep(0.05)
        made.append(1)
        return np.zeros(10)

    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(lambda _: memory.kept("key", make), range(8)))
    assert len(made) == 1
    assert all(one is found[0] for one in found)


class Key:
    """A key that can be watched."""


def test_what_could_not_be_made_leaves_nothing_behind() -> None:
    memory, key = Memory(10_000), Key()
    watched = weakref.ref(key)
    for _ in range(2):
        with pytest.raises(ZeroDivisionError):
            memory.kept(key, lambda: 1 / 0)
    del key
    gc.collect()
    assert watched() is None


def test_what_was_longest_not_asked_for_is_let_go_and_what_is_too_large_is_never_held() -> None:
    memory = Memory(2_500)
    first = memory.kept("a", lambda: np.zeros(100))
    memory.kept("b", lambda: np.zeros(100))
    assert memory.kept("a", lambda: np.ones(100)) is first
    memory.kept("c", lambda: np.zeros(100))
    assert memory.kept("a", lambda: np.ones(100)) is first, "it was asked for since"
    assert memory.kept("b", lambda: np.ones(100))[0] == 1, "it was made again"
    assert memory.bytes <= 2_500
    memory.kept("large", lambda: np.zeros(10_000))
    assert memory.bytes <= 2_500


def test_many_at_once_get_the_answer_that_one_gets() -> None:
    """The same circuit by eight threads, nothing ready: states and tables of one must fit those of another."""
    job = Job(circuit=ready_made()["heater_corner"])
    alone = diagnose(job)
    for _ in range(3):
        release()
        with ThreadPoolExecutor(8) as pool:
            assert all(diagnosis == alone for diagnosis in pool.map(lambda _: diagnose(job), range(8)))
    assert compile_circuit(job.circuit).memory.bytes > 0
