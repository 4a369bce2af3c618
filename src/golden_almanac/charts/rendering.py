"""Charts rendered once for several formats, and on every processor at once.

A report in ten formats needs each chart as the same few pictures again and again. While they are kept, a picture that
was made is not made again; and those that will be needed are made beforehand, each processor taking its share.
"""

from __future__ import annotations

import multiprocessing
import os
import sys
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

#: What a thing is made as: the format, and what its method takes.
Way = tuple[str, tuple[tuple[str, bool], ...]]
#: What is kept of what: the chart or report (by identity) and the way.
Key = tuple[int, Way]
#: Fewer pictures than this are made sooner than helpers are started.
_WORTH = 8
#: Seconds after which a helper that does not answer is given up, and the picture made here.
_PATIENCE = 60

_kept: ContextVar[dict[Key, Any] | None] = ContextVar("kept", default=None)
#: What the helpers are to make: they are copies of this process and find it here.
_jobs: list[Callable[[], Any]] = []


def remembered(of: object, way: Way, make: Callable[[], Any]) -> Any:
    """What was made of a chart or report before, while such things are kept; else made now."""
    store = _kept.get()
    if store is None:
        return make()
    key = (id(of), way)
    if key not in store:
        store[key] = make()
    return store[key]


@contextmanager
def keeping(
    wanted: Mapping[Key, Callable[[], Any]], progress: Callable[[str], None] = lambda _: None
) -> Iterator[None]:
    """Inside, everything is made once; what is `wanted` is made first, in parallel."""
    store: dict[Key, Any] = {}
    token = _kept.set(store)
    try:
        if len(wanted) >= _WORTH and _may_fork():
            store.update(_made_together(wanted, progress))
        yield
    finally:
        _kept.reset(token)


def _may_fork() -> bool:
    """Helpers are copies of this process, which only Linux makes safely, and are of use with two processors or more."""
    return sys.platform == "linux" and len(os.sched_getaffinity(0)) > 1 and not multiprocessing.current_process().daemon


def _made_together(wanted: Mapping[Key, Callable[[], Any]], progress: Callable[[str], None]) -> dict[Key, Any]:
    """What is wanted, by its key. What a helper does not give is left out, and made when it is needed."""
    made: dict[Key, Any] = {}
    _jobs[:] = wanted.values()
    try:
        with multiprocessing.get_context("fork").Pool(min(4, len(os.sched_getaffinity(0)))) as pool:
            answers = pool.imap(_make, range(len(wanted)))
            for place, key in enumerate(wanted, start=1):
                made[key] = answers.next(timeout=_PATIENCE)
                progress(f"drawing picture {place} of {len(wanted)}")
    except (OSError, multiprocessing.TimeoutError):
        # Too few processes or too little memory: the rest is made here.
        pass
    finally:
        _jobs.clear()
    return made


def _make(place: int) -> Any:
    return _jobs[place]()
