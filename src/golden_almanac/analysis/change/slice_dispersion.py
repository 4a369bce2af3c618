"""How far the slices of a dimension strayed from each other in earlier comparisons, beside the spread of their rows."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Only, Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from ...stats.plain_medians import known_median
from ...tables import Grain, Period
from .deviation_tests import MEDIAN_SQUARE, Spans, by_amount, by_rate
from .expected_change import by_grain, regrained
from .span_cube import Sums

#: Earlier slices from which the usual one tells the dispersion (of fewer their mean square does), the comparisons and
#: degrees of freedom that it takes, and cells up to which pairs of dimensions are asked for it.
_LEAST_TOLD, _LEAST_STRAYED, _LEAST_DF, _MOST_CELLS = 12, 2, 4.0, 250_000
#: Rows of the median slice below which medians of their deviations say nothing.
_SPARSE, _ALIKE = 5.0, 0.8
#: Slices, or comparisons, whose median may be taken off each.
_LEAST_POLISHED = 4
#: Rows stray as little as this only where each is a total of many, or as many come as ever; less than once is chance.
_TOTALS = 0.3
#: So many degrees of freedom tell that for sure; of fewer, told by medians, so large a part counts.
_SURE_DF, _OF_MEDIANS = 40.0, 0.4
#: So many independent slices without dispersion are taken for granted.
_CALM = 10.0


class Dispersion(NamedTuple):
    """How many times more the slices by some dimensions strayed from each other in earlier comparisons than the spread
    of their rows lets them (less than once where a row is a total already), and the degrees of freedom of that."""

    times: float
    df: float


def dispersion(
    survey: Survey, measure: Measure, where: Slice, by: tuple[str, ...], now: Period, then: Period
) -> Dispersion | None:
    """What earlier comparisons tell of how far slices stray; None for too few, or where cells do not tell."""
    if measure.kind not in ("additive", "mean"):
        return None
    found = regrained(survey, measure, now, then)
    if found is None:
        return None
    own, place, lag = found
    told = _told(own, measure, where, by, place, lag)
    if told is None or told.times >= _TOTALS or told.df >= _SURE_DF:
        return told
    # So calm is chance where few comparisons say it: months tell it of quarters and years, if all of them do.
    finer = by_grain(survey, measure, Grain.MONTH) if now.grain in (Grain.QUARTER, Grain.YEAR) else None
    if finer is not None and finer.timeline is not None:
        after, before = (int(one) for one in finer.timeline.places(np.array([now.start, then.start])))
        by_months = _told(finer, measure, where, by, after, after - before)
        if by_months is not None and by_months.df > told.df:
            return Dispersion(max(told.times, by_months.times), by_months.df)
    return told


def _told(
    survey: Survey, measure: Measure, where: Slice, by: tuple[str, ...], place: int, lag: int
) -> Dispersion | None:
    line = survey.timeline
    assert line is not None
    if np.prod([float(len(survey.labels(name))) for name in by]) * line.count > _MOST_CELLS:
        return None
    cells = survey.kept(Only(where.conditions)).cells(*by, PERIOD)
    top, squares = measure.factor * cells.linear(measure.top), measure.factor**2 * cells.squares(measure.top)
    bottom = cells.linear(measure.bottom) if measure.bottom else cells.rows
    rows, top, bottom, squares = (one.reshape(-1, line.count) for one in (cells.rows, top, bottom, squares))

    def at(places: npt.NDArray[np.intp]) -> Sums:
        here = rows[:, places], top[:, places], bottom[:, places], squares[:, places]
        return Sums(*here, here[1], here[2])

    # Where the same comparison was hardly made before, one period against the next tells how labels stray.
    for apart in dict.fromkeys((lag, 1)):
        later = np.arange(line.complete.start + apart, place)
        told = _strayed(measure, at(later - apart), at(later), by, apart) if later.size >= _LEAST_STRAYED else None
        if told is not None:
            return told
    return None


def _strayed(measure: Measure, then: Sums, now: Sums, by: tuple[str, ...], lag: int) -> Dispersion | None:
    """The dispersion of earlier comparisons, arrays of shape (slices, comparisons); None for too few."""
    stray = by_amount if measure.additive else by_rate
    spans = Spans(then=then, now=now)
    use = (spans.then.rows > 0) & (spans.now.rows > 0)
    strayed = stray(spans, spans.turned(lambda one: one.whole()), by)
    if not use.any():
        return None
    signed = np.where(use, np.sign(strayed.excess) * np.sqrt(strayed.squared), np.nan)
    every = _unstoried(signed)[use] ** 2
    # Labels of one whole go against each other, and comparisons that overlap say the same twice.
    slices = max(1, int(np.median(use.sum(axis=0))) - 1)
    known = slices * then.rows.shape[1] / min(lag, 2)
    if known < _LEAST_DF or every.size < _LEAST_DF:
        return None
    # Of a row or two, or none, the median says nothing: most cells have as many as before, and the others make the
    # spread. Where each has as many as all others its rows are totals.
    usual = float(np.median(then.rows[use]))
    sparse = usual < _SPARSE and float(np.mean(then.rows == usual)) < _ALIKE
    few = every.size < _LEAST_TOLD or sparse
    times = float(every.mean()) if few else float(np.median(every)) / MEDIAN_SQUARE
    # A yes or no is never a total of many: its rows stray as chance has it.
    if times < _TOTALS and not measure.share:
        df = known if few or known >= _SURE_DF else max(_LEAST_DF, _OF_MEDIANS * known)
        return Dispersion(times, df)
    # A dispersion told by so few is drawn towards one, as if so many more had shown none.
    return Dispersion(max(1.0, (_CALM + known * times) / (_CALM + known)), _CALM + known)


def _unstoried(strayed: Floats) -> Floats:
    """How far slices strayed in earlier comparisons, shape (slices, comparisons), without what is no noise: a slice
    that grows year after year, and that all others seem to shrink by it. Medians are taken off (Tukey's polish), and
    the scale is drawn up for that."""
    slices, comparisons = strayed.shape
    if slices >= _LEAST_POLISHED:
        strayed = (strayed - known_median(strayed, axis=0)) * np.sqrt(slices / (slices - 1))
    if comparisons >= _LEAST_POLISHED:
        strayed = (strayed - known_median(strayed, axis=1)[:, None]) * np.sqrt(comparisons / (comparisons - 1))
    return strayed
