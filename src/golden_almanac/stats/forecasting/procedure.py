"""The whole procedure for series: candidates weighted, the plain guess where nothing beats it, and the errors made."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .combination import Combined, combined
from .origins import Floats, Origins
from .plain_guess import plain_guess

#: Periods of a season by grain; of days and weeks, of the year as well.
SEASONS = {"day": 7, "week": 52, "month": 12, "quarter": 4, "year": 1}
LONG_SEASONS = {"day": 365.25, "week": 52.18}


@dataclass(frozen=True, slots=True)
class Procedure:
    """What the procedure foretells at each origin, shape (series, origins, horizon); the standard errors that its model
    says at the end, shape (series, horizon); the plain guess taken for each series, or None."""

    origins: Origins
    found: Combined
    path: Floats
    model: Floats
    plain: tuple[str | None, ...]


def procedure(series: Floats, grain: str, horizon: int, *, known: Floats | None = None) -> Procedure:
    """All series at once, shape (series, periods), complete; `known` are columns known for the horizon too."""
    size = series.shape[1]
    season = SEASONS[grain]
    if size < 2 * season + 4:
        season = 1
    origins = Origins(size, season, horizon)
    found = combined(series, origins, long_season=LONG_SEASONS.get(grain), known=known)
    plain = tuple(plain_guess(series, origins, found, place) for place in range(series.shape[0]))
    path, model = found.path.copy(), found.errors[:, -1].copy()
    for place, name in enumerate(plain):
        if name is not None:
            path[place] = found.paths[found.names.index(name), place]
            model[place] = _plain_errors(series[place], name, horizon)
    return Procedure(origins, found, path, model, plain)


def _plain_errors(values: Floats, name: str, horizon: int) -> Floats:
    """The standard errors of the mean of noise, or of the last value of a walk."""
    if name == "mean":
        return np.full(horizon, float(values.std(ddof=1)) * np.sqrt(1 + 1 / values.size))
    made: Floats = float(np.sqrt(np.mean(np.diff(values) ** 2))) * np.sqrt(np.arange(1, horizon + 1))
    return made
