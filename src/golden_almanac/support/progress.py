"""Word of long work: what is being done, how far it is, how long it will take. Silent unless somebody listens."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TypeVar

One = TypeVar("One")

_LISTENER: ContextVar[Callable[[str], None] | None] = ContextVar("listener", default=None)


@contextmanager
def told_to(show: Callable[[str], None] | None) -> Iterator[None]:
    """While the block runs, word goes to `show`; to whoever listened before where that is None."""
    if show is None:
        yield
        return
    mark = _LISTENER.set(show)
    try:
        yield
    finally:
        _LISTENER.reset(mark)


def say(text: str) -> None:
    """Tell what is being done."""
    show = _LISTENER.get()
    if show is not None:
        show(text)


def parts(what: str, items: Sequence[One]) -> Iterator[One]:
    """The items, one by one, told with the share that is done and the time that is left, by those done so far."""
    began = time.monotonic()
    for done, item in enumerate(items):
        say(what + share(done, len(items), time.monotonic() - began))
        yield item


def share(done: int, total: int, seconds: float) -> str:
    """The share that is done after so many seconds, and the time that is left: ", 40% done, about 20 s left"."""
    if not done or done >= total:
        return ""
    return f", {100 * done // total}% done, {_spoken(seconds / done * (total - done))} left"


def _spoken(seconds: float) -> str:
    if seconds < 1:
        return "less than a second"
    if seconds < 100:
        return f"about {seconds:.0f} s"
    return f"about {seconds / 60:.0f} min"
