"""Groups of rows left in their file: the same cells, asked for in SQL.

Sums of doubles come out of a threaded engine other on every run. Here only whole numbers are added: amounts as
multiples of their last decimal where every sum of them is exact in a double, all others as 128-bit multiples of
a power of two so small that nothing, or for squares nothing that counts, is lost.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ..errors import BudgetError
from ..expressions import quote_name
from ..measures import Part
from ..tables import Table, Timeline, budget
from ..tables.filed import Filed
from ..tables.table import encoded
from .base import Base, BasePart
from .exact import EXACT, LEAST_EXPONENT, MOST_DECIMALS, Slice
from .only import Only
from .rows import PERIOD

#: Bits of a sum, its sign left out: below 38 digits, the most that the engine hands over.
_BITS = 124
#: Columns of the table of periods; no column of a source can be named so: names hold no tabs.
_DAY, _PLACE = '"\tday"', '"\tplace"'
#: The greatest power of two that one double holds safely.
_MOST_POWER = 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """What is known of an expression's values: how many, the largest and the least but nought by size, and the fewest
    decimals that write them all (None where more than four are needed)."""

    count: int
    largest: float
    least: float
    decimals: int | None


def group(table: Table, timeline: Timeline | None, keys: Sequence[str], parts: Sequence[Part], only: Only) -> Base:
    """The cells of rows by these keys, with these parts of each. Raises BudgetError where the memory is too small."""
    asked = list(dict.fromkeys(part.sql for part in parts if part.sql))
    facts = _facts(table, asked)
    value = {sql: f"v{place}" for place, sql in enumerate(asked)}
    columns = [f"{quote_name(key)} AS k{place}" for place, key in enumerate(keys) if key != PERIOD]
    beside: dict[str, Any] = {}
    source = "source"
    if PERIOD in keys:
        assert timeline is not None
        beside["period_of"] = _periods(table, timeline)
        columns.append(f"{_PLACE} AS k{list(keys).index(PERIOD)}")
        source += f" LEFT JOIN period_of ON CAST({quote_name(timeline.column)} AS DATE) = {_DAY}"
    columns += [f"{_number(sql)} AS {name}" for sql, name in value.items()]
    time = None if timeline is None else timeline.column
    listed: list[str] = ["count(*) AS n"]
    sums: dict[str, tuple[_Sum, _Sum]] = {}
    for sql, name in value.items():
        sums[name] = _Sum.of(name, facts[sql]), _Sum.of_squares(name, facts[sql])
        listed.append(f"count({name}) AS {name}n")
        listed += [f"{text} AS {name}s{place}" for place, text in enumerate(sums[name][0].sql)]
        listed += [f"{text} AS {name}q{place}" for place, text in enumerate(sums[name][1].sql)]
        kinds = {part.kind for part in parts if part.sql == sql}
        listed += [f"{kind}({name}) AS {name}{kind}" for kind in ("min", "max") if kind in kinds]
    distinct = [part for part in parts if part.kind == "distinct"]
    for place, part in enumerate(distinct):
        columns.append(f"({part.sql}) AS d{place}")
        listed.append(f"count(DISTINCT d{place}) AS dn{place}")
        listed.append(f"count(d{place}) AS dc{place}")
    by = ", ".join(f"k{place}" for place in range(len(keys)))
    found = table.store.query(
        f"SELECT {by + ', ' if by else ''}{', '.join(listed)} FROM (SELECT {', '.join(columns) or '1 AS one'} "
        f"FROM {source} WHERE {only.sql(table, time)})" + (f" GROUP BY {by} ORDER BY {by}" if by else ""),
        beside,
    )
    coded = {key: _codes(table, timeline, key, found.column(f"k{place}")) for place, key in enumerate(keys)}

    def numbers(name: str) -> npt.NDArray[np.float64]:
        return np.asarray(found.column(name).to_numpy(), dtype=np.float64)

    def part_of(part: Part) -> BasePart:
        if part.kind == "distinct":
            place = distinct.index(part)
            return BasePart(count=numbers(f"dc{place}"), sums=(), squares=(), distinct=numbers(f"dn{place}"))
        name = value[part.sql]
        own, squares = sums[name]
        return BasePart(
            count=numbers(f"{name}n"),
            sums=own.slices([found.column(f"{name}s{place}") for place in range(len(own.sql))]),
            squares=squares.slices([found.column(f"{name}q{place}") for place in range(len(squares.sql))]),
            low=_filled(found.column(f"{name}min")) if part.kind == "min" else None,
            high=_filled(found.column(f"{name}max")) if part.kind == "max" else None,
        )

    return Base(
        codes={key: codes for key, (codes, _) in coded.items()},
        sizes={key: size for key, (_, size) in coded.items()},
        rows=numbers("n"),
        parts={part: part_of(part) for part in parts},
    )


def check_budget(table: Table, groups: int, keys: Sequence[str], parts: int) -> None:
    """Raise BudgetError when so many groups do not fit."""
    store = table.store
    if not isinstance(store, Filed):
        return
    need = budget.needed(groups, len(keys), 2 * parts)
    if need > store.memory:
        by = ", ".join("period" if key == PERIOD else key for key in keys)
        raise BudgetError(
            f"The memory budget of {budget.said(store.memory)} is too small for this plan"
            + (f" ({groups:,} groups by {by})" if groups > 1 else "")
            + f": the smallest that would do is {budget.said(need)}. Raise it with --memory, or name fewer columns "
            "with --by."
        )


def _number(sql: str) -> str:
    return f"TRY_CAST(({sql}) AS DOUBLE)"


def _facts(table: Table, asked: Sequence[str]) -> dict[str, Facts]:
    """The facts of expressions, by one pass for those not known yet."""
    unknown = [sql for sql in asked if ("facts", sql) not in table._cache]
    if unknown:
        columns = [f"{_number(sql)} AS v{place}" for place, sql in enumerate(unknown)]
        listed = []
        for place in range(len(unknown)):
            v = f"v{place}"
            listed.append(f"count({v}), max(abs({v})), min(abs({v})) FILTER ({v} <> 0)")
            listed += [
                f"bool_and(round({v} * {10.0**decimals!r}) / {10.0**decimals!r} = {v})"
                for decimals in range(MOST_DECIMALS + 1)
            ]
        found = table.store.query(f"SELECT {', '.join(listed)} FROM (SELECT {', '.join(columns)} FROM source)")
        row = [column[0].as_py() for column in found.columns]
        width = 3 + MOST_DECIMALS + 1
        for place, sql in enumerate(unknown):
            count, largest, least, *whole = row[place * width : (place + 1) * width]
            fewest = next((decimals for decimals, is_so in enumerate(whole) if is_so), None)
            table._cache["facts", sql] = Facts(count=count, largest=largest or 0.0, least=least or 0.0, decimals=fewest)
    return {sql: table._cache["facts", sql] for sql in asked}


@dataclass(frozen=True, slots=True)
class _Sum:
    """How values are added up exactly: the SQL of each sum, and what a whole number of it stands for (one over
    `scale`, or 2 to the power of its exponent)."""

    sql: tuple[str, ...]
    scale: float = 1.0
    exponents: tuple[int, ...] = ()

    @classmethod
    def of(cls, v: str, facts: Facts) -> _Sum:
        scale = 10.0 ** (facts.decimals or 0)
        if facts.count == 0 or (facts.decimals is not None and facts.largest * scale * facts.count < EXACT):
            return cls((f"sum(round({v} * {scale!r}))" if scale > 1 else f"sum({v})",), scale)
        lowest = max(int(np.frexp(facts.least)[1]) - 53, LEAST_EXPONENT)
        return cls._whole(v, facts.largest, facts.count, lowest)

    @classmethod
    def of_squares(cls, v: str, facts: Facts) -> _Sum:
        square = facts.largest * facts.largest
        if facts.count == 0 or (facts.decimals == 0 and square * facts.count < EXACT):
            return cls((f"sum({v} * {v})",))
        if not np.isfinite(square * facts.count):
            return cls((f"max(CASE WHEN {v} IS NOT NULL THEN 'infinity'::DOUBLE END)",))
        return cls._whole(f"({v} * {v})", square, facts.count, None)

    @classmethod
    def _whole(cls, v: str, largest: float, count: int, lowest: int | None) -> _Sum:
        """Sums of whole multiples of powers of two, down to 2**lowest; one sum where that is None."""
        bits = _BITS - int(np.ceil(np.log2(count + 1)))
        exponent = max(int(np.frexp(largest)[1]) - bits, LEAST_EXPONENT)
        texts, exponents = [], []
        rest = v
        while True:
            whole = f"trunc({_times(rest, -exponent)})"
            texts.append(f"sum(CAST({whole} AS HUGEINT))")
            exponents.append(exponent)
            if lowest is None or exponent <= lowest:
                return cls(tuple(texts), 1.0, tuple(exponents))
            rest = f"({rest} - {_times(whole, exponent)})"
            exponent = max(exponent - bits, LEAST_EXPONENT)

    def slices(self, columns: Sequence[Any]) -> tuple[Slice, ...]:
        """The sums as slices whose sums over cells are exact."""
        if not self.exponents:
            values = np.asarray(columns[0].to_numpy(), dtype=np.float64)
            return (Slice(np.where(np.isnan(values), 0.0, values), self.scale),)
        return tuple(
            cut for column, exponent in zip(columns, self.exponents, strict=True) for cut in _pieces(column, exponent)
        )


def _times(text: str, exponent: int) -> str:
    """A number times a power of two, in steps that neither overflow nor vanish."""
    while exponent:
        step = max(-_MOST_POWER, min(_MOST_POWER, exponent))
        text = f"({text} * {2.0**step!r})"
        exponent -= step
    return text


def _pieces(column: Any, exponent: int) -> list[Slice]:
    """128-bit whole numbers as slices of 32 bits (16 where cells are so many that their sum would not be exact)."""
    whole = column.combine_chunks()
    count = len(whole)
    raw = np.frombuffer(whole.buffers()[1], dtype=np.uint64)[2 * whole.offset : 2 * (whole.offset + count)]
    low, high = raw[0::2].copy(), raw[1::2].copy()
    missing = whole.is_null().to_numpy(zero_copy_only=False)
    low[missing], high[missing] = 0, 0
    negative = high >> np.uint64(63) == 1
    sign = np.where(negative, -1.0, 1.0)
    high = np.where(negative, ~high + (low == 0).astype(np.uint64), high)
    low = np.where(negative, ~low + np.uint64(1), low)
    width = 32 if count < 1 << 20 else 16
    found = []
    for half, base in ((high, 64), (low, 0)):
        for start in range(64 - width, -1, -width):
            piece = (half >> np.uint64(start)) & np.uint64((1 << width) - 1)
            if piece.any():
                found.append(Slice(sign * piece.astype(np.float64), 1.0, exponent + base + start))
    return found or [Slice(np.zeros(count))]


def _periods(table: Table, line: Timeline) -> Any:
    """Each day that occurs, and its place on the timeline."""
    import pyarrow as pa

    days = table.day_counts(line.column)[0]
    return pa.table({"\tday": days.astype("datetime64[D]"), "\tplace": line.places(days).astype(np.int32)})


def _codes(table: Table, line: Timeline | None, key: str, column: Any) -> tuple[npt.NDArray[Any], int]:
    if key == PERIOD:
        assert line is not None
        return column.fill_null(line.count).to_numpy().astype(np.intp), line.count + 1
    codes, labels = encoded(column)
    every = table.labels(key)
    number = {label: place for place, label in enumerate(every)}
    return np.array([number[label] for label in labels], dtype=np.intp)[codes], len(every)


def _filled(column: Any) -> npt.NDArray[np.float64]:
    return np.asarray(column.to_numpy(), dtype=np.float64)
