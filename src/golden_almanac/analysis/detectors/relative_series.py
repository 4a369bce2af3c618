"""What is tested of a slice: its values against those of its siblings, and what rows alone would make of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple, TypeVar

import numpy as np
import numpy.typing as npt

from ...aggregation import Cells
from ...aggregation.measures import Measure
from ...stats.autocorrelated_fits import Floats
from ..known_series import Span

One = TypeVar("One")

#: A rate's series needs so many events, and non-events, in the median period: with one or two a
#: month its ups and downs are those of small numbers.
LEAST_EVENTS = 5.0
#: Averages of a family are compared in proportion where their levels are so many times apart, and what they vary by
#: rises with the level by more than so much (on log scales, one where it is proportional).
#: Fewer labels do not tell it from one that moves by itself.
_LEVELS_APART, _ALONG, _FEW_LABELS = 1.5, 0.8, 4
#: Rows in the median period from which their spread tells how much of its ups and downs is theirs.
_ROWS_TELL = 5.0


class Relatives(NamedTuple):
    """Labels of a family, each set against the rest of it: `own` values, those of the `rest`, what is tested, all of
    shape (labels, periods); `log` says whether that is a log ratio, `usable` whether it is anything at all."""

    own: Floats
    rest: Floats
    y: Floats
    log: npt.NDArray[np.bool_]
    usable: npt.NDArray[np.bool_]


def of_others(values: Floats) -> Floats:
    """For each label the sum of all others, added up from both ends so that nothing cancels; shape (…, labels,
    periods)."""
    before, after = np.zeros_like(values), np.zeros_like(values)
    np.cumsum(values[..., :-1, :], axis=-2, out=before[..., 1:, :])
    after[..., :-1, :] = np.cumsum(values[..., :0:-1, :], axis=-2)[..., ::-1, :]
    return before + after


def against_each(cells: Cells, measure: Measure, family: Sequence[int], span: Span) -> Relatives:
    """Each label of a family against all others of it; see `against`."""
    return against_all(cells, [measure], family, span)[0]


def against_all(cells: Cells, measures: Sequence[Measure], family: Sequence[int], span: Span) -> list[Relatives]:
    """The same of several measures, those of one kind at once."""
    return _by_kind(measures, lambda alike: _against(cells, alike, family, span))


def _by_kind(measures: Sequence[Measure], made: Callable[[Sequence[Measure]], Sequence[One]]) -> list[One]:
    """What is `made` of measures of the same kind together, in the order of all."""
    kinds: dict[tuple[str, bool], list[int]] = {}
    for place, measure in enumerate(measures):
        kinds.setdefault((measure.kind, bool(measure.bottom)), []).append(place)
    found: dict[int, One] = {}
    for places in kinds.values():
        found |= zip(places, made([measures[place] for place in places]), strict=True)
    return [found[place] for place in range(len(measures))]


def _stacked(
    values: Callable[[Measure], Floats], measures: Sequence[Measure], family: Sequence[int], span: Span
) -> Floats:
    """What is read off cells by label and period for each measure; shape (measures, labels, periods)."""
    return np.stack([values(measure)[family][:, span] for measure in measures])


def _factors(measures: Sequence[Measure]) -> Floats:
    return np.array([measure.factor for measure in measures])[:, None, None]


def _against(cells: Cells, measures: Sequence[Measure], family: Sequence[int], span: Span) -> list[Relatives]:
    factor = _factors(measures)
    top = _stacked(lambda one: cells.linear(one.top), measures, family, span)
    rest_top, usable = of_others(top), np.ones(top.shape[:2], dtype=bool)
    if measures[0].bottom:
        bottom = _stacked(lambda one: cells.linear(one.bottom), measures, family, span)
        rest_bottom = of_others(bottom)
        usable = (bottom != 0).all(axis=2) & (rest_bottom != 0).all(axis=2)
        with np.errstate(divide="ignore", invalid="ignore"):
            own, rest = factor * top / bottom, factor * rest_top / rest_bottom
    else:
        own, rest = factor * top, factor * rest_top
        usable = np.abs(rest).min(axis=2) > 0
    y = own - rest
    log = np.zeros(top.shape[:2], dtype=bool)
    if measures[0].additive:
        log = (own.min(axis=2) > 0) & (rest.min(axis=2) > 0)
        whole = own + rest
        shares = ~log & (whole > 0).all(axis=2)
        y[shares] = own[shares] / whole[shares]
    elif measures[0].kind in ("mean", "ratio"):
        for at, measure in enumerate(measures):
            log[at] = usable[at].all() and in_proportion(measure, own[at], rest[at])
    y[log] = np.log(own[log]) - np.log(rest[log])
    with np.errstate(invalid="ignore"):
        usable &= np.ptp(y, axis=2) > 1e-12 * np.maximum(1.0, np.abs(y).max(axis=2))
    return [Relatives(*each) for each in zip(own, rest, y, log, usable, strict=True)]


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


def each_row(cells: Cells, measures: Sequence[Measure], family: Sequence[int], span: Span) -> list[Floats | None]:
    """For each measure the log of each label's amount per row against that of all others of its family, shape (labels,
    periods), NaN for labels whose rows do not tell amounts; None for measures of which they tell none."""
    told = [one for one in measures if len(one.top) == 1 and one.top[0][1].kind == "sum" and not one.bottom]
    if not told:
        return [None] * len(measures)
    total = _stacked(lambda one: cells.parts[one.top[0][1]].total, told, family, span)
    count = _stacked(lambda one: cells.parts[one.top[0][1]].count, told, family, span)
    ends = np.stack([total, count, of_others(total), of_others(count)])
    tells = ends.min(axis=(0, 3)) > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        y = np.log(ends[0] / ends[1]) - np.log(ends[2] / ends[3])
        tells &= np.ptp(y, axis=2) > 0
    found = dict(zip(told, np.where(tells[:, :, None], y, np.nan), strict=True))
    return [found.get(one) for one in measures]


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
    top, squares = cells.linear(measure.top)[None, None, span], cells.squares(measure.top)[None, None, span]
    n = (cells.linear(measure.bottom) if measure.bottom else cells.rows)[None, None, span]
    found = float(_variance([measure], top, squares, n, np.array([[log]]))[0, 0])
    enough = np.median(cells.rows[span]) >= _ROWS_TELL and np.isfinite(found)
    return found if enough else None


def sampling_each(
    cells: Cells, measures: Sequence[Measure], family: Sequence[int], span: Span, logs: Sequence[npt.NDArray[np.bool_]]
) -> list[Floats]:
    """The same of each label against all others of its family, for each measure, whose `logs` tell which labels are
    tested in logs; shape (labels,), NaN where the cells do not tell."""
    rows = cells.rows[family][:, span]
    enough = np.minimum(np.median(rows, axis=1), np.median(of_others(rows), axis=1)) >= _ROWS_TELL
    log_of = dict(zip(measures, logs, strict=True))

    def made(alike: Sequence[Measure]) -> list[Floats]:
        top, squares = (
            _stacked(read, alike, family, span)
            for read in ((lambda one: cells.linear(one.top)), (lambda one: cells.squares(one.top)))
        )
        counted = np.broadcast_to(rows, top.shape)
        if alike[0].bottom:
            counted = _stacked(lambda one: cells.linear(one.bottom), alike, family, span)
        log = np.stack([log_of[one] for one in alike])
        found = _variance(alike, top, squares, counted, log)
        found = found + _variance(alike, of_others(top), of_others(squares), of_others(counted), log)
        return list(np.where(enough, found, np.nan))

    return _by_kind(measures, made)


def _variance(
    measures: Sequence[Measure], top: Floats, squares: Floats, n: Floats, log: npt.NDArray[np.bool_]
) -> Floats:
    """Of measures of one kind, whose sums, sums of squares and counts have shape (measures, labels, periods)."""
    with np.errstate(divide="ignore", invalid="ignore"):
        if measures[0].kind == "mean":
            spread = np.maximum(squares / n - (top / n) ** 2, 0.0) / n
            spread = np.where(log[:, :, None], spread / (top / n) ** 2, spread * _factors(measures) ** 2)
            return np.asarray(np.median(spread, axis=2))
        if measures[0].additive:
            return np.where(log, np.median(squares / top**2, axis=2), np.nan)
    return np.full(top.shape[:2], np.nan)
