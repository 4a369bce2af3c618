"""Divergence: a slice whose last few periods leave the path that it kept among its siblings.

A step needs three periods on either side; here the path of all earlier periods, a line beside the season with
autoregressive errors, is drawn on, and the last two to five periods are off it together. The p-value is that of the
search over how many, weighed against the series in other orders (see `series.permutations`).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from ...aggregation import Survey
from ...findings import Candidate, Check
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Fit, Floats
from ...stats.segmented_paths import searched
from ...support.phrasing import marked
from .before_after import value_over
from .peer_series import MIRROR, Series, all_series

#: Last periods that may be off together, and earlier ones that tell the path.
_LENGTHS, _LEAST_BEFORE = (2, 3, 4, 5), 12
_TEST = "the last periods off the path of those before, autoregressive, weighed against the series in other orders"


KIND = FindingKind(
    name="divergence",
    what="a slice whose last periods leave the path that it kept among its siblings",
    detector="Divergence",
    interest=0.95,
    weight=0.25,
    needs_time=True,
    least_periods=_LEAST_BEFORE + max(_LENGTHS),
    floor=Floor(setting="floor_pct", unit="percent"),
    movement="departure",
    happens="period",
    figures={
        "value": "average of a period since",
        "expected": "the same by the path kept before",
        "since": "first day of the departure",
        "periods": "number of periods since",
        "change": "value minus expected",
        "change_pct": "the same in percent of expected",
        "low": "lower end of the 95% range of the departure",
        "high": "upper end of the 95% range of the departure",
        "rest": "the siblings' average of a period since",
        "share": "share of the whole that the slice makes, 0 to 1",
        "n": "rows since",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Divergence:
    """`floor_pct`: smaller departures from the path are not reported; `floor_noise` the same in standard deviations."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 10.0
    floor_noise: float = 1.5

    def detect(self, survey: Survey) -> list[Candidate]:
        found = [self._candidate(survey, one) for one in all_series(survey) if one.by is not None]
        return [_mirrored(one, found) for one in found]

    def _candidate(self, survey: Survey, one: Series) -> Candidate:
        line = survey.timeline
        assert line is not None
        n = one.y.size
        season = np.empty((n, 0)) if one.season is None else one.season
        place, fit, p = _off(one.y, season, _told(one), one.path.phi)
        gap, error, t = float(fit.beta[-1]), float(fit.error[-1]), fit.t(fit.beta.size - 1)
        if p > MIRROR:
            return Candidate.nothing(self.kind, one.measure, one.by, one.where, _TEST, t, p)
        length, start = _LENGTHS[place], line.complete.start
        since, before = line.span(start + n - length, start + n - 1), line.span(start, start + n - length - 1)
        outside = (one.where, *one.besides)
        value = value_over(survey, one.measure, one.where, since, length if one.measure.additive else 1)
        rest = value_over(survey, one.measure, one.parent, since, length if one.measure.additive else 1, outside)
        # The path tells how the slice stands to its siblings; with what those did, what was to be expected of it.
        expected = value * float(np.exp(-gap)) if one.log else value - gap
        ends = [
            100 * float(np.expm1(gap + side * error)) if one.log else gap + side * error for side in (0, -1.96, 1.96)
        ]
        least = self.floor_pct if one.log else self.floor_noise * one.path.noise
        divide = length if one.measure.additive else 1
        check = {
            "value": scalar(one.measure, within(survey.table, one.where, line.column, since), divide),
            "rest": scalar(one.measure, within(survey.table, one.parent, line.column, since, outside), divide),
        }
        return Candidate(
            kind=self.kind,
            measure=one.measure,
            by=one.by,
            where=one.where,
            period=since,
            baseline=before,
            direction="up" if gap > 0 else "down",
            figures={
                "value": value,
                "expected": expected,
                "since": str(since.start),
                "periods": length,
                "change": value - expected,
                "change_pct": ends[0] if one.log else None,
                "low": ends[1],
                "high": ends[2],
                "rest": rest,
                "share": one.reach,
                "n": int(one.rows[-length:].sum()),
            },
            test=_TEST,
            statistic=t,
            p=p,
            strength=squash(gap / (one.path.noise or 1e-300), 4.0),
            reach=one.reach,
            large=abs(ends[0]) >= least,
            check=Check(sql=one_row(check), expect={"value": value, "rest": rest}),
            series={
                "time": line.column,
                "own": one.own,
                "rest": one.rest,
                "offset": start,
                "y": one.y,
                "parent": one.parent,
                "besides": [besides.label for besides in one.besides],
            },
        )


def off_path(y: Floats, season: Floats, told: list[Floats], phi: float) -> tuple[float, float]:
    """How sure, and how far, the last periods of a series, shape (n,), are off its path, to which `told` belong."""
    _, fit, p = _off(y, season, told, phi)
    return p, float(fit.beta[-1])


def _off(y: Floats, season: Floats, told: list[Floats], phi: float) -> tuple[int, Fit, float]:
    n = y.size
    time = np.arange(n, dtype=np.float64)
    null = np.column_stack([np.ones(n), time - time.mean(), season, *told])
    trials = np.column_stack([(time >= n - length).astype(np.float64) for length in _LENGTHS])
    return searched(null, trials, y, phi)


def _told(one: Series) -> list[Floats]:
    """The bend or step that the series is already known to have: part of its path, not a departure from it, unless it
    comes so late that it may be just that."""
    if one.path.p > MIRROR or one.path.shape == "line" or one.path.start >= one.y.size - 2 * max(_LENGTHS):
        return []
    place, time = one.path.start, np.arange(one.y.size, dtype=np.float64)
    return [np.maximum(time - place, 0.0) if one.path.shape == "bend" else (time >= place).astype(np.float64)]


def _mirrored(one: Candidate, found: list[Candidate]) -> Candidate:
    """A slice that goes the other way than a surer sibling only loses, or gains, what that one gained or lost."""
    if one.direction is None:
        return one
    surer = [
        other
        for other in found
        if (other.measure, other.by) == (one.measure, one.by)
        and other.direction not in (None, one.direction)
        and (other.p, other.where.label) < (one.p, one.where.label)
    ]
    if not surer:
        return one
    first = min(surer, key=lambda other: (other.p, other.where.label))
    return replace(one, implied_by=(first.where.label, marked("the mirror image of {label}")))
