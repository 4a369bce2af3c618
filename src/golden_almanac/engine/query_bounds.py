"""Bounds of time and memory for SQL that people wrote: it may be endless, or ask for more than the machine has.

The engines interrupt themselves between blocks of rows, not within one huge text, so the memory of the process is
bounded as well while such a query runs; what is over the bound then fails inside the engine, with an error.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from ..support.errors import BudgetError

#: Seconds that a query may take, and a second more for so many rows of the table it looks at.
SECONDS, ROWS_A_SECOND = 30.0, 500_000
#: Bytes that a query may take beside what the process has already, and that its answer may take.
MEMORY, ANSWER = 2 << 30, 1 << 29


class Clock:
    """Tells afterwards whether the time ran out, since engines raise errors of their own when they are stopped."""

    def __init__(self, seconds: float) -> None:
        self.seconds = seconds
        self.rang = False

    def error(self) -> BudgetError:
        return BudgetError(
            f"The query was stopped after {self.seconds:.0f} seconds, the most that one may take. Ask for fewer rows, "
            "or join on fewer of them."
        )


def too_large() -> BudgetError:
    """The error for a query, or an answer, that outgrows its bound."""
    return BudgetError(
        f"The query needs more than the {MEMORY >> 30} GB of memory that one may take, or answers with more than "
        f"{ANSWER >> 20} MB. Ask for fewer rows or shorter texts."
    )


@contextmanager
def within_bounds(stop: Callable[[], None], rows: int = 0) -> Iterator[Clock]:
    """Inside, `stop` is called when the time is over, and the process gets no more memory than the bound allows."""
    clock = Clock(SECONDS + rows / ROWS_A_SECOND)

    def ring() -> None:
        clock.rang = True
        stop()

    timer = threading.Timer(clock.seconds, ring)
    timer.daemon = True
    timer.start()
    try:
        with _memory():
            yield clock
    finally:
        timer.cancel()


@contextmanager
def _memory() -> Iterator[None]:
    """The address space of the process bounded to what it has and `MEMORY` more, where the system can do that."""
    try:
        import resource

        pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[0])
        before = resource.getrlimit(resource.RLIMIT_AS)
        most = pages * resource.getpagesize() + MEMORY
        if before[0] not in (resource.RLIM_INFINITY, -1):
            most = min(most, before[0])
        resource.setrlimit(resource.RLIMIT_AS, (most, before[1]))
    except (ImportError, OSError, ValueError):
        yield
        return
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, before)
