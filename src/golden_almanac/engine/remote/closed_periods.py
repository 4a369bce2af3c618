"""Answers over periods that are over, kept from one edition to the next, so that the next one reads what is new.

A statement whose answer over some rows can be put together from the answers over parts of them (counts, sums, least and
greatest by labels and periods) is asked of what was added since, and put together with what is kept. Whether the rows
kept are those that the engine still has is told by their number and by the sum of the numbers that rows get from what
they hold, month by month: where one differs, everything is read again.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np

from ...sql.content_numbers import rows_number
from ...sql.expressions import quote_name

if TYPE_CHECKING:
    import pyarrow as pa

#: Rows of an answer that is kept, at most.
_MOST_KEPT = 5_000_000
#: How parts of an answer are put together, by the aggregate that made them.
_PUT_TOGETHER = {"count": "sum", "sum": "sum", "min": "min", "max": "max", "logicaland": "min"}
#: What is asked of a month: its rows, and the sum of their numbers.
Month = tuple[int, int]


class Shelf(Protocol):
    """Where answers are kept between runs."""

    def state(self) -> tuple[str, date, Mapping[str, Month]] | None:
        """What rows they are of, the first day that they leave out, and their months; None where nothing is kept."""

    def get(self, key: str, until: date) -> pa.Table | None:
        """An answer over the rows before a day, None where it is not kept."""

    def begin(self, source: str, until: date, months: Mapping[str, Month]) -> None:
        """Says what the answers that are put from now on are of."""

    def put(self, key: str, until: date, answer: pa.Table) -> None:
        """Keeps an answer."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Plan:
    """How an answer is put together: its keys, and how each other column is; `order` are keys that it is sorted by."""

    keys: tuple[str, ...]
    columns: Mapping[str, str]
    order: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Closed:
    """Rows before the day `until`, by a column of dates, are over; the answers on the `shelf` are of those before the
    day `before`, None where none of them is usable. `open` says whether there are rows beside."""

    shelf: Shelf
    source: str
    column: str
    moments: bool
    until: date
    before: date | None
    open: bool
    restated: tuple[str, ...] = ()

    def rows(self, first: date | None, end: date | None) -> str:
        """SQL for the rows from a day on and before another; those without a day are never over."""
        column = quote_name(self.column)
        terms = [f"{column} {sign} {self._day(day)}" for sign, day in ((">=", first), ("<", end)) if day is not None]
        both = " AND ".join(terms)
        return both if end is not None else f"({both} OR {column} IS NULL)"

    def _day(self, day: date) -> str:
        return f"TIMESTAMP '{day} 00:00:00'" if self.moments else f"DATE '{day}'"

    def answer(
        self, key: Callable[[date], str], ask: Callable[[str], pa.Table], put: Callable[[Sequence[pa.Table]], pa.Table]
    ) -> pa.Table:
        """An answer over all rows, of which only those are read that are not kept. `key` is what it is kept under, over
        the rows before a day; `ask` gives it over some rows; `put` puts answers together."""
        before = self.before
        past = None if before is None else self.shelf.get(key(before), before)
        new = past is None or before != self.until
        if past is None:
            past = ask(self.rows(None, self.until))
        elif before is not None and before < self.until:
            past = put([past, ask(self.rows(before, self.until))])
        if new and past.num_rows <= _MOST_KEPT:
            self.shelf.put(key(self.until), self.until, past)
        return put([past, ask(self.rows(self.until, None))]) if self.open else put([past])


def months_sql(column: str, kinds: Sequence[tuple[str, str]]) -> str:
    """What tells the months of a table: the month `m`, its rows `n`, the sum `s` of their numbers, its last day `d`."""
    day = quote_name(column)
    return (
        f"CAST(date_trunc('month', {day}) AS DATE) AS m, count(*) AS n, sum({rows_number(kinds)}) AS s, "
        f"max(CAST({day} AS DATE)) AS d"
    )


def closed_of(
    found: Sequence[Mapping[str, Any]], shelf: Shelf, column: str, moments: bool, source: str
) -> Closed | None:
    """What of the rows is over, by their months (see `months_sql`), and what of that is kept; None where no row has a
    date."""
    last = max((row["d"] for row in found if row["d"] is not None), default=None)
    if last is None:
        return None
    until = (last + timedelta(days=1)).replace(day=1)
    told = {str(row["m"])[:7]: (int(row["n"]), int(row["s"])) for row in found if row["m"] is not None}
    closed = {month: told[month] for month in sorted(told) if month < f"{until:%Y-%m}"}
    beside = sum(int(row["n"]) for row in found) > sum(n for n, _ in closed.values())
    made = Closed(
        shelf=shelf, source=_digest(source, column), column=column, moments=moments, until=until, before=None,
        open=beside,
    )  # fmt: skip
    kept = shelf.state()
    shelf.begin(made.source, until, closed)
    if kept is None or kept[0] != made.source:
        return made
    _, before, then = kept
    past = {month: told for month, told in closed.items() if month < f"{before:%Y-%m}"}
    differing = sorted(month for month in {*past, *then} if past.get(month) != then.get(month))
    if differing or before > until:
        return replace(made, restated=tuple(differing))
    return replace(made, before=before)


def key_of(select: str, sql: str, beside: Mapping[str, Any], until: date) -> str:
    """What an answer over the rows before a day is kept under: the rows, the statement, and of small tables beside it
    what tells of those days."""
    told = [select, sql]
    for name, table in sorted(beside.items()):
        days = next((one.name for one in table.schema if str(one.type) == "date32[day]"), None)
        told += [name, repr((table if days is None else _before(table, days, until)).to_pydict())]
    return _digest(*told)


def _before(table: pa.Table, column: str, day: date) -> pa.Table:
    import pyarrow as pa
    import pyarrow.compute as pc

    return table.filter(pc.less(table.column(column), pa.scalar(day, pa.date32())))


def _digest(*texts: str) -> str:
    return hashlib.sha256("\0".join(texts).encode()).hexdigest()


@lru_cache(maxsize=256)
def plan_of(sql: str) -> Plan | None:
    """How the answer of a statement over `source` is put together from answers over parts of the rows; None where it
    is not to be had so: values counted once each, ranks, middles, whole rows."""
    import sqlglot
    from sqlglot import errors, exp

    try:
        tree: Any = sqlglot.parse_one(sql, read="duckdb")
    except (errors.SqlglotError, RecursionError):
        return None
    if not isinstance(tree, exp.Select) or not _by_rows(tree):
        return None
    keys, columns = [], {}
    for place, shown in enumerate(tree.expressions):
        name, made = shown.alias_or_name, shown.unalias()
        made = made.this if isinstance(made, exp.Filter) else made
        kind = type(made).__name__.lower()
        if kind in _PUT_TOGETHER and not list(made.find_all(exp.Distinct, exp.Window)) and not _added(made.this):
            columns[name] = _PUT_TOGETHER[kind]
        elif _added(made):
            return None
        else:
            keys.append(name)
        if not name or place != len(keys) + len(columns) - 1:
            return None
    if tree.args.get("group") is None:
        if not columns:
            return None
        # One row: what is no aggregate is the same of all rows.
        columns = {shown.alias_or_name: columns.get(shown.alias_or_name, "max") for shown in tree.expressions}
        keys = []
    order = tree.args.get("order")
    sorted_by = [] if order is None else [one.this for one in order.expressions]
    if any(not one.is_int or int(one.name) > len(keys) for one in sorted_by):
        return None
    return Plan(keys=tuple(keys), columns=columns, order=tuple(keys[int(one.name) - 1] for one in sorted_by))


def _by_rows(tree: Any) -> bool:
    """Whether a SELECT groups rows of `source`, each of which is looked at by itself."""
    from sqlglot import exp

    if any(tree.args.get(one) for one in ("with", "with_", "distinct", "having", "limit", "offset", "qualify")):
        return False
    named = [table.name.casefold() for table in tree.find_all(exp.Table)]
    if sum(name in ("source", "numbered") for name in named) != 1 or {*named} - {"source", "numbered", "period_of"}:
        return False
    for inner in tree.find_all(exp.Select):
        if inner is tree:
            continue
        if not isinstance(inner.parent, exp.Subquery) or not isinstance(inner.parent.parent, exp.From):
            return False
        rest = ("group", "distinct", "having", "limit", "offset", "order", "qualify", "with", "with_")
        if any(inner.args.get(one) for one in rest) or any(_added(one) for one in inner.expressions):
            return False
    joins = [join for select in tree.find_all(exp.Select) for join in select.args.get("joins") or ()]
    return all(isinstance(join.this, exp.Table) for join in joins)


def _added(node: Any) -> bool:
    """Whether something is worked out over several rows."""
    from sqlglot import exp

    if node is None:
        return False
    found = (one for one in node.find_all(exp.AggFunc, exp.Window) if type(one).__name__ != "Grouping")
    return any(True for _ in found)


def put_together(answers: Sequence[pa.Table], plan: Plan) -> pa.Table:
    """Answers over parts of the rows as that over all of them."""
    import pyarrow as pa

    first = answers[0]
    if len(answers) > 1:
        every = pa.concat_tables([one.cast(first.schema) for one in answers])
        made = every.group_by(list(plan.keys), use_threads=False).aggregate(list(plan.columns.items()))
        names = [*plan.keys, *(f"{name}_{how}" for name, how in plan.columns.items())]
        made = made.select(names).rename_columns([*plan.keys, *plan.columns])
        first = made.select(first.column_names).cast(first.schema)
    return first.sort_by([(name, "ascending") for name in plan.order]) if plan.order else first


def sample_together(answers: Sequence[pa.Table], row: str, bound: int) -> pa.Table:
    """Rows drawn from parts, those whose numbers lie below a bound."""
    import pyarrow as pa

    every = pa.concat_tables([one.cast(answers[0].schema) for one in answers])
    numbers = np.asarray(every.column(row).to_numpy()).astype(np.int64)
    return every.filter(pa.array((numbers >> 31) < bound))
