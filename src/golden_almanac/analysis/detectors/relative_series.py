"""What is tested of a slice: its values against those of its siblings, and what rows alone would make of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...aggregation import Cells
from ...aggregation.measures import Measure
from ...stats.autocorrelated_fits import Floats

#: A rate's series needs so many events, and non-events, in the median period: with one or two a
#: month its ups and downs are those of small numbers.
LEAST_EVENTS = 5.0
#: Rows in the median period from which their spread tells how much of its ups and downs is theirs.
_ROWS_TELL = 5.0


def each_row(cells: Cells, measure: Measure, code: int, rest_codes: list[int], span: slice) -> Floats | None:
    """The log of a slice's amount per row against that of its siblings; None where rows do not tell amounts."""
    part = measure.top[0][1]
    if len(measure.top) != 1 or part.kind != "sum" or measure.bottom:
        return None
    total, count = cells.parts[part].total[:, span], cells.parts[part].count[:, span]
    ends = total[code], count[code], total[rest_codes].sum(axis=0), count[rest_codes].sum(axis=0)
    if min(end.min() for end in ends) <= 0:
        return None
    y = np.asarray(np.log(ends[0] / ends[1]) - np.log(ends[2] / ends[3]))
    return y if np.ptp(y) > 0 else None


def eventful(measure: Measure, cells: Cells, code: int, span: slice) -> bool:
    if not measure.share:
        return True
    events = cells.linear(measure.top)[code, span]
    others = cells.linear(measure.bottom)[code, span] - events
    return bool(min(np.median(events), np.median(others)) >= LEAST_EVENTS)


def against(
    cells: Cells, measure: Measure, code: int, rest_codes: list[int], span: slice
) -> tuple[Floats, Floats, Floats, bool] | None:
    top = cells.linear(measure.top)[:, span]
    own_top, rest_top = top[code], top[rest_codes].sum(axis=0)
    if measure.bottom:
        bottom = cells.linear(measure.bottom)[:, span]
        own_bottom, rest_bottom = bottom[code], bottom[rest_codes].sum(axis=0)
        if (own_bottom == 0).any() or (rest_bottom == 0).any():
            return None
        own, rest = measure.factor * own_top / own_bottom, measure.factor * rest_top / rest_bottom
    else:
        own, rest = measure.factor * own_top, measure.factor * rest_top
        if not np.abs(rest).min() > 0:
            return None
    y, log = tested(measure, own, rest)
    return (own, rest, y, log) if np.ptp(y) > 1e-12 * max(1.0, float(np.abs(y).max())) else None


def tested(measure: Measure, own: Floats, rest: Floats | None) -> tuple[Floats, bool]:
    """What is tested: sums on the log scale when positive, averages and ratios as they are."""
    if measure.additive and own.min() > 0 and (rest is None or rest.min() > 0):
        return np.log(own) - (0.0 if rest is None else np.log(rest)), True
    if rest is None:
        return own, False
    if measure.additive:
        whole = own + rest
        return (own / np.where(whole == 0, 1.0, whole), False) if (whole > 0).all() else (own - rest, False)
    return own - rest, False


def sampling(
    cells: Cells, measure: Measure, span: slice, log: bool, groups: Sequence[Sequence[int]] = ()
) -> float | None:
    """The variance that the spread of the rows makes in what is tested, in the usual period: of the whole, or of the
    labels of each of the `groups` together, one against the other; None where the cells do not tell. Rows must stand
    alone (see `row_memory`)."""
    every = [np.s_[span]] if not groups else [np.s_[np.array(codes), span] for codes in groups]

    def summed(values: Floats) -> list[Floats]:
        return [values[at] if values[at].ndim == 1 else values[at].sum(axis=0) for at in every]

    if min(float(np.median(rows)) for rows in summed(cells.rows)) < _ROWS_TELL:
        return None
    variance = 0.0
    for top, squares, n in zip(
        summed(cells.linear(measure.top)),
        summed(cells.squares(measure.top)),
        summed(cells.linear(measure.bottom) if measure.bottom else cells.rows),
        strict=True,
    ):
        if measure.kind == "mean":
            variance += float(np.median(np.maximum(squares / n - (top / n) ** 2, 0.0) / n)) * measure.factor**2
        elif measure.additive and log:
            variance += float(np.median(squares / top**2))
        else:
            return None
    return variance
