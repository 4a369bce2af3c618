"""Numbers and dates that stand for "no value": -999 among temperatures, 31 December 9999 among ends of contracts.

They are found by being written as codes are (nines only, or the first or last day that a program knows), by coming
again and again, and by lying far outside everything else. They count as missing unless someone says that they are
numbers, and it is said that they do.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ...support.phrasing import phrased, phrased_count
from .. import Role, Table
from ..problems import Problem, Step
from ..reading_guide import Guide

#: What takes the codes out, in a log of repairs, and the answers there are.
AS_MISSING, KEPT = "count as missing", "keep as values"
TAKE_OUT = "count codes as missing"
#: A code stands on so many rows at least, and lies so many times the spread of all others away from them.
_LEAST, _FAR, _FEWEST = 3, 5.0, 5
#: Days that stand for "never" or "not known", and how far they lie from all others, in days.
_DAYS = ("1900-01-01", "1899-12-30", "1753-01-01", "1970-01-01", "2099-12-31", "2199-12-31", "2999-12-31", "9999-12-31")
_APART = 15 * 365


def ready(table: Table, guide: Guide) -> Table:
    """The table with codes for missing taken as missing, each with the question whether they are."""
    for column in table.columns:
        if column.type == "number" and column.role is Role.MEASURE:
            # Most columns end in no nines, which is seen at once.
            ends = [end for end in table.extent(column.name) if end is not None]
            codes = _numbers(table.numbers(column.name)) if any(_is_nines(float(end)) for end in ends) else []
        elif column.type in ("date", "datetime"):
            codes = _dates(*table.day_counts(column.name))
        else:
            continue
        if codes:
            table = _asked(table, column.name, codes, guide)
    return table


def _numbers(values: Any) -> list[str]:
    """The codes among numbers."""
    known = values[np.isfinite(values)]
    if known.size < 10:
        return []
    found = []
    for end in (known.min(), known.max()):
        rest = known[known != end]
        times = int(known.size - rest.size)
        # Of a few steps, such as -1, 0 and 1, the first is a step.
        few = np.unique(rest[:10_000]).size < _FEWEST
        if times < _LEAST or few or not _is_nines(float(end)):
            continue
        spread = float(np.quantile(rest, 0.95) - np.quantile(rest, 0.05)) or float(np.ptp(rest)) or 1.0
        nearest = rest.min() - end if end < rest.min() else end - rest.max()
        # A count of minus anything is none; among positives a code must lie far beyond the largest.
        outside = (end < 0 and rest.min() >= 0) or nearest > _FAR * spread
        if outside and nearest > spread:
            found.append(f"{end:.10g}")
    return found


def _is_nines(value: float) -> bool:
    text = f"{abs(value):.10g}".rstrip("0").rstrip(".") if "." in f"{value:.10g}" else f"{abs(value):.10g}"
    return (set(text) == {"9"} and len(text) >= 2) or (value == -1)


def _dates(days: Any, counts: Any) -> list[str]:
    """The codes among days that occur, with the rows on each."""
    found = []
    for text in _DAYS:
        stand_in = np.datetime64(text)
        rest = days[days != stand_in]
        times = int(counts[days == stand_in].sum())
        if not rest.size or times < min(_LEAST, max(1, int(counts.sum()) // 20)):
            continue
        if np.abs((rest - stand_in).astype(np.int64)).min() > _APART:
            found.append(text)
    return found


def _asked(table: Table, name: str, codes: list[str], guide: Guide) -> Table:
    text = phrased("Do these stand for no value?")
    answer = guide.ask("codes for missing", name, text, (AS_MISSING, KEPT))
    if answer == KEPT:
        return table
    made, count, examples = taken_out(table, name, codes)
    problem = Problem(
        check="codes for missing",
        severity="repair" if isinstance(answer, str) else "question",
        column=name,
        rows=count,
        examples=examples,
        message=phrased_count(
            count,
            "{n} cell of {column} says {codes}, far from all others: a code for no value. It counts as missing.",
            "{n} cells of {column} say {codes}, far from all others: a code for no value. They count as missing.",
            column=repr(name),
            codes=codes,
        ),
        repair=phrased("{words} counted as missing", words=", ".join(codes)),
        question=None if isinstance(answer, str) else answer,
        step=Step(do=TAKE_OUT, column=name, facts={"codes": codes}),
    )
    return replace(made, problems=(*made.problems, problem))


def taken_out(table: Table, name: str, codes: list[str]) -> tuple[Table, int, tuple[tuple[int, str], ...]]:
    """The table without these values in a column; how many there were, and the first of them."""
    import pyarrow as pa
    import pyarrow.compute as pc

    from .repairs import rebuilt

    arrow = table.arrow
    values = arrow.column(name)
    whole = values.combine_chunks() if isinstance(values, pa.ChunkedArray) else values
    if table.column(name).type == "number":
        hit = np.isin(table.numbers(name), [float(code) for code in codes])
    else:
        hit = np.isin(table.days(name), np.array(codes, dtype="datetime64[D]"))
    cleaned = pc.if_else(pa.array(hit), pa.scalar(None, whole.type), whole)
    place = arrow.column_names.index(name)
    made = rebuilt(table, arrow.set_column(place, name, cleaned), table.row_numbers())
    places = np.flatnonzero(hit)
    examples = tuple(table.example(int(row), str(whole[int(row)].as_py())) for row in places[:3])
    return made, int(places.size), examples
