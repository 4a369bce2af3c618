"""The period of a slice that is far off by itself: neither its own other periods nor its siblings in the same period
are.

Per label and period two looks are taken, at the number of rows and at their average normal score, each twice: against
the label's own periods before and after (square roots of counts), and as its part of all labels (the arcsine of its
share, Freeman & Tukey 1950; its average less that of the others). The smaller of both counts, and none where they
point different ways: what befalls all is told of the whole, and what a sibling did is told of that.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Cells, Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from ...stats.exact_tests import fisher_p
from ...stats.normal_scores import normal_scores
from ...stats.plain_medians import median
from ...stats.series_batch import prepare, seasonal_part
from ...tables import Grain
from ..known_series import period_numbers

#: Periods on each side that tell what is usual around one.
AROUND = 6
#: Rows in the median period below which its ups and downs are those of small numbers.
LEAST_ROWS = 5.0
#: The same of the averages of scores, which follow the normal law however few they are.
_FEW_ROWS = 2.0
#: Degrees of freedom of a robust deviation of a week: business weeks have longer tails than the normal law.
#: Few periods do not know their own spread well: no more than this share of their number. On noise that is right for
#: 36 months (0.5 of what it should be at p = 0.01, where 40 gave 2.3) and leaves 157 weeks at 40 (0.6).
DF, DF_SHARE = 40, 0.4
#: The same where periods vary no more than their rows make them: averages of many scores follow the normal law.
DF_ALONE, _NO_WIDER = 200, 1.1
#: Dimensions of more labels, and cells beyond so many, are not looked into.
_MOST_LABELS, _MOST_CELLS = 60, 200_000
#: A label is there from the first to the last of so many equal parts of the time.
_ENDS = 20
#: Rows per cell on average below which scores say nothing.
_LEAST_SCORED = 5.0


class _Look(NamedTuple):
    """Deviations of labels, shape (labels, periods), of which labels they are believed, and the degrees of freedom that
    they are weighed with."""

    far: Floats
    use: npt.NDArray[np.bool_]
    df: int = DF


class Own(NamedTuple):
    """A slice's sums, values and rows per period, arrays of shape (periods,); `bottom` is None for amounts."""

    top: Floats
    bottom: Floats | None
    value: Floats
    rows: Floats


class Far(NamedTuple):
    """The period (its place among the complete ones) of a slice that is farthest off, by how many robust deviations,
    and how often chance would show one so far among the so many `tried`; `rest` is what its siblings did."""

    measure: Measure
    by: str | None
    where: Slice
    own: Own
    at: int
    t: float
    p: float
    tried: int
    rest: Own | None = None

    def by_counts(self, here: int, places: npt.NDArray[np.intp]) -> float:
        """Of a rate of yes and no: how often chance would show, among all tried, a period that differs as much from
        the places around it (Fisher's exact test); nought for anything else. Rare events have no spread to speak of."""
        top, bottom = self.own.top, self.own.bottom
        if not self.measure.share or bottom is None or (top != np.round(top)).any() or (top > bottom).any():
            return 0.0
        table = [[top[at].sum(), (bottom[at] - top[at]).sum()] for at in (np.array([here]), places)]
        return min(1.0, fisher_p(np.array(table)) * self.tried)

    def apart(self, here: int, places: npt.NDArray[np.intp]) -> bool:
        """Whether its siblings, in the same period against the same places around it, were off by less than half as
        much."""
        if self.rest is None:
            return True
        own, rest = (_off(one, here, places) for one in (self.own, self.rest))
        return bool(np.isfinite(own) and np.isfinite(rest) and abs(own - rest) >= 0.5 * abs(own))


def _off(own: Own, here: int, places: npt.NDArray[np.intp]) -> float:
    """How far a period is off from those around it, as a share of them."""
    top, bottom = own.top, np.ones(own.top.size) if own.bottom is None else own.bottom
    if own.bottom is None:
        usual, value = float(top[places].mean()), float(top[here])
    else:
        below = float(bottom[places].sum())
        usual = float(top[places].sum()) / below if below else np.nan
        value = float(top[here] / bottom[here]) if bottom[here] else np.nan
    return value / usual - 1 if usual > 0 else np.nan


def own_of(cells: Cells, measure: Measure, label: int | None = None) -> Own:
    """Of all rows, or of one label of cells by label and period."""

    def one(values: Floats) -> Floats:
        return values if label is None else values[label]

    bottom = one(cells.linear(measure.bottom)) if measure.bottom else None
    return Own(one(cells.linear(measure.top)), bottom, one(cells.value(measure)), one(cells.rows))


def farthest_of_slices(survey: Survey, holes: npt.NDArray[np.bool_], *, finest: bool) -> Iterator[Far]:
    """For each dimension and measure the farthest period of any label, over the complete periods that are no `holes`.
    Rows are counted at every grain; how large they are is looked at in the `finest`, where one shows best."""
    line = survey.timeline
    assert line is not None
    beside = np.convolve(holes, np.ones(3), "same") > 0
    counted = next((one for one in survey.measures if one.kind == "additive" and len(one.top) == 1), None)
    for column in survey.dimensions:
        labels = survey.labels(column.name)
        if not 2 <= len(labels) <= _MOST_LABELS or len(labels) * line.count > _MOST_CELLS:
            continue
        rows = survey.cells(column.name, PERIOD).rows[:, line.complete]
        # A label that begins or ends on the way has no usual period. Of one with few rows some periods have none by
        # chance: their number is not looked at then, only how large they are where there are some.
        usual, ends = np.median(rows, axis=1), max(1, rows.shape[1] // _ENDS)
        there = (rows[:, :ends] > 0).any(axis=1) & (rows[:, -ends:] > 0).any(axis=1)
        scores, use = there & (usual >= _FEW_ROWS), there & (usual >= LEAST_ROWS)
        steady = use & (rows > 0)[:, ~holes].all(axis=1)
        if scores.sum() < 2:
            continue
        measures = [one for one in survey.measures if one.kind in ("additive", "mean") and len(one.top) == 1]
        scored = _by_scores(survey, measures, column.name, rows) if finest else {}
        for measure in measures:
            looks = [] if measure is not counted or steady.sum() < 2 else [_by_rows(survey, rows, steady)]
            if measure in scored:
                far, df = scored[measure]
                looks.append(_Look(far, use if measure.share else scores, df))
            if looks:
                yield _farthest(survey, measure, column.name, looks, beside)


def _farthest(survey: Survey, measure: Measure, by: str, looks: list[_Look], beside: npt.NDArray[np.bool_]) -> Far:
    from scipy.special import stdtr

    told = np.stack([np.where(look.use[:, None] & ~beside, look.far, 0.0) for look in looks])
    df = np.array([look.df for look in looks])
    # The rarest of all, each look by its own law.
    rarest = np.stack([stdtr(look.df, -np.abs(own)) for look, own in zip(looks, told, strict=True)])
    which, label, at = np.unravel_index(int(np.argmin(rarest)), told.shape)
    t = float(told[which, label, at])
    periods = int((~beside).sum())
    tried = periods * sum(int(look.use.sum()) for look in looks)
    # The smaller of two is stricter than it says, few periods or many: on noise a fifth of its p-values at most.
    p = float(min(1.0, 2 * stdtr(df[which], -abs(t)) * tried))
    where = Slice(((by, survey.labels(by)[int(label)]),))
    cells = survey.cells(by, PERIOD)
    own = own_of(cells, measure, int(label))
    top, rows = cells.linear(measure.top).sum(axis=0) - own.top, cells.rows.sum(axis=0) - own.rows
    bottom = None if own.bottom is None else cells.linear(measure.bottom).sum(axis=0) - own.bottom
    return Far(measure, by, where, own, int(at), t, p, tried, Own(top, bottom, np.full(top.size, np.nan), rows))


def _by_rows(survey: Survey, rows: Floats, use: npt.NDArray[np.bool_]) -> _Look:
    """The deviations of each label's number of rows."""
    whole = rows.sum(axis=0)
    share = 2 * np.arcsin(np.sqrt((rows + 0.375) / (whole + 0.75)))
    own, share = np.split(without_season(survey, np.vstack([2 * np.sqrt(rows), share])), 2)
    # Events that come by themselves have roots of variance one.
    wide = 1.4826 * float(np.median(np.abs(own - np.median(own, axis=1, keepdims=True))[use]))
    far = _both(deviations(own), deviations(share, np.sqrt(whole / max(1.0, float(np.median(whole))))))
    return _Look(far, use, DF_ALONE if wide <= _NO_WIDER else DF)


class _Scored(NamedTuple):
    """The average scores of each label and period, of those and of all others the `rest`, what the label's number of
    rows weighs, and by how much rows of one cell differ (a standard deviation); arrays of shape (labels, periods)."""

    share: bool
    own: Floats
    rest: Floats
    counted: Floats
    within: float


def _by_scores(survey: Survey, measures: Sequence[Measure], by: str, rows: Floats) -> dict[Measure, tuple[Floats, int]]:
    """By measure the deviations of each label's average normal score, and the degrees of freedom that they are weighed
    with; without counts, and where too few rows have a value."""
    scored = {measure: _scored(survey, measure, by, rows) for measure in measures}
    told = {measure: one for measure, one in scored.items() if one is not None}
    if not told:
        return {}
    each = list(told.values())
    series = np.stack([[one.own, one.own - one.rest] for one in each])
    own, apart = np.moveaxis(without_season(survey, series.reshape(-1, rows.shape[1])).reshape(series.shape), 1, 0)
    count = np.stack([one.counted for one in each])
    weights = np.sqrt(count / np.maximum(1.0, np.median(count, axis=-1, keepdims=True)))
    far = _both(deviations(own, weights), deviations(apart, weights))
    around = np.abs(own - np.median(own, axis=-1, keepdims=True)) * np.sqrt(count)
    wide = 1.4826 * np.median(around, axis=(1, 2))
    alone = [
        not one.share and one.within > 0 and high <= _NO_WIDER * one.within
        for one, high in zip(each, wide, strict=True)
    ]
    return {measure: (far[at], DF_ALONE if alone[at] else DF) for at, measure in enumerate(told)}


def _scored(survey: Survey, measure: Measure, by: str, rows: Floats) -> _Scored | None:
    line = survey.timeline
    assert line is not None
    part = measure.top[0][1]
    if not part.sql or part.kind != "sum" or measure.factor < 0:
        return None
    drawn = survey.drawn()
    places, (codes, _) = drawn.places(), drawn.codes(by)
    found = row_scores(survey, measure)
    if found is None or found.known.sum() < _LEAST_SCORED * rows.size:
        return None
    size = line.count + 1
    number = codes[found.known].astype(np.intp) * size + places[found.known]
    shape = (rows.shape[0], size)
    count, total = (
        np.bincount(number, weights=weights, minlength=shape[0] * size).reshape(shape)[:, line.complete].astype(float)
        for weights in (None, found.scores)
    )
    inside = float(found.scores @ found.scores) - float((total * total / np.maximum(count, 1)).sum())
    return _Scored(
        share=measure.share,
        own=_level(total, count, measure.share),
        rest=_level(total.sum(axis=0) - total, count.sum(axis=0) - count, measure.share),
        counted=count,
        within=float(np.sqrt(max(0.0, inside / max(1.0, float(count.sum()) - np.count_nonzero(count))))),
    )


class RowScores(NamedTuple):
    """The rows that have a value of a measure, shape (rows,), and the score of each of them."""

    known: npt.NDArray[np.bool_]
    scores: Floats


def row_scores(survey: Survey, measure: Measure) -> RowScores | None:
    """The normal scores of a measure's rows, of shares the values themselves; None where all are alike. Kept with the
    table, since they do not depend on what the rows are grouped by."""
    part, key = measure.top[0][1], ("row scores", measure.top[0][1], measure.share, survey.only)
    cache = survey.table._cache
    if key not in cache:
        values = survey.drawn().values(part)
        known = ~np.isnan(values)
        told = values[known]
        varied = told.size > 0 and np.ptp(told) > 0
        cache[key] = RowScores(known, told if measure.share else normal_scores(told)) if varied else None
    return cache[key]  # type: ignore[no-any-return]


def _level(total: Floats, count: Floats, share: bool) -> Floats:
    if share:
        # Shares of few rows have long tails to one side; their arcsines hardly do (Anscombe 1948).
        return 2 * np.arcsin(np.sqrt(np.clip((total + 0.375) / (count + 0.75), 0.0, 1.0)))
    return np.where(count > 0, total / np.maximum(count, 1), 0.0)


def _both(own: Floats, beside: Floats) -> Floats:
    """The smaller of two deviations that point the same way, else none."""
    return np.where(own * beside > 0, np.sign(own) * np.minimum(np.abs(own), np.abs(beside)), 0.0)


def without_season(survey: Survey, values: Floats) -> Floats:
    """Series of months or quarters, shape (series, periods), without what comes every year."""
    line = survey.timeline
    assert line is not None
    if line.grain not in (Grain.MONTH, Grain.QUARTER):
        return values
    batch = prepare(line.grain, period_numbers(survey), values)
    seasonal = np.zeros_like(values)
    for season, places in batch.groups():
        seasonal[places] = seasonal_part(batch.calm[places], season)
    return values - seasonal


def deviations(values: Floats, weights: Floats | None = None) -> Floats:
    """Deviations of series, shape (…, labels, periods), from the medians of the periods before and after each, in
    robust standard deviations (at least those that their siblings usually have)."""
    before, after = _medians_before(values), _medians_before(values[..., ::-1])[..., ::-1]
    off = np.stack([values - before, values - after])
    off = np.where(np.isnan(off), off[::-1], off) * (1.0 if weights is None else weights)
    usual = np.abs(off.mean(axis=0))
    spread = 1.4826 * median(usual)
    spread = np.maximum(
        spread, 0.3 * np.sqrt(np.mean(np.sort(usual**2)[..., : max(1, int(0.95 * usual.shape[-1]))], axis=-1))
    )
    spread = np.maximum(spread, np.median(spread, axis=-1, keepdims=True))[..., None]
    far, near = np.abs(off).max(axis=0), np.abs(off).min(axis=0)
    alone = (off[0] * off[1] > 0) & (near >= 0.5 * far) & (spread > 0)
    return np.where(alone, off.mean(axis=0) / np.where(spread > 0, spread, 1.0), 0.0)


def _medians_before(values: Floats) -> Floats:
    """The median of the values before each, as many as `AROUND` at most, NaN for the first; shape (…, periods)."""
    n = values.shape[-1]
    medians = np.full(values.shape, np.nan)
    if n > AROUND:
        windows = np.lib.stride_tricks.sliding_window_view(values[..., :-1], AROUND, axis=-1)
        half = AROUND // 2
        medians[..., AROUND:] = np.partition(windows, (half - 1, half), axis=-1)[..., half - 1 : half + 1].mean(axis=-1)
    for place in range(1, min(n, AROUND)):
        medians[..., place] = median(values[..., :place])
    return medians
