"""Rows among the data that are none: headings again, headings of another table, sub-headings. They are told, and taken
out only when told to; a row that repeats the headings to the letter is no data, and set aside."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from ...support.phrasing import phrased, phrased_count
from ..problems import Aside, Problem, Step
from ..reading_guide import Guide
from .raw_table import Loaded, Spots

#: Longer tables are no print-outs.
_MOST_ROWS = 300_000
#: Rows with figures (digits) make at least so much of a table in which one without is odd; sub-headings at most so
#: much.
_WITH_FIGURES, _MOST_SUB = 0.6, 0.35
KEEP, ASIDE, DOWN, FIRST = "keep", "set aside", "fill down", "read the first"

Mask = npt.NDArray[np.bool_]


def settle(loaded: Loaded, guide: Guide) -> Loaded:
    """What was loaded, with such rows told, or as answered."""
    if loaded.stated or not 3 < loaded.rows <= _MOST_ROWS:
        return loaded
    if _figures_everywhere(loaded):
        return loaded
    filled, figures = _masks(loaded)
    count, numbers = filled.sum(axis=0), figures.sum(axis=0)
    if (numbers > 0).sum() < _WITH_FIGURES * loaded.rows or not ((numbers == 0) & (count > 0)).any():
        return loaded
    again = _again(loaded, (numbers == 0) & (count > 1))
    if again.any():
        loaded = _set_aside(loaded, again, "repeats the headings", _repeated(loaded, again))
        return settle(loaded, guide)
    other = _other_heading(filled, figures, count, numbers)
    if other is not None:
        return _other(loaded, guide, other)
    sub = _sub_headings(filled, count, numbers)
    return loaded if sub is None else _sub(loaded, guide, sub, filled)


def _figures_everywhere(loaded: Loaded) -> bool:
    """Whether every row holds a figure: then none of them is a heading, which the first columns show at a glance."""
    some = np.zeros(loaded.rows, dtype=bool)
    for column in loaded.columns:
        some |= _figures(column)
        if some.all():
            return True
    return False


def _figures(column: Any) -> Mask:
    """Which cells of a column hold a figure (a digit, or anything that is no text); shape (rows,)."""
    import pyarrow as pa
    import pyarrow.compute as pc

    kind = column.type.value_type if pa.types.is_dictionary(column.type) else column.type
    there: Mask = arrow_arrays.flags(pc.is_valid(column))
    if not (pa.types.is_string(kind) or pa.types.is_large_string(kind)):
        return there
    text = column.cast(kind) if pa.types.is_dictionary(column.type) else column
    digits: Mask = arrow_arrays.flags(pc.match_substring_regex(text, "[0-9]"))
    return digits & there


def _masks(loaded: Loaded) -> tuple[Mask, Mask]:
    """Which cells hold something, and which of them a figure; shape (columns, rows)."""
    import pyarrow.compute as pc

    filled = [arrow_arrays.flags(pc.is_valid(column)) for column in loaded.columns]
    return np.array(filled, dtype=bool), np.array([_figures(column) for column in loaded.columns], dtype=bool)


def _text(loaded: Loaded, row: int) -> list[str]:
    return ["" if (value := column[row].as_py()) is None else str(value).strip() for column in loaded.columns]


def _again(loaded: Loaded, candidates: Mask) -> Mask:
    """Rows that say the headings over again."""
    heads = [name.strip().casefold() for name in loaded.original]
    found = np.zeros(loaded.rows, dtype=bool)
    for row in np.flatnonzero(candidates)[:10_000].tolist():
        cells = [cell.casefold() for cell in _text(loaded, row)]
        found[row] = all(not cell or cell == head for cell, head in zip(cells, heads, strict=True))
    return found


def _other_heading(filled: Mask, figures: Mask, count: Any, numbers: Any) -> int | None:
    """The one row, of several texts, over columns of figures, below which rows with figures go on."""
    usual = figures.sum(axis=1) >= _WITH_FIGURES * np.maximum(filled.sum(axis=1), 1)
    over = (filled & usual[:, None]).sum(axis=0)
    rows = np.flatnonzero((numbers == 0) & (count > 1) & (over > 0))
    if rows.size != 1 or rows[0] < 2 or rows[0] + 2 > numbers.size:
        return None
    below = numbers[rows[0] + 1 :]
    return int(rows[0]) if (below > 0).mean() >= _WITH_FIGURES else None


def _sub_headings(filled: Mask, count: Any, numbers: Any) -> Mask | None:
    """Rows that hold one text and nothing else, each above rows that hold more; None where they are not that."""
    sub = (count == 1) & (numbers == 0)
    places = np.flatnonzero(sub)
    if places.size < 2 or places.size > _MOST_SUB * count.size or sub[-1]:
        return None
    column = filled[:, places].argmax(axis=0)
    above = (count[places + 1] > 1).all() and (column == column[0]).all()
    return np.asarray(sub) if above else None


def _spots(loaded: Loaded) -> Spots:
    part = loaded.origin.part
    return Spots(numbers=loaded.numbers, first_row=loaded.first_row, parts=None if part is None else loaded.columns[-1])


def _examples(loaded: Loaded, rows: Mask) -> tuple[tuple[int, str], ...]:
    spots = _spots(loaded)
    return tuple(
        spots.example(int(row), ", ".join(cell for cell in _text(loaded, int(row)) if cell)[:80])
        for row in np.flatnonzero(rows)[:3]
    )


def _repeated(loaded: Loaded, again: Mask) -> Problem:
    count = int(again.sum())
    return Problem(
        check="repeated headings",
        severity="repair",
        column=None,
        rows=count,
        examples=_examples(loaded, again),
        repair=phrased("set aside"),
        message=phrased_count(
            count,
            "{n} row repeats the headings; it is no data and was set aside.",
            "{n} rows repeat the headings; they are no data and were set aside.",
        ),
        step=Step(do="set repeated headings aside"),
    )


def _other(loaded: Loaded, guide: Guide, row: int) -> Loaded:
    """Where another table seems to begin: asked, and cut there if answered so."""
    only = np.zeros(loaded.rows, dtype=bool)
    only[row] = True
    number, text = _examples(loaded, only)[0]
    asked = phrased("Does another table begin there?")
    answer = guide.ask("two tables in one", None, asked, (FIRST, KEEP))
    if guide.replays:
        answer = FIRST if guide.step("cut at another table") is not None else KEEP
    problem = Problem(
        check="two tables in one",
        severity="question",
        column=None,
        rows=loaded.rows - row,
        examples=((number, text),),
        message=phrased("Row {row} reads like the headings of another table ({text}).", row=number, text=text),
        question=None if isinstance(answer, str) else answer,
    )
    if answer == KEEP:
        return loaded
    if answer != FIRST:
        return replace(loaded, problems=(*loaded.problems, problem))
    below = np.arange(loaded.rows) >= row
    told = replace(
        problem,
        severity="repair",
        repair=phrased("set aside"),
        message=phrased("Another table begins in row {row}; its rows were set aside, as answered.", row=number),
        step=Step(do="cut at another table", facts={"row": number}),
    )
    return _set_aside(loaded, below, "of another table", told)


def _sub(loaded: Loaded, guide: Guide, sub: Mask, filled: Mask) -> Loaded:
    """Sub-headings: asked, and written beside the rows below them or set aside if answered so."""
    count = int(sub.sum())
    asked = phrased("Are they headings of the rows below them?")
    answer = guide.ask("sub-headings", None, asked, (DOWN, ASIDE, KEEP))
    if guide.replays:
        step = guide.step("sub-headings")
        answer = KEEP if step is None else str(step.facts["as"])
    problem = Problem(
        check="sub-headings",
        severity="question",
        column=None,
        rows=count,
        examples=_examples(loaded, sub),
        message=phrased("{n} rows hold one text and nothing else.", n=count),
        question=None if isinstance(answer, str) else answer,
    )
    if answer == KEEP:
        return loaded
    if answer not in (DOWN, ASIDE):
        return replace(loaded, problems=(*loaded.problems, problem))
    if answer == DOWN:
        loaded = _filled_down(loaded, sub, filled)
    message = phrased("{n} rows that hold one text and nothing else were set aside, as answered.", n=count)
    if answer == DOWN:
        message = phrased(
            "{n} rows that hold one text and nothing else were written beside the rows below them, as answered.",
            n=count,
        )
    told = replace(
        problem,
        severity="repair",
        repair=phrased("set aside"),
        message=message,
        step=Step(do="sub-headings", facts={"as": answer}),
    )
    return _set_aside(loaded, sub, "sub-heading", told)


def _filled_down(loaded: Loaded, sub: Mask, filled: Mask) -> Loaded:
    """The column of the sub-headings filled from them, where it holds nothing else; else a column of its own."""
    import pyarrow as pa

    places = np.flatnonzero(sub)
    at = int(filled[:, places[0]].argmax())
    texts: list[str | None] = []
    told: str | None = None
    for row in range(loaded.rows):
        if sub[row]:
            told = str(loaded.columns[at][row].as_py()).strip()
        texts.append(told)
    made = pa.chunked_array([pa.array(texts, pa.string()).dictionary_encode()])
    if not filled[at][~sub].any():
        columns = [*loaded.columns]
        columns[at] = made
        return replace(loaded, columns=columns)
    name = "section"
    while name.casefold() in {name.casefold() for name in loaded.names}:
        name += " 2"
    return replace(
        loaded, names=[*loaded.names, name], original=[*loaded.original, name], columns=[*loaded.columns, made]
    )


def _set_aside(loaded: Loaded, gone: Mask, why: str, problem: Problem) -> Loaded:

    numbers = np.arange(loaded.rows) + loaded.first_row if loaded.numbers is None else np.asarray(loaded.numbers)
    part = loaded.origin.part
    aside = tuple(
        Aside(
            row=int(numbers[row]),
            why=why,
            text=", ".join(cell for cell in _text(loaded, int(row)) if cell),
            part=None if part is None else str(loaded.columns[-1][int(row)].as_py()),
            cells=dict(zip(loaded.names, _text(loaded, int(row)), strict=True)),
        )
        for row in np.flatnonzero(gone)
    )
    kept = arrow_arrays.column(~gone)
    return replace(
        loaded,
        columns=[column.filter(kept) for column in loaded.columns],
        rows=int((~gone).sum()),
        numbers=numbers[~gone],
        aside=(*loaded.aside, *aside),
        problems=(*loaded.problems, problem),
    )
