"""Seasonality: the same ups and downs every year, week or month.

For the week and the month see `cycles`. For the year: seasonal columns against none in a regression with a trend and
autoregressive errors (F test); strength is 1 − Var(rest)/Var(season + rest). Peak and trough are named only if they
lead in most years.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ...aggregation import PERIOD, Survey
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...sql.expressions import quote_name
from ...stats import seasonal_terms
from ...stats.autocorrelated_fits import Floats, autocorrelation, ols, whiten
from ...tables import Grain, Timeline
from ..known_series import period_numbers, recorded
from ..trading_days import period_weights
from .calendar_cycles import MOST_TOGETHER, against_average, neighbours, said_places, short_cycles
from .peer_series import all_series
from .tested_series import Series

_MONTHS = tuple("January February March April May June July August September October November December".split())
#: Of neighbouring months that lead together one is the first in more than so many of the years.
_TOGETHER = 0.75
_QUARTERS = ("the first quarter", "the second quarter", "the third quarter", "the fourth quarter")


KIND = FindingKind(
    name="seasonality",
    what="the same ups and downs every year, month or week",
    detector="Seasonality",
    interest=0.85,
    needs_time=True,
    least_periods=1,
    floor=Floor(setting="floor_pct", unit="percent off the average"),
    told_apart_by="cycle",
    figures={
        "cycle": "year, month or week",
        "peak": "the part of the cycle that is highest, None where none leads",
        "trough": "the part that is lowest",
        "peak_span": "the parts that are highest together, where no single one leads",
        "trough_span": "the parts that are lowest together",
        "peak_value": "average of a period (or day) of the peak",
        "trough_value": "average of a period (or day) of the trough",
        "peak_pct": "peak_value above the average in percent, None for rates",
        "trough_pct": "trough_value below the average in percent, less than 0",
        "average": "average of a period (or day) over whole cycles",
        "strength": "share of the variance within cycles that the season accounts for, 0 to 1",
        "profile": "each part against the average of its cycle, 1 is level",
        "years": "number of whole years",
        "blocks": "number of whole weeks or months",
    },
)


#: Years that tell two places of a cycle apart, and the degrees of freedom that all places lend to that.
_LEAST_YEARS, _BESIDE_ALL = 3, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class Seasonality:
    """`floor`: a season weaker than this strength (0–1), or whose peak stands out by fewer than
    `floor_pct` percent of the average period, is not reported. An average knows no nought to be set against (the
    carbon dioxide of the air swings by one in a hundred, every year): of one, a season of strength `floor_average` is
    told however small."""

    kind: ClassVar[FindingKind] = KIND
    floor: float = 0.3
    floor_pct: float = 5.0
    floor_average: float = 0.6

    def detect(self, survey: Survey) -> list[Candidate]:
        line = survey.timeline
        found = []
        if line is not None and line.grain in (Grain.MONTH, Grain.QUARTER):
            enough = line.complete_count >= 2 * line.grain.per_year
            found = [self._candidate(survey, series) for series in all_series(survey) if series.by is None and enough]
        return [*found, *short_cycles(survey, self.kind, self.floor, self.floor_pct)]

    def _candidate(self, survey: Survey, series: Series) -> Candidate:
        line = survey.timeline
        assert line is not None
        cycle = line.grain.per_year
        names, at, first = _names(line)
        numbers = period_numbers(survey) - first
        statistic, p, season, rest = _f_test(line.grain, numbers, series.y)
        both = float(np.var(season + rest))
        strength = max(0.0, 1 - float(np.var(rest)) / both) if both > 0 else 0.0
        whole_years = series.y.size // cycle
        used = slice(series.y.size - whole_years * cycle, series.y.size)
        worth = period_weights(survey, series.measure)
        # A short month is no season: what is told must be seen in what a day of it brought, too.
        daily = series.own if worth is None else series.own / worth
        profile, peaks, troughs = _profile(daily[used], numbers[used], cycle)
        levels = np.array([_mean(survey, series, used, numbers[used] % cycle == place) for place in range(cycle)])
        # A month that leads within its years, but not by the plain averages that are said and drawn, is not named.
        known = np.isfinite(series.own[used])
        plain = bool(np.isfinite(levels).all())
        peak = next((one for one in peaks if not plain or _leads(levels, one)), ())
        trough = next((one for one in troughs if not plain or _leads(-levels, one)), ())
        span = line.span(line.complete.start + used.start, line.complete.start + series.y.size - 1)
        inside = within(survey.table, Slice(), line.column, recorded(survey, span))
        divide = int(known.sum()) if series.measure.additive else 1
        columns = {"average": scalar(series.measure, inside, divide)}
        expect = {"average": _mean(survey, series, used, None)}
        for name, place in (("peak_value", peak), ("trough_value", trough)):
            if place:
                there = known & np.isin(numbers[used] % cycle, place)
                times = int(there.sum()) if series.measure.additive else 1
                columns[name] = scalar(series.measure, f"{inside} AND {at} IN ({', '.join(map(str, place))})", times)
                expect[name] = _mean(survey, series, used, np.isin(numbers[used] % cycle, place))
        plain = plain and expect["average"] > 0
        figures: dict[str, Any] = {
            "cycle": "year",
            "strength": strength,
            **said_places({"peak": peak, "trough": trough}, names),
            "profile": [float(value) for value in profile],
            "years": whole_years,
            **expect,
            **against_average(expect, series.measure),
        }
        positive = bool(series.own[np.isfinite(series.own)].min() >= 0)
        of_average = not series.measure.additive and bool(peak or trough)
        stands_out = max(abs(profile.max() - 1), abs(1 - profile.min())) * 100 if positive else 100.0
        return Candidate(
            kind=self.kind,
            measure=series.measure,
            by=None,
            where=Slice(),
            period=span,
            baseline=None,
            direction=None,
            figures=figures,
            test="F test of the season beside a trend, autoregressive",
            statistic=statistic,
            p=p,
            strength=strength,
            reach=1.0,
            large=strength >= self.floor
            and (stands_out >= self.floor_pct or (of_average and strength >= self.floor_average)),
            check=Check(sql=one_row(columns), expect=expect),
            series={
                "time": line.column,
                "own": series.own,
                "offset": line.complete.start,
                "profile": levels / expect["average"] if plain else profile,
                "names": names,
                "cycle": cycle,
                "y": series.y,
            },
        )


def _names(line: Timeline) -> tuple[tuple[str, ...], str, int]:
    """What the places of the yearly cycle are called, in order; SQL for the place that a date falls in; and the
    number (modulo the cycle) of the periods that come first in a year."""
    month = f"month(CAST({quote_name(line.column)} AS DATE))"
    if line.grain is Grain.MONTH:
        return _MONTHS, f"{month} - 1", 0
    start = line.calendar.fiscal_start
    names = (
        tuple(name.replace("quarter", "fiscal quarter") for name in _QUARTERS) if line.calendar.fiscal else _QUARTERS
    )
    return names, f"(({month} + {12 - start}) % 12) // 3", (start - 1) // 3


def _f_test(grain: Grain, numbers: Any, y: Floats) -> tuple[float, float, Floats, Floats]:
    """F, p, the seasonal part and what is left, from the simplest seasonal design that does best by BIC."""
    from scipy.special import fdtrc

    n = y.size
    time = np.arange(n, dtype=np.float64) - (n - 1) / 2
    base = np.column_stack([np.ones(n), time])
    chosen = seasonal_terms.choose(grain, numbers, y)
    tried = seasonal_terms.candidates(grain, numbers)
    if chosen.shape[1] == 0 and tried:
        chosen = tried[0]
    if chosen.shape[1] == 0:
        return 0.0, 1.0, np.zeros(n), y
    full = np.hstack([base, chosen])
    fit = ols(full, y)
    phi = max(0.0, autocorrelation(fit.residual, 2, 0.5))
    white_base, white_full, white_y = whiten(phi, base, full, y)
    rss0, fit1 = ols(white_base, white_y).rss, ols(white_full, white_y, spent=1)
    k = chosen.shape[1]
    f = max(0.0, (rss0 - fit1.rss) / k) / (fit1.rss / fit1.df)
    # The best of several designs was taken: their number counts.
    return float(f), min(1.0, float(fdtrc(k, fit1.df, f)) * len(tried)), chosen @ fit.beta[2:], fit.residual


def _leads(levels: Floats, places: tuple[int, ...]) -> bool:
    """Whether places are the highest by their plain averages, too."""
    return set(np.argsort(-levels, kind="stable")[: len(places)].tolist()) == set(places)


def _profile(own: Floats, numbers: Any, cycle: int) -> tuple[Floats, list[tuple[int, ...]], list[tuple[int, ...]]]:
    """Each place's average as a ratio of the average of its year, and what may be peak and trough: the place that leads
    in most years, the few neighbours of which one does in nearly all, while each of them is above (below) all others on
    average."""
    from scipy.special import stdtrit

    years = own.reshape(-1, cycle)
    phase = np.asarray(numbers[:cycle] % cycle)
    # A year with holes tells of the others; a place that is a hole in every year is no peak.
    held = np.isfinite(years)
    means = np.where(held, years, 0.0).sum(axis=1, keepdims=True) / np.maximum(1, held.sum(axis=1, keepdims=True))
    ratios = np.where(held, np.where(means != 0, years / np.where(means != 0, means, 1.0), 1.0), 1.0)
    profile = np.empty(cycle)
    profile[phase] = np.where(held, ratios, 0.0).sum(axis=0) / np.maximum(1, held.sum(axis=0))

    by_place = np.empty_like(ratios)
    by_place[:, phase] = np.where(held, ratios, np.nan)
    # What a place strays by from year to year goes with its level; by the median, since a step is no such straying.
    strayed = np.abs(by_place / np.where(profile > 0, profile, np.nan) - 1)
    usual = 1.4826 * float(np.nanmedian(strayed)) if np.isfinite(strayed).any() else 0.0

    def alike(one: int, other: int) -> bool:
        """Whether two places differ, year by year, by no more than chance makes: Student's t at 95%, its variance drawn
        towards what all places make (Smyth 2004), since a few years hardly know it."""
        gap = by_place[:, one] - by_place[:, other]
        gap = gap[np.isfinite(gap)]
        if gap.size < _LEAST_YEARS:
            return False
        df = gap.size - 1 + _BESIDE_ALL
        by_all = usual**2 * (profile[one] ** 2 + profile[other] ** 2)
        variance = (float(gap.var(ddof=1)) * (gap.size - 1) + by_all * _BESIDE_ALL) / df
        return bool(abs(gap.mean()) < float(stdtrit(df, 0.975)) * np.sqrt(variance / gap.size))

    def leading(sign: int) -> list[tuple[int, ...]]:
        return [*_spans(sign, level=True), *_spans(sign, level=False)]

    def _spans(sign: int, *, level: bool) -> list[tuple[int, ...]]:
        found = []
        ranked = np.argsort(-sign * profile, kind="stable")
        first = phase[np.argmax(sign * ratios, axis=1)]
        # Two years agree on a span of months too easily.
        most = min(MOST_TOGETHER, (cycle - 1) // 3) if years.shape[0] > 2 else 1
        for size in range(1, most + 1):
            if level and size < most and alike(int(ranked[size - 1]), int(ranked[size])):
                # The next one is as high: who led was chance.
                continue
            span = neighbours([int(place) for place in ranked[:size]], cycle)
            wins = int(np.isin(first, ranked[:size]).sum())
            if span and (wins > _TOGETHER * years.shape[0] if size > 1 else 2 * wins > years.shape[0]):
                found.append(span)
        return found

    return profile, leading(1), leading(-1)


def _mean(survey: Survey, series: Series, used: slice, keep: Any) -> float:
    """The measure over the periods used, or those of them to keep (a mask)."""
    line = survey.timeline
    assert line is not None
    cells = survey.cells(PERIOD)
    at = slice(line.complete.start + used.start, line.complete.start + used.stop)
    keep = np.isfinite(series.own[used]) & (True if keep is None else keep)
    if not keep.any():
        return float("nan")
    top = float(cells.linear(series.measure.top)[at][keep].sum())
    if series.measure.bottom:
        bottom = float(cells.linear(series.measure.bottom)[at][keep].sum())
        return series.measure.factor * top / bottom if bottom else float("nan")
    if not series.measure.additive:
        return float(np.mean(series.own[used][keep]))
    return series.measure.factor * top / int(keep.sum())
