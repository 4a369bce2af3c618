"""The past taken apart: level, season, what remains. Factors where all values are above nought, sums elsewhere."""

from __future__ import annotations

import numpy as np

from ...stats.forecasting.origins import Origins
from ...stats.forecasting.seasons import seasons
from .outlook import Components, Floats


def components_of(values: Floats, season: int) -> Components:
    """Of one series, shape (periods,): the season by the median of its places, the level as the moving average of a
    season of what is left (classical decomposition)."""
    size = values.size
    origins = Origins(size, season, 1)
    found = seasons(values[None], origins)
    m = found.indices.shape[2]
    index = found.indices[0, -1, np.arange(size) % m]
    factors = bool(found.factor[0, -1])
    plain = values / index if factors else values - index
    level = _smooth(plain, season if season > 1 else 5)
    remainder = plain / np.where(level != 0, level, 1.0) if factors else plain - level
    last = min(max(season, 3), size - 1)
    trend = float((level[-1] - level[-1 - last]) / last)
    neutral = np.ones(size) if factors else np.zeros(size)
    return Components(level=level, season=index, events=neutral, remainder=remainder, trend=trend, factors=factors)


def _smooth(values: Floats, width: int) -> Floats:
    """A moving average; at the ends of the line through the last values."""
    size = values.size
    width = min(width, size)
    half = width // 2
    weights = np.ones(width) if width % 2 else np.concatenate(([0.5], np.ones(width - 1), [0.5]))
    if weights.size > size:
        return np.full(size, values.mean())
    made = np.full(size, np.nan)
    middle = np.convolve(values, weights / weights.sum(), mode="valid")
    begin = weights.size // 2
    made[begin : begin + middle.size] = middle
    for part, place in (
        (slice(0, max(2, 2 * half)), slice(0, begin)),
        (slice(size - max(2, 2 * half), size), slice(begin + middle.size, size)),
    ):
        along = np.arange(size)[part]
        if place.start < place.stop and along.size > 1:
            made[place] = np.polyval(np.polyfit(along, values[part], 1), np.arange(size)[place])
    return np.where(np.isfinite(made), made, values)
