"""Trends: a measure, or a slice against its siblings, that rises or falls steadily.

Slope by the median of pairwise slopes, between the same months of different years where the series
is seasonal (Theil 1950, Sen 1968; Hirsch, Slack & Smith 1982), so that plain SQL gives it again; test by
a regression with autoregressive errors, weighed against the series in other orders (see
`series.permutations`); a bend where a line with one fits better (BIC). The change told is that of averages over two
stated spans, the first and the last year of the leg where there are two.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, NamedTuple

import numpy as np

from ...aggregation import Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import within
from ...findings.finding_kind import NOISE, PERCENT, FindingKind, Floor
from ...findings.scoring import squash
from ...sql.expressions import quote_name
from ...stats.autocorrelated_fits import Floats, ols
from ...stats.false_discovery import UNLIKELY
from ...stats.median_slopes import seasonal_slope, slope_interval, theil_sen
from ...stats.seasonal_terms import choose
from ...stats.segmented_paths import LEAST_PERIODS
from ...support.phrasing import marked
from ..known_series import known_series, recorded
from .before_after import around_leg, around_stretch, growth_of_whole, moved, observed
from .double_steps import told_by_two
from .lumpy import stepped_by_counts
from .peer_series import all_others, all_series, unlikely
from .relative_series import tested
from .tested_series import Series
from .yearly_wave import beside_a_wave

KIND = FindingKind(
    name="trend",
    what="a measure that rises or falls steadily, as a whole or against its siblings",
    detector="Trend",
    interest=1.0,
    needs_time=True,
    least_periods=LEAST_PERIODS,
    floor=Floor(setting="floor_pct", unit="percent over the leg"),
    movement="path",
    happens="start",
    figures={
        "slope_per_period": "change per period in the measure's unit, by the fitted line",
        "slope_pct_per_period": "the same in percent, where the line is one of growth",
        "change": "average of a period over the span after, minus that over the span before",
        "change_pct": "the same in percent of the span before",
        "level": "the middle of the fitted line",
        "start": "the fitted line at the first period",
        "end": "the fitted line at the last period",
        "observed_start": "average of a period over the span before",
        "observed_end": "average of a period over the span after",
        "rest_observed_start": "the siblings over the span before",
        "rest_observed_end": "the siblings over the span after",
        "rest_change_pct": "what the siblings did meanwhile, in percent",
        "rest_change": "the same in the measure's unit",
        "periods": "number of periods of the leg",
        "n": "rows",
        "share": "share of the whole that the slice makes, 0 to 1",
        "relative_pct": "change against the siblings, in percent",
        "relative_low_pct": "lower end of its 95% range",
        "relative_high_pct": "upper end of its 95% range",
        "relative_change": "change against the siblings, in the measure's unit",
        "windows": "the spans of days that are compared: before and after, and whether they are the same months",
        "bend": "whether the leg began at a bend",
        "like_for_like": "where labels came or ended, the change of those there throughout, and of both",
        "why": "through what it came about: mix, or volume and value per row",
    },
)


_TESTS = {
    "line": "autoregressive regression, weighed against the series in other orders",
    "bend": "one-bend regression, autoregressive, weighed against the series in other orders",
    "stretch": "t of the moves of a stretch against all others, times the stretches tried",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Trend:
    """`floor_pct`: changes over the leg smaller than so many percent (of the siblings' level) are too
    small to report; `floor_points` the same for shares and averages, in standard deviations of noise."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 5.0
    floor_points: float = 1.0

    def detect(self, survey: Survey) -> list[Candidate]:
        twice, likely = told_by_two(survey), unlikely(survey)
        return [
            self._candidate(survey, series, likely)
            for series in all_series(survey)
            if series.path.shape in ("line", "bend", "stretch") and (series.measure.name, series.where) not in twice
        ]

    def _candidate(self, survey: Survey, series: Series, likely: float) -> Candidate:
        line = survey.timeline
        assert line is not None
        # A lumpy series that rose left its usual value more often in its second half.
        by_counts = stepped_by_counts(series.own, series.own.size // 2, 1)
        p = max(series.path.p, by_counts, beside_a_wave(series, line.grain))
        if p > (UNLIKELY if series.by is None else likely):
            return Candidate.nothing(
                self.kind, series.measure, series.by, series.where, series.path.shape, series.path.statistic, p
            )
        offset, n = line.complete.start, series.y.size
        told = _told(survey, series)
        first, last = told.leg
        span = told.relative * (last - first)
        large = abs(_pct(span)) >= self.floor_pct if series.log else abs(span) >= self.floor_points * series.path.noise
        return Candidate(
            kind=self.kind,
            measure=series.measure,
            by=series.by,
            where=series.where,
            period=line.span(offset + first, offset + last),
            baseline=None,
            direction="up" if told.relative > 0 else "down",
            figures=told.figures,
            test=_TESTS[series.path.shape],
            statistic=series.path.statistic,
            p=p,
            strength=squash(span / (series.path.noise or 1e-300), 6.0),
            reach=series.reach,
            large=large,
            floor=(self.floor_pct, PERCENT) if series.log else (self.floor_points, NOISE),
            # What is claimed must be seen in the plain figures too, not only in a fit.
            agrees=told.going * told.relative > 0,
            check=told.check,
            series={
                "time": line.column,
                "own": series.own,
                "rest": all_others(survey, series),
                "offset": offset,
                "y": series.y,
                "fit": _fit_line(told.figures, first, last, n, told.level_log),
                "parent": series.parent,
                "besides": [besides.label for besides in series.besides],
            },
            implied_by=None
            if series.implied_by is None
            else (series.implied_by.label, marked("the mirror image of {label}")),
        )


class _Told(NamedTuple):
    """What is told of a series' leg, from a place to another: its figures and their check, its slope against the
    siblings, how far the plain figures went, and whether the series' own level was fitted in logs."""

    leg: tuple[int, int]
    figures: dict[str, Any]
    check: Check
    relative: float
    going: float
    level_log: bool


def _told(survey: Survey, series: Series) -> _Told:
    line, n = survey.timeline, series.y.size
    assert line is not None
    offset = line.complete.start
    # The season may cancel against the siblings and still be there in the slice's own movement.
    periods = known_series(survey)
    own, _ = tested(series.measure, series.own[periods.known], None)
    own_season = choose(line.grain, periods.numbers, periods.filled(own))
    seasonal = bool(series.path.season.any() or own_season.shape[1] > 0)
    cycle = line.grain.per_year if seasonal and n >= 2 * line.grain.per_year else 1
    first = 0 if series.path.shape == "line" else series.path.start
    last = n - 1 if series.path.stop is None else series.path.stop
    figures, level_log = _fitted(series, series.own, cycle, (first, last), own_season)
    relative, low, high = _slope(series, np.where(periods.known, series.y, np.nan), cycle)
    around = around_stretch if series.path.shape == "stretch" else around_leg
    windows = around(survey, offset + first, offset + last, seasonal)
    parent = series.parent if series.rest is not None else None
    seen, check = observed(
        survey, series.measure, series.where, windows, ("observed_start", "observed_end"), parent, series.besides
    )
    ends = line.places(np.array([windows.before.start, windows.after.start]))
    apart = int(ends[1] - ends[0])
    figures |= {
        **seen,
        **_observed_change(seen, series.measure),
        "periods": last + 1 - first,
        "n": int(series.rows.sum()),
        "share": series.reach,
        **_against_siblings(series, seen, (low - relative) * apart, (high - relative) * apart),
        "windows": {
            "before": windows.before.to_dict(),
            "after": windows.after.to_dict(),
            "same_months": windows.same_months,
        },
        "bend": first > 0 and last == n - 1,
    }
    # The total's growth may be that of new parts alone.
    figures["like_for_like"], check = growth_of_whole(survey, series.measure, series.where, windows, check)
    if series.path.shape == "line":
        check = _with_slope(check, survey, series.measure, series.where, figures, cycle, level_log)
    going = moved(seen, ("observed_start", "observed_end"), series.log or series.measure.additive)
    return _Told((first, last), figures, check, relative, going, level_log)


def _slope(series: Series, known: Floats, cycle: int) -> tuple[float, float, float]:
    """The slope of what is tested, a period, with the ends of its 95% range."""
    path = series.path
    if path.shape == "line":
        relative = seasonal_slope(known, cycle) if cycle > 1 else theil_sen(known)
        return relative, *slope_interval(known, cycle, path.error, path.df)
    return path.slope, path.slope - 2 * path.error, path.slope + 2 * path.error


def _fitted(
    series: Series, values: Floats, cycle: int, leg: tuple[int, int], season: Floats
) -> tuple[dict[str, Any], bool]:
    """The slice's own movement over the leg, from a place to another: slope, start, end and change of the fitted
    line."""
    first, last = leg
    known = np.isfinite(values)
    log = series.measure.additive and bool(values[known].min() > 0)
    own = np.log(values) if log else values
    n = own.size
    if series.path.shape == "line":
        slope = seasonal_slope(own, cycle) if cycle > 1 else theil_sen(own)
        base = float(np.median((own - slope * np.arange(n))[known]))
        start, end = base, base + slope * (n - 1)
    else:
        time = np.arange(n, dtype=np.float64)
        legs = [np.minimum(time, first), np.clip(time - first, 0.0, last - first)]
        after = [np.maximum(time - last, 0.0)] if last < n - 1 else []
        design = np.column_stack([np.ones(n), *legs, *after, season])
        beta = ols(design[known], own[known]).beta
        slope = float(beta[2])
        start = float(beta[0] + beta[1] * first)
        end = start + slope * (last - first)
    middle = (start + end) / 2
    if log:
        start, middle, end = float(np.exp(start)), float(np.exp(middle)), float(np.exp(end))
        per_period = float(np.expm1(slope)) * middle
        rate: float | None = 100 * float(np.expm1(slope))
    else:
        per_period, rate = slope, None
    return {
        "slope_per_period": per_period,
        "slope_pct_per_period": rate,
        "level": middle,
        "start": start,
        "end": end,
    }, log


def _observed_change(seen: dict[str, float], measure: Measure) -> dict[str, float | None]:
    """From the span before to the span after, of the slice and of its siblings: what anyone can reckon again, where the
    ends of a fitted line may be what the data never were."""

    def moved_by(before: float, after: float) -> tuple[float, float | None]:
        positive = before > 0 and after > 0 and not measure.in_points
        return after - before, 100 * (after / before - 1) if positive else None

    change, pct = moved_by(seen["observed_start"], seen["observed_end"])
    found = {"change": change, "change_pct": pct, "rest_change": None, "rest_change_pct": None}
    if "rest_observed_start" in seen:
        rest, rest_pct = moved_by(seen["rest_observed_start"], seen["rest_observed_end"])
        found |= {"rest_change": rest, "rest_change_pct": rest_pct}
    return found


def _against_siblings(series: Series, seen: dict[str, float], low: float, high: float) -> dict[str, float | None]:
    """The same of the slice against its siblings: in proportion, or in the measure's unit. `low` and `high` are how far
    the 95% range of the slope reaches between the two spans."""
    nothing = dict.fromkeys(("relative_pct", "relative_low_pct", "relative_high_pct", "relative_change"))
    if series.rest is None or (series.log and min(seen.values()) <= 0):
        return nothing
    change = moved(seen, ("observed_start", "observed_end"), in_proportion=False)
    if not series.log:
        return nothing | {"relative_change": change}
    own, rest = (seen[f"{whose}observed_end"] / seen[f"{whose}observed_start"] for whose in ("", "rest_"))
    ratio = float(np.log(own / rest))
    pct = {"relative_pct": ratio, "relative_low_pct": ratio + low, "relative_high_pct": ratio + high}
    return nothing | {name: _pct(value) for name, value in pct.items()}


def _fit_line(figures: dict[str, Any], first: int, last: int, n: int, log: bool) -> Floats:
    start, end = figures["start"] or 0.0, figures["end"] or 0.0
    count = last + 1 - first
    line = np.geomspace(start, end, count) if log else np.linspace(start, end, count)
    return np.concatenate([np.full(first, np.nan), line, np.full(n - 1 - last, np.nan)])


def _with_slope(
    check: Check, survey: Survey, measure: Measure, where: Slice, figures: dict[str, Any], cycle: int, log: bool
) -> Check:
    """Add the median slope, computed by SQL from the series, to what the check gives."""
    line = survey.timeline
    assert line is not None
    span = recorded(survey, line.span(line.complete.start, line.complete.stop - 1))
    value = f"ln({measure.sql})" if log else measure.sql
    start = line.calendar.sql(line.grain, f"CAST({quote_name(line.column)} AS DATE)")
    alike = f" AND (b.t - a.t) % {cycle} = 0" if cycle > 1 else ""
    number = {
        "day": "datediff('day', DATE '1970-01-05', {})",
        "week": "datediff('day', DATE '1970-01-04', {}) // 7",
        "month": "datediff('month', DATE '1970-01-01', {})",
        "year": "datediff('month', DATE '1970-01-01', {}) // 12",
        "quarter": "datediff('month', DATE '1970-01-01', {}) // 3",
    }[line.grain.value].format
    # The first period may be one without rows.
    begun = number(f"DATE '{line.period(line.complete.start).start}'")
    with_series = (
        f"WITH series AS (SELECT {number('p')} - ({begun}) AS t, v FROM (SELECT {start} AS p, {value} AS v FROM source "
        f"WHERE {within(survey.table, where, line.column, span)} GROUP BY 1)), "
        "slope AS (SELECT median((b.v - a.v) / (b.t - a.t)) AS s FROM series a JOIN series b ON b.t > a.t"
        f"{alike}), base AS (SELECT median(v - s * t) AS b FROM series, slope) "
    )
    last = f"({line.complete_count - 1} * (SELECT s FROM slope) + (SELECT b FROM base))"
    first = "(SELECT b FROM base)"
    fitted = f'exp({first}) AS "start", exp({last}) AS "end"' if log else f'{first} AS "start", {last} AS "end"'
    return Check(
        sql=with_series + check.sql + ", " + fitted,
        expect={**check.expect, "start": figures["start"] or 0.0, "end": figures["end"] or 0.0},
    )


def _pct(log_change: float) -> float:
    return 100 * float(np.expm1(log_change))
