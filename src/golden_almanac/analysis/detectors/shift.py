"""Shifts: a lasting step from one period to the next, of the whole or of a slice against its siblings.

The place is the one that leaves the least unexplained beside the season; its p-value is that of the
search over all places, with autoregressive errors, weighed against the series in other orders (see `series.paths`).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from ...aggregation import Survey
from ...findings import Candidate
from ...findings.finding_kind import NOISE, PERCENT, FindingKind, Floor
from ...findings.scoring import squash
from ...stats.false_discovery import UNLIKELY
from ...support.phrasing import marked
from .before_after import around_step, growth_of_whole, moved, observed
from .double_steps import Step, stepped_twice, told_by_two
from .lumpy import stepped_by_counts
from .moved_by_one import moved_by_one
from .peer_series import all_others, all_series, unlikely
from .tested_series import Series
from .yearly_wave import beside_a_wave

KIND = FindingKind(
    name="shift",
    what="a lasting step from one period to the next",
    detector="Shift",
    interest=1.0,
    needs_time=True,
    least_periods=10,
    floor=Floor(setting="floor_pct", unit=PERCENT),
    movement="path",
    happens="start",
    figures={
        "date": "first day of the first period after the step",
        "before": "average of a period over the span before",
        "after": "average of a period over the span after",
        "rest_before": "the siblings over the span before",
        "rest_after": "the siblings over the span after",
        "change": "after minus before",
        "change_pct": "the same in percent of before",
        "rest_change": "what the siblings did meanwhile",
        "rest_change_pct": "the same in percent",
        "relative_pct": "step against the siblings, in percent",
        "relative_change": "the same in the measure's unit",
        "relative_low_pct": "lower end of its 95% range",
        "relative_high_pct": "upper end of its 95% range",
        "relative_low": "lower end of its 95% range, in the measure's unit",
        "relative_high": "upper end of its 95% range, in the measure's unit",
        "change_low": "lower end of the 95% range of the step",
        "change_high": "upper end of the 95% range of the step",
        "n": "rows",
        "share": "share of the whole that the slice makes, 0 to 1",
        "periods_before": "periods before the step",
        "periods_after": "periods after it",
        "windows": "the spans of days that are compared: before and after, and whether they are the same months",
        "like_for_like": "where labels came or ended, the change of those there throughout, and of both",
        "why": "through what it came about: mix, or volume and value per row",
    },
)


#: Series in which one step is not seen are looked at once more, for two: each look gets so much of the room for error.
_SECOND_LOOK = 0.3
_ONE = "step at the best place, autoregressive, weighed against the series in other orders"
_TWO = "two steps at the best pair of places, autoregressive, the less sure of both, times the pairs tried"


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """`floor_pct`: smaller steps are not reported; `floor_noise` the same in standard deviations of noise."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 3.0
    floor_noise: float = 1.0

    def detect(self, survey: Survey) -> list[Candidate]:
        twice, likely = told_by_two(survey), unlikely(survey)
        once = [
            self._candidate(survey, series, likely)
            for series in all_series(survey)
            if series.path.shape == "step" and (series.measure.name, series.where) not in twice
        ]
        return [*once, *(self._candidate(survey, one.series, likely, one) for one in stepped_twice(survey))]

    def _candidate(self, survey: Survey, series: Series, likely: float, among: Step | None = None) -> Candidate:
        weight = 1.0 if among is None else _SECOND_LOOK
        line = survey.timeline
        assert line is not None
        by_counts = stepped_by_counts(series.own, series.path.start, series.own.size)
        p = max(series.path.p, by_counts, beside_a_wave(series, line.grain) if among is None else 0.0)
        if p > (UNLIKELY if series.by is None else likely):
            return Candidate.nothing(
                self.kind, series.measure, series.by, series.where, series.path.shape, series.path.statistic, p, weight
            )
        offset, n = line.complete.start, series.y.size
        place = offset + series.path.start
        # A season common to slice and rest cancels in what is tested, but not in what is told.
        seasonal = line.grain.per_year > 1 and n >= line.grain.per_year
        first, last = (0, n - 1) if among is None else (among.first, among.last)
        windows = around_step(survey, place, offset + first, offset + last, seasonal)
        parent = series.parent if series.rest is not None else None
        seen, check = observed(
            survey, series.measure, series.where, windows, ("before", "after"), parent, series.besides
        )
        if among is None and moved_by_one(survey, series):
            return Candidate.nothing(
                self.kind, series.measure, series.by, series.where, _ONE, series.path.statistic, p, weight
            )
        positive = seen["before"] > 0 and seen["after"] > 0 and not series.measure.in_points
        step = series.path.jump
        figures = {
            "date": str(line.period(place).start),
            **seen,
            "change": seen["after"] - seen["before"],
            "change_pct": 100 * (seen["after"] / seen["before"] - 1) if positive else None,
            **_of_siblings(seen),
            "relative_pct": 100 * float(np.expm1(step)) if series.log and series.rest is not None else None,
            **_interval(series, step),
            "n": int(series.rows.sum()),
            "share": series.reach,
            "periods_before": series.path.start - first,
            "periods_after": last + 1 - series.path.start,
            "windows": {
                "before": windows.before.to_dict(),
                "after": windows.after.to_dict(),
                "same_months": windows.same_months,
            },
        }
        figures["like_for_like"], check = growth_of_whole(survey, series.measure, series.where, windows, check)
        large = (
            abs(np.expm1(step)) * 100 >= self.floor_pct
            if series.log
            else abs(step) >= self.floor_noise * series.path.noise
        )
        going = moved(seen, ("before", "after"), series.log or series.measure.additive)
        return Candidate(
            kind=self.kind,
            measure=series.measure,
            by=series.by,
            where=series.where,
            period=windows.after,
            baseline=windows.before,
            direction="up" if step > 0 else "down",
            figures=figures,
            test=_ONE if among is None else _TWO,
            statistic=series.path.statistic,
            p=p,
            strength=squash(step / (series.path.noise or 1e-300), 3.0),
            reach=series.reach,
            large=bool(large),
            floor=(self.floor_pct, PERCENT) if series.log else (self.floor_noise, NOISE),
            agrees=going * step > 0,
            check=check,
            series={
                "time": line.column,
                "own": series.own,
                "rest": all_others(survey, series),
                "offset": offset,
                "y": series.y,
                "place": series.path.start,
                "parent": series.parent,
                "besides": [besides.label for besides in series.besides],
            },
            implied_by=None
            if series.implied_by is None
            else (series.implied_by.label, marked("the mirror image of {label}")),
            weight=weight,
        )


def _of_siblings(seen: Mapping[str, float]) -> dict[str, float | None]:
    """How the siblings went over the same spans."""
    if "rest_before" not in seen:
        return {}
    before, after = seen["rest_before"], seen["rest_after"]
    return {"rest_change": after - before, "rest_change_pct": 100 * (after / before - 1) if before > 0 else None}


def _interval(series: Series, step: float) -> dict[str, float | None]:
    """The 95% range of the step: in percent on the log scale, against the rest where there is one."""
    ends = step - 1.96 * series.path.error, step + 1.96 * series.path.error
    low, high = ((100 * float(np.expm1(end)) if series.log else end) for end in ends)
    if series.rest is None:
        return {"relative_change": None, "change_low": low, "change_high": high}
    if series.log:
        return {"relative_change": None, "relative_low_pct": low, "relative_high_pct": high}
    return {"relative_change": step, "relative_low": low, "relative_high": high}
