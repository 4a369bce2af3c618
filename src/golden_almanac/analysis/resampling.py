"""The survey by days and by weeks, whatever the grain that is reported at; each made once."""

from __future__ import annotations

import numpy as np

from ..aggregation import PERIOD, Survey
from ..tables import Grain
from ..tables.timeline import timeline_of

#: Days with rows that are too far apart for a week to be told from them, as a share of all days.
_LEAST_DAYS = 0.25
_MOST_DAYS = 20_000


def by_day(survey: Survey) -> Survey | None:
    """The survey by days, without dimensions; None where dates do not tell days (month ends, one day a week)."""
    key = "by day"
    if key not in survey._cache:
        survey._cache[key] = _by_day(survey)
    return survey._cache[key]  # type: ignore[no-any-return]


def _by_day(survey: Survey) -> Survey | None:
    line = survey.timeline
    if line is None:
        return None
    days, _ = survey.table.day_counts(line.column)
    short = timeline_of(line.column, survey.table.day_counts(line.column), Grain.DAY, line.calendar)
    if short is None or not 28 <= short.count <= _MOST_DAYS or days.size < _LEAST_DAYS * short.count:
        return None
    return Survey(table=survey.table, measures=survey.measures, dimensions=(), timeline=short)


def by_week(survey: Survey) -> Survey | None:
    """The survey by weeks, without dimensions, put together from its days where those are known."""
    line = survey.timeline
    assert line is not None
    key = "by week"
    if key not in survey._cache:
        short = timeline_of(line.column, survey.table.day_counts(line.column), Grain.WEEK, line.calendar)
        survey._cache[key] = (
            None
            if short is None
            else Survey(
                table=survey.table, measures=survey.measures, dimensions=(), timeline=short, finer=by_day(survey)
            )
        )
    return survey._cache[key]  # type: ignore[no-any-return]


def median_rows(survey: Survey) -> float:
    """Rows in the median complete period."""
    line = survey.timeline
    return 0.0 if line is None else float(np.median(survey.cells(PERIOD).rows[line.complete]))
