"""Which two periods are compared: as asked for, or the last complete one and its baseline."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np

from ...aggregation import Survey, unrecorded
from ...support.errors import PeriodError
from ...tables import Grain, Period, Timeline
from ...tables.calendar import parse_period

#: Periods that are looked back for one with rows.
_MOST_STEPS = 12
_ROLLING = re.compile(r"last (\d{1,5}) days?")


def resolve_period(survey: Survey, period: str | None) -> tuple[Period, int | None]:
    """The period reported on by itself; one that is unfinished ends where the data do, after so many days.

    Raises PeriodError.
    """
    now, line = _reported_on(survey, period)
    if not is_unfinished(now, line):
        return now, None
    now = now.until(line.reported_to)
    return now, now.days


def is_unfinished(now: Period, line: Timeline) -> bool:
    """Whether more rows of a span are still to come, by the usual gap between days."""
    return bool(now.start <= line.reported_to < now.end and line.next_day <= now.end)


def _reported_on(survey: Survey, period: str | None) -> tuple[Period, Timeline]:
    line = survey.timeline
    if line is None:
        raise PeriodError(
            f"{survey.table.name} has no column of dates, so nothing can be compared over time. "
            "Name one with --time, or check that the dates were read as dates."
        )
    now = _wanted(survey, line, period)
    check_inside("period", now, line)
    return now, line


def check_inside(what: str, span: Period, line: Timeline) -> None:
    """Refuses a span on none of whose days there can be rows. Raises PeriodError."""
    if span.start > line.last_day or span.end < line.first_day:
        raise PeriodError(
            f"The {what} {span.start} to {span.end} lies outside the data, which run from {line.first_day} "
            f"to {line.last_day}. Choose one within."
        )


def check_apart(now: Period, then: Period) -> None:
    """Refuses two spans that share a day. Raises PeriodError."""
    if now.overlaps(then):
        raise PeriodError(
            f"The period {now.start} to {now.end} and its baseline {then.start} to {then.end} overlap. "
            "Choose two that share no day."
        )


def span_of(text: str, line: Timeline) -> Period:
    """A span as it is written, `last 30 days` too, which ends where the data do. Raises PeriodError."""
    rolling = _ROLLING.fullmatch(text)
    if rolling is None:
        return parse_period(text, line.calendar)
    days = int(rolling[1])
    if days < 1:
        raise PeriodError(f"The period {text!r} holds no day. Ask for the last 1 day, or more.")
    return Period(start=line.last_day - np.timedelta64(days - 1, "D"), end=line.last_day, calendar=line.calendar)


def resolve_periods(survey: Survey, period: str | None, baseline: str | None) -> tuple[Period, Period, int | None]:
    """The two periods meant, and the days the baseline was cut to when the period is unfinished.

    Without a period the last complete one is taken; `last 30 days` ends where the data do. Without a baseline it is a
    year ago if the data reach back so far and lack no days then, else the period before; of a rolling span always the
    span before.
    Raises PeriodError.
    """
    now, line = _reported_on(survey, period)
    rolling = period is not None and _ROLLING.fullmatch(period) is not None
    reaches = not rolling and now.year_ago().start >= line.first_day and _is_known(survey, now.year_ago())
    word = baseline or ("year-ago" if reaches else "previous")
    if word == "previous":
        then = _days_before(now) if rolling else now.previous() if baseline else _last_with_rows(survey, now)
    elif word == "year-ago":
        # A span of days moves by whole weeks, so that its weekdays stay.
        then = now.year_ago() if not rolling else _moved(now, -364)
    else:
        then = parse_period(word, line.calendar)
    check_apart(now, then)
    cut = None
    if is_unfinished(now, line):
        now = now.until(line.reported_to)
        then, cut = then.cut_like(now), now.days
    check_inside("baseline", then, line)
    return now, then, cut


def _last_with_rows(survey: Survey, now: Period) -> Period:
    """The period before, or where rows come only every few periods (each fourth year) the last one that has any; the
    period before too, where none of the last few has."""
    assert survey.timeline is not None
    days, _ = survey.table.day_counts(survey.timeline.column)
    before = now.previous()
    for _ in range(_MOST_STEPS):
        if ((days >= before.start) & (days <= before.end)).any():
            return before
        before = before.previous()
    return now.previous()


def _is_known(survey: Survey, span: Period) -> bool:
    """Whether there are rows in a span, and no good part of its days lacks them."""
    assert survey.timeline is not None
    days, _ = survey.table.day_counts(survey.timeline.column)
    return bool(((days >= span.start) & (days <= span.end)).any()) and unrecorded(survey, span) is None


def _wanted(survey: Survey, line: Timeline, period: str | None) -> Period:
    if period is None or period == "last":
        if line.complete_count == 0:
            raise PeriodError(
                f"{survey.table.name} holds no complete {line.grain.value} to report on. Name the period."
            )
        return line.period(line.complete.stop - 1)
    return span_of(period, line)


def _days_before(span: Period) -> Period:
    return _moved(span, -span.days)


def _moved(span: Period, days: int) -> Period:
    by = np.timedelta64(days, "D")
    return replace(span, start=span.start + by, end=span.end + by, grain=None)


def earlier_years(line: Timeline, now: Period, then: Period) -> list[tuple[Period, Period]]:
    """The same two periods, (baseline, period), one or more years before, as far as the data reach; none where they
    lie whole years apart, since they share a season then."""
    if _whole_years_apart(now, then):
        return []
    periods = []
    first, last = then, now
    for _ in range(3):
        first, last = first.year_ago(), last.year_ago()
        if min(first.start, last.start) < line.first_day:
            break
        periods.append((first, last))
    return periods


def _whole_years_apart(now: Period, then: Period) -> bool:
    if now.grain is Grain.YEAR or now.days >= 360:
        return True
    days = int((now.start - then.start).astype(np.int64)) % 365.25
    return min(days, 365.25 - days) <= 4
