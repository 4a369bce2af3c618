"""Tests of ratios on rows: whether a group's ratio differs from its siblings' by more than its rows make by chance.

Of two sums of counts (complaints to orders) the group's part of all events is weighed against its part of all that
could have had one: exactly, by the binomial (Przyborowski and Wilenski 1940), and where rows spread wider than single
events would, with fewer events of as much evidence each (McCullagh and Nelder 1989, section 4.5). Of other sums the
ratio estimates are compared by Student's t (Cochran 1977, section 6.8), each with as many degrees of freedom as rows
share its variance, so that one large row is no evidence of a habit.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure, Part
from ...stats.autocorrelated_fits import Floats
from ...stats.exact_tests import rates_p
from .block_tests import LEAST_BLOCKS
from .cluster_checks import CLEAR, clustered_p, clusters_of, repeated_in


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class RatioRows:
    """Both sums of the ratio of that `name` by row, `top` and `bottom`, and the rows' `codes`, all of shape (rows,);
    `counted` where they are counts of events, and `subset` where no row has more events than chances of one.
    `over_periods` is how many times the variance of single events the periods of a label vary by, nought where there
    are too few."""

    name: str
    top: Floats
    bottom: Floats
    codes: npt.NDArray[np.intp]
    counted: bool
    subset: bool
    over_periods: float = 0.0


def ratio_rows(survey: Survey, measure: Measure, by: str) -> RatioRows:
    """The rows that tests take, as the two sums of a ratio; made once for each measure."""

    def make() -> tuple[Floats, Floats, bool, bool]:
        top, bottom = (_summed(survey, terms) for terms in (measure.top, measure.bottom))
        counted = bool((top >= 0).all() and (top == np.round(top)).all() and (bottom >= 0).all())
        return top, bottom, counted, counted and bool((top <= bottom).all())

    top, bottom, counted, subset = survey._once(("ratio rows", measure.name), make)
    codes, _ = survey.drawn().codes(by)
    wide = (
        survey._once(("ratio periods", measure.name, by), lambda: _over_periods(survey, measure, by)) if counted else 0
    )
    return RatioRows(
        name=measure.name,
        top=top,
        bottom=bottom,
        codes=codes.astype(np.intp),
        counted=counted,
        subset=subset,
        over_periods=float(wide),
    )


def _over_periods(survey: Survey, measure: Measure, by: str) -> float:
    """By how much the events of labels vary from period to period, each about its own rate, in times what single events
    make, all labels together, and what they remember of the period before with it."""
    line = survey.timeline
    if line is None or line.complete_count < LEAST_BLOCKS:
        return 0.0
    cells = survey.cells(by, PERIOD)
    top, bottom = (cells.linear(terms)[:, line.complete] for terms in (measure.top, measure.bottom))
    chances = bottom.sum(axis=1)
    use = chances > 0
    expected = (top[use].sum(axis=1) / chances[use])[:, None] * bottom[use]
    left = top[use] - expected
    squares = float(np.einsum("ij,ij->", left, left))
    if not expected.sum() > 0 or squares <= 0:
        return 0.0
    memory = min(0.9, max(0.0, float(np.einsum("ij,ij->", left[:, 1:], left[:, :-1])) / squares))
    periods = left.shape[1]
    return float(squares / float(expected.sum()) * periods / (periods - 1) * (1 + memory) / (1 - memory))


def _summed(survey: Survey, terms: tuple[tuple[float, Part], ...]) -> Floats:
    """A sum of parts by row, shape (rows,): what is missing adds nothing, and of a part that counts a value is one."""
    total: Floats = np.zeros(survey.drawn().size)
    for weight, part in terms:
        values = survey.drawn().values(part)
        total += weight * (~np.isnan(values) if part.kind == "count" else np.nan_to_num(values))
    return total


class RatioGap(NamedTuple):
    """z (or t) and two-sided p of a gap between two ratios, and the gap's standard error, whatever it is."""

    z: float = 0.0
    p: float = 1.0
    error: float = float("inf")


def differs(survey: Survey, rows: RatioRows, by: str, use: list[int], code: int) -> RatioGap:
    """The ratio of a label of `by` against that of the other labels in `use`."""
    used = np.isin(rows.codes, use)
    own = used & (rows.codes == code)
    rest = used & ~own
    sums = [float(values[which].sum()) for which in (own, rest) for values in (rows.top, rows.bottom)]
    if sums[1] <= 0 or sums[3] <= 0:
        return RatioGap()
    gap = _counts(rows, own, rest, sums) if rows.counted else _amounts(rows, own, rest, sums)
    if gap.p > CLEAR:
        return gap
    repeated = repeated_in(survey, ("ratio", rows.name), each_ratio(rows))
    if clusters_of(survey) or repeated:
        ratio = (sums[0] + sums[2]) / (sums[1] + sums[3])
        left = np.where(used, rows.top - ratio * rows.bottom, 0.0)
        # A row's part of the gap between the two ratios: what it has too much, by what its side is divided by.
        side = np.where(own, 1 / sums[1], -1 / sums[3])
        again = clustered_p(survey, left * side, used, by, repeated=repeated, side=rows.bottom * side)
        if again is not None and again[1] > gap.p:
            wider = max(1.0, abs(gap.z / again[0])) if again[0] else 1.0
            return RatioGap(*again, gap.error * wider)
    return gap


def each_ratio(rows: RatioRows) -> Floats:
    """The ratio of each row by itself, shape (rows,); NaN where there is none."""
    each: Floats = np.divide(rows.top, rows.bottom, out=np.full(rows.top.size, np.nan), where=rows.bottom > 0)
    return each


def _counts(rows: RatioRows, own: npt.NDArray[np.bool_], rest: npt.NDArray[np.bool_], sums: list[float]) -> RatioGap:
    k, exposed, others, beside = sums
    ratio = (k + others) / (exposed + beside)
    if ratio <= 0:
        return RatioGap()
    squares = 0.0
    for which, top, bottom in ((own, k, exposed), (rest, others, beside)):
        left = rows.top[which] - top / bottom * rows.bottom[which]
        squares += float(left @ left)
    # A row in which each chance is taken once or not spreads less than events without end would.
    least = max(1 - ratio, 0.05) if rows.subset else 1.0
    spread = max(squares / (ratio * (exposed + beside)), rows.over_periods, least)
    p = rates_p(k / spread, exposed, others / spread, beside)
    z = (k / exposed - others / beside) / np.sqrt(spread * ratio * (1 / exposed + 1 / beside))
    # Of a rate that is another each side has its own variance; one event more keeps nought from being sure.
    error = np.sqrt(spread * ((k + 1) / exposed**2 + (others + 1) / beside**2))
    return RatioGap(float(z), p, float(error))


def _amounts(rows: RatioRows, own: npt.NDArray[np.bool_], rest: npt.NDArray[np.bool_], sums: list[float]) -> RatioGap:
    from scipy.special import stdtr

    gap, variance, wide = sums[0] / sums[1] - sums[2] / sums[3], 0.0, 0.0
    for which, top, bottom in ((own, sums[0], sums[1]), (rest, sums[2], sums[3])):
        left = (rows.top[which] - top / bottom * rows.bottom[which]) / bottom
        squares = left * left
        part, fourth = float(squares.sum()), float(squares @ squares)
        if part <= 0:
            continue
        shared = part * part / fourth
        variance += part
        wide += part * part / max(shared - 1, 0.5)
    if variance <= 0:
        return RatioGap()
    t = gap / np.sqrt(variance)
    return RatioGap(float(t), float(2 * stdtr(variance * variance / wide, -abs(t))), float(np.sqrt(variance)))
