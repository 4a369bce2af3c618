"""A slice that stands still while one of its siblings moves: what moved is told of that one.

Against the average of all others every slice seems to fall when one of them leaps up. A slice stepped only if it did so
against the usual one of them, too: its series less the median of theirs, period by period, with errors that remember
(Prais and Winsten 1954).
"""

from __future__ import annotations

import numpy as np

from ...aggregation import PERIOD, Survey
from ...stats.autocorrelated_fits import Floats, last_t
from .families import labelled
from .tested_series import Series

#: What chance would show at more than so many places of the series is no step against the usual sibling; fewer siblings
#: have no usual one.
_CLEAR, _LEAST_OTHERS = 0.2, 3
#: Periods before and after the step that must be known.
_LEAST_PERIODS = 3


def moved_by_one(survey: Survey, series: Series) -> bool:
    """Whether a slice stepped against its siblings together, but not against the usual one of them."""
    from scipy.special import stdtr

    if series.by is None or series.rest is None:
        return False
    family = next((codes for codes, _ in labelled(survey, series.by) if series.code in codes), [])
    others = [code for code in family if code != series.code]
    if len(others) < _LEAST_OTHERS:
        return False
    own, each = (_by_period(survey, series, codes) for codes in ([series.code], others))
    # About their own usual: labels differ in size.
    there = np.asarray(np.isfinite(each).any(axis=1))
    each = each[there] - np.nanmean(each[there], axis=1, keepdims=True)
    seen = np.isfinite(each).sum(axis=0) >= _LEAST_OTHERS
    usual = np.full(seen.size, np.nan)
    usual[seen] = np.nanmedian(each[:, seen], axis=0)
    apart = own[0] - usual
    known = np.flatnonzero(np.isfinite(apart))
    after = (known >= series.path.start).astype(np.float64)
    if min(after.sum(), (1 - after).sum()) < _LEAST_PERIODS:
        return False
    design, y = np.column_stack([np.ones(known.size), after]), apart[known]
    t, df = last_t(design, y)
    return bool(2 * stdtr(df, -abs(t)) * known.size > _CLEAR) or t * series.path.jump < 0


def _by_period(survey: Survey, series: Series, codes: list[int]) -> Floats:
    """The measure of labels by complete period, shape (labels, periods), NaN where there is none; amounts as
    logarithms, in which a season that all share cancels."""
    line = survey.timeline
    assert line is not None
    assert series.by is not None
    cells, measure = survey.cells(series.by, PERIOD), series.measure
    top = measure.factor * cells.linear(measure.top)[codes][:, line.complete]
    if measure.additive:
        amounts: Floats = np.where(top > 0, np.log(np.where(top > 0, top, 1.0)), np.nan)
        return amounts
    bottom = cells.linear(measure.bottom)[codes][:, line.complete]
    rates: Floats = np.divide(top, bottom, out=np.full(top.shape, np.nan), where=bottom > 0)
    return rates
