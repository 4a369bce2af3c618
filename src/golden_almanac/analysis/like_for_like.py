"""Like for like: what a total, or an average, did where its parts were there throughout, apart from parts that came or
went.

A label came (ended) where all its rows lie after the first period compared began (before the last one ends), and that
is no chance: in a panel, where labels have rows in all periods between their first and last, it is certain; else the
number of rows to be expected in the time without any is taken as Poisson, and the time must be longer than any that the
label was without rows in between. The three parts add up to the change: of an average, what came makes the difference
between the average with it and without it, and what ended makes the rest.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from ..aggregation import PERIOD, Only, Survey
from ..aggregation.measures import Measure
from ..findings import Slice
from ..stats.autocorrelated_fits import Floats
from ..tables import Period, Table

#: Labels are taken to have rows in every period from this share on.
_PANEL = 0.98
#: The chance of no rows below which a label is taken to have come, or ended.
_SURE = 0.01
#: What stayed must be so much of the whole before, and what came and went so much of the change, and of the whole.
_STAYED, _OF_CHANGE, _OF_WHOLE = 0.3, 0.1, 0.01
#: Averages move a little with everything that comes and goes: theirs must be more of the change.
_OF_CHANGE_OF_AVERAGES = 0.25
_MOST_LABELS = 3000


@dataclass(frozen=True, slots=True, kw_only=True)
class LikeForLike:
    """What the labels of `by` did that were there throughout (`stayed` of them), those that came, and those that
    ended; `came` and `ended` by their amounts, largest first."""

    by: str
    stayed: int
    before: float
    now: float
    came: tuple[str, ...]
    came_change: float
    ended: tuple[str, ...]
    ended_change: float

    @property
    def change(self) -> float:
        return self.now - self.before

    @property
    def change_pct(self) -> float:
        return 100 * (self.now / self.before - 1)

    def condition(self, table: Table) -> str:
        """The rows of the labels that were there throughout, as SQL."""
        gone = " OR ".join(table.equals(self.by, label) for label in (*self.came, *self.ended))
        return f"({gone}) IS NOT TRUE"

    def to_dict(self, table: Table) -> dict[str, Any]:
        """The figures as plain data; `sql` is the condition that gives `baseline` and `value` again."""
        return {
            "sql": self.condition(table),
            "by": self.by,
            "stayed": self.stayed,
            "baseline": self.before,
            "value": self.now,
            "change": self.change,
            "change_pct": self.change_pct,
            "came": list(self.came),
            "came_change": self.came_change,
            "ended": list(self.ended),
            "ended_change": self.ended_change,
        }


def like_for_like(
    survey: Survey, measure: Measure, where: Slice, then: Period, now: Period, amounts: Survey | None = None
) -> LikeForLike | None:
    """The change of a sum, count, average or rate from one period to another, like for like along the dimension in
    which most came and went; None where nothing did, or too little stayed. `amounts` is the survey that the amounts
    are taken from, where it is not the one that tells which labels had rows."""
    if survey.timeline is None or not (measure.additive or measure.kind in ("mean", "ratio")):
        return None
    fixed = {column for column, _ in where.conditions}
    found = [
        one
        for column in survey.dimensions
        if column.name not in fixed and 2 <= column.distinct <= _MOST_LABELS
        for one in [_along(survey, measure, where, column.name, then, now, amounts or survey)]
        if one is not None
    ]
    if not found:
        return None
    return min(found, key=lambda one: (-abs(one.came_change) - abs(one.ended_change), one.stayed, one.by))


def _along(
    survey: Survey, measure: Measure, where: Slice, by: str, then: Period, now: Period, amounts: Survey
) -> LikeForLike | None:
    line = survey.timeline
    assert line is not None
    cells = survey.kept(Only(where.conditions)).cells(by, PERIOD)
    # Of a sum a label is there where it has values: what is not given is not nought.
    rows = np.where(cells.known(measure.top), cells.rows, 0.0) if measure in survey.measures else cells.rows
    ends = [min(max(day, line.first_day), line.last_day) for day in (then.start, now.end)]
    first, last = (int(place) for place in line.places(np.array(ends)))
    came, ended = _turnover(rows, first, last)
    if not came.any() and not ended.any():
        return None
    both = [amounts.kept(Only(where.conditions, (span.start, span.end))).cells(by) for span in (then, now)]
    labels = both[0].labels[0]
    tops = [measure.factor * cells.linear(measure.top) for cells in both]
    weights = tops if measure.additive else [cells.linear(measure.bottom) for cells in both]
    there = (weights[0] != 0) | (weights[1] != 0)
    came, ended = came & there, ended & there & ~came
    stayed = ~came & ~ended
    parts = _sums(tops, came, ended) if measure.additive else _averages(tops, weights, came, ended)
    change = float(parts.now - parts.before + parts.came + parts.ended)
    turned = abs(parts.came) + abs(parts.ended)
    least = _OF_CHANGE if measure.additive else _OF_CHANGE_OF_AVERAGES
    little = not turned >= least * abs(change) or turned < _OF_WHOLE * abs(parts.whole)
    if little or not turned or not weights[0][stayed].sum() > _STAYED * weights[0].sum() > 0:
        return None
    moved = tops[1] - tops[0] if measure.additive else weights[1] - weights[0]

    def named(which: npt.NDArray[np.bool_]) -> tuple[str, ...]:
        places = sorted(np.flatnonzero(which), key=lambda place: (-abs(moved[place]), str(labels[place])))
        return tuple(str(labels[place]) for place in places)

    return LikeForLike(
        by=by,
        stayed=int((stayed & there).sum()),
        before=parts.before,
        now=parts.now,
        came=named(came),
        came_change=parts.came,
        ended=named(ended),
        ended_change=parts.ended,
    )


class _Parts(NamedTuple):
    """What stayed before and now, what came and ended did to the whole, and the whole before."""

    before: float
    now: float
    came: float
    ended: float
    whole: float


def _sums(tops: list[Floats], came: npt.NDArray[np.bool_], ended: npt.NDArray[np.bool_]) -> _Parts:
    """The parts of a sum; `tops` are the amounts before and now, of shape (labels,)."""
    stayed, moved = ~came & ~ended, tops[1] - tops[0]
    before, now = (float(amounts[stayed].sum()) for amounts in tops)
    return _Parts(before, now, float(moved[came].sum()), float(moved[ended].sum()), float(tops[0].sum()))


def _averages(
    tops: list[Floats], weights: list[Floats], came: npt.NDArray[np.bool_], ended: npt.NDArray[np.bool_]
) -> _Parts:
    """The parts of an average of sums over weights, both before and now and of shape (labels,)."""

    def average(which: npt.NDArray[np.bool_]) -> list[float]:
        with np.errstate(divide="ignore", invalid="ignore"):
            return [float(top[which].sum() / weight[which].sum()) for top, weight in zip(tops, weights, strict=True)]

    stayed, without_came, whole = (average(which) for which in (~came & ~ended, ~came, np.ones_like(came)))
    by_came = (whole[1] - whole[0]) - (without_came[1] - without_came[0])
    rest = (whole[1] - whole[0]) - (stayed[1] - stayed[0]) - by_came
    return _Parts(stayed[0], stayed[1], by_came if came.any() else 0.0, rest if ended.any() else 0.0, whole[0])


def _turnover(
    rows: npt.NDArray[np.float64], first: int, last: int
) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.bool_]]:
    """Which labels came after the period at place `first`, and which ended before that at `last`; `rows` has shape
    (labels, periods)."""
    count = rows.shape[1]
    there = rows > 0
    known = there.any(axis=1)
    begin = np.where(known, there.argmax(axis=1), 0)
    end = np.where(known, count - 1 - there[:, ::-1].argmax(axis=1), count - 1)
    span = np.maximum(end - begin + 1, 1)
    panel = there.sum() >= _PANEL * span[known].sum() and np.median(span[known]) >= 3
    rate = rows.sum(axis=1) / span
    pause = np.array([_longest_pause(one) for one in there])

    def sure(empty: npt.NDArray[np.int64]) -> npt.NDArray[np.bool_]:
        rare = np.exp(-rate * empty) < _SURE
        return np.asarray(known & (empty > 0) & (rare | panel) & (empty > pause))

    return sure(begin) & (begin > first), sure(count - 1 - end) & (end < last)


def _longest_pause(there: npt.NDArray[np.bool_]) -> int:
    """The most periods in a row without rows between the first and last with some."""
    places = np.flatnonzero(there)
    return int(np.diff(places).max() - 1) if places.size > 1 else 0
