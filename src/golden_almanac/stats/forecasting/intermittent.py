"""Demand that comes now and then: Croston's method (1972) and its unbiased form (Syntetos & Boylan 2005)."""

from __future__ import annotations

import numpy as np

from .origins import Floats, Origins

_ALPHA = 0.1


def croston(series: Floats, origins: Origins, *, unbiased: bool) -> Floats:
    """The size of a demand over the time between two, both smoothed; shape (series, origins, horizon)."""
    count = series.shape[0]
    size, gap, since = np.zeros(count), np.ones(count), np.ones(count)
    begun = np.zeros(count, dtype=bool)
    made = np.empty((count, origins.count, origins.horizon))
    factor = 1 - _ALPHA / 2 if unbiased else 1.0
    wanted = {int(end): place for place, end in enumerate(origins.ends)}
    for place in range(series.shape[1]):
        value = series[:, place]
        some = value != 0
        first = some & ~begun
        size = np.where(first, value, np.where(some, size + _ALPHA * (value - size), size))
        gap = np.where(first, since, np.where(some, gap + _ALPHA * (since - gap), gap))
        begun |= some
        since = np.where(some, 1.0, since + 1)
        if place + 1 in wanted:
            made[:, wanted[place + 1]] = (factor * size / gap)[:, None]
    return made
