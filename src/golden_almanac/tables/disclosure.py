"""What must not be shown: private columns, and groups so small that their figures are those of a few.

Both are met where the table is made, so that nothing downstream can show what it does not have. A private column is not
in the table at all. Labels with fewer rows than the least size of a group are put together as `OTHER`, and with them
the next smallest where they alone would be given away by a total; within every label of a dimension that they lie in,
too (the small port of a region, by the region's total). Rows and cells by themselves are groups of one, so examples,
values at the ends of a column and rows set aside are not kept.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ..sql.expressions import quote_name, quote_value
from ..support.errors import ColumnError, RequestError, SourceError
from ..support.phrasing import phrased_count
from .private_names import digest_of, is_among, wanted_of
from .problems import Problem
from .table import Column, Role, Table

#: The label of groups that are put together.
OTHER = "(other)"
#: Columns of more labels are not looked at for what lies within what.
_MOST_LABELS = 2_000


def without_private(table: Table, names: Sequence[str]) -> Table:
    """The table without the columns of these names (case folded, or as the source spells them)."""
    wanted = wanted_of(names)
    gone = [column for column in table.columns if any(is_among(one, wanted) for one in (column.name, column.original))]
    lost = {one.name for one in gone}
    # Dates that were put together from a private column tell what stands in it.
    lost |= {
        column.name
        for column in table.columns
        if not column.original and any(_speaks_of(problem, lost) for problem in table.problems)
    }
    if len(lost) == len(table.columns):
        raise SourceError(table.name, "all of its columns are private", "Leave at least one to report on.")
    hidden = (*table.private, *(name for one in gone for name in dict.fromkeys((one.name, one.original))))
    kept: dict[tuple[Any, ...], Any] = {k: v for k, v in table._cache.items() if k == ("row numbers",)}
    return replace(
        table,
        store=table.store.dropped(sorted(lost)) if lost else table.store,
        columns=tuple(_silent(column, lost) for column in table.columns if column.name not in lost),
        # What was noticed may quote cells of the rows it was noticed in.
        problems=tuple(
            replace(problem, examples=()) if problem.column is None else problem
            for problem in table.problems
            if (problem.column is None or problem.column not in lost) and not _speaks_of(problem, lost)
        ),
        aside=tuple(replace(row, text="", cells={}) for row in table.aside),
        private=tuple(dict.fromkeys(hidden)),
        _cache=kept,
    )


def _speaks_of(problem: Problem, names: Iterable[str]) -> bool:
    """Whether a repair was made of columns of these names."""
    made_of = [] if problem.step is None else problem.step.facts.get("columns", ())
    return bool(set(made_of) & set(names))


def _silent(column: Column, lost: Iterable[str]) -> Column:
    """A column that says nothing of those that are gone: not what it was taken for because of them."""
    quoted = any(repr(name) in column.because for name in lost)
    return replace(
        column,
        because="" if quoted else column.because,
        beside="" if column.beside in lost else column.beside,
        weights=tuple(name for name in column.weights if name not in lost),
        weighed=None if column.weighed is not None and set(column.weighed[:2]) & set(lost) else column.weighed,
    )


def check_private(names: Iterable[str], tables: Sequence[Table]) -> None:
    """Refuses private names that no column bears: a slip of the pen must not make a column public."""
    hidden = {spelt for table in tables for one in table.private for spelt in (one.casefold(), digest_of(one))}
    for name in names:
        if name.casefold() not in hidden:
            available = [name for table in tables for name in table.names]
            raise ColumnError.unknown(name, available, "the private columns")


def minimum_of(size: Any) -> int:
    """The least size of a group as a whole number. Raises RequestError."""
    whole = isinstance(size, int | float) and not isinstance(size, bool) and size == size and abs(size) < 1e15
    if not whole or size != int(size) or size < 0:
        raise RequestError("The least size of a group", size, "a whole number of rows that is not negative")
    return int(size)


def folded(table: Table, minimum: int, within: Sequence[str] = ()) -> Table:
    """The table with the labels of fewer rows than `minimum` put together, in every column of labels.

    `within` are conditions (safe SQL), such as periods that will be compared: a label must have that many rows, or
    none, where each of them holds. Raises SourceError for a table that is smaller than a group may be.
    """
    if minimum < 2:
        return replace(table, minimum=minimum) if table.minimum != minimum else table
    if table.rows < minimum:
        raise SourceError(
            table.name, f"only {table.rows} rows are left, and a group has {minimum} at least", "Loosen the condition."
        )
    labelled = [column for column in table.columns if _labelled(column)]
    small = {one.name: found for one in labelled if (found := _small(table, one, labelled, minimum, within))}
    columns = {name: f"CASE WHEN {_in(table, name, labels)} THEN {quote_value(OTHER)} "
               f"ELSE CAST({table.label_sql(name)} AS VARCHAR) END" for name, labels in small.items()}  # fmt: skip
    told = [problem for problem in table.problems if problem.check != "small groups"]
    told = [replace(problem, examples=()) for problem in told]
    for name, labels in small.items():
        message = phrased_count(
            len(labels),
            "{n} label of {column} is told as {other}, so that no group has fewer than {least} rows.",
            "{n} labels of {column} are told as {other}, so that no group has fewer than {least} rows.",
            column=repr(name),
            other=OTHER,
            least=minimum,
        )
        told.append(Problem(check="small groups", severity="note", column=name, rows=0, message=message))
    kept: dict[tuple[Any, ...], Any] = {k: v for k, v in table._cache.items() if k == ("row numbers",)}
    return replace(
        table,
        store=table.store.recast(columns) if columns else table.store,
        columns=tuple(
            replace(column, type="text", distinct=column.distinct - len(small[column.name]) + 1)
            if column.name in small
            else column
            for column in table.columns
        ),
        problems=tuple(told),
        aside=tuple(replace(row, text="", cells={}) for row in table.aside),
        minimum=minimum,
        _cache=kept,
    )


def _labelled(column: Column) -> bool:
    """Columns whose values may become the names of groups."""
    return column.type in ("text", "boolean") or (column.type == "number" and column.role in (Role.DIMENSION, Role.KEY))


def _in(table: Table, name: str, labels: Sequence[str | None]) -> str:
    told = ", ".join(quote_value(label) for label in labels if label is not None)
    parts = [f"CAST({table.label_sql(name)} AS VARCHAR) IN ({told})"] if told else []
    parts += [f"{quote_name(name)} IS NULL"] if None in labels else []
    return " OR ".join(parts)


def _small(
    table: Table, column: Column, others: Sequence[Column], minimum: int, within: Sequence[str]
) -> list[str | None]:
    """The labels of a column that are put together."""
    sql = f"CAST({table.label_sql(column.name)} AS VARCHAR)"
    spans = ["TRUE", *within]
    counted = ", ".join(f"count(*) FILTER ({span}) AS n{place}" for place, span in enumerate(spans))
    found = table.store.query(f"SELECT {sql} AS label, {counted} FROM source GROUP BY 1 ORDER BY 1 NULLS LAST")
    labels: list[str | None] = found.column("label").to_pylist()
    counts = np.column_stack([np.asarray(found.column(f"n{place}").to_pylist()) for place in range(len(spans))])
    pooled = ((counts > 0) & (counts < minimum)).any(axis=1)
    pooled |= np.array([label == OTHER for label in labels])
    if not pooled.any():
        return []
    parts = [np.zeros(len(labels), dtype=np.intp)]
    if len(labels) <= _MOST_LABELS:
        parts += [_parts(table, sql, other, labels) for other in others if other.name != column.name]
    order = np.argsort(counts[:, 0], kind="stable")
    grown = True
    while grown and not pooled.all():
        grown = False
        for part in parts:
            for place in np.unique(part[pooled & (part >= 0)]):
                inside = part == place
                own = counts[pooled & inside].sum(axis=0)
                if not ((own > 0) & (own < minimum)).any() or (pooled | ~inside).all():
                    continue
                # The next smallest there goes with them.
                more = next(at for at in order if inside[at] and not pooled[at])
                pooled[more] = grown = True
    return [label for label, gone in zip(labels, pooled, strict=True) if gone]


def _parts(table: Table, sql: str, other: Column, labels: Sequence[str | None]) -> npt.NDArray[np.intp]:
    """For each label the part of another column that it lies in; -1 for all where they lie in several."""
    nowhere = np.full(len(labels), -1, dtype=np.intp)
    found = table.store.query(
        f"SELECT {sql} AS label, min({table.label_sql(other.name)}) AS part, "
        f"count(DISTINCT {table.label_sql(other.name)}) AS n FROM source GROUP BY 1 ORDER BY 1 NULLS LAST"
    )
    if any(count != 1 for count in found.column("n").to_pylist()):
        return nowhere
    names = found.column("part").to_pylist()
    number: dict[Any, int] = {}
    return np.array([number.setdefault(name, len(number)) for name in names], dtype=np.intp)
