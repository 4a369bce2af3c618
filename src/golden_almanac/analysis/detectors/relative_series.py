"""What is tested of a slice: its values against those of its siblings, and what rows alone would make of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...aggregation import Cells
from ...aggregation.measures import Measure
from ...stats.autocorrelated_fits import Floats
from ..known_series import Span

#: A rate's series needs so many events, and non-events, in the median period: with one or two a
#: month its ups and downs are those of small numbers.
LEAST_EVENTS = 5.0
#: Averages of a family are compared in proportion where their levels are so many times apart, and what they vary by
#: rises with the level by more than so much (on log scales, one where it is proportional).
#: Fewer labels do not tell it from one that moves by itself.
_LEVELS_APART, _ALONG, _FEW_LABELS = 1.5, 0.8, 4
#: Rows in the median period from which their spread tells how much of its ups and downs is theirs.
_ROWS_TELL = 5.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Relatives:
    """Labels of a family, each set against the rest of it: `own` values, those of the `rest`, what is tested, all of
    shape (labels, periods); `log` says whether that is a log ratio, `usable` whether it is anything at all."""

    own: Floats
    rest: Floats
    y: Floats
    log: npt.NDArray[np.bool_]
    usable: npt.NDArray[np.bool_]


def of_others(values: Floats) -> Floats:
    """For each row the sum of all others, added up from both ends so that nothing cancels; shape (labels, periods)."""
    before, after = np.zeros_like(values), np.zeros_like(values)
    np.cumsum(values[:-1], axis=0, out=before[1:])
    after[:-1] = np.cumsum(values[:0:-1], axis=0)[::-1]
    return before + after


def against_each(cells: Cells, measure: Measure, family: Sequence[int], span: Span) -> Relatives:
    """Each label of a family against all others of it; see `against`."""
    top = cells.linear(measure.top)[family][:, span]
    rest_top, usable = of_others(top), np.ones(len(family), dtype=bool)
    if measure.bottom:
        bottom = cells.linear(measure.bottom)[family][:, span]
        rest_bottom = of_others(bottom)
        usable = (bottom != 0).all(axis=1) & (rest_bottom != 0).all(axis=1)
        with np.errstate(divide="ignore", invalid="ignore"):
            own, rest = measure.factor * top / bottom, measure.factor * rest_top / rest_bottom
    else:
        own, rest = measure.factor * top, measure.factor * rest_top
        usable = np.abs(rest).min(axis=1) > 0
    y = own - rest
    log = np.zeros(len(family), dtype=bool)
    if measure.additive:
        log = (own.min(axis=1) > 0) & (rest.min(axis=1) > 0)
        whole = own + rest
        shares = ~log & (whole > 0).all(axis=1)
        y[shares] = own[shares] / whole[shares]
    elif measure.kind in ("mean", "ratio") and usable.all() and in_proportion(measure, own, rest):
        log[:] = True
    y[log] = np.log(own[log]) - np.log(rest[log])
    with np.errstate(invalid="ignore"):
        usable &= np.ptp(y, axis=1) > 1e-12 * np.maximum(1.0, np.abs(y).max(axis=1))
    return Relatives(own=own, rest=rest, y=y, log=log, usable=usable)


def in_proportion(measure: Measure, own: Floats, rest: Floats) -> bool:
    """Whether averages of a family, shape (labels, periods), move in proportion to their levels, as prices do: that all
    rise by a fifth is no story of the dearest. Levels must differ, and what the labels vary by must go with them."""
    if measure.share or not min(own.min(), rest.min()) > 0:
        return False
    level, spread = np.median(own, axis=1), own.std(axis=1)
    use = spread > 0
    if np.count_nonzero(use) < _FEW_LABELS or level.max() < _LEVELS_APART * level.min():
        return False
    x, z = np.log(level[use]), np.log(spread[use])
    return bool(np.ptp(x) > 0 and np.sum((x - x.mean()) * (z - z.mean())) > _ALONG * np.sum((x - x.mean()) ** 2))


def each_row(cells: Cells, measure: Measure, family: Sequence[int], span: Span) -> Floats | None:
    """The log of each label's amount per row against that of all others of its family, shape (labels, periods), NaN for
    labels whose rows do not tell amounts; None where none do."""
    part = measure.top[0][1]
    if len(measure.top) != 1 or part.kind != "sum" or measure.bottom:
        return None
    total, count = (values[family][:, span] for values in (cells.parts[part].total, cells.parts[part].count))
    ends = np.stack([total, count, of_others(total), of_others(count)])
    tells = ends.min(axis=(0, 2)) > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        y = np.log(ends[0] / ends[1]) - np.log(ends[2] / ends[3])
        tells &= np.ptp(y, axis=1) > 0
    return np.where(tells[:, None], y, np.nan)


def eventful(measure: Measure, cells: Cells, code: int, span: Span) -> bool:
    if not measure.share:
        return True
    events = cells.linear(measure.top)[code, span]
    others = cells.linear(measure.bottom)[code, span] - events
    return bool(min(np.median(events), np.median(others)) >= LEAST_EVENTS)


def against(
    measure: Measure, top: Sequence[Floats], bottom: Sequence[Floats] | None
) -> tuple[Floats, Floats, Floats, bool] | None:
    """Values of some rows and of others, what is tested of the first against the second, and whether that is a log
    ratio; None where nothing is. `top` and `bottom` are the measure's sums of both, each of shape (periods,)."""
    if bottom is not None:
        if (bottom[0] == 0).any() or (bottom[1] == 0).any():
            return None
        own, rest = (measure.factor * over / under for over, under in zip(top, bottom, strict=True))
    else:
        own, rest = (measure.factor * over for over in top)
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


def sampling(cells: Cells, measure: Measure, span: Span, log: bool) -> float | None:
    """The variance that the spread of the rows makes in what is tested of the whole, in the usual period; None where
    the cells do not tell. Rows must stand alone (see `row_memory`)."""
    top, squares = cells.linear(measure.top)[None, span], cells.squares(measure.top)[None, span]
    n = (cells.linear(measure.bottom) if measure.bottom else cells.rows)[None, span]
    found = float(_variance(measure, top, squares, n, np.array([log]))[0])
    enough = np.median(cells.rows[span]) >= _ROWS_TELL and np.isfinite(found)
    return found if enough else None


def sampling_each(
    cells: Cells, measure: Measure, family: Sequence[int], span: Span, log: npt.NDArray[np.bool_]
) -> Floats:
    """The same of each label against all others of its family, shape (labels,); NaN where the cells do not tell."""
    rows = cells.rows[family][:, span]
    counted = cells.linear(measure.bottom)[family][:, span] if measure.bottom else rows
    sides = cells.linear(measure.top)[family][:, span], cells.squares(measure.top)[family][:, span], counted
    others = of_others(sides[0]), of_others(sides[1]), of_others(sides[2])
    found = _variance(measure, *sides, log) + _variance(measure, *others, log)
    enough = np.minimum(np.median(rows, axis=1), np.median(of_others(rows), axis=1)) >= _ROWS_TELL
    return np.where(enough, found, np.nan)


def _variance(measure: Measure, top: Floats, squares: Floats, n: Floats, log: npt.NDArray[np.bool_]) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        if measure.kind == "mean":
            spread = np.maximum(squares / n - (top / n) ** 2, 0.0) / n
            spread = np.where(log[:, None], spread / (top / n) ** 2, spread * measure.factor**2)
            return np.asarray(np.median(spread, axis=1))
        if measure.additive:
            return np.where(log, np.median(squares / top**2, axis=1), np.nan)
    return np.full(top.shape[0], np.nan)
