"""The yearly (and weekly) cycle of a series, as columns to fit beside whatever else is fitted."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..tables import Grain
from .autocorrelated_fits import Floats, autocorrelations, basis
from .batched_fits import bic, left_over, residuals

#: Autocorrelation beside a line from which a series wanders.
_WANDERS = 0.7
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
    """The seasonal design that pays for itself beside a line, by BIC; `y` has shape (n,), the design (n, k), and (n, 0)
    when none does."""
    designs, which = choose_each(grain, numbers, y[None])
    return designs[int(which[0])]


def choose_each(
    grain: Grain, numbers: npt.NDArray[np.int64], y: Floats
) -> tuple[tuple[Floats, ...], npt.NDArray[np.intp]]:
    """The same for each series of `y`, shape (series, n): the designs, the first of them without columns, and the place
    of each series' own among them, shape (series,).

    Of a series that wanders about its line the moves are looked at in place of the levels: how far it wanders would
    hide any season.
    """
    packed = numbers.tobytes()
    designs, bases, moved = _designs(grain, packed)
    n = y.shape[1]
    left = [residuals(q, y) for q in bases]
    scores = [bic(left_over(one, y), n, 2 + design.shape[1]) for design, one in zip(designs, left, strict=True)]
    which = np.argmin(np.stack(scores), axis=0)
    if len(designs) > 1:
        wanders = np.flatnonzero(autocorrelations(np.stack(left)[which, np.arange(y.shape[0])], 1) > _WANDERS)
        if wanders.size:
            moves = np.diff(y[wanders], axis=1)
            scores = [
                bic(left_over(residuals(q, moves), moves), n - 1, 1 + design.shape[1])
                for design, q in zip(designs, moved, strict=True)
            ]
            which[wanders] = np.argmin(np.stack(scores), axis=0)
    return designs, which


@lru_cache(maxsize=32)
def _designs(grain: Grain, packed: bytes) -> tuple[tuple[Floats, ...], tuple[Floats, ...], tuple[Floats, ...]]:
    """The designs for periods of these numbers, none first, a basis of each beside a line, and of their moves beside a
    constant."""
    numbers = np.frombuffer(packed, dtype=np.int64)
    n = numbers.size
    base = np.column_stack([np.ones(n), np.arange(n, dtype=np.float64) - (n - 1) / 2])
    designs = (np.empty((n, 0)), *candidates(grain, numbers))
    moved = tuple(basis(np.hstack([np.ones((n - 1, 1)), np.diff(design, axis=0)])) for design in designs)
    return designs, tuple(basis(np.hstack([base, design])) for design in designs), moved


def _waves(numbers: npt.NDArray[np.int64], period: float, count: int) -> Floats:
    angle = 2 * np.pi * numbers[:, None] * np.arange(1, count + 1)[None, :] / period
    waves = np.hstack([np.cos(angle), np.sin(angle)])
    return np.asarray(waves - waves.mean(axis=0))


def _dummies(phase: npt.NDArray[np.int64], cycle: int) -> Floats:
    marks = (phase[:, None] == np.arange(1, cycle)[None, :]).astype(np.float64)
    return np.asarray(marks - marks.mean(axis=0))
