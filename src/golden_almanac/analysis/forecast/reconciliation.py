"""Parts and whole that agree: the parts added up, or all moved towards each other by how sure each is.

The second is minimum trace with a diagonal covariance (Wickramasuriya, Athanasopoulos & Hyndman 2019), in closed form
for one level of parts. Which is taken is measured at the origins.
"""

from __future__ import annotations

import warnings

import numpy as np

from ...stats.forecasting.origins import Floats, Origins

#: By how much the moved ones must be better to be taken.
_BETTER = 0.98


def agreed(values: Floats, paths: Floats, origins: Origins) -> tuple[Floats, str]:
    """Paths of whole and parts that add up, shape (1 + parts, origins, horizon), and how: added up or moved."""
    added, moved = added_up(paths), moved_together(values, paths, origins)
    worse = [_squares(origins.errors(values, one)[:1])[0] for one in (added, moved)]
    return (moved, "moved towards each other") if worse[1] < _BETTER * worse[0] else (added, "added up")


def added_up(paths: Floats) -> Floats:
    """The whole as the sum of its parts."""
    added = paths.copy()
    added[0] = paths[1:].sum(axis=0)
    return added


def moved_together(values: Floats, paths: Floats, origins: Origins) -> Floats:
    """Whole and parts moved by as much as each has missed by, in squares."""
    spread = _squares(origins.errors(values, paths))
    share = spread / np.maximum(spread.sum(), 1e-300)
    moved = paths.copy()
    moved[1:] = paths[1:] + share[1:, None, None] * (paths[0] - paths[1:].sum(axis=0))
    moved[0] = moved[1:].sum(axis=0)
    return moved


def _squares(errors: Floats) -> Floats:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)
        made: Floats = np.nan_to_num(np.nanmean(errors[:, :-1] ** 2, axis=(1, 2)), nan=1.0)
    return np.maximum(made, 1e-300)
