"""What a season alone would do: a step or a rise in less than two years of data may be the first half of a wave.

With fewer than two years nobody knows the season, so it cannot be taken out. Of the whole table (parts are set against
their siblings, who share it) a movement is told if it is there beside a wave of one year: one sine and cosine, fitted
with it, errors autoregressive (Prais and Winsten 1954). A sudden step stands out from a wave; a slow rise does not.
"""

from __future__ import annotations

import numpy as np

from ...stats.autocorrelated_fits import Floats, last_t
from ...tables import Grain
from .tested_series import Series

#: Years of data from which a wave can be told from a line at all, and from which a season is known.
_LEAST, _KNOWN = 0.75, 2.0


def beside_a_wave(series: Series, grain: Grain) -> float:
    """How often chance would show so much beside a wave of a year, times the places where it may begin; nought where
    the season is known, cancels, or where the data are too short to tell."""
    from scipy.special import stdtr

    y, n = series.y, series.y.size
    years = n / grain.per_year
    if series.rest is not None or grain.per_year < 4 or not _LEAST <= years < _KNOWN:
        return 0.0
    angle = 2 * np.pi * np.arange(n) / grain.per_year
    design = np.column_stack([np.ones(n), np.sin(angle), np.cos(angle), _claimed(series, n)])
    t, df = last_t(design, y)
    places = 1 if series.path.shape == "line" else n
    return min(1.0, float(2 * stdtr(df, -abs(t))) * places)


def _claimed(series: Series, n: int) -> Floats:
    """The movement that is claimed, one for where it has gone all its way."""
    time = np.arange(n, dtype=np.float64)
    if series.path.shape == "step":
        return (time >= series.path.start).astype(np.float64)
    last = n - 1 if series.path.stop is None else series.path.stop
    first = 0 if series.path.shape == "line" else series.path.start
    return np.clip((time - first) / max(1, last - first), 0.0, 1.0)
