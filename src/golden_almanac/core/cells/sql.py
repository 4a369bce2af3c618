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
from ..tables.arrays import column as arrow_column
from ..tables.arrays import floats, wholes
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
#: Whole numbers whose squares fit in 64 bits.
_ROOT = 2.0**31
#: The greatest power of two that one double holds safely.
_MOST_POWER = 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """What is known of an expression's values: how many, the largest and the least but nought by size, and the
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
        f"FROM {source} WHERE {only.sql(table, time)})" + (f" GROUP BY {by}" if by else ""),
        beside,
    )
    coded = {key: _codes(table, timeline, key, found.column(f"k{place}")) for place, key in enumerate(keys)}

    def numbers(name: str) -> npt.NDArray[np.float64]:
        return floats(found.column(name))

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
            low=floats(found.column(f"{name}min")) if part.kind == "min" else None,
            high=floats(found.column(f"{name}max")) if part.kind == "max" else None,
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
    few = _decimals(table.sample() or table, unknown)
    while unknown:
        columns = [f"{_number(sql)} AS v{place}" for place, sql in enumerate(unknown)]
        listed = []
        for place, sql in enumerate(unknown):
            v = f"v{place}"
            listed.append(f"count({v}) AS n{place}, max(abs({v})) AS h{place}")
            if few[sql] is None:
                listed.append(f"min(abs({v})) FILTER ({v} <> 0) AS l{place}, FALSE AS w{place}")
            else:
                listed.append(f"0.0 AS l{place}, bool_and({_written(v, few[sql] or 0)}) AS w{place}")
        found = table.store.query(f"SELECT {', '.join(listed)} FROM (SELECT {', '.join(columns)} FROM source)")
        row = {name: found.column(name)[0].as_py() for name in found.column_names}
        again = []
        for place, sql in enumerate(unknown):
            whole = row[f"w{place}"]
            if few[sql] is not None and whole is False:
                # A row that was not drawn has more decimals: the next guess is that there are no few.
                few[sql] = None
                again.append(sql)
                continue
            table._cache["facts", sql] = Facts(
                count=row[f"n{place}"],
                largest=row[f"h{place}"] or 0.0,
                least=row[f"l{place}"] or 0.0,
                decimals=few[sql],
            )
        unknown = again
    return {sql: table._cache["facts", sql] for sql in asked}


def _decimals(table: Table, asked: Sequence[str]) -> dict[str, int | None]:
    """The fewest decimals that write all values of each expression in a few rows."""
    if not asked:
        return {}
    columns = [f"{_number(sql)} AS v{place}" for place, sql in enumerate(asked)]
    listed = [
        f"bool_and({_written(f'v{place}', decimals)}) AS w{place}_{decimals}"
        for place in range(len(asked))
        for decimals in range(MOST_DECIMALS + 1)
    ]
    found = table.store.query(f"SELECT {', '.join(listed)} FROM (SELECT {', '.join(columns)} FROM source)")
    return {
        sql: next((d for d in range(MOST_DECIMALS + 1) if found.column(f"w{place}_{d}")[0].as_py() is not False), None)
        for place, sql in enumerate(asked)
    }


def _written(v: str, decimals: int) -> str:
    """Whether a number is written by so many decimals."""
    scale = 10.0**decimals
    return f"{v} = trunc({v})" if decimals == 0 else f"round({v} * {scale!r}) / {scale!r} = {v}"


@dataclass(frozen=True, slots=True)
class _Sum:
    """How values are added up exactly: the SQL of each sum, and what a whole number of it stands for: one over
    `scale`, times 2 to the power of its exponent where there are exponents."""

    sql: tuple[str, ...]
    scale: float = 1.0
    exponents: tuple[int, ...] = ()

    @classmethod
    def of(cls, v: str, facts: Facts) -> _Sum:
        scale = 10.0 ** (facts.decimals or 0)
        if facts.count == 0 or (facts.decimals is not None and facts.largest * scale * facts.count < EXACT):
            return cls((f"sum({_scaled(v, scale)})",), scale)
        if facts.decimals is not None and facts.largest * scale < EXACT:
            return cls((f"sum(CAST({_scaled(v, scale)} AS HUGEINT))",), scale, (0,))
        lowest = max(int(np.frexp(facts.least)[1]) - 53, LEAST_EXPONENT) if facts.least else LEAST_EXPONENT
        return cls._whole(v, facts.largest, facts.count, lowest)

    @classmethod
    def of_squares(cls, v: str, facts: Facts) -> _Sum:
        square, scale = facts.largest * facts.largest, 10.0 ** (facts.decimals or 0)
        if facts.count == 0 or (facts.decimals == 0 and square * facts.count < EXACT):
            return cls((f"sum({v} * {v})",))
        if facts.decimals is not None and facts.largest * scale < _ROOT:
            whole = f"CAST({_scaled(v, scale)} AS BIGINT)"
            return cls((f"sum({whole} * {whole})",), scale * scale, (0,))
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
            values = floats(columns[0])
            return (Slice(np.where(np.isnan(values), 0.0, values), self.scale),)
        return tuple(
            cut
            for column, exponent in zip(columns, self.exponents, strict=True)
            for cut in _pieces(column, exponent, self.scale)
        )


def _scaled(v: str, scale: float) -> str:
    return v if scale == 1 else f"round({v} * {scale!r})"


def _times(text: str, exponent: int) -> str:
    """A number times a power of two, in steps that neither overflow nor vanish."""
    while exponent:
        step = max(-_MOST_POWER, min(_MOST_POWER, exponent))
        text = f"({text} * {2.0**step!r})"
        exponent -= step
    return text


def _pieces(column: Any, exponent: int, scale: float) -> list[Slice]:
    """128-bit whole numbers as slices of 32 bits (16 where cells are so many that their sum would not be exact)."""
    import pyarrow as pa

    whole = column.combine_chunks()
    count = len(whole)
    raw = np.frombuffer(whole.buffers()[1], dtype=np.uint64)[2 * whole.offset : 2 * (whole.offset + count)]
    low, high = raw[0::2].copy(), raw[1::2].copy()
    if whole.null_count:
        missing = wholes(whole.is_null().cast(pa.int8())).astype(bool)
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
                found.append(Slice(sign * piece.astype(np.float64), scale, exponent + base + start))
    return found or [Slice(np.zeros(count))]


def _periods(table: Table, line: Timeline) -> Any:
    """Each day that occurs, and its place on the timeline."""
    import pyarrow as pa

    days = table.day_counts(line.column)[0]
    return pa.table({"\tday": arrow_column(days), "\tplace": arrow_column(line.places(days).astype(np.int32))})


def _codes(table: Table, line: Timeline | None, key: str, column: Any) -> tuple[npt.NDArray[Any], int]:
    if key == PERIOD:
        assert line is not None
        return wholes(column, line.count).astype(np.intp), line.count + 1
    codes, labels = encoded(column)
    every = table.labels(key)
    number = {label: place for place, label in enumerate(every)}
    return np.array([number[label] for label in labels], dtype=np.intp)[codes], len(every)
