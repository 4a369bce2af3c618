"""Long work two things at a time, and stopped at once.

NumPy, Arrow and the engine work outside the interpreter's lock.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import TypeVar

One = TypeVar("One")
Made = TypeVar("Made")

#: Shorter tables are done before a second thread has started.
LONG = 100_000
_MOST_THREADS = 4
_PATIENCE = 10.0
#: What stops the work that is going on, by whatever started it.
_RUNNING: list[Callable[[], None]] = []


def each(work: Callable[[One], Made], items: Iterable[One], rows: int) -> list[Made]:
    """`work` done on every item, in order; of a long table on as many at a time as there are processors."""
    todo = list(items)
    threads = min(_MOST_THREADS, os.cpu_count() or 1, len(todo))
    if rows < LONG or threads < 2:
        return [work(one) for one in todo]
    with ThreadPoolExecutor(max_workers=threads) as pool:
        waiting = [pool.submit(work, one) for one in todo]
        try:
            return [one.result() for one in waiting]
        except BaseException:
            for one in waiting:
                one.cancel()
            _stop()
            raise


def stoppable(work: Callable[[], Made], stop: Callable[[], None]) -> Made:
    """Work that does not look up while it lasts, done so that Ctrl-C ends it at once: by `stop`, from this thread."""
    with _known(stop):
        if threading.current_thread() is not threading.main_thread():
            return work()
        mades: list[Made] = []
        failed: list[BaseException] = []

        def run() -> None:
            try:
                mades.append(work())
            except BaseException as problem:  # noqa: BLE001  handed on to the thread that waits
                failed.append(problem)
            finally:
                done.set()

        # An event, since a thread whose join was interrupted counts as ended though it is not.
        done = threading.Event()
        threading.Thread(target=run, daemon=True).start()
        try:
            done.wait()
        except BaseException:
            _stop()
            # What is stopped ends within moments, and must have ended before what it works on is taken away.
            done.wait(_PATIENCE)
            raise
        if failed:
            raise failed[0]
        return mades[0]


@contextmanager
def _known(stop: Callable[[], None]) -> Iterator[None]:
    _RUNNING.append(stop)
    try:
        yield
    finally:
        _RUNNING.remove(stop)


def _stop() -> None:
    for stop in tuple(_RUNNING):
        stop()
