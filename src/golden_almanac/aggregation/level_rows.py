"""The rows at which levels are read: balances, head counts and stock on hand are added up over the rows of one moment,
never over time, so that of each period the last moment counts, and of the whole table the last of all.

A survey of such rows is one like any other, over a table that names its condition; whoever adds up those rows finds the
same figures.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..sql.expressions import quote_name
from ..tables import Grain, Period, Table, Timeline
from ..tables.timeline import timeline_of
from .measures import Measure
from .survey import Survey


def at_ends_of_periods(survey: Survey, measures: Sequence[Measure]) -> Survey:
    """Measures over the last moment of each period of the timeline."""
    line = survey.timeline
    assert line is not None
    days = survey.table.day_counts(line.column)[0]
    places = line.places(days)
    last = days[np.append(places[1:] != places[:-1], True)] if days.size else days
    return _kept(survey, measures, line, last)


def at_the_end(survey: Survey, measures: Sequence[Measure]) -> Survey:
    """Measures over the last moment that lies in a complete period, or the last there is."""
    line = survey.timeline
    assert line is not None
    days = survey.table.day_counts(line.column)[0]
    if line.complete_count:
        days = days[days <= line.period(line.complete.stop - 1).end]
    return _kept(survey, measures, line, days[-1:])


def for_spans(survey: Survey, measure: Measure, now: Period, then: Period) -> Survey:
    """A measure over the last moment of two spans, and of the periods before that are like the first."""
    line = survey.timeline
    assert line is not None
    counted = survey.table.day_counts(line.column)
    days = counted[0]
    alike = next((grain for grain in Grain if _is_period(line, grain, now)), None)
    if alike is not None and alike is not line.grain:
        line = timeline_of(line.column, counted, alike, line.calendar) or line
    places = line.places(days)
    kept = set(days[np.append(places[1:] != places[:-1], True)].tolist())
    for span in (then, now):
        inside = days[(days >= span.start) & (days <= span.end)].tolist()
        kept = (kept - set(inside[:-1])) | set(inside[-1:])
    return _kept(survey, [measure], line, np.array(sorted(kept), dtype="datetime64[D]"))


def _is_period(line: Timeline, grain: Grain, span: Period) -> bool:
    """Whether a span is one period of a grain."""
    number = int(line.calendar.number(grain, np.array([span.start]))[0])
    return bool(line.calendar.start(grain, number) == span.start and line.calendar.end(grain, number) == span.end)


def _kept(survey: Survey, measures: Sequence[Measure], line: Timeline, days: np.ndarray) -> Survey:
    table = survey.table
    if days.size < table.day_counts(line.column)[0].size:
        table = _of_days(table, line.column, days)
    # Rows are few by design: one a moment and entity.
    return replace(
        survey, table=table, measures=tuple(measures), timeline=line, finer=None, whole=None, least_rows=0, _cache={}
    )


def _of_days(table: Table, time: str, days: np.ndarray) -> Table:
    listed = ", ".join(f"DATE '{day}'" for day in days)
    return table.filter(f"CAST({quote_name(time)} AS DATE) IN ({listed})")
