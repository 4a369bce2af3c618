"""What the rows of two periods make by chance alone of an average, a rate or a contribution."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ...aggregation import Cells
from ...aggregation.measures import Measure
from ...stats.autocorrelated_fits import Floats
from ...stats.exact_tests import fisher_p, rates_p
from ...support.phrasing import phrased
from .expected_change import Expected

#: Fewer events than this of either kind are weighed as counts; what is less sure than that is told as chance.
_FEW_EVENTS, _CLEAR = 5.0, 0.05
#: Rows of each period from which the spread of an average is believed.
_FEWEST_ROWS = 30


class Events(NamedTuple):
    """The rows behind a rate of yes and no, in the period and in the baseline: how many are yes, of how many."""

    yes: float
    of: float
    yes_before: float
    of_before: float

    @property
    def no(self) -> float:
        return self.of - self.yes

    @property
    def no_before(self) -> float:
        return self.of_before - self.yes_before

    @property
    def few(self) -> bool:
        """Whether fewer than five are to be expected of either kind in either period."""
        rate = (self.yes + self.yes_before) / (self.of + self.of_before)
        return min(self.of, self.of_before) * min(rate, 1 - rate) < _FEW_EVENTS

    @property
    def error(self) -> float:
        """The standard error of the change of the rate where it did not change, a yes and a no added to each period
        (Agresti & Caffo 2000)."""
        rate = (self.yes + self.yes_before + 2) / (self.of + self.of_before + 4)
        return float(np.sqrt(rate * (1 - rate) * (1 / (self.of + 2) + 1 / (self.of_before + 2))))


def events_of(measure: Measure, both: tuple[Cells, Cells]) -> Events | None:
    """The counts behind a rate of yes and no; None for anything else."""
    if measure.kind != "mean" or not measure.share or measure.factor != 1:
        return None
    (yes0, of0), (yes1, of1) = ((float(c.linear(measure.top)), float(c.linear(measure.bottom))) for c in both)
    squares = [float(cells.squares(measure.top)) for cells in both]
    if not np.allclose([yes0, yes1], squares, rtol=1e-9, atol=1e-9):
        return None
    return Events(yes1, of1, yes0, of0)


def chance_of(measure: Measure, change: float, both: tuple[Cells, Cells], events: Events | None) -> Expected | None:
    """That the change of an average is no more than the spread of its rows makes; None where it is more.

    More does not make it unusual, since rows are not all that varies from one period to the next. Of sums it is not
    told: a row may be a total already. Few events of yes and no are weighed by Fisher's exact test (1935).
    """
    from scipy.special import ndtr

    basis = phrased("the spread of the rows")
    if events is not None and events.few:
        p = fisher_p(np.array([[events.yes, events.no], [events.yes_before, events.no_before]]))
        reach = 2 * events.error
        before = events.yes_before / events.of_before
        low, high = max(-reach, -before), min(reach, 1 - before)
        return None if p <= _CLEAR else Expected(change=0.0, low=low, high=high, p=p, basis=basis)
    if measure.kind == "ratio":
        return _chance_of_counts(measure, change, both)
    if measure.kind != "mean" or min(float(cells.linear(measure.bottom)) for cells in both) < _FEWEST_ROWS:
        return None
    variance = 0.0
    for cells in both:
        n, top = float(cells.linear(measure.bottom)), float(cells.linear(measure.top))
        variance += max(float(cells.squares(measure.top)) - top * top / n, 0.0) / n**2
    error = abs(measure.factor) * float(np.sqrt(variance))
    if not error > 0 or abs(change) > 2 * error:
        return None
    p = 2 * float(ndtr(-abs(change) / error))
    return Expected(change=0.0, low=-2 * error, high=2 * error, p=max(p, _CLEAR + 1e-9), basis=basis)


def _chance_of_counts(measure: Measure, change: float, both: tuple[Cells, Cells]) -> Expected | None:
    """The same of a ratio of counts (complaints to orders): that single events, each by itself, make as much."""
    sums = [float(cells.linear(terms)) for cells in both for terms in (measure.top, measure.bottom)]
    squares = [float(cells.squares(measure.top)) for cells in both]
    # Whole numbers, none negative: their squares are no smaller, and whole as well.
    counted = all(value >= 0 and value == round(value) for value in [*sums, *squares]) and min(sums[1], sums[3]) > 0
    if not counted or any(square < top for square, top in zip(squares, (sums[0], sums[2]), strict=True)):
        return None
    p = rates_p(sums[2], sums[3], sums[0], sums[1])
    if p <= _CLEAR:
        return None
    ratio = (sums[0] + sums[2] + 1) / (sums[1] + sums[3])
    reach = 2 * abs(measure.factor) * float(np.sqrt(ratio * (1 / sums[1] + 1 / sums[3])))
    before = abs(measure.factor) * sums[0] / sums[1]
    return Expected(change=0.0, low=-min(reach, before), high=reach, p=p, basis=phrased("the spread of the rows"))


def errors_of(measure: Measure, both: tuple[Cells, Cells]) -> Floats:
    """Standard error of each label's contribution by the spread of its rows; nought where the cells do not tell it."""
    variance = np.zeros(both[0].rows.shape)
    for cells in both:
        squares = cells.squares(measure.top)
        if measure.additive:
            variance = variance + squares
        elif measure.kind == "mean":
            n = cells.linear(measure.bottom)
            inside = squares - cells.linear(measure.top) ** 2 / np.maximum(n, 1)
            variance = variance + np.maximum(inside, 0.0) / max(float(n.sum()), 1.0) ** 2
    return np.asarray(abs(measure.factor) * np.sqrt(variance))
