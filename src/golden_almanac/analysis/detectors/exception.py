"""Exceptions: two labels that together make far more, or less, than each of them by itself would lead one to expect.

The cell is left out, and what it should hold is read off the others as if rows and columns were independent
(quasi-independence, Goodman 1968, fitted in turn by rows and columns). Two tests must agree. Among the cells: its
residual against the spread of those of all others (median absolute deviation), so that a table in which everything
goes with everything is no table of exceptions; Student's t with the table's degrees of freedom. Over periods: the
cell against what is expected of it in the same period (see `blocks`). The surest cell pays for the look at all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any, ClassVar, NamedTuple

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Floats
from ...stats.false_discovery import worth_a_look
from ...support.phrasing import marked
from .block_tests import LEAST_BLOCKS, block_test

#: Tables with more labels on a side are not looked at cell by cell, nor such whose cells hold fewer rows.
_MOST_LABELS, _LEAST_ROWS = 60, 5.0
_LEAST_LABELS = 3
#: Columns that go together more closely than this (Cramér's V) are bound to each other: a ship to its route.
_BOUND = 0.3
#: Exceptions of one table that are told at most; rounds in which those left out are fitted, and
#: when they stay.
_MOST_TOLD, _ROUNDS, _STAYS = 3, 200, 1e-12
#: A cell that chance would show more often than this is not looked into.
_CLEAR = 0.05


_ALONE = "residuals from independence"
_UNIT = marked("times what is expected")
KIND = FindingKind(
    name="exception",
    what="two labels that together make more or less than each would alone",
    detector="Exceptional",
    interest=0.85,
    weight=0.5,
    needs_time=True,
    least_periods=LEAST_BLOCKS,
    floor=Floor(setting="floor_ratio", unit=_UNIT),
    of_parts=False,
    figures={
        "value": "the two labels' amount together",
        "expected": "the amount the other cells lead one to expect",
        "ratio": "value over expected",
        "first_total": "amount of the first label",
        "second_total": "amount of the second",
        "total": "amount of all",
        "ratio_low": "lower end of the ratio's 95% range",
        "ratio_high": "upper end of the ratio's 95% range",
        "share_of_first": "value as a share of the first label",
        "share_of_all": "the second label as a share of all",
        "n": "rows of the two together",
        "share": "value as a share of all",
        "and_by": "the column of the second label",
    },
)


class _Table(NamedTuple):
    """A measure by two columns, shape (labels, labels): its amounts, the rows expected, the cells with enough of them,
    and the surest cell with its t, and its p-value times the number of cells."""

    measure: Measure
    by: tuple[str, str]
    made: Floats
    rows: Floats
    use: npt.NDArray[np.bool_]
    surest: tuple[int, int]
    t: float
    p: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Exceptional:
    """`floor_ratio`: a cell must be so many times what is expected, or its inverse, to be reported."""

    kind: ClassVar[FindingKind] = KIND
    floor_ratio: float = 1.25

    def detect(self, survey: Survey) -> list[Candidate]:
        """What stands out in the tables of all amounts by two columns: in each the surest cell is looked at first, and
        only the tables in which it could be told are looked into."""
        tables = [
            table
            for first, second in combinations([column.name for column in survey.dimensions], 2)
            if not _nested(survey, first, second)
            for table in _tables(survey, (first, second))
        ]
        clear = min(_CLEAR, worth_a_look(len(tables)))
        candidates = []
        for table in tables:
            if table.p > clear:
                labels = [survey.labels(one)[code] for one, code in zip(table.by, table.surest, strict=True)]
                where = Slice(tuple(zip(table.by, labels, strict=True)))
                candidates.append(
                    Candidate.nothing(self.kind, table.measure, table.by[0], where, _ALONE, table.t, table.p)
                )
            else:
                candidates += self._table(survey, table.measure, *table.by, table.made, table.rows, table.use)
        return candidates

    def _table(
        self,
        survey: Survey,
        measure: Measure,
        first: str,
        second: str,
        made: Floats,
        rows: Floats,
        use: npt.NDArray[np.bool_],
    ) -> list[Candidate]:
        looks = int(use.sum())
        first_look = np.abs(_residuals(made, _independent(made), rows))
        order = np.argsort(np.where(use, -first_look, 1.0), axis=None, kind="stable")
        candidates: list[Candidate] = []
        gone: list[tuple[int, int]] = []
        for place in order[:_MOST_TOLD]:
            i, j = (int(one) for one in np.unravel_index(int(place), made.shape))
            gone.append((i, j))
            expected = _without(made, gone)
            t, p = _beyond(made, expected, rows, use, gone)
            if candidates and p * looks > _CLEAR:
                break
            candidates.append(self._cell(survey, measure, (first, second), (i, j), made, expected, t, p, looks))
            if p * looks > _CLEAR:
                break
        return candidates

    def _cell(
        self,
        survey: Survey,
        measure: Measure,
        by: tuple[str, str],
        at: tuple[int, int],
        made: Floats,
        expected: Floats,
        t: float,
        p: float,
        looks: int,
    ) -> Candidate:
        labels = [survey.labels(one)[code] for one, code in zip(by, at, strict=True)]
        where = Slice(tuple(zip(by, labels, strict=True)))
        if p * looks <= _CLEAR:
            over, q = _over_periods(survey, measure, by, at)
            p = max(p, q) if over * t > 0 else 1.0
        p = min(1.0, p * looks)
        value, usual = float(made[at]), _left_out(made, at)
        if p > _CLEAR:
            return Candidate.nothing(self.kind, measure, by[0], where, _ALONE, t, p)
        table = survey.table
        sides = [float(made[at[0]].sum()), float(made[:, at[1]].sum())]
        ratio = value / usual
        figures: dict[str, Any] = {
            "value": value,
            "expected": usual,
            "ratio": ratio,
            "first_total": sides[0],
            "second_total": sides[1],
            "total": float(made.sum()),
            "ratio_low": max(0.0, ratio - 1.96 * abs(ratio - 1) / abs(t)) if t else None,
            "ratio_high": ratio + 1.96 * abs(ratio - 1) / abs(t) if t else None,
            "share_of_first": value / sides[0],
            "share_of_all": sides[1] / float(made.sum()),
            "n": int(survey.cells(*by).rows[at]),
            "share": value / float(made.sum()),
            "and_by": by[1],
        }
        slices = {
            "value": where,
            "first_total": Slice(where.conditions[:1]),
            "second_total": Slice(where.conditions[1:]),
            "total": Slice(),
        }
        sums = {name: scalar(measure, within(table, one)) for name, one in slices.items()}
        excess = abs(value - usual) / float(made.sum())
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by[0],
            where=where,
            period=None,
            baseline=None,
            direction="up" if ratio > 1 else "down",
            figures=figures,
            test="residual among those of all cells, and t over periods, times the number of cells",
            statistic=t,
            p=p,
            strength=squash(np.log(max(ratio, 1e-9)), 0.5),
            reach=max(excess, 0.02),
            large=ratio >= self.floor_ratio or ratio <= 1 / self.floor_ratio,
            floor=(self.floor_ratio, _UNIT),
            check=Check(
                sql=one_row(sums | {"expected": _LEFT_OUT.format(**sums)}),
                expect={name: figures[name] for name in (*slices, "expected")},
            ),
            series={
                "labels": list(survey.labels(by[1])),
                "values": [float(one) for one in made[at[0]]],
                "expected": [usual if j == at[1] else float(one) for j, one in enumerate(expected[at[0]])],
            },
        )


def _tables(survey: Survey, by: tuple[str, str]) -> list[_Table]:
    """The tables of all amounts by two columns, with the surest cell of each; none where they are too small, too large,
    too thin, or the columns bound to each other."""
    sizes = [len(survey.labels(one)) for one in by]
    if min(sizes) < _LEAST_LABELS or max(sizes) > _MOST_LABELS:
        return []
    cells = survey.cells(*by)
    rows = _independent(cells.rows)
    use = rows >= max(_LEAST_ROWS, survey.least_rows)
    if use.sum() < max(9, 0.5 * use.size) or _association(cells.rows) > _BOUND:
        return []
    amounts = [
        (measure, made)
        for measure in survey.measures
        if measure.additive and (made := measure.factor * cells.linear(measure.top)).min() >= 0
    ]
    places, t, p = _first_look([made for _, made in amounts], rows, use)
    return [
        _Table(
            measure=measure,
            by=by,
            made=made,
            rows=rows,
            use=use,
            surest=divmod(int(places[at]), sizes[1]),
            t=float(t[at]),
            p=min(1.0, float(p[at]) * int(use.sum())),
        )
        for at, (measure, made) in enumerate(amounts)
    ]


#: The same as SQL: the rest of the row times the rest of the column, over the rest of the table.
_LEFT_OUT = (
    "({first_total} - {value}) * ({second_total} - {value}) / ({total} - {first_total} - {second_total} + {value})"
)


def _left_out(made: Floats, at: tuple[int, int]) -> float:
    """What all other cells lead one to expect of this one, if rows and columns are independent but for it."""
    value, row, column = float(made[at]), float(made[at[0]].sum()), float(made[:, at[1]].sum())
    rest = float(made.sum()) - row - column + value
    return (row - value) * (column - value) / rest if rest else 0.0


def _nested(survey: Survey, first: str, second: str) -> bool:
    """Whether one dimension lies within the other, at any height."""
    for low, high in ((first, second), (second, first)):
        above = survey.parents.get(low)
        while above is not None:
            if above == high:
                return True
            above = survey.parents.get(above)
    return False


def _first_look(
    amounts: Sequence[Floats], rows: Floats, use: npt.NDArray[np.bool_]
) -> tuple[npt.NDArray[np.intp], Floats, Floats]:
    """The cell furthest from independence of each table, shape (labels, labels), flat, with its t and p (see
    `_beyond`). With one cell left out, independence of the others has a closed form: that of the table in which the
    cell holds what they lead one to expect of it."""
    from scipy.special import stdtr

    if not amounts:
        return np.empty(0, dtype=np.intp), np.empty(0), np.empty(0)
    made = np.stack(amounts)
    count, height, width = made.shape
    every = np.arange(count)

    def residuals(tables: Floats) -> Floats:
        sides = tables.sum(axis=2, keepdims=True), tables.sum(axis=1, keepdims=True)
        with np.errstate(divide="ignore", invalid="ignore"):
            found = (made * tables.sum(axis=(1, 2), keepdims=True) / (sides[0] * sides[1]) - 1) * np.sqrt(rows)
        return np.where(np.isfinite(found), found, 0.0).reshape(count, -1)

    flat_use = use.ravel()
    place = np.argmax(np.where(flat_use, np.abs(residuals(made)), -1.0), axis=1)
    i, j = place // width, place % width
    value, row, column = made[every, i, j], made[every, i].sum(axis=1), made[every, :, j].sum(axis=1)
    rest = made.sum(axis=(1, 2)) - row - column + value
    completed = made.copy()
    completed[every, i, j] = np.where(rest > 0, (row - value) * (column - value) / np.where(rest > 0, rest, 1.0), 0.0)
    left = residuals(completed)
    others = np.tile(flat_use, (count, 1))
    others[every, place] = False
    known = int(flat_use.sum()) - 1
    df = max(1, (height - 1) * (width - 1) - 1)
    # As many cells are left of each table: those that are not, come last.
    off = np.partition(np.where(others, np.abs(left), np.inf), ((known - 1) // 2, known // 2), axis=1)
    spread = 1.4826 * (off[:, (known - 1) // 2] + off[:, known // 2]) / 2 * np.sqrt(known / df)
    t = left[every, place] / np.maximum(spread, 1.0)
    return place, t, 2 * stdtr(df, -np.abs(t))


def _independent(made: Floats) -> Floats:
    total = made.sum()
    whole = made.sum(axis=1, keepdims=True) * made.sum(axis=0, keepdims=True)
    return np.asarray(whole / total if total else np.zeros_like(made))


def _association(rows: Floats) -> float:
    """Cramér's V of a table of counts (1946)."""
    usual = _independent(rows)
    known = usual > 0
    chi = float((((rows - usual) ** 2)[known] / usual[known]).sum())
    return float(np.sqrt(chi / rows.sum() / (min(rows.shape) - 1))) if rows.sum() else 0.0


def _residuals(made: Floats, expected: Floats, rows: Floats) -> Floats:
    """How far cells are from what is expected, in square roots of the rows expected."""
    with np.errstate(divide="ignore", invalid="ignore"):
        found = (made / expected - 1) * np.sqrt(rows)
    return np.where(np.isfinite(found), found, 0.0)


def _without(made: Floats, gone: list[tuple[int, int]]) -> Floats:
    """What independence leads one to expect of every cell, fitted to the cells that are not `gone`."""
    if len(gone) == 1:
        completed = made.copy()
        completed[gone[0]] = _left_out(made, gone[0])
        return _independent(completed)
    completed = made.copy()
    for at in gone:
        completed[at] = _left_out(made, at)
    # What is expected of the cells left out is put in their place, until it stays (Dempster, Laird & Rubin 1977).
    for _ in range(_ROUNDS):
        fitted = _independent(completed)
        before = [completed[at] for at in gone]
        for at in gone:
            completed[at] = fitted[at]
        if all(abs(completed[at] - old) <= _STAYS * abs(old) for at, old in zip(gone, before, strict=True)):
            break
    return _independent(completed)


def _beyond(
    made: Floats, expected: Floats, rows: Floats, use: npt.NDArray[np.bool_], gone: list[tuple[int, int]]
) -> tuple[float, float]:
    """t and p of the cell left out last, against the residuals of those not left out."""
    from scipy.special import stdtr

    residual = _residuals(made, expected, rows)
    others = use.copy()
    for at in gone:
        others[at] = False
    df = max(1, (made.shape[0] - 1) * (made.shape[1] - 1) - len(gone))
    # Fitted residuals are smaller than those of a cell that took no part in the fit.
    spread = 1.4826 * float(np.median(np.abs(residual[others]))) * float(np.sqrt(others.sum() / df))
    t = float(residual[gone[-1]]) / max(spread, 1.0)
    return t, float(2 * stdtr(df, -abs(t)))


def _over_periods(survey: Survey, measure: Measure, by: tuple[str, str], at: tuple[int, int]) -> tuple[float, float]:
    """t and p that a cell, against what its row and column lead one to expect of it, is even over the periods."""
    line = survey.timeline
    assert line is not None
    cell = survey.cells(*by, PERIOD).linear(measure.top)[at][line.complete]
    one = survey.cells(by[0], PERIOD).linear(measure.top)[at[0], line.complete]
    other = survey.cells(by[1], PERIOD).linear(measure.top)[at[1], line.complete]
    whole = survey.cells(PERIOD).linear(measure.top)[line.complete]
    with np.errstate(divide="ignore", invalid="ignore"):
        usual = one * other / whole
        gap = np.where(usual > 0, cell / usual - 1, np.nan)
    return block_test(gap, np.where(np.isfinite(gap), usual, 0.0))
