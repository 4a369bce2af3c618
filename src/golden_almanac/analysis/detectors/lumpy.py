"""Values that are nearly always the same: nought but where something happened, a delivery of 500 or none.

What moves such a series is how often something happens, and a few of it prove little however far each is off. They are
counted: Fisher's exact test (1935) of how often the value was another, in one part of the time against the other.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from ...stats.exact_tests import fisher_p

#: A series is lumpy where one value makes so much of it; rows are where one makes so much of them.
_OF_SERIES, _OF_ROWS = 0.5, 0.8


def stepped_by_counts(values: Floats, place: int, tried: int) -> float:
    """How often chance would show, among all places `tried`, a lumpy series that leaves its usual value as much more
    (or less) often from a place on; nought for any other. `values` have shape (periods,), NaN where there is none."""
    known = np.isfinite(values)
    other = _others(values[known], _OF_SERIES)
    if other is None:
        return 0.0
    after = np.flatnonzero(known) >= place
    table = [[float((other & side).sum()), float((~other & side).sum())] for side in (after, ~after)]
    return min(1.0, fisher_p(np.array(table)) * tried)


def far_by_counts(
    survey: Survey, measure: Measure, where: Slice, here: int, places: npt.NDArray[np.intp], tried: int
) -> float:
    """The same of the rows of a slice in a period, a place on the timeline, against those in the places around it."""
    if measure.share or not measure.top[0][1].sql or measure.kind == "ratio":
        return 0.0
    drawn = survey.drawn()
    values = drawn.values(measure.top[0][1])
    known = np.isfinite(values)
    other = survey._once(("lumpy", measure.name), lambda: _others(values[known], _OF_ROWS))
    if other is None:
        return 0.0
    for column, label in where.conditions:
        codes, labels = drawn.codes(column)[0], survey.labels(column)
        known = known & (codes == list(labels).index(label))
    off = np.zeros(values.size, dtype=bool)
    off[np.isfinite(values)] = other
    place = drawn.codes(PERIOD)[0]
    table = [
        [float((off & side).sum()), float((~off & side).sum())]
        for side in (known & (place == here), known & np.isin(place, places))
    ]
    return min(1.0, fisher_p(np.array(table)) * tried)


def _others(values: Floats, least: float) -> npt.NDArray[np.bool_] | None:
    """Which values are not the one that makes at least so much of all; None where none does, or nothing else does."""
    if values.size == 0:
        return None
    each, counts = np.unique(values, return_counts=True)
    usual = each[int(np.argmax(counts))]
    other = values != usual
    return other if counts.max() >= least * values.size and other.any() else None
