"""Divergence: a slice whose last few periods leave the path that it kept among its siblings.

A step needs three periods on either side; here the path of all earlier periods, a line beside the season with
autoregressive errors, is drawn on, and the last two to five periods are off it together. The p-value is that of the
search over how many, weighed against the series in other orders (see `series.permutations`).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from ...aggregation import Survey
from ...findings import Candidate, Check
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import NOISE, PERCENT, FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Fit, Floats
from ...stats.batched_fits import gls_each
from ...stats.segmented_paths import searched
from ...stats.series_batch import line_beside
from ...support.phrasing import marked
from ..known_series import recorded
from .before_after import known_in, value_over
from .peer_series import all_others, all_series
from .tested_series import MIRROR, Series

#: Last periods that may be off together, and earlier ones that tell the path.
_LENGTHS, _LEAST_BEFORE = (2, 3, 4, 5), 12
#: Values of the designs that are worked on together.
_AT_ONCE = 4_000_000
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
        parts = [series for series in all_series(survey) if series.by is not None]
        found = [
            Candidate.nothing(self.kind, series.measure, series.by, series.where, _TEST, t, p)
            if p > MIRROR
            else self._candidate(survey, series)
            for series, (t, p) in zip(parts, _first_look(parts), strict=True)
        ]
        surest: dict[tuple[Any, ...], list[Candidate]] = {}
        for one in found:
            if one.direction is not None:
                surest.setdefault((one.measure, one.by, one.direction), []).append(one)
        return [_mirrored(one, surest) for one in found]

    def _candidate(self, survey: Survey, series: Series) -> Candidate:
        line = survey.timeline
        assert line is not None
        n = series.y.size
        place, fit, p = _off(series.y, _season(series), _told(series), series.path.phi)
        gap, error, t = float(fit.beta[-1]), float(fit.error[-1]), fit.t(fit.beta.size - 1)
        if p > MIRROR:
            return Candidate.nothing(self.kind, series.measure, series.by, series.where, _TEST, t, p)
        length, start = _LENGTHS[place], line.complete.start
        since, before = line.span(start + n - length, start + n - 1), line.span(start, start + n - length - 1)
        outside = (series.where, *series.besides)
        known = recorded(survey, since)
        divide = known_in(survey, since) if series.measure.additive else 1
        value = value_over(survey, series.measure, series.where, since, divide)
        rest = value_over(survey, series.measure, series.parent, since, divide, outside)
        # The path tells how the slice stands to its siblings; with what those did, what was to be expected of it.
        expected = value * float(np.exp(-gap)) if series.log else value - gap
        ends = [
            100 * float(np.expm1(gap + side * error)) if series.log else gap + side * error for side in (0, -1.96, 1.96)
        ]
        least = self.floor_pct if series.log else self.floor_noise * series.path.noise
        check = {
            "value": scalar(series.measure, within(survey.table, series.where, line.column, known), divide),
            "rest": scalar(series.measure, within(survey.table, series.parent, line.column, known, outside), divide),
        }
        return Candidate(
            kind=self.kind,
            measure=series.measure,
            by=series.by,
            where=series.where,
            period=since,
            baseline=before,
            direction="up" if gap > 0 else "down",
            figures={
                "value": value,
                "expected": expected,
                "since": str(since.start),
                "periods": length,
                "change": value - expected,
                "change_pct": ends[0] if series.log else None,
                "low": ends[1],
                "high": ends[2],
                "rest": rest,
                "share": series.reach,
                "n": int(series.rows[-length:].sum()),
            },
            test=_TEST,
            statistic=t,
            p=p,
            strength=squash(gap / (series.path.noise or 1e-300), 4.0),
            reach=series.reach,
            large=abs(ends[0]) >= least,
            floor=(self.floor_pct, PERCENT) if series.log else (self.floor_noise, NOISE),
            check=Check(sql=one_row(check), expect={"value": value, "rest": rest}),
            series={
                "time": line.column,
                "own": series.own,
                "rest": all_others(survey, series),
                "offset": start,
                "y": series.y,
                "parent": series.parent,
                "besides": [besides.label for besides in series.besides],
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


def _told(series: Series) -> list[Floats]:
    """The bend or step that the series is already known to have: part of its path, not a departure from it, unless it
    comes so late that it may be just that."""
    if series.path.p > MIRROR or series.path.shape == "line" or series.path.start >= series.y.size - 2 * max(_LENGTHS):
        return []
    place, time = series.path.start, np.arange(series.y.size, dtype=np.float64)
    if series.path.shape == "stretch":
        return [np.clip(time - place, 0.0, (series.path.stop or series.y.size - 1) - place)]
    return [np.maximum(time - place, 0.0) if series.path.shape == "bend" else (time >= place).astype(np.float64)]


def _season(series: Series) -> Floats:
    return np.empty((series.y.size, 0)) if series.season is None else series.season


def _first_look(parts: Sequence[Series]) -> list[tuple[float, float]]:
    """t and p of each series off its path, before it is weighed against the series in other orders: those together
    whose path has the same columns."""
    found = [(0.0, 1.0)] * len(parts)
    groups: dict[tuple[bytes, int], list[int]] = {}
    told = [_told(series) for series in parts]
    for place, series in enumerate(parts):
        groups.setdefault((_season(series).tobytes(), len(told[place])), []).append(place)
    for places in groups.values():
        n = parts[places[0]].y.size
        shared = line_beside(_season(parts[places[0]]))
        trials = (np.arange(n)[:, None] >= n - np.array(_LENGTHS)).astype(np.float64)
        y, phi = np.stack([parts[place].y for place in places]), np.array([parts[place].path.phi for place in places])
        own = np.stack([np.column_stack([np.empty((n, 0)), *told[place]]) for place in places])
        for rows in np.array_split(np.arange(len(places)), max(1, len(places) * n * (shared.shape[1] + 2) // _AT_ONCE)):
            base = np.concatenate([np.broadcast_to(shared, (rows.size, *shared.shape)), own[rows]], axis=2)
            fits = [
                gls_each(
                    np.concatenate([base, np.broadcast_to(trial[:, None], (rows.size, n, 1))], axis=2),
                    y[rows],
                    phi[rows],
                )
                for trial in trials.T
            ]
            best = np.argmin(np.stack([fit.rss for fit in fits]), axis=0)
            last = base.shape[2]
            t = np.stack([fit.t(last) for fit in fits])[best, np.arange(rows.size)]
            p = np.stack([fit.p(last) for fit in fits])[best, np.arange(rows.size)]
            for row, one, sure in zip(rows, t, p, strict=True):
                found[places[int(row)]] = float(one), min(1.0, float(sure) * len(_LENGTHS))
    return found


def _mirrored(candidate: Candidate, told: Mapping[tuple[Any, ...], list[Candidate]]) -> Candidate:
    """A slice that goes the other way than a surer sibling only loses, or gains, what that one gained or lost."""
    if candidate.direction is None:
        return candidate
    other_way = "down" if candidate.direction == "up" else "up"
    surer = [
        other
        for other in told.get((candidate.measure, candidate.by, other_way), ())
        if (other.p, other.where.label) < (candidate.p, candidate.where.label)
    ]
    if not surer:
        return candidate
    first = min(surer, key=lambda other: (other.p, other.where.label))
    return replace(candidate, implied_by=(first.where.label, marked("the mirror image of {label}")))
