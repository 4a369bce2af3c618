"""The SELECT of a total, put together from what is wanted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..aggregation.measures import Measure
from ..findings.checks import between
from ..sql.expressions import quote_name, quote_value
from ..tables import Column, Grain, Period, Table, Timeline


class Cycle(StrEnum):
    """Parts of the calendar that come again."""

    WEEKDAY = "weekday"
    MONTH = "month of the year"
    QUARTER = "quarter of the year"


_CYCLE_SQL = {Cycle.WEEKDAY: "isodow", Cycle.MONTH: "month", Cycle.QUARTER: "quarter"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What is to be added up; `span` and `baseline` are resolved, `per` averages the totals of whole periods."""

    measures: tuple[Measure, ...]
    by: tuple[Column, ...] = ()
    grain: Grain | None = None
    cycle: Cycle | None = None
    span: Period | None = None
    baseline: Period | None = None
    per: Grain | None = None
    share: bool = False
    running: bool = False
    order: str | None = None
    ranked_by: str = "value"
    top: int | None = None
    above: float | None = None
    below: float | None = None


class Statement:
    """The SELECT of a request, in parts."""

    def __init__(self, table: Table, wanted: Wanted, line: Timeline | None) -> None:
        self.table, self.wanted, self.line = table, wanted, line
        self.keys = self._keys()

    @property
    def labels(self) -> int:
        return len(self.keys)

    def _keys(self) -> list[tuple[str, str]]:
        """Name and SQL of each label, dates last."""
        keys = [(column.name, self.table.label_sql(column.name)) for column in self.wanted.by]
        if self.line is not None:
            time = quote_name(self.line.column)
            if self.wanted.grain is not None:
                keys.append(("period", f"CAST({self.line.calendar.sql(self.wanted.grain, time)} AS DATE)"))
            if self.wanted.cycle is not None:
                keys.append((str(self.wanted.cycle), f"{_CYCLE_SQL[self.wanted.cycle]}({time})"))
        return keys

    def condition(self, span: Period | None) -> str:
        terms = [] if self.table.where is None else [f"({self.table.where})"]
        if span is not None and self.line is not None:
            terms.append(between(self.line.column, span))
        if self.line is not None and (self.wanted.grain is not None or self.wanted.cycle is not None):
            terms.append(f"{quote_name(self.line.column)} IS NOT NULL")
        return " AND ".join(terms) or "TRUE"

    def rows_of(self, span: Period | None) -> str:
        """The condition; of levels, the last moment of each period only."""
        condition = self.condition(span)
        if self.line is None or not of_levels(self.wanted.measures):
            return condition
        day = f"CAST({quote_name(self.line.column)} AS DATE)"
        grain = (
            ""
            if self.wanted.grain is None
            else (f" GROUP BY {self.line.calendar.sql(self.wanted.grain, quote_name(self.line.column))}")
        )
        return f"{condition} AND {day} IN (SELECT max({day}) FROM source WHERE {condition}{grain})"

    def _shifted(self, name: str, sql: str) -> str:
        """A period of the baseline as the one of the span that it is set against."""
        if name != "period" or self.wanted.span is None or self.wanted.baseline is None:
            return sql
        now, then = self.wanted.span.start, self.wanted.baseline.start
        if self.wanted.grain in (Grain.DAY, Grain.WEEK):
            far, unit = int((now - then).astype(np.int64)), "DAY"
        else:
            far, unit = int((now.astype("datetime64[M]") - then.astype("datetime64[M]")).astype(np.int64)), "MONTH"
        return f"CAST({sql} + INTERVAL {far} {unit} AS DATE)"

    def grouped(self, span: Period | None, *, shifted: bool = False) -> str:
        figures = [f"{self._figure(measure)} AS {quote_name(measure.name)}" for measure in self.wanted.measures]
        keys = [f"{self._shifted(name, sql) if shifted else sql} AS {quote_name(name)}" for name, sql in self.keys]
        group = f" GROUP BY {', '.join(str(place) for place in range(1, len(keys) + 1))}" if keys else ""
        condition = self.rows_of(span)
        where = "" if condition == "TRUE" else f" WHERE {condition}"
        return f"SELECT {', '.join([*keys, *figures])} FROM source{where}{group}"

    def _figure(self, measure: Measure) -> str:
        if self.wanted.per is None or self.line is None or self.wanted.span is None:
            return measure.sql
        return f"({measure.sql}) / {number_of(self.wanted.span, self.wanted.per, self.line)}"

    def made(self, *, cut: bool = True, further: int = 0) -> str:
        wanted = self.wanted
        name = quote_name(wanted.measures[0].name)
        keys = [quote_name(key) for key, _ in self.keys]
        ranked = name
        if wanted.baseline is not None:
            sql, ranked = (
                self._compared(name, keys),
                quote_name(wanted.ranked_by) if wanted.ranked_by != "value" else name,
            )
        elif wanted.share and keys:
            sql = f"SELECT *, {name} / sum({name}) OVER () AS share FROM ({self.grouped(wanted.span)}) AS groups"
        elif wanted.running and keys:
            parts = f"PARTITION BY {', '.join(keys[:-1])} " if keys[:-1] else ""
            sql = (
                f"SELECT {', '.join(keys)}, sum({name}) OVER ({parts}ORDER BY period) AS {name} "
                f"FROM ({self.grouped(wanted.span)}) AS groups"
            )
        else:
            sql = self.grouped(wanted.span)
        bounds = [
            f"{name} {sign} {bound!r}"
            for sign, bound in ((">", wanted.above), ("<", wanted.below))
            if bound is not None
        ]
        if bounds and keys:
            sql = f"SELECT * FROM ({sql}) AS figures WHERE {' AND '.join(bounds)}"
        if not keys:
            return sql
        # Labels in their own order where nothing else is asked for; equal figures too.
        ties = ", ".join(self._ordered(name, key) for (name, _), key in zip(self.keys, keys, strict=True))
        if wanted.order is not None:
            way = "DESC" if wanted.order == "descending" else "ASC"
            sql = f"{sql} ORDER BY {ranked} {way} NULLS LAST, {ties}"
        else:
            sql = f"{sql} ORDER BY {ties}"
        return f"{sql} LIMIT {wanted.top + further}" if cut and wanted.top is not None else sql

    def _ordered(self, column: str, key: str) -> str:
        """A label's key in the order that was stated for its column, those left out behind."""
        order = self.table.stated.orders.get(column)
        if order is None:
            return key
        places = " ".join(f"WHEN {quote_value(label)} THEN {place}" for place, label in enumerate(order))
        return f"CASE {key} {places} ELSE {len(order)} END, {key}"

    def _compared(self, name: str, keys: list[str]) -> str:
        """Both spans side by side; of what adds up, a label that is in one of them only is nought in the other."""
        wanted = self.wanted
        now, then = self.grouped(wanted.span), self.grouped(wanted.baseline, shifted=True)
        zero = wanted.measures[0].additive
        new = f"coalesce(n.{name}, 0)" if zero else f"n.{name}"
        old = f"coalesce(b.{name}, 0)" if zero else f"b.{name}"
        shown = [f"coalesce(n.{key}, b.{key}) AS {key}" for key in keys]
        percent = (
            ""
            if wanted.measures[0].share
            else f", CASE WHEN {old} > 0 THEN 100.0 * ({new} / {old} - 1) END AS change_pct"
        )
        columns = ", ".join([*shown, f"{new} AS {name}", f"{old} AS baseline", f"{new} - {old} AS change"])
        matched = " AND ".join(f"n.{key} IS NOT DISTINCT FROM b.{key}" for key in keys) or "TRUE"
        return f"SELECT {columns}{percent} FROM ({now}) AS n FULL JOIN ({then}) AS b ON {matched}"


def of_levels(measures: Sequence[Measure]) -> bool:
    return any(measure.level for measure in measures)


def number_of(span: Period, grain: Grain, line: Timeline) -> int:
    low, high = (int(number) for number in line.calendar.number(grain, np.array([span.start, span.end])))
    return high - low + 1
