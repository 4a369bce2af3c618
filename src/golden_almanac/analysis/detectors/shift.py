"""Shifts: a lasting step from one period to the next, of the whole or of a slice against its siblings.

The place is the one that leaves the least unexplained beside the season; its p-value is that of the
search over all places, with autoregressive errors, weighed against the series in other orders (see `series.paths`).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from ...aggregation import Survey
from ...findings import Candidate
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...support.phrasing import marked
from .before_after import around_step, moved, observed
from .peer_series import UNLIKELY, Series, all_series

KIND = FindingKind(
    name="shift",
    what="a lasting step from one period to the next",
    detector="Shift",
    interest=1.0,
    needs_time=True,
    least_periods=10,
    floor=Floor(setting="floor_pct", unit="percent"),
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
        "why": "through what it came about: mix, or volume and value per row",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """`floor_pct`: smaller steps are not reported; `floor_noise` the same in standard deviations of noise."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 3.0
    floor_noise: float = 1.0

    def detect(self, survey: Survey) -> list[Candidate]:
        return [self._candidate(survey, one) for one in all_series(survey) if one.path.shape == "step"]

    def _candidate(self, survey: Survey, one: Series) -> Candidate:
        if one.path.p > UNLIKELY:
            return Candidate.nothing(
                self.kind, one.measure, one.by, one.where, one.path.shape, one.path.statistic, one.path.p
            )
        line = survey.timeline
        assert line is not None
        offset, n = line.complete.start, one.y.size
        place = offset + one.path.start
        # A season common to slice and rest cancels in what is tested, but not in what is told.
        seasonal = line.grain.per_year > 1 and n >= line.grain.per_year
        windows = around_step(survey, place, offset, offset + n - 1, seasonal)
        parent = one.parent if one.rest is not None else None
        seen, check = observed(survey, one.measure, one.where, windows, ("before", "after"), parent, one.besides)
        positive = seen["before"] > 0 and seen["after"] > 0 and not one.measure.share
        step = one.path.jump
        figures = {
            "date": str(line.period(place).start),
            **seen,
            "change": seen["after"] - seen["before"],
            "change_pct": 100 * (seen["after"] / seen["before"] - 1) if positive else None,
            "relative_pct": 100 * float(np.expm1(step)) if one.log and one.rest is not None else None,
            **_interval(one, step),
            "n": int(one.rows.sum()),
            "share": one.reach,
            "periods_before": one.path.start,
            "periods_after": n - one.path.start,
            "windows": {
                "before": windows.before.to_dict(),
                "after": windows.after.to_dict(),
                "same_months": windows.same_months,
            },
        }
        large = (
            abs(np.expm1(step)) * 100 >= self.floor_pct if one.log else abs(step) >= self.floor_noise * one.path.noise
        )
        going = moved(seen, ("before", "after"), one.measure.additive)
        return Candidate(
            kind=self.kind,
            measure=one.measure,
            by=one.by,
            where=one.where,
            period=windows.after,
            baseline=windows.before,
            direction="up" if step > 0 else "down",
            figures=figures,
            test="step at the best place, autoregressive, weighed against the series in other orders",
            statistic=one.path.statistic,
            p=one.path.p,
            strength=squash(step / (one.path.noise or 1e-300), 3.0),
            reach=one.reach,
            large=bool(large) and going * step > 0,
            check=check,
            series={
                "time": line.column,
                "own": one.own,
                "rest": one.rest,
                "offset": offset,
                "y": one.y,
                "place": one.path.start,
                "parent": one.parent,
                "besides": [besides.label for besides in one.besides],
            },
            implied_by=None
            if one.implied_by is None
            else (one.implied_by.label, marked("the mirror image of {label}")),
        )


def _interval(one: Series, step: float) -> dict[str, float | None]:
    """The 95% range of the step: in percent on the log scale, against the rest where there is one."""
    ends = step - 1.96 * one.path.error, step + 1.96 * one.path.error
    low, high = ((100 * float(np.expm1(end)) if one.log else end) for end in ends)
    if one.rest is None:
        return {"relative_change": None, "change_low": low, "change_high": high}
    if one.log:
        return {"relative_change": None, "relative_low_pct": low, "relative_high_pct": high}
    return {"relative_change": step, "relative_low": low, "relative_high": high}
