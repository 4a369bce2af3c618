"""Tests by permutation for few rows: all orders where they can be made, else many at random, always the same ones.

Fisher, "The Design of Experiments" (1935); Pitman, "Significance tests which may be applied to samples from any
populations" (1937). With m random orders of which k are as far out, p is (k + 1)/(m + 1) (Phipson and Smyth 2010).
"""

from __future__ import annotations

from functools import lru_cache
from itertools import permutations

import numpy as np
import numpy.typing as npt

from .autocorrelated_fits import Floats

#: Rows up to which all orders are made, random orders beyond, and the seed of those.
_ALL, _RANDOM, _SEED = 7, 20_000, 1935
#: Statistics that differ by less, relative to the largest, are the same.
_SAME = 1e-10


@lru_cache(maxsize=8)
def _orders(n: int) -> npt.NDArray[np.intp]:
    if n <= _ALL:
        return np.array(list(permutations(range(n))), dtype=np.intp)
    return np.asarray(np.random.default_rng(_SEED).random((_RANDOM, n)).argsort(axis=1))


def correlation_p(x: Floats, y: Floats) -> float:
    """The chance that y in another order goes as closely with x, either way; shapes (n,)."""
    x, y = x - x.mean(), y - y.mean()
    return _p(np.abs(y[_orders(y.size)] @ x), abs(float(y @ x)), y.size)


def groups_p(codes: npt.NDArray[np.intp], y: Floats) -> float:
    """The chance that the groups' means spread as far with y in another order; shapes (n,)."""
    y = y - y.mean()
    held, group = np.unique(codes, return_inverse=True)
    member = (group[:, None] == np.arange(held.size)) / np.sqrt(np.bincount(group))
    between = ((y[_orders(y.size)] @ member) ** 2).sum(axis=1)
    return _p(between, float(((y @ member) ** 2).sum()), y.size)


def _p(others: Floats, seen: float, n: int) -> float:
    as_far = int((others >= seen - _SAME * max(1.0, float(others.max()))).sum())
    return as_far / others.size if n <= _ALL else (as_far + 1) / (others.size + 1)
