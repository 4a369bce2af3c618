"""Groups of rows left in their file: the same cells, asked for in SQL, a long table stretch by stretch."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ..engine import memory_budget
from ..engine.arrow_arrays import column as arrow_column
from ..engine.arrow_arrays import encoded, floats, wholes
from ..sql.expressions import quote_name
from ..support import progress
from ..support.errors import BudgetError
from ..tables import Table, Timeline
from . import known_groups
from .measures import Part
from .rollup import Base, BasePart, merged
from .row_codes import PERIOD
from .row_filter import EVERY, Only
from .sql_sums import Sum, facts_of, number

#: Columns of the table of periods; no column of a source can be named so: names hold no tabs.
_SET = "\tset"
_DAY, _PLACE = '"\tday"', '"\tplace"'


def group(table: Table, timeline: Timeline | None, keys: Sequence[str], parts: Sequence[Part], only: Only) -> Base:
    """The cells of rows by these keys, with these parts of each. Raises BudgetError where the memory is too small."""
    known = already(table, timeline, keys, parts, only)
    if known is not None:
        return known
    store = table.store
    asked = _Asked.of(table, timeline, keys, parts, only)
    # Stretches that count a value each cannot be put together; all else can.
    slabs = ["TRUE"] if asked.distinct else store.slabs()
    beside = {} if asked.periods is None else {"period_of": asked.periods}
    told = progress.parts(f"grouping {table.rows:,} rows", slabs)
    made: Base | None = None
    for slab in told:
        fresh = asked.base(store.query(asked.sql(slab), beside))
        made = fresh if made is None else merged([made, fresh])
    assert made is not None
    if only == EVERY and not asked.distinct:
        known_groups.remember(table, timeline, made)
    return made


def already(
    table: Table, timeline: Timeline | None, keys: Sequence[str], parts: Sequence[Part], only: Only
) -> Base | None:
    """The same cells where groupings known tell them, or those of days that are asked once for all; else None."""
    if any(part.kind == "distinct" for part in parts):
        return None
    found = known_groups.from_known(table, timeline, keys, parts, only)
    days = None if found is not None or timeline is None else known_groups.days_of(table, timeline, keys, only)
    if days is None:
        return found
    _ask_days(table, days[0], days[1], parts)
    return known_groups.from_known(table, timeline, keys, parts, only)


def _ask_days(table: Table, line: Timeline, columns: Sequence[str], parts: Sequence[Part]) -> None:
    """The cells by day, and by day and label of each column, asked in as few statements as the engine makes sets."""
    store = table.store
    progress.say(f"grouping {table.rows:,} rows by day")
    asked = _Asked.of(table, line, [*columns, PERIOD], parts, EVERY)
    found = store.query(asked.days_sql(), {"period_of": asked.periods})
    of = wholes(found.column(_SET))
    for place in range(-1, len(columns)):
        left_out = sum(1 << (len(columns) - 1 - at) for at in range(len(columns)) if at != place)
        own = found.take(arrow_column(np.flatnonzero(of == left_out)))
        keys = (*columns[place : place + 1], PERIOD) if place >= 0 else (PERIOD,)
        known_groups.remember(table, line, asked.base(own, keys))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Asked:
    """One grouping as SQL: `inner` columns of the rows, `outer` aggregates over them."""

    table: Table
    timeline: Timeline | None
    keys: tuple[str, ...]
    parts: tuple[Part, ...]
    only: Only
    inner: tuple[str, ...]
    outer: tuple[str, ...]
    names: Mapping[str, str]
    sums: Mapping[str, tuple[Sum, Sum]]
    distinct: tuple[Part, ...]
    periods: Any

    @classmethod
    def of(
        cls, table: Table, timeline: Timeline | None, keys: Sequence[str], parts: Sequence[Part], only: Only
    ) -> _Asked:
        added = list(dict.fromkeys(part.sql for part in parts if part.kind != "distinct"))
        facts = facts_of(table, added)
        names = {sql: f"v{place}" for place, sql in enumerate(added)}
        bits = table.store.abilities.whole_bits
        sums = {sql: (Sum.of(v, facts[sql], bits), Sum.of_squares(v, facts[sql], bits)) for sql, v in names.items()}
        # Columns that lack nothing have as many values as rows.
        filled = {quote_name(column.name) for column in table.columns if not column.missing} & set(added)
        distinct = tuple(part for part in parts if part.kind == "distinct")
        inner = [f"{_PLACE if key == PERIOD else quote_name(key)} AS k{place}" for place, key in enumerate(keys)]
        inner += [f"{number(sql)} AS {name}" for sql, name in names.items()]
        inner += [f"({part.sql}) AS d{place}" for place, part in enumerate(distinct)]
        outer = ["count(*) AS n"]
        for sql, v in names.items():
            if sql not in filled:
                outer.append(f"count({v}) AS {v}n")
            for mark, one in zip("sq", sums[sql], strict=True):
                outer += [f"{text} AS {v}{mark}{place}" for place, text in enumerate(one.sql)]
            kinds = {part.kind for part in parts if part.sql == sql}
            outer += [f"{kind}({v}) AS {v}{kind}" for kind in ("min", "max") if kind in kinds]
        for place in range(len(distinct)):
            outer += [f"count(DISTINCT d{place}) AS dn{place}", f"count(d{place}) AS dc{place}"]
        return cls(
            table=table,
            timeline=timeline,
            keys=tuple(keys),
            parts=tuple(parts),
            only=only,
            inner=tuple(inner),
            outer=tuple(outer),
            names=names,
            sums=sums,
            distinct=distinct,
            periods=None if PERIOD not in keys or timeline is None else _periods(table, timeline),
        )

    def sql(self, slab: str) -> str:
        """The query over a stretch of rows."""
        time = None if self.timeline is None else self.timeline.column
        source = "numbered"
        if self.periods is not None and time is not None:
            source += f" LEFT JOIN period_of ON CAST({quote_name(time)} AS DATE) = {_DAY}"
        by = ", ".join(f"k{place}" for place in range(len(self.keys)))
        rows = (
            f"SELECT {', '.join(self.inner) or '1 AS one'} FROM {source} "
            f"WHERE ({self.only.sql(self.table, time)}) AND {slab}"
        )
        return f"SELECT {', '.join([*([by] if by else []), *self.outer])} FROM ({rows})" + (
            f" GROUP BY {by}" if by else ""
        )

    def days_sql(self) -> str:
        """The query by the last key (the day), and by it and each of the others."""
        time = None if self.timeline is None else self.timeline.column
        last = len(self.keys) - 1
        by, day = ", ".join(f"k{place}" for place in range(last)), f"k{last}"
        sets = ", ".join([f"({day})", *(f"({day}, k{place})" for place in range(last))])
        # The columns in the order in which the sets name them, as some engines want it.
        mark = f"grouping({day}, {by})" if by else "0"
        rows = (
            f"SELECT {', '.join(self.inner)} FROM source LEFT JOIN period_of "
            f"ON CAST({quote_name(str(time))} AS DATE) = {_DAY}"
        )
        shown = ", ".join([*([by] if by else []), day, f"{mark} AS {quote_name(_SET)}", *self.outer])
        return f"SELECT {shown} FROM ({rows}) GROUP BY GROUPING SETS ({sets})"

    def base(self, found: Any, keys: Sequence[str] | None = None) -> Base:
        """The cells of an answer, by all keys or some of them, in the order of their keys: engines give them in another
        one each time, and what is added up of doubles later must not hang on that."""
        own = self.keys if keys is None else tuple(keys)
        coded = [self._codes(key, found.column(f"k{self.keys.index(key)}")) for key in own]
        order = np.lexsort([codes for codes, _ in reversed(coded)]) if coded else np.arange(found.num_rows)
        found = found.take(arrow_column(order))
        return Base(
            codes={key: codes[order] for key, (codes, _) in zip(own, coded, strict=True)},
            sizes={key: size for key, (_, size) in zip(own, coded, strict=True)},
            rows=floats(found.column("n")),
            parts={part: self._part(part, found) for part in self.parts},
        )

    def _part(self, part: Part, found: Any) -> BasePart:
        if part.kind == "distinct":
            place = self.distinct.index(part)
            return BasePart(
                count=floats(found.column(f"dc{place}")),
                sums=(),
                squares=(),
                distinct=floats(found.column(f"dn{place}")),
            )
        v = self.names[part.sql]
        own, squares = (
            one.slices([found.column(f"{v}{mark}{place}") for place in range(len(one.sql))])
            for mark, one in zip("sq", self.sums[part.sql], strict=True)
        )
        return BasePart(
            count=floats(found.column("n" if f"{v}n" not in found.column_names else f"{v}n")),
            sums=own,
            squares=squares,
            low=floats(found.column(f"{v}min")) if part.kind == "min" else None,
            high=floats(found.column(f"{v}max")) if part.kind == "max" else None,
        )

    def _codes(self, key: str, column: Any) -> tuple[npt.NDArray[Any], int]:
        if key == PERIOD:
            assert self.timeline is not None
            return wholes(column, self.timeline.count).astype(np.intp), self.timeline.count + 1
        codes, labels = encoded(column)
        every = self.table.labels(key)
        place_of = {label: place for place, label in enumerate(every)}
        return np.array([place_of[label] for label in labels], dtype=np.intp)[codes], len(every)


def fits(table: Table, groups: int, keys: Sequence[str], parts: int) -> bool:
    """Whether so many groups stay within the memory budget of a table left in its file."""
    store = table.store
    return store.memory is None or memory_budget.needed(groups, len(keys), 2 * parts) <= store.memory


def check_budget(table: Table, groups: int, keys: Sequence[str], parts: int) -> None:
    """Raise BudgetError, with the smallest budget that would do, when so many groups do not fit."""
    store, need = table.store, memory_budget.needed(groups, len(keys), 2 * parts)
    if store.memory is not None and need > store.memory:
        by = ", ".join("period" if key == PERIOD else key for key in keys)
        raise BudgetError(
            f"The memory budget of {memory_budget.said(store.memory)} is too small for this plan"
            + (f" ({groups:,} groups by {by})" if groups > 1 else "")
            + f": the smallest that would do is {memory_budget.said(need)}. Raise it with --memory, or name fewer "
            "columns with --by."
        )


def _periods(table: Table, line: Timeline) -> Any:
    """Each day that occurs, and its place on the timeline."""
    import pyarrow as pa

    days = table.day_counts(line.column)[0]
    return pa.table({"\tday": arrow_column(days), "\tplace": arrow_column(line.places(days).astype(np.int32))})
