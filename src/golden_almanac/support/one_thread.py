"""Linear algebra on one thread.

The matrices of a scan are small: to share each among processors costs more than it saves, and the last digit of a
product depends on how many shared it.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager

#: What the libraries of linear algebra read when they are loaded.
_SETTINGS = ("OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS")
_state = {"started": False}


def start_alone() -> None:
    """Have linear algebra take one thread from its start on, where it is not loaded yet."""
    if not {"numpy", "scipy"} & set(sys.modules):
        _state["started"] = all(os.environ.setdefault(name, "1") == "1" for name in _SETTINGS)


@contextmanager
def one_at_a_time() -> Iterator[None]:
    """Inside, linear algebra takes one thread."""
    if _state["started"]:
        yield
        return
    # What is loaded later would not know of it.
    import scipy.linalg.lapack  # noqa: F401
    from threadpoolctl import threadpool_limits

    with threadpool_limits(limits=1, user_api="blas"):
        yield
