"""Exact sums in SQL, repeatable whatever the threads.

Sums of doubles come out of a threaded engine other on every run. Here only whole numbers are added: amounts as
multiples of their last decimal where every sum of them is exact in a double, all others as 128-bit multiples of
a power of two so small that nothing, or for squares nothing that counts, is lost.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..engine.arrow_arrays import floats, wholes
from ..tables import Table
from .exact_sums import EXACT, LEAST_EXPONENT, MOST_DECIMALS, Slice
from .magnitude_limits import check_size

_COLUMN = re.compile('"(?:[^"]|"")*"')
#: Bits of a sum, its sign left out: below 38 digits, the most that the engine hands over.
_BITS = 124
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


def number(sql: str) -> str:
    """A row expression as a double, NULL where it is none."""
    value = f"TRY_CAST(({sql}) AS DOUBLE)"
    # Columns hold no NaN; what is worked out from them may (nought by nought), and counts as missing.
    return value if _COLUMN.fullmatch(sql) else f"nullif({value}, 'nan'::DOUBLE)"


def facts_of(table: Table, asked: Sequence[str]) -> dict[str, Facts]:
    """The facts of expressions, by one pass for those not known yet."""
    unknown = [sql for sql in asked if ("facts", sql) not in table._cache]
    few = _decimals(table.sample() or table, unknown)
    while unknown:
        columns = [f"{number(sql)} AS v{place}" for place, sql in enumerate(unknown)]
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
            check_size(sql, row[f"h{place}"] or 0.0, row[f"n{place}"])
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
    columns = [f"{number(sql)} AS v{place}" for place, sql in enumerate(asked)]
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
class Sum:
    """How values are added up exactly: the SQL of each sum, and what a whole number of it stands for: one over
    `scale`, times 2 to the power of its exponent where there are exponents."""

    sql: tuple[str, ...]
    scale: float = 1.0
    exponents: tuple[int, ...] = ()

    @classmethod
    def of(cls, v: str, facts: Facts, bits: int = _BITS) -> Sum:
        scale = 10.0 ** (facts.decimals or 0)
        if facts.count == 0 or (facts.decimals is not None and facts.largest * scale * facts.count < EXACT):
            return cls((f"sum({_scaled(v, scale)})",), scale)
        if facts.decimals is not None and facts.largest * scale < EXACT:
            return cls((f"sum({_huge(_scaled(v, scale), bits)})",), scale, (0,))
        lowest = max(int(np.frexp(facts.least)[1]) - 53, LEAST_EXPONENT) if facts.least else LEAST_EXPONENT
        return cls._whole(v, facts.largest, facts.count, lowest, bits)

    @classmethod
    def of_squares(cls, v: str, facts: Facts, bits: int = _BITS) -> Sum:
        square, scale = facts.largest * facts.largest, 10.0 ** (facts.decimals or 0)
        if facts.count == 0 or (facts.decimals == 0 and square * facts.count < EXACT):
            return cls((f"sum({v} * {v})",))
        if facts.decimals is not None and facts.largest * scale < _ROOT:
            whole = f"CAST({_scaled(v, scale)} AS BIGINT)"
            product = f"{whole} * {whole}"
            return cls((f"sum({product if bits >= _BITS else f'CAST({product} AS HUGEINT)'})",), scale * scale, (0,))
        if not np.isfinite(square * facts.count):
            return cls((f"max(CASE WHEN {v} IS NOT NULL THEN 'infinity'::DOUBLE END)",))
        return cls._whole(f"({v} * {v})", square, facts.count, None, bits)

    @classmethod
    def _whole(cls, v: str, largest: float, count: int, lowest: int | None, most: int) -> Sum:
        """Sums of whole multiples of powers of two, down to 2**lowest; one sum where that is None."""
        # Where each value has 64 bits and their sums more, only the values must fit.
        bits = most - int(np.ceil(np.log2(count + 1))) if most >= _BITS else most
        exponent = max(int(np.frexp(largest)[1]) - bits, LEAST_EXPONENT)
        texts, exponents = [], []
        rest = v
        while True:
            whole = f"trunc({_times(rest, -exponent)})"
            texts.append(f"sum({_huge(whole, most)})")
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


def _huge(text: str, bits: int) -> str:
    """A whole number as one of 128 bits; by way of 64 where an engine would round it otherwise."""
    return f"CAST({text} AS HUGEINT)" if bits >= _BITS else f"CAST(CAST({text} AS BIGINT) AS HUGEINT)"


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
