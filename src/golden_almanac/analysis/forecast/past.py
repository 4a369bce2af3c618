"""The past that is carried on: the complete periods of a measure, top and bottom of a ratio apart, holes filled."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey, level_rows
from ...aggregation.measures import Measure, Part
from ...sql.expressions import quote_name, quote_value
from ...support.errors import PeriodError, listed
from ...tables import Column, Grain, Period
from ..known_series import known_series
from ..total_statement import Statement
from ..totals import wanted_of
from .outlook import Floats
from .wanted import MOST_LABELS

#: Complete periods that a forecast needs.
LEAST_PERIODS = 8
#: Series in one column are told apart up to so many, where nearly every period has a row of each and their levels are
#: so many times apart.
_MOST_SERIES, _WHOLE, _APART = 30, 0.9, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Past:
    """Series of the whole and its parts: the whole first, then `labels` (None: the others together). `tops` and, of a
    ratio, `bottoms` have shape (series, periods); `values` is what they make. `holes` is a mask of periods."""

    survey: Survey
    measure: Measure
    periods: tuple[Period, ...]
    labels: tuple[str | None, ...]
    tops: Floats
    bottoms: Floats | None
    holes: Floats

    @property
    def values(self) -> Floats:
        return self.made(self.tops, self.bottoms)

    def made(self, top: Floats, bottom: Floats | None) -> Floats:
        """The measure from top and bottom."""
        if bottom is None:
            return self.measure.factor * top
        safe = np.where(bottom != 0, bottom, 1.0)
        value: Floats = self.measure.factor * np.where(bottom != 0, top / safe, np.nan)
        return value

    @property
    def size(self) -> int:
        return len(self.periods)


def past_of(survey: Survey, measure: Measure, by: Column | None) -> Past:
    """The past of a measure. Raises PeriodError where it is too short or there are no dates."""
    line = survey.timeline
    if line is None:
        raise PeriodError(f"{survey.table.name} has no dates, so nothing can be foretold. Name the column of dates.")
    if measure.level:
        survey = level_rows.at_ends_of_periods(survey, [measure])
    known = known_series(survey)
    if line.complete_count < LEAST_PERIODS:
        finer = " Ask by a shorter period." if line.grain is not Grain.DAY else ""
        raise PeriodError(
            f"There are {line.complete_count} complete periods ({line.grain.value}), and a forecast needs "
            f"{LEAST_PERIODS}.{finer}"
        )
    _check_groups(survey, by)
    complete = range(line.complete.start, line.complete.stop)
    periods = tuple(line.period(place) for place in complete)
    labels, cut = _labels(survey, measure, by)
    tops = _summed(survey, measure.top, by, cut)
    bottoms = _summed(survey, measure.bottom, by, cut) if measure.bottom else None
    if not measure.bottom and measure.kind == "other":
        tops = _other(survey, measure, by, cut)
    holes = ~known.known
    past = Past(
        survey=survey,
        measure=measure,
        periods=periods,
        labels=labels,
        tops=tops,
        bottoms=bottoms,
        holes=holes.astype(float),
    )
    empty = ~np.isfinite(past.values[0])
    if (empty & ~holes).mean() > 1 / 3:
        raise PeriodError(f"{measure.name} is missing in too many periods for a forecast. Ask by a longer period.")
    return _filled(past, holes | empty)


def check_one_series(survey: Survey, measure: Measure) -> None:
    """Raises PeriodError where an average would be of several series that have nothing in common: one row of each in
    every period, at levels far apart. Which one is meant only the caller knows."""
    line = survey.timeline
    if measure.additive or measure.kind == "ratio" or line is None:
        return
    for column in survey.dimensions:
        cells = survey.cells(column.name, PERIOD)
        rows = cells.rows[:, line.complete]
        labels = survey.labels(column.name)
        kept = [place for place, label in enumerate(labels) if label is not None and rows[place].any()]
        if not 2 <= len(kept) <= _MOST_SERIES or (rows[kept] > 1).any() or (rows[kept] == 1).mean() < _WHOLE:
            continue
        values = cells.value(measure)[kept][:, line.complete]
        levels = np.nanmedian(np.abs(values), axis=1)
        if levels.min() <= 0 or levels.max() < _APART * levels.min():
            continue
        names = [str(labels[place]) for place in kept]
        first, apart = quote_value(names[int(np.argmax(levels))]), levels.max() / levels.min()
        raise PeriodError(
            f"There is one row for each {column.name} ({listed(names[:4])}{', …' if len(names) > 4 else ''}) in every "
            f"{line.grain.value}, and their levels are {apart:.0f} times apart: an average of them "
            f"is no series. Name one ({quote_name(column.name)} = {first}), or ask for each by {column.name}."
        )


def _check_groups(survey: Survey, by: Column | None) -> None:
    """Raises PeriodError where a period would tell of fewer rows than groups may have."""
    line, least = survey.timeline, survey.table.minimum
    assert line is not None
    if least < 2:
        return
    keys = [(PERIOD,)] if by is None else [(PERIOD,), (by.name, PERIOD)]
    for key in keys:
        rows = survey.cells(*key).rows[..., line.complete]
        if ((rows > 0) & (rows < least)).any():
            raise PeriodError(
                f"Some periods have fewer than {least} rows, which are not told of. Ask by a longer period."
            )


def _labels(survey: Survey, measure: Measure, by: Column | None) -> tuple[tuple[str | None, ...], list[int]]:
    """The labels that are forecast by themselves, the largest first, and their places."""
    if by is None:
        return (), []
    cells = survey.cells(by.name)
    size = np.abs(np.nan_to_num(cells.linear(measure.bottom or measure.top)))
    named = [
        place for place, label in enumerate(survey.labels(by.name)) if label is not None and survey.told(by.name)[place]
    ]
    ranked = sorted(named, key=lambda place: (-size[place], str(survey.labels(by.name)[place])))[:MOST_LABELS]
    rest = len(ranked) < len(survey.labels(by.name))
    return (*(survey.labels(by.name)[place] for place in ranked), *((None,) if rest else ())), ranked


def _summed(survey: Survey, terms: tuple[tuple[float, Part], ...], by: Column | None, cut: list[int]) -> Floats:
    line = survey.timeline
    assert line is not None
    whole = survey.cells(PERIOD).linear(terms)[None, line.complete]
    if by is None:
        return np.array(whole)
    apart = survey.cells(by.name, PERIOD).linear(terms)[:, line.complete]
    parts = apart[cut]
    rest = apart.shape[0] > len(cut)
    return np.concatenate([whole, parts, whole - parts.sum(axis=0, keepdims=True)] if rest else [whole, parts])


def _other(survey: Survey, measure: Measure, by: Column | None, cut: list[int]) -> Floats:
    """Values of what is neither a sum nor a ratio: distinct counts, extremes."""
    line = survey.timeline
    assert line is not None
    whole = survey.cells(PERIOD).value(measure)[None, line.complete]
    if by is None:
        return np.array(whole)
    return np.concatenate([whole, survey.cells(by.name, PERIOD).value(measure)[cut][:, line.complete]])


def _filled(past: Past, holes: npt.NDArray[np.bool_]) -> Past:
    """What stands in the holes: the same period a season away, in line with its neighbours."""
    from ...stats.series_holes import filled
    from ..known_series import period_numbers

    if not holes.any():
        return past
    line = past.survey.timeline
    assert line is not None
    numbers = period_numbers(past.survey)

    def whole(values: Floats) -> Floats:
        made: Floats = filled(line.grain, numbers, np.where(holes, 0.0, np.nan_to_num(values)), holes)
        return np.maximum(made, 0.0) if (values[:, ~holes] >= 0).all() else made

    bottoms = None if past.bottoms is None else whole(past.bottoms)
    return replace(past, tops=whole(past.tops), bottoms=bottoms, holes=holes.astype(float))


def history_sql(survey: Survey, measure: Measure, by: Column | None = None) -> str:
    """The SELECT that gives the past again, by period and, if asked, by label."""
    line = survey.timeline
    assert line is not None
    names = None if by is None else [by.name]
    asked, found = wanted_of(survey.table, measures=[measure.name], by=names, time=line.column, grain=line.grain.value)
    return Statement(survey.table, asked, found).made()
