"""Rows scored by their ranks within each period, and how far the sums of groups lie from what chance makes of them.

Normal scores of ranks within strata have a known mean and variance under permutation (van Elteren 1960; Hájek & Šidák
1967), right in the far tail however skewed the column.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from ...aggregation import Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from ...stats.normal_scores import normal_scores


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ScoredRows:
    """Scores of the rows of one measure: their number, sum and sum of squares per label of a dimension and stratum,
    `each` of shape (3, labels, strata); a family is added up once for all of its labels."""

    each: Floats
    _families: dict[tuple[int, ...], Floats] = field(default_factory=dict)

    def of(self, family: Sequence[int]) -> Floats:
        """The same of some labels together; shape (3, strata)."""
        key = tuple(family)
        if key not in self._families:
            whole = len(key) == self.each.shape[1]
            self._families[key] = (self.each if whole else self.each[:, list(key)]).sum(axis=1)
        return self._families[key]


def scored(survey: Survey, measure: Measure, by: str, parent: Slice) -> ScoredRows:
    """Normal scores of the ranks within each period (and parent)."""
    above = parent.conditions[0][0] if parent.conditions else None
    held = ("scores by label", measure.name, above, by)
    if held not in survey._cache:
        scores, strata, size = row_scores(survey, measure, above)
        codes, count = survey.drawn().codes(by)
        known = ~np.isnan(scores)
        number = (codes.astype(np.intp) * size + strata)[known]
        scored = scores[known]
        sums = [np.bincount(number, weights=one, minlength=size * count) for one in (None, scored, scored * scored)]
        survey._cache[held] = ScoredRows(each=np.stack(sums).astype(np.float64).reshape(3, count, size))
    return survey._cache[held]  # type: ignore[no-any-return]


def row_scores(survey: Survey, measure: Measure, above: str | None) -> tuple[Floats, npt.NDArray[np.intp], int]:
    """The scores of the rows and their strata (period and label of `above`), both of shape (rows,); how many strata."""
    key = ("scores", measure.name, above)
    if key not in survey._cache:
        drawn = survey.drawn()
        values = drawn.values(measure.top[0][1])
        strata = drawn.places() if survey.timeline is not None else np.zeros(values.size, dtype=np.intp)
        size = 1 if survey.timeline is None else survey.timeline.count + 1
        if above is not None:
            codes, count = drawn.codes(above)
            strata = strata * count + codes
            size *= count
        scores = normal_scores(values, strata, size)
        survey._cache[key] = (scores, strata, size)
    return survey._cache[key]  # type: ignore[no-any-return]


def family_strata(rows: ScoredRows, family: list[int], without: list[int]) -> Floats:
    """Number, sum and sum of squares of a family but those left out; shape (3, strata)."""
    out = [one for one in family if one in without]
    return rows.of(family) - rows.each[:, out].sum(axis=1) if out else rows.of(family)


def placed(own: Floats, n: Floats, total: Floats, squares: Floats) -> tuple[Floats, Floats]:
    """z and two-sided p of groups' summed scores by their exact permutation mean and variance, for which number, sum
    and sum of squares suffice: `own` are those of the groups, shape (2, groups, strata), the others, shape (strata,),
    of all together."""
    from scipy.special import ndtr

    mean = total / np.maximum(n, 1)
    spread = np.maximum(squares - n * mean * mean, 0.0) / np.maximum(n - 1, 1)
    k, sums = own
    excess = (sums - k * mean).sum(axis=1)
    variance = (k * (n - k) / np.maximum(n, 1) * spread).sum(axis=1)
    z = np.where(variance > 0, excess / np.sqrt(np.where(variance > 0, variance, 1.0)), 0.0)
    return z, np.where(variance > 0, 2 * ndtr(-np.abs(z)), 1.0)
