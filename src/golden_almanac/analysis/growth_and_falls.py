"""Growth against variability: how fast each slice grew by the year, how much that varied, its worst fall.

All are told of sums over whole years, a period after the other, in which no season is left.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..aggregation import Survey
from ..aggregation.measures import Measure
from ..stats.forecasting.procedure import SEASONS
from ..support.errors import PeriodError, RequestError
from ..tables import Column, Grain, Period, Table
from .forecast.past import Past, history_sql, past_of


@dataclass(frozen=True, slots=True, kw_only=True)
class Growth:
    """Of a slice (label None: the whole): `rate` is its compound growth a year, `varied` the standard deviation of its
    growth over a year before, both as shares, the second over `compared` periods. `fall` is the worst fall of a year's
    sum from its peak, as a share (nought: none), from `peak` to `trough`, back at `back` or not yet (None)."""

    label: str | None
    value: float
    rate: float | None
    varied: float | None
    compared: int
    fall: float
    peak: Period | None
    trough: Period | None
    back: Period | None


@dataclass(frozen=True, slots=True, kw_only=True)
class GrowthTable:
    """The whole and each label of a column, from the first to the last whole year; `sql` gives the figures
    of every period again, from which all is reckoned."""

    table: Table
    measure: Measure
    by: Column
    grain: Grain
    first: Period
    last: Period
    whole: Growth
    parts: tuple[Growth, ...]
    sql: str


def growth_and_falls(survey: Survey, measure: Measure, by: Column) -> GrowthTable:
    """Growth against variability of each label. Raises PeriodError, RequestError."""
    if measure.kind != "additive" or measure.level:
        raise RequestError("The measure", measure.name, "one that adds up over a year")
    past = past_of(survey, measure, by)
    line = past.survey.timeline
    assert line is not None
    season = SEASONS[line.grain.value] if line.grain is not Grain.DAY else 365
    if past.size < 2 * season:
        raise PeriodError(
            f"There are {past.size} complete periods ({line.grain.value}), and growth over a year needs {2 * season}: "
            "two years."
        )
    rows = [_growth(past, row, label, season) for row, label in enumerate((None, *past.labels))]
    return GrowthTable(
        table=survey.table,
        measure=measure,
        by=by,
        grain=line.grain,
        first=past.periods[0],
        last=past.periods[-1],
        whole=rows[0],
        parts=tuple(one for one, label in zip(rows[1:], past.labels, strict=True) if label is not None),
        sql=history_sql(survey, measure, by),
    )


def _growth(past: Past, row: int, label: str | None, season: int) -> Growth:
    values = past.values[row]
    years = np.convolve(values, np.ones(season), "valid")
    long = (years.size - 1) / season
    rate = float((years[-1] / years[0]) ** (1 / long) - 1) if years[0] > 0 and years[-1] > 0 else None
    before, now = years[:-season], years[season:]
    known = before > 0
    moves = now[known] / before[known] - 1
    varied = float(np.std(moves, ddof=1)) if moves.size > 2 else None
    fall, peak, trough, back = _worst(years)

    def ended(place: int | None) -> Period | None:
        return None if place is None else past.periods[place + season - 1]

    return Growth(
        label=label,
        value=float(years[-1]),
        rate=rate,
        varied=varied,
        compared=int(moves.size),
        fall=fall,
        peak=ended(peak),
        trough=ended(trough),
        back=ended(back),
    )


def _worst(values: npt.NDArray[np.float64]) -> tuple[float, int | None, int | None, int | None]:
    """The worst fall from a peak as a share, the places of the peak and the trough, and where the peak was reached
    again."""
    highest = np.maximum.accumulate(values)
    falls = np.where(highest > 0, 1 - values / np.where(highest > 0, highest, 1.0), 0.0)
    trough = int(falls.argmax())
    if falls[trough] <= 1e-12:
        return 0.0, None, None, None
    peak = int(np.flatnonzero(values[: trough + 1] == highest[trough])[-1])
    again = np.flatnonzero(values[trough:] >= highest[trough])
    return float(falls[trough]), peak, trough, None if not again.size else trough + int(again[0])
