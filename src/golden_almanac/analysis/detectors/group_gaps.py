"""How far groups are off their siblings, how sure that is, and how much of it is more than chance."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from .block_tests import block_test
from .cluster_checks import further_variance, repeated_in
from .ratio_rows import differs, ratio_rows

#: Of a sum from which all of its parts were taken off again no more is left than this share.
_LAST_DIGITS = 1e-12


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Siblings:
    """A measure of the labels of a family: `top` over `bottom` by label, and of each that is `tested` its gap to the
    rest and the error of that; `spread` is the standard deviation of the rows, `between` the variance of the gaps
    beyond their errors."""

    measure: Measure
    by: str
    family: Sequence[int]
    tested: Sequence[int]
    parent: Slice
    top: Floats
    bottom: Floats
    gaps: Mapping[int, float]
    errors: Mapping[int, float]
    spread: float
    between: float

    @classmethod
    def of(
        cls, survey: Survey, measure: Measure, by: str, family: list[int], tested: list[int], parent: Slice
    ) -> Siblings:
        cells = survey.cells(by)
        gaps, errors, spread = gaps_of(survey, measure, by, family, tested)
        return cls(
            measure=measure,
            by=by,
            family=family,
            tested=tested,
            parent=parent,
            top=cells.linear(measure.top),
            bottom=cells.linear(measure.bottom),
            gaps=gaps,
            errors=errors,
            spread=spread,
            between=between([gaps[code] for code in tested], [errors[code] for code in tested]),
        )

    def value(self, code: int) -> float:
        return self.measure.factor * float(self.top[code] / self.bottom[code])

    def rest(self, code: int) -> float:
        """The same of all others together."""
        others = [other for other in self.family if other != code]
        return self.measure.factor * float(self.top[others].sum() / self.bottom[others].sum())

    def shrunk(self, code: int) -> float:
        """The gap drawn towards nought by how sure it is."""
        return self.gaps[code] * self.between / (self.between + self.errors[code] ** 2) if self.between > 0 else 0.0


def gaps_of(
    survey: Survey, measure: Measure, by: str, family: list[int], tested: list[int]
) -> tuple[dict[int, float], dict[int, float], float]:
    """Gap to the rest, its standard error (Welch), and the standard deviation of the rows."""
    cells = survey.cells(by)
    top, bottom = cells.linear(measure.top), cells.linear(measure.bottom)
    whole_top, whole_bottom = float(top[family].sum()), float(bottom[family].sum())
    gaps, errors = {}, {}
    if measure.kind == "mean":
        part = cells.parts[measure.top[0][1]]
        squares = part.squares
        whole = max(float(squares[family].sum()) / whole_bottom - (whole_top / whole_bottom) ** 2, 0.0)
        spread = measure.factor * np.sqrt(whole)
        for code in tested:
            n, m = bottom[code], whole_bottom - bottom[code]
            a, b = top[code] / n, (whole_top - top[code]) / m
            va = max(squares[code] / n - a * a, 0.0)
            vb = max((squares[family].sum() - squares[code]) / m - b * b, 0.0)
            gaps[code] = measure.factor * float(a - b)
            errors[code] = abs(measure.factor) * float(np.sqrt(va / n + vb / m))
        repeated = repeated_in(survey, ("values", measure.name), survey.drawn().values(measure.top[0][1]))
        for code, further in further_variance(survey, measure, by, family, tested, repeated).items():
            errors[code] = float(np.hypot(errors[code], np.sqrt(max(0.0, further))))
        return gaps, errors, float(spread)
    values = []
    for code in tested:
        a, b = top[code] / bottom[code], (whole_top - top[code]) / (whole_bottom - bottom[code])
        gaps[code] = measure.factor * float(a - b)
        errors[code] = ratio_error(survey, measure, by, family, code)
        values.append(a)
    return gaps, errors, float(np.std(values)) * abs(measure.factor) or 1.0


def between(gaps: list[float], errors: list[float]) -> float:
    """The variance that gaps have beyond their errors (DerSimonian and Laird 1986): the small groups, whose errors are
    large, have little to say of it."""
    known = np.array(errors)
    w = np.where(known > 0, 1 / np.maximum(known, 1e-300) ** 2, 0.0)
    if not np.isfinite(w.sum()) or np.count_nonzero(w) < 2:
        return max(0.0, float(np.var(gaps)))
    values = np.array(gaps)
    left = values - float(w @ values) / float(w.sum())
    beyond = float(w @ (left * left)) - (np.count_nonzero(w) - 1)
    return max(0.0, beyond / (float(w.sum()) - float(w @ w) / float(w.sum())))


def ratio_error(survey: Survey, measure: Measure, by: str, family: list[int], code: int) -> float:
    """The standard error of a ratio's gap, in units of the measure: by rows or by periods, the wider of both."""
    errors = [differs(survey, ratio_rows(survey, measure, by), by, family, code).error]
    d, w = by_period(survey, measure, by, family, code, [])
    t, _ = (0.0, 1.0) if ratio_rows(survey, measure, by).counted else block_test(d, w)
    if t and np.isfinite(t):
        known = w > 0
        errors.append(abs(float(np.average(d[known], weights=w[known])) / t / measure.factor))
    return float(abs(measure.factor) * max(errors))


def by_period(
    survey: Survey, measure: Measure, by: str, family: list[int], code: int, without: list[int]
) -> tuple[Floats, Floats]:
    """The gap of a label to the rest of its family, but those left out, in each period, and its weight."""
    gap, weight = by_period_each(survey, measure, by, family, [code], without)
    return gap[0], weight[0]


def by_period_each(
    survey: Survey, measure: Measure, by: str, family: list[int], tested: list[int], without: list[int]
) -> tuple[Floats, Floats]:
    """The same of many labels at once; shape (labels, periods)."""
    line = survey.timeline
    if line is None:
        return np.empty((len(tested), 0)), np.empty((len(tested), 0))
    cells = survey.cells(by, PERIOD)
    top = cells.linear(measure.top)[tested, line.complete]
    bottom = cells.linear(measure.bottom)[tested, line.complete]
    whole_top, whole_bottom = _of_family(survey, measure, by, family, without)
    inside = np.array([code in family and code not in without for code in tested])[:, None]
    rest_top, rest_bottom = whole_top - np.where(inside, top, 0.0), whole_bottom - np.where(inside, bottom, 0.0)
    # What is left of a sum when all of it is taken off again is nought but for its last digits.
    rest_bottom = np.where(np.abs(rest_bottom) > _LAST_DIGITS * np.abs(whole_bottom), rest_bottom, 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        gap = measure.factor * (top / bottom - rest_top / rest_bottom)
        weight = bottom * rest_bottom / (bottom + rest_bottom)
    return gap, np.where(np.isfinite(gap), weight, 0.0)


def _of_family(
    survey: Survey, measure: Measure, by: str, family: list[int], without: list[int]
) -> tuple[Floats, Floats]:
    """Above and below the line of a family but those left out, by period; added up once for all of its labels."""
    line = survey.timeline
    assert line is not None
    held = ("family by period", measure.name, by)
    sums = survey._cache.setdefault(held, {})
    key = (tuple(family), tuple(without))
    if key not in sums:
        cells, use = survey.cells(by, PERIOD), [one for one in family if one not in without]
        sums[key] = tuple(
            cells.linear(terms)[use][:, line.complete].sum(axis=0) for terms in (measure.top, measure.bottom)
        )
    return sums[key]  # type: ignore[no-any-return]
