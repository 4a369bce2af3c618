"""Long columns two at a time: NumPy and Arrow work outside the interpreter's lock."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

One = TypeVar("One")
Made = TypeVar("Made")

#: Shorter tables are done before a second thread has started.
LONG = 100_000
_MOST_THREADS = 4


def each(work: Callable[[One], Made], items: Iterable[One], rows: int) -> list[Made]:
    """`work` done on every item, in order; of a long table on as many at a time as there are processors."""
    todo = list(items)
    threads = min(_MOST_THREADS, os.cpu_count() or 1, len(todo))
    if rows < LONG or threads < 2:
        return [work(one) for one in todo]
    with ThreadPoolExecutor(max_workers=threads) as pool:
        return list(pool.map(work, todo))
