"""Spikes: a week (or day, or longer period of a coarse table) in which a measure is far off, before and after it not.

Looked for at weeks where the dates allow, whatever the grain of the scan: a storm of four days is gone in a month's
average. Amounts have long tails, and one huge row is an outlier, not a week; so what is tested are the number of rows
(square roots, which have about the same spread everywhere) and the average normal score of the rows (van der Waerden
1952; of shares the arcsine), each against the medians of the periods before and after it, in robust deviations; a week
that is far from one side only begins or ends a step. Student's t with fewer degrees of freedom than there are weeks,
since those have longer tails than the normal law; the surest week pays for the look at all.
"""

from __future__ import annotations

import statistics
from dataclasses import dataclass, replace
from math import isfinite
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey, period_holes
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import between, one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Floats
from ...stats.median_slopes import theil_sen
from ...tables import Grain, Period
from ..known_series import recorded, recorded_places
from ..resampling import by_week, median_rows
from ..trading_days import period_weights
from .lumpy import far_by_counts
from .slice_spikes import AROUND as _AROUND
from .slice_spikes import DF as _DF
from .slice_spikes import DF_SHARE as _DF_SHARE
from .slice_spikes import LEAST_ROWS as _LEAST_ROWS
from .slice_spikes import Far, Own, deviations, farthest_of_slices, own_of, row_scores, without_season

_LEAST_PERIODS = 26
#: A week and a month count alike: of the two, the one that is farther off tells what happened.
_REACH = 0.1
#: Spikes of slices are many tests, each far stricter than it says: each gets so much of the room for error.
_OF_SLICE = 0.6
#: Rows are figures of periods where so large a share of periods has as many of them.
_SUMMED_UP = 0.95
#: Degrees of freedom of figures that nothing is known of: their tails may be long.
_DF_FIGURES = 5.0
#: A period that chance would show more often than this is not looked into.
_CLEAR = 0.05
_TEST = "robust deviation of the number or the normal scores of rows, times the number of periods"


#: A first or last period must be so much of it off from the line of those beside it, too.
_AS_FAR = 0.5


KIND = FindingKind(
    name="spike",
    what="a week or period far off, while those before and after it are not",
    detector="Spike",
    interest=0.95,
    needs_time=True,
    least_periods=3,
    floor=Floor(setting="floor_pct", unit="percent"),
    happens="period",
    figures={
        "date": "first day of the period",
        "value": "the measure in it",
        "expected": "the usual of the periods around it",
        "deviations": "how far off, in robust standard deviations",
        "expected_low": "lower end of the 95% range of the usual",
        "expected_high": "upper end of the 95% range of the usual",
        "change": "value minus expected",
        "change_pct": "the same in percent of expected",
        "n": "rows in the period",
        "around": "number of periods it is compared with",
        "grain": "the grain of the period",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Spike:
    """`floor_pct`: periods that differ by less from those around them are not reported; `floor_points` the same for
    rates."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 10.0
    floor_points: float = 0.03

    def detect(self, survey: Survey) -> list[Candidate]:
        found, parts = [], []
        for place, fine in enumerate(_grains(survey)):
            for measure in survey.measures:
                if measure.kind in ("additive", "mean") and len(measure.top) == 1:
                    deviations = _deviations(fine, measure)
                    if deviations is not None:
                        found.append(self._whole(fine, measure, deviations))
            with_parts = replace(fine, dimensions=survey.dimensions, _cache={})
            slices = farthest_of_slices(with_parts, _unknown(fine), finest=not place)
            parts += [self._told(with_parts, far) for far in slices]
        return [*(_with_others(one, found) for one in found), *parts]

    def _whole(self, survey: Survey, measure: Measure, deviations: Floats) -> Candidate:
        from scipy.special import stdtr

        at = int(np.argmax(np.abs(deviations)))
        t = float(deviations[at])
        # Rows and their size are two looks at every period.
        df = min(_DF, _DF_SHARE * deviations.size)
        if measure.top[0][1].sql and _is_summed_up(survey):
            df = min(df, _DF_FIGURES)
        tried = deviations.size * (2 if measure.additive else 1)
        p = float(min(1.0, 2 * stdtr(df, -abs(t)) * tried))
        cells = survey.cells(PERIOD)
        own = own_of(cells, measure)
        return self._told(survey, Far(measure, None, Slice(), own, at, t, p, tried))

    def _told(self, survey: Survey, far: Far) -> Candidate:
        measure, where, own, at, t, p = far.measure, far.where, far.own, far.at, far.t, far.p
        weight = 1.0 if far.by is None else _OF_SLICE
        line = survey.timeline
        assert line is not None
        if p > _CLEAR:
            return Candidate.nothing(self.kind, measure, far.by, where, _TEST, t, p, weight)
        place = line.complete.start + at
        period = line.period(place)
        last = line.complete_count - 1
        sides = [
            line.span(max(line.complete.start, place - _AROUND), place - 1) if at else None,
            line.span(place + 1, min(line.complete.stop - 1, place + _AROUND)) if at < last else None,
        ]
        around = [side for side in sides if side is not None]
        value, usual, check = _figures(survey, measure, own, period, around, where)
        beside = np.concatenate([recorded_places(survey, side) for side in around])
        p = max(p, far.by_counts(place, beside), far_by_counts(survey, measure, where, place, beside, far.tried))
        if p > _CLEAR or not (np.isfinite(value) and np.isfinite(usual)) or not far.apart(place, beside):
            return Candidate.nothing(self.kind, measure, far.by, where, _TEST, t, p, weight)
        change = value - usual
        if _goes_on(own.value[line.complete], at, change):
            return Candidate.nothing(self.kind, measure, far.by, where, _TEST, t, p, weight)
        least = self.floor_points if measure.share else self.floor_pct / 100 * abs(usual)
        series = np.where(_unknown(survey), np.nan, own.value[line.complete])
        ends = _usual(series, usual, at)
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=far.by,
            where=where,
            period=period,
            baseline=None,
            direction="up" if change > 0 else "down",
            figures={
                "date": str(period.start),
                "value": value,
                "expected": usual,
                "deviations": t,
                **ends,
                "change": change,
                "change_pct": 100 * change / usual if usual > 0 and measure.in_percent else None,
                "n": int(own.rows[place]),
                "around": sum(recorded_places(survey, side).size for side in around),
                "grain": line.grain.value,
            },
            test=_TEST,
            statistic=t,
            p=p,
            strength=squash(t, 8.0),
            reach=_REACH,
            # The rows may point one way and their sum the other, hardly any other period hold a value to set it
            # against, or a season take others as far; then nothing is told.
            large=abs(change) >= least
            and change * t > 0
            and _outside(value, ends)
            and (measure.additive or own.rows[place] >= _LEAST_ROWS or _is_summed_up(survey)),
            check=check,
            series={"time": line.column, "own": series, "offset": line.complete.start, "place": at, "timeline": line},
            weight=weight,
        )


def _usual(series: Floats, expected: float, at: int) -> dict[str, float | None]:
    """Between what 95% of the other periods lie, against the medians around them, about what is expected here; None
    where too few of them hold a value."""
    near, held = np.full(series.size, np.nan), series.tolist()
    for i in range(series.size):
        around = [*held[max(0, i - _AROUND) : i], *held[i + 1 : i + _AROUND + 1]]
        others = [value for value in around if isfinite(value)]
        if others:
            near[i] = statistics.median(others)
    off = np.delete(series - near, at)
    off = off[np.isfinite(off)]
    if off.size < _LEAST_PERIODS:
        return {"expected_low": None, "expected_high": None}
    low, high = np.quantile(off, (0.025, 0.975))
    return {"expected_low": expected + float(low), "expected_high": expected + float(high)}


def _goes_on(values: Floats, at: int, change: float) -> bool:
    """Whether the first or the last period only goes on as those beside it rise or fall: the first of a business that
    grows lies far below them, and less than half as far below the line through them."""
    if 0 < at < values.size - 1:
        return False
    beside = values[1 : 1 + _AROUND][::-1] if at == 0 else values[-1 - _AROUND : -1]
    beside = beside[np.isfinite(beside)]
    if beside.size < _LEAST_ROWS:
        return False
    slope = theil_sen(beside)
    ahead = float(np.median(beside - slope * np.arange(beside.size))) + slope * beside.size
    return bool((float(values[at]) - ahead) / change < _AS_FAR) if change else False


def _outside(value: float, ends: dict[str, float | None]) -> bool:
    low, high = ends["expected_low"], ends["expected_high"]
    return low is not None and high is not None and not low <= value <= high


def _with_others(candidate: Candidate, candidates: list[Candidate]) -> Candidate:
    """The spike with the other measures that are far off in the same period, the surest first."""
    same = [
        other
        for other in candidates
        if other is not candidate and candidate.period is not None and other.period == candidate.period
    ]
    same.sort(key=lambda other: -abs(other.statistic or 0.0))
    return replace(candidate, series={**candidate.series, "others": [(other.measure, other.figures) for other in same]})


def _grains(survey: Survey) -> list[Survey]:
    """The survey by weeks where they hold rows enough, and by its own periods; without dimensions."""
    line = survey.timeline
    assert line is not None
    own = Survey(table=survey.table, measures=survey.measures, dimensions=(), timeline=line)
    surveies = []
    for fine in (None if line.grain in (Grain.DAY, Grain.WEEK) else by_week(survey), own):
        short = None if fine is None else fine.timeline
        if fine is None or short is None or not _LEAST_PERIODS <= short.complete_count <= 1000:
            continue
        if median_rows(fine) >= _LEAST_ROWS or (fine is own and _is_summed_up(fine)):
            surveies.append(fine)
    return surveies


def _is_summed_up(survey: Survey) -> bool:
    """Whether the rows are figures of periods already: as many in each, and few."""
    line = survey.timeline
    assert line is not None
    rows = survey.cells(PERIOD).rows[line.complete]
    usual = float(np.median(rows))
    return 1 <= usual < _LEAST_ROWS and float((rows == usual).mean()) >= _SUMMED_UP


def _deviations(survey: Survey, measure: Measure) -> Floats | None:
    """Each period's deviation from those around it, of rows or of their scores, whichever is larger."""
    line = survey.timeline
    assert line is not None
    rows = survey.cells(PERIOD).rows[line.complete]
    # A period beside one without rows may be cut by what was not recorded.
    holes = np.convolve(_unknown(survey), np.ones(3), "same") > 0
    found = []
    part = measure.top[0][1]
    if part.sql and _is_summed_up(survey):
        # Nothing is known of what a figure is made of: it is set against those around it as it is.
        values = survey.cells(PERIOD).value(measure)[line.complete]
        unknown = holes | ~np.isfinite(values)
        if unknown.all() or np.ptp(values[~unknown]) == 0:
            return None
        plain = _far(survey, _even(values, unknown))
        if (values[~unknown] > 0).all():
            scaled = _even(np.log(np.where(unknown, 1.0, values)), unknown)
            plain = plain if _unevenness(_even(values, unknown)) <= _unevenness(scaled) else _far(survey, scaled)
        return np.where(unknown, 0.0, plain)
    worth = period_weights(survey, measure)
    if measure.additive:
        counted = _even(2 * np.sqrt(rows if worth is None else rows / worth), holes)
        found.append(_far(survey, counted))
    if part.sql and part.kind == "sum":
        scored, places = row_scores(survey, measure), survey.drawn().places()
        if scored is None or scored.known.sum() < 10 * rows.size:
            return found[0] if found else None
        known, scores = scored
        size = line.count + 1
        count = np.bincount(places[known], minlength=size)[line.complete]
        total = np.bincount(places[known], weights=scores, minlength=size)[line.complete]
        if measure.share:
            # Shares of few rows have long tails to one side; their arcsines hardly do (Anscombe 1948).
            mean = 2 * np.arcsin(np.sqrt((total + 0.375) / (count + 0.75)))
        else:
            mean = np.where(count > 0, total / np.maximum(count, 1), 0.0)
        found.append(_far(survey, _even(mean, holes), np.sqrt(count / max(1.0, float(np.median(count))))))
    if not found:
        return None
    both = np.where(holes, 0.0, np.array(found))
    return np.asarray(both[np.argmax(np.abs(both), axis=0), np.arange(both.shape[1])])


def _unevenness(values: Floats) -> float:
    """How far the moves of the first half are from being as large as those of the second; nought where they are."""
    moves = np.abs(np.diff(values))
    first, second = (float(np.median(part)) for part in (moves[: moves.size // 2], moves[moves.size // 2 :]))
    return abs(float(np.log(first / second))) if first > 0 and second > 0 else 0.0


def _unknown(survey: Survey) -> npt.NDArray[np.bool_]:
    """The complete periods of which nothing can be said: the holes, but of weeks and days those without any row. That
    of a month some weeks are missing is told by them; a week of few rows nobody else tells of."""
    line, holes = survey.timeline, period_holes(survey)
    assert line is not None
    if line.grain not in (Grain.DAY, Grain.WEEK):
        return holes
    return np.asarray(holes & (survey.cells(PERIOD).rows[line.complete] == 0))


def _far(survey: Survey, values: Floats, weights: Floats | None = None) -> Floats:
    """One series' deviations from the periods around each, as those of slices are told."""
    found = deviations(without_season(survey, values[None]), None if weights is None else weights[None])
    return np.asarray(found[0])


def _even(values: Floats, holes: npt.NDArray[np.bool_]) -> Floats:
    """The values with those of the nearest other periods in the place of holes."""
    if not holes.any() or holes.all():
        return values
    known = np.flatnonzero(~holes)
    near = np.abs(np.arange(values.size)[:, None] - known[None]).argmin(axis=1)
    return np.asarray(values[known[near]])


def _figures(
    survey: Survey, measure: Measure, own: Own, period: Period, around: list[Period], where: Slice
) -> tuple[float, float, Check]:
    """The measure of a slice in the period and (per period) in those around it, and the SQL that gives both again."""
    table, line = survey.table, survey.timeline
    assert line is not None
    spans = " OR ".join(f"({between(line.column, recorded(survey, side))})" for side in around)
    places = np.concatenate([recorded_places(survey, side) for side in around])
    periods = max(1, places.size)
    here = int(line.places(np.array([period.start]))[0])
    top, bottom = own.top, own.bottom
    value_sql = scalar(measure, within(table, where, line.column, period))
    if bottom is None:
        # A week without rows has sold nothing; in SQL the sum of no rows is no number.
        value_sql = f"coalesce({value_sql}, 0)"
        value, usual = measure.factor * float(top[here]), measure.factor * float(top[places].sum()) / periods
    else:
        value = measure.factor * float(top[here] / bottom[here]) if bottom[here] else float("nan")
        below = float(bottom[places].sum())
        usual = measure.factor * float(top[places].sum() / below) if below else float("nan")
    check = Check(
        sql=one_row(
            {
                "value": value_sql,
                "expected": scalar(
                    measure, f"{within(table, where)} AND ({spans})", periods if measure.additive else 1
                ),
            }
        ),
        expect={"value": value, "expected": usual},
    )
    return value, usual, check
