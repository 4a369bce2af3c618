"""A series ready to be tested: a measure of the whole, or of a slice against the rest of its parent, and its path."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from ...stats.segmented_paths import Path

#: A slice whose movement, once the slices already told are left out of the rest, is no surer than
#: this, is their mirror image.
MIRROR = 0.01


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Series:
    """One series over the complete periods, ready to be tested.

    `own` are the measure's values, NaN in holes; `rest` those of the rest of the parent (None for the whole table);
    `y` is what is tested, holes filled: log, log ratio, or difference; `log` says which. `besides` are slices left
    out of the rest because they move by themselves; `season` are the seasonal columns chosen.
    """

    measure: Measure
    by: str | None
    where: Slice
    parent: Slice
    code: int
    own: Floats
    rest: Floats | None
    y: Floats
    log: bool
    rows: Floats
    reach: float
    path: Path
    implied_by: Slice | None = None
    besides: tuple[Slice, ...] = ()
    season: Floats | None = None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Part:
    """A slice of a family ready to be tested: what its series will hold, the labels it is set against (`family`), its
    amount per row where that is told, and the variance that its rows make by themselves."""

    measure: Measure
    by: str
    label: str | None
    code: int
    parent: Slice
    own: Floats
    rest: Floats
    y: Floats
    log: bool
    rows: Floats
    reach: float
    family: tuple[int, ...]
    each_row: Floats | None = None
    sampling: float = np.nan


def with_path(part: Part, path: Path, season: Floats | None = None) -> Series:
    """A slice as the series that it is, with a path and the season chosen."""
    where = Slice(((part.by, part.label),))
    return Series(
        measure=part.measure,
        by=part.by,
        where=where,
        parent=part.parent,
        code=part.code,
        own=part.own,
        rest=part.rest,
        y=part.y,
        log=part.log,
        rows=part.rows,
        reach=part.reach,
        path=path,
        season=season,
    )
