"""Factors: columns an outcome may go with, as numbers or as labels, and which of them cannot be used."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from ...aggregation.measure_names import spoken
from ...sql.expressions import quote_name, quote_value
from ...support.errors import ColumnError
from ...support.phrasing import phrased
from ...tables import Column, Role, Table
from .outcome import LEAST_ROWS, MOST_SIZE, Outcome

Floats = npt.NDArray[np.float64]

#: A category has no more labels than this; rarer ones are put together as "other".
MOST_LEVELS = 40
#: A label with fewer rows is put together with others.
_LEAST_LEVEL = 8
#: The same where there are fewer rows than a fit needs.
_LEAST_OF_FEW = 3
OTHER = "other"
_HUGE = phrased("its numbers are too large to be squared")
_WEEKDAYS = "Monday Tuesday Wednesday Thursday Friday Saturday Sunday".split()
_MONTHS = "January February March April May June July August September October November December".split()


@dataclass(frozen=True, kw_only=True, eq=False)
class Factor:
    """One factor over the outcome's rows.

    A number has `values` (NaN where missing) and no codes; a category has `codes` (n,) into `levels`. `column` is the
    table's column; `part` is "" or, for dates, "month" or "weekday"; `folded` the labels put together as "other".
    """

    name: str
    column: str
    part: str
    values: Floats | None
    codes: npt.NDArray[np.intp] | None
    levels: tuple[str | None, ...]
    folded: tuple[str | None, ...] = ()
    unit: str | None = None

    @property
    def number(self) -> bool:
        return self.values is not None

    @property
    def spoken(self) -> str:
        return f"{self.part} of {spoken(self.column)}" if self.part else spoken(self.column, self.unit)

    @cached_property
    def missing(self) -> npt.NDArray[np.bool_]:
        assert self.values is not None
        return np.isnan(self.values)

    @cached_property
    def mean(self) -> float:
        assert self.values is not None
        return float(np.nanmean(self.values))

    @cached_property
    def sd(self) -> float:
        assert self.values is not None
        return float(np.nanstd(self.values))

    @cached_property
    def bins(self) -> tuple[npt.NDArray[np.intp], int, Floats]:
        """Codes of the rows in up to 32 bins of about equally many, the number of bins, and their upper edges; a
        category's own codes. Missing numbers are the last bin, whose edge is infinite."""
        if self.codes is not None:
            return self.codes, len(self.levels), np.empty(0)
        assert self.values is not None
        known = self.values[~self.missing]
        distinct = np.unique(known if known.size <= 200_000 else known[:: known.size // 100_000])
        if distinct.size <= 32:
            edges = distinct
        else:
            shares = np.r_[0.005, 0.01, 0.02, np.linspace(0.05, 0.95, 25), 0.98, 0.99]
            edges = np.unique(np.append(np.quantile(known, shares, method="lower"), known.max()))
        codes = np.searchsorted(edges, self.values, side="left")
        codes = np.minimum(codes, edges.size - 1)
        count = edges.size
        if self.missing.any():
            codes = np.where(self.missing, count, codes)
            return codes.astype(np.intp), count + 1, np.append(edges, np.inf)
        return codes.astype(np.intp), count, edges

    def next_above(self, code: int) -> float:
        """The least value of a number above the edge of a bin; the edge itself where there is none."""
        known: dict[int, float] = self.__dict__.setdefault("_next", {})
        if code not in known:
            assert self.values is not None
            edge = float(self.bins[2][code])
            above = self.values[self.values > edge]
            known[code] = float(above.min()) if above.size else edge
        return known[code]

    def rows(self, places: npt.NDArray[np.intp]) -> Factor:
        """The factor over some of the rows."""
        return replace(
            self,
            values=None if self.values is None else self.values[places],
            codes=None if self.codes is None else self.codes[places],
        )

    def equals(self, table: Table, level: str | None) -> str:
        """The rows of a level, as SQL over the source."""
        column = quote_name(self.column)
        if level == OTHER and self.folded:
            listed = ", ".join(quote_value(label) for label in self.folded if label is not None)
            return f"{column} IN ({listed})"
        if self.part == "month":
            return f"month({column}) = {_MONTHS.index(str(level)) + 1}"
        if self.part == "weekday":
            return f"isodow({column}) = {_WEEKDAYS.index(str(level)) + 1}"
        return table.equals(self.column, level)


@dataclass(frozen=True, slots=True, kw_only=True)
class LeftOut:
    """A factor that is not looked at, and why."""

    factor: str
    reason: str


def factors_of(outcome: Outcome, names: Sequence[str] | None) -> tuple[list[Factor], list[LeftOut]]:
    """The factors named, or all that are fit, over the outcome's rows. Raises ColumnError for unknown names."""
    table = outcome.table
    if names:
        columns = list(dict.fromkeys(table.column(name, "the factors") for name in names))
    else:
        wanted = (Role.DIMENSION, Role.MEASURE, Role.TIME)
        columns = [column for column in table.columns if column.role in wanted and column.name not in outcome.columns]
    kept: list[Factor] = []
    left: list[LeftOut] = []
    for column in columns:
        if column.name in outcome.columns:
            left.append(LeftOut(factor=column.name, reason=phrased("it is the outcome itself")))
            continue
        made, reason = _factor(outcome, column)
        kept += made
        if reason:
            left.append(LeftOut(factor=column.name, reason=reason))
    if not kept and not left:
        raise ColumnError(
            outcome.name,
            "No column is fit to be a factor of the outcome.",
            "Name some with --factor; columns of numbers, labels and dates can be used.",
        )
    return kept, left


def _factor(outcome: Outcome, column: Column) -> tuple[list[Factor], str]:
    table, rows = outcome.table, outcome.rows
    if column.type in ("date", "datetime"):
        return _dated(outcome, column)
    if column.type == "empty":
        return [], phrased("it holds no values")
    if column.type == "number" and column.role is not Role.DIMENSION and column.distinct > 2:
        values = table.numbers(column.name)[rows]
        known = values[np.isfinite(values)]
        if not known.size:
            return [], phrased("it holds no values where the outcome has one")
        if float(np.ptp(known)) == 0.0 or float(np.abs(known).max()) > MOST_SIZE:
            # Of numbers whose squares no double holds, nothing can be said but that.
            return [], phrased("it is the same in every row") if float(np.ptp(known)) == 0.0 else _HUGE
        if column.role is Role.KEY:
            return [], phrased("it numbers the rows")
        values = np.where(np.isfinite(values), values, np.nan)
        return [
            Factor(
                name=column.name, column=column.name, part="", values=values, codes=None, levels=(), unit=column.unit
            )
        ], ""
    if column.type not in ("text", "boolean", "number"):
        return [], phrased("it holds {type}", type=column.type)
    codes, labels = table.codes(column.name)
    made = _category(column.name, column.name, "", codes[rows].astype(np.intp), labels, table.minimum)
    return ([made], "") if isinstance(made, Factor) else ([], made)


def _category(
    name: str, column: str, part: str, codes: npt.NDArray[np.intp], labels: Sequence[str | None], minimum: int = 0
) -> Factor | str:
    """A category with its rare labels put together, or why it cannot be used."""
    usual = _LEAST_LEVEL if codes.size >= LEAST_ROWS else _LEAST_OF_FEW
    least = max(usual, minimum)
    counts = np.bincount(codes, minlength=len(labels))
    seen = np.flatnonzero(counts)
    if seen.size < 2:
        return (
            phrased("it is the same in every row")
            if labels[int(seen[0])] is not None
            else phrased("it holds no values")
        )
    if seen.size > 0.5 * codes.size:
        return phrased("it has (nearly) a value of its own in every row")
    by_size = sorted(seen.tolist(), key=lambda code: (-counts[code], str(labels[code])))
    large = [code for code in by_size if counts[code] >= least and labels[code] is not None][:MOST_LEVELS]
    none = [code for code in by_size if labels[code] is None and (counts[code] >= least or least == usual)]
    rest = [code for code in by_size if code not in large and code not in none]
    while least > usual and rest and large and sum(counts[code] for code in rest) < least:
        rest.append(large.pop())
    if not large or (len(large) == 1 and not none and sum(counts[code] for code in rest) < usual):
        return phrased("no two of its labels have {n} rows", n=usual)
    kept = sorted([*large, *none], key=lambda code: (labels[code] is None, str(labels[code])))
    place = np.zeros(len(labels), dtype=np.intp)
    place[kept] = np.arange(len(kept))
    levels: list[str | None] = [labels[code] for code in kept]
    folded: tuple[str | None, ...] = ()
    if rest:
        # The few rows of rare labels stand beside the others, under a name of their own.
        place[rest] = len(kept)
        levels.append(OTHER)
        folded = tuple(sorted(str(labels[code]) for code in rest))
    return Factor(
        name=name, column=column, part=part, values=None, codes=place[codes], levels=tuple(levels), folded=folded
    )


def _dated(outcome: Outcome, column: Column) -> tuple[list[Factor], str]:
    """Month of the year and weekday, where the dates tell them apart."""
    days = outcome.table.days(column.name)[outcome.rows]
    known = ~np.isnat(days)
    if not known.any():
        return [], phrased("it holds no dates where the outcome has a value")
    found: list[Any] = []
    month = (days.astype("datetime64[M]").astype(np.int64) % 12).astype(np.intp)
    weekday = ((days.astype("datetime64[D]").astype(np.int64) + 3) % 7).astype(np.intp)
    for part, codes, names in (("month", month, _MONTHS), ("weekday", weekday, _WEEKDAYS)):
        labels: list[str | None] = [*names, None]
        found.append(
            _category(
                f"{part} of {column.name}",
                column.name,
                part,
                np.where(known, codes, len(names)).astype(np.intp),
                labels,
            )
        )
    kept = []
    for one in found:
        if isinstance(one, Factor):
            # Months and weekdays keep the order of the calendar.
            order = {name: place for place, name in enumerate([*_MONTHS, *_WEEKDAYS])}
            told = sorted(range(len(one.levels)), key=lambda code: order.get(str(one.levels[code]), 99))
            place = np.empty(len(told), dtype=np.intp)
            place[told] = np.arange(len(told))
            assert one.codes is not None
            kept.append(
                Factor(
                    name=one.name,
                    column=one.column,
                    part=one.part,
                    values=None,
                    codes=place[one.codes],
                    levels=tuple(one.levels[code] for code in told),
                    folded=one.folded,
                )
            )
    return kept, "" if kept else phrased("its dates tell neither months nor weekdays apart")
