"""Two tables as one. A row of the left table keeps its amounts: nothing is counted twice unless asked for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ...engine.held_store import Held
from ...support.errors import JoinError, RequestError, SourceError
from ...support.phrasing import phrased, phrased_count
from .. import Column, Role, Table
from ..problems import Problem, Question, counted
from ..readiness.repairs import rebuilt, set_aside
from .key_discovery import condition, find_links
from .key_matching import Match, match

HOWS = ("left", "inner")


def join(
    left: Table,
    right: Table,
    on: str | Sequence[str] | Mapping[str, str] | None = None,
    *,
    how: str = "left",
    many_to_many: bool = False,
) -> Table:
    """The left table with the columns of the right; `golden_almanac.join` documents the arguments."""
    if how not in HOWS:
        raise RequestError("How to join", how, "left (all rows of the left table) or inner (rows with a match)")
    own = [column.name for column in right.columns if not column.original]
    if own:
        kept = tuple(column for column in right.columns if column.original)
        right = replace(right, store=Held(right.arrow.drop_columns(own)), columns=kept, _cache={})
    pair = _pair(left, right, on)
    keys = match(left, right, pair.left_on, pair.right_on)
    there = keys.counts()[1]
    many = bool((there > 1).any())
    if many and not many_to_many:
        raise _refused(pair, keys, how)
    rows, found = _rows(keys)
    lost = rows[found < 0]
    if how == "inner":
        rows, found = rows[found >= 0], found[found >= 0]
        if rows.size == 0:
            key = " and ".join(pair.left_on)
            raise SourceError(left.name, f"no row finds its {key} in {right.name}", "Check the keys.")
    told = _told(pair, rows.size, lost, right.rows - int(np.unique(found[found >= 0]).size))
    made, new = _side_by_side(pair, rows, found)
    if how == "inner" and lost.size:
        gone = set_aside(left, lost, f"no match in {right.name}")
        made = replace(made, aside=gone.aside)
    return replace(
        made,
        columns=tuple(_as_repeated(column, new.get(column.name), many) for column in made.columns),
        problems=(*left.problems, *_foreign(right), told),
        origin=replace(left.origin, kind="join"),
        private=tuple(dict.fromkeys((*left.private, *right.private))),
    )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Pair:
    left: Table
    right: Table
    left_on: tuple[str, ...]
    right_on: tuple[str, ...]


def _pair(left: Table, right: Table, on: Any) -> _Pair:
    if on is None:
        a, b = left.name, right.name if right.name != left.name else f"{right.name} 2"
        link = next((link for link in find_links({a: left, b: right}) if link.left == a), None)
        if link is None:
            raise JoinError(
                f"No key that leads from {left.name} to {right.name} was found: no column of {right.name} has a value "
                f"of its own on every row that {left.name} names too. Name the columns to join on."
            )
        return _Pair(left=left, right=right, left_on=link.left_on, right_on=link.right_on)
    pairs = {on: on} if isinstance(on, str) else dict(on) if isinstance(on, Mapping) else {name: name for name in on}
    if not pairs:
        raise RequestError("The columns to join on", None, "at least one")
    where = "the columns to join on"
    return _Pair(
        left=left,
        right=right,
        left_on=tuple(left.column(a, where).name for a in pairs),
        right_on=tuple(right.column(b, where).name for b in pairs.values()),
    )


def _refused(pair: _Pair, keys: Match, how: str) -> JoinError:
    left, right = pair.left, pair.right
    here, there = keys.counts()
    repeated = int((there > 1).sum())
    after = int((here * np.maximum(there, how == "left")).sum()) + (int((keys.left < 0).sum()) if how == "left" else 0)
    key = " and ".join(pair.right_on)
    if (here <= 1).all():
        way = f"Join {right.name} to {left.name} instead, where each {' and '.join(pair.left_on)} stands once"
    else:
        way = f"Sum up {right.name} to one row per {key} first"
    return JoinError(
        f"{left.name} was not joined to {right.name} on {key}, because {counted(repeated, 'key')} of {right.name} "
        f"{'stands' if repeated == 1 else 'stand'} on several rows: {left.rows:,} rows would become {after:,}, and "
        f"amounts be counted more than once. {way}, or ask for it all the same (many_to_many=True in Python)."
    )


def _rows(keys: Match) -> tuple[Any, Any]:
    """For each row of the result its place on the left, and on the right (-1 for none); in the order of the left."""
    order = np.argsort(keys.right, kind="stable")
    ranked = keys.right[order]
    first, last = np.searchsorted(ranked, keys.left, "left"), np.searchsorted(ranked, keys.left, "right")
    size = np.where(keys.left < 0, 0, last - first)
    times = np.maximum(size, 1)
    rows = np.repeat(np.arange(keys.left.size), times)
    within = np.arange(rows.size) - np.repeat(np.cumsum(times) - times, times)
    at = np.minimum(np.repeat(first, times) + within, max(order.size - 1, 0))
    return rows, np.where(np.repeat(size, times) > 0, order[at], -1)


def _side_by_side(pair: _Pair, rows: Any, found: Any) -> tuple[Table, dict[str, Column]]:
    """The columns of both tables, and for those of the right one what they were there, by their new names."""
    import pyarrow as pa

    left, right = pair.left, pair.right
    columns = {name: left.arrow.column(name).take(pa.array(rows)) for name in left.names}
    taken = {name.casefold() for name in columns}
    stem = right.name.rpartition(".")[0] or right.name
    picks = pa.array(found, mask=found < 0)
    new: dict[str, Column] = {}
    for column in right.columns:
        if column.name in pair.right_on:
            continue
        name = column.name if column.name.casefold() not in taken else f"{stem} {column.name}"
        while name.casefold() in taken:
            name += " 2"
        taken.add(name.casefold())
        columns[name] = right.arrow.column(column.name).take(picks)
        new[name] = column
    return rebuilt(left, pa.table(columns), left.row_numbers()[rows]), new


def _as_repeated(column: Column, source: Column | None, many: bool) -> Column:
    """A number of the right table stands on many rows of the result: it must not be added up there, and the same
    value many times over is no evidence for a test. It is left alone unless asked for, and then averaged."""
    if source is None:
        return replace(column, adds_up=False) if many and column.role is Role.MEASURE else column
    if column.role is Role.MEASURE or source.role is Role.MEASURE:
        if column.role is not Role.MEASURE:
            return column
        return replace(column, role=Role.IGNORED, adds_up=False, unit=source.unit)
    # A name stands on many rows now, and so is a label; a date of the right table is no time of these rows.
    if column.role is Role.TIME:
        return replace(column, role=Role.IGNORED)
    return column


def _foreign(right: Table) -> list[Problem]:
    """What was noticed in the right table, with its name; its rows are not those of the left."""
    problems = []
    for problem in right.problems:
        question = (
            None
            if problem.question is None
            else Question(text=phrased("Answer it when reading {table} by itself.", table=right.name))
        )
        problems.append(
            replace(
                problem,
                message=phrased("{table}: {text}", table=right.name, text=problem.message),
                examples=(),
                step=None,
                question=question,
            )
        )
    return problems


def _told(pair: _Pair, after: int, lost: Any, unused: int) -> Problem:
    left, right = pair.left, pair.right
    on = condition(pair.left_on, pair.right_on)
    joined = (
        phrased("{table} was joined on {on}: {n} rows before and after", table=right.name, on=on, n=left.rows)
        if left.rows == after
        else phrased(
            "{table} was joined on {on}: {n} rows before, {after} after",
            table=right.name,
            on=on,
            n=left.rows,
            after=after,
        )
    )
    unmatched = phrased_count(int(lost.size), "{n} row without a match", "{n} rows without a match")
    idle = phrased_count(unused, "{n} row of {table} never used", "{n} rows of {table} never used", table=right.name)
    text = joined
    for more in [*([unmatched] if lost.size else []), *([idle] if unused else [])]:
        text = phrased("{text}; {more}", text=text, more=more)
    keys = [left.arrow.column(name) for name in pair.left_on]
    return Problem(
        check="join",
        severity="note",
        column=None,
        rows=int(lost.size),
        examples=tuple(
            left.example(int(row), ", ".join(str(key[int(row)].as_py()) for key in keys)) for row in lost[:3]
        ),
        message=phrased("{text}.", text=text),
    )
