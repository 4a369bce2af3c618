"""The yearly (and weekly) cycle of a series, as columns to fit beside whatever else is fitted."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..tables import Grain
from .autocorrelated_fits import Floats, bic, left_over

#: Cycles that must be there before a cycle is believed (methods, section 2).
LEAST_CYCLES = 2.0


def candidates(grain: Grain, numbers: npt.NDArray[np.int64]) -> list[Floats]:
    """Seasonal designs worth trying, simplest first; each of shape (n, k), columns with mean nought.

    `numbers` are the period numbers (places since 1970), so that the phase is that of the calendar.
    """
    n = numbers.size
    designs: list[Floats] = []
    year = {Grain.MONTH: 12.0, Grain.QUARTER: 4.0, Grain.WEEK: 52.1775, Grain.DAY: 365.2425}.get(grain)
    weekdays: Floats | None = None
    if grain is Grain.DAY and n >= 21:
        weekdays = _dummies(numbers % 7, 7)
        designs.append(weekdays)
    if year is not None and n >= LEAST_CYCLES * year:
        harmonics = {Grain.MONTH: (1, 2), Grain.WEEK: (1, 2, 4), Grain.DAY: (1, 2, 4)}.get(grain, ())
        for count in harmonics:
            waves = _waves(numbers, year, count)
            designs.append(waves if weekdays is None else np.hstack([weekdays, waves]))
        if grain in (Grain.MONTH, Grain.QUARTER):
            designs.append(_dummies(numbers % int(year), int(year)))
    return [design for design in designs if n - design.shape[1] >= 8]


def choose(grain: Grain, numbers: npt.NDArray[np.int64], y: Floats) -> Floats:
    """The seasonal design that pays for itself beside a line, by BIC; shape (n, 0) when none does."""
    n = y.size
    time = np.arange(n, dtype=np.float64) - (n - 1) / 2
    base = np.column_stack([np.ones(n), time])
    best, best_score = np.empty((n, 0)), bic(*left_over(base, y), 2)
    for design in candidates(grain, numbers):
        score = bic(*left_over(np.hstack([base, design]), y), 2 + design.shape[1])
        if score < best_score:
            best, best_score = design, score
    return best


def _waves(numbers: npt.NDArray[np.int64], period: float, count: int) -> Floats:
    angle = 2 * np.pi * numbers[:, None] * np.arange(1, count + 1)[None, :] / period
    waves = np.hstack([np.cos(angle), np.sin(angle)])
    return np.asarray(waves - waves.mean(axis=0))


def _dummies(phase: npt.NDArray[np.int64], cycle: int) -> Floats:
    marks = (phase[:, None] == np.arange(1, cycle)[None, :]).astype(np.float64)
    return np.asarray(marks - marks.mean(axis=0))
