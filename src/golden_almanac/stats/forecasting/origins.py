"""Rolling origins: the places in a series from which a procedure forecasts what is known by now."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: Origins at most beside the end of the series; a series must have so many periods before the first.
MOST = 24
LEAST = 8


@dataclass(frozen=True, slots=False)
class Origins:
    """`ends` are how many periods each origin knows, ascending; the last is the whole series, which is forecast. The
    season has `season` periods (1: none), forecasts reach `horizon` periods."""

    size: int
    season: int
    horizon: int

    @cached_property
    def ends(self) -> npt.NDArray[np.intp]:
        first = max(LEAST, 2 * self.season + 2) if self.size >= 2 * self.season + 4 else LEAST
        first = min(first, self.size)
        known = np.arange(first, self.size)
        if known.size > MOST:
            # The latest are the likest to what comes; a step between them keeps them over whole seasons.
            step = max(1, min(known.size // MOST, max(1, self.season // 4)))
            known = known[::-1][::step][:MOST][::-1]
        return np.append(known, self.size)

    @property
    def count(self) -> int:
        return int(self.ends.size)

    def errors(self, series: Floats, paths: Floats) -> Floats:
        """What came minus what was foretold, shape (series, origins, horizon); NaN where it has not come yet."""
        place = self.ends[:, None] + np.arange(self.horizon)
        known = place < self.size
        came = np.where(known, series[:, np.where(known, place, 0)], np.nan)
        made: Floats = came - paths
        return made

    @cached_property
    def seen(self) -> npt.NDArray[np.bool_]:
        """Which errors an origin knows of, shape (origin, earlier origin, horizon)."""
        place = self.ends[:, None] + np.arange(self.horizon)
        found: npt.NDArray[np.bool_] = place[None] < self.ends[:, None, None]
        return found


def scale_of(series: Floats, season: int) -> Floats:
    """The mean absolute error of the seasonal naive forecast a step ahead within the series, shape (series,): what MASE
    is scaled by (Hyndman & Koehler 2006)."""
    lag = season if series.shape[1] > season + 2 else 1
    apart = np.abs(series[:, lag:] - series[:, :-lag]).mean(axis=1)
    spread = np.ptp(series, axis=1)
    made: Floats = np.where(apart > 0, apart, np.where(spread > 0, spread, 1.0))
    return made
