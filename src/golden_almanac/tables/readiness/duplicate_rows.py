"""Rows that stand in the table twice, to the letter or nearly. They are told, and taken out only when told to:
two equal sales may both be true."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from ...support.phrasing import Phrase, phrased, phrased_count
from .. import Column, Role, Table
from ..cell_hashing import Hashes, mixed, row_hashes
from ..parsing import one_dictionary
from ..problems import Problem
from ..reading_guide import Guide
from .label_variants import folded
from .repairs import take_out

#: When more rows than this share are repeats, the table simply has few columns.
_MOST = 0.05
_LEAST_COLUMNS = 3
#: Near repeats are looked for in tables up to this size.
_MOST_ROWS = 300_000
#: Near repeats count only where chance would make fewer than this share of them.
_CHANCE = 0.1
#: Rows in a stretch that comes again, and the share of rows that stand as often as the others.
_LEAST_STRETCH, _ALIKE = 20, 0.98
_CHOICES = ("keep", "take out")


def ready(table: Table, guide: Guide) -> Table:
    """Tell rows equal to an earlier one in every column, and rows equal but for a key or the spelling of a text."""
    if len(table.columns) < _LEAST_COLUMNS or table.rows < 2:
        return table
    if table.private:
        # Rows that look alike may differ in what is not to be seen.
        return table
    if table.rows > _MOST_ROWS and any(column.distinct == table.rows for column in table.columns):
        return table
    if table.rows > _MOST_ROWS:
        # Of a long table only the sum of the hashes is kept; most have no repeats, which a plain sort shows.
        hashed = [partial(_hashes, table, column, place) for place, column in enumerate(table.columns)]
        whole = row_hashes(hashed, table.rows)
        ranked = np.sort(whole)
        if not (ranked[1:] == ranked[:-1]).any():
            return table
        own: dict[str, Hashes] = {}
    else:
        own = {column.name: _hashes(table, column, place) for place, column in enumerate(table.columns)}
        whole = _total(own.values(), table.rows)
    again, first = _repeats(whole)
    count = int(again.sum())
    told = 0 < count <= max(3, _MOST * table.rows) or (count > 0 and _loaded_twice(table, whole, again, first))
    near = _near(table, own, whole) if table.rows <= _MOST_ROWS and (told or not count) else []
    if told:
        table, gone = _tell(table, guide, "repeated rows", phrased("in every column"), again, first)
        near = [(how, a[~gone], f) for how, a, f in near] if gone.any() else near
    for how, mask, firsts in near:
        if mask.size == table.rows and mask.any():
            table, _ = _tell(table, guide, "near repeats", how, mask, firsts)
            break
    return table


def _tell(
    table: Table, guide: Guide, check: str, how: str, again: npt.NDArray[np.bool_], first: npt.NDArray[np.intp]
) -> tuple[Table, npt.NDArray[np.bool_]]:
    """The table with the repeats told, or taken out if that was answered, and which rows have gone."""
    places = np.flatnonzero(again)
    count = int(places.size)
    numbers = table.row_numbers()
    answer = guide.ask(check, None, phrased("Were these rows entered twice?"), _CHOICES)
    shown = [(int(p), int(first[p]) if first.size == numbers.size else int(first[0])) for p in places[:3]]
    problem = Problem(
        check=check,
        severity="note" if isinstance(answer, str) else "question",
        column=None,
        rows=count,
        examples=tuple(table.example(p, _same(check, int(numbers[o]))) for p, o in shown),
        message=phrased(
            "{n} rows, {pct}% of all, repeat an earlier one {how} and were kept: was the table loaded twice?",
            n=count,
            pct=round(100 * count / table.rows),
            how=how,
        )
        if count > max(3, _MOST * table.rows)
        else phrased_count(
            count,
            "{n} row repeats an earlier one {how} and was kept.",
            "{n} rows repeat an earlier one {how} and were kept.",
            how=how,
        ),
        question=None if isinstance(answer, str) else answer,
    )
    gone = np.zeros(table.rows, dtype=bool)
    if answer == "take out":
        gone = again
        message = phrased_count(
            count,
            "{n} row repeats an earlier one {how} and was taken out, as answered.",
            "{n} rows repeat an earlier one {how} and were taken out, as answered.",
            how=how,
        )
        table, problem = take_out(table, places, f"repeats an earlier row {how}", problem, message)
    return replace(table, problems=(*table.problems, problem)), gone


def _loaded_twice(table: Table, whole: Hashes, again: npt.NDArray[np.bool_], first: npt.NDArray[np.intp]) -> bool:
    """Whether many repeats are no accident of a table with few columns: a stretch of rows comes again in its order,
    each row stands as often as the others, or amounts of which hardly any two are alike repeat."""
    places = np.flatnonzero(again)
    if places.size < _LEAST_STRETCH:
        return False
    # Where a stretch comes again, rows and those they repeat go on side by side.
    going_on = (np.diff(places) == 1) & (np.diff(first[places]) == 1)
    ends = np.flatnonzero(np.concatenate([[True], ~going_on, [True]]))
    if np.diff(ends).max() >= max(_LEAST_STRETCH, _MOST * table.rows):
        return True
    times = np.unique(whole, return_counts=True)[1]
    if np.mean(times == np.median(times)) >= _ALIKE and np.median(times) > 1:
        return True
    return any(
        column.type == "number" and column.distinct > times.size / 2 and not column.missing
        for column in table.with_role(Role.MEASURE)
    )


def _same(check: str, row: int) -> Phrase:
    if check == "repeated rows":
        return phrased("the same as row {row}", row=row)
    return phrased("nearly the same as row {row}", row=row)


def _near(
    table: Table, own: dict[str, Hashes], whole: Hashes
) -> list[tuple[str, npt.NDArray[np.bool_], npt.NDArray[np.intp]]]:
    """Rows that repeat an earlier one but for a key, or but for how a text is spelled."""
    exact = _repeats(whole)[0]
    found: list[tuple[str, npt.NDArray[np.bool_], npt.NDArray[np.intp]]] = []
    for column in table.columns:
        # A running number differs between two entries of one thing; nothing else need.
        if column.distinct == table.rows and not column.missing and column.role is Role.KEY:
            again, first = _repeats(whole - own[column.name])
            if _told(table, again & ~exact, [c for c in table.columns if c is not column]):
                how = phrased("in every column but {column}", column=repr(column.name))
                found.append((how, again & ~exact, first))
    texts = [c for c in table.columns if c.type == "text" and c.role in (Role.DIMENSION, Role.TEXT, Role.KEY)]
    respelled = {column.name: _hashes(table, column, table.names.index(column.name), fold=True) for column in texts}
    if texts:
        total = _total([respelled.get(name, hashes) for name, hashes in own.items()], table.rows)
        again, first = _repeats(total)
        if _told(table, again & ~exact, list(table.columns)):
            found.append((phrased("but for the spelling of a text"), again & ~exact, first))
    return found


def _told(table: Table, again: npt.NDArray[np.bool_], others: list[Column]) -> bool:
    """Whether there are few enough to be slips, and more than rows equal by chance would make."""
    count = int(again.sum())
    if not 0 < count <= max(3, _MOST * table.rows):
        return False
    chance = table.rows * (table.rows - 1) / 2.0
    for column in others:
        chance /= max(1.0, float(column.distinct))
    return chance <= _CHANCE * count


def _repeats(hashes: Hashes) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.intp]]:
    """Which rows repeat an earlier one, and the first row of each row's kind."""
    order = np.argsort(hashes, kind="stable")
    ranked = hashes[order]
    new = np.ones(ranked.size, dtype=bool)
    new[1:] = ranked[1:] != ranked[:-1]
    if new.all():
        return np.zeros(ranked.size, dtype=bool), np.arange(ranked.size)
    first = np.empty(ranked.size, dtype=np.intp)
    first[order] = order[new][np.cumsum(new) - 1]
    return first != np.arange(ranked.size), first


def _total(hashes: Iterable[Hashes], rows: int) -> Hashes:
    total = np.zeros(rows, dtype=np.uint64)
    for one in hashes:
        total += one
    return total


def _hashes(table: Table, column: Column, place: int, fold: bool = False) -> Hashes:
    """A hash of each cell with its column's place; of its folded text if asked to."""

    values = table.arrow.column(column.name)
    if column.type == "number":
        bits: Any = table.numbers(column.name)
    elif column.type == "datetime":
        bits = arrow_arrays.wholes(values, np.iinfo(np.int64).min).view(np.uint64)
    elif column.type == "date":
        bits = arrow_arrays.wholes(values, np.iinfo(np.int32).min).astype(np.int64).view(np.uint64)
    else:
        encoded = one_dictionary(values)
        labels = encoded.dictionary.to_pylist() if fold else range(len(encoded.dictionary))
        number: dict[object, int] = {}
        same = [number.setdefault(folded(str(label)) if fold else label, len(number) + 1) for label in labels]
        bits = np.array([*same, 0], dtype=np.uint64)[arrow_arrays.wholes(encoded.indices, -1)]
    return mixed(bits, place)
