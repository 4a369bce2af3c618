"""Amounts below nought: returns and corrections of other rows, told as gross and net; or a few of a wrong sign, asked
about."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ...support.phrasing import figure, phrased
from .. import Role, Table
from ..meaning.natures import Nature
from ..problems import Problem, Step
from ..reading_guide import Guide
from ..table import Column

Floats = npt.NDArray[np.float64]
#: What turns signs, in a log of repairs, and the answers there are.
TURN_SIGNS, KEPT, TURNED = "turn signs", "keep as they are", "turn positive"
#: Amounts, and what is measured of single things: a few of them below nought may be of a wrong sign.
_SIGNED = (Nature.FLOW, Nature.COUNT, Nature.PRICE, Nature.DURATION, Nature.READING, Nature.SCORE)
#: More than this share below nought are of the nature of the column (a result, a difference).
_MOST = 0.4
#: Rows below nought of which each is asked about, of so many above it.
_FEW, _LEAST_ABOVE = 3, 50
#: The share of rows below nought that mirror one above it for them to be returns.
_MIRRORED = 0.6
_SEED = 1


def ready(table: Table, guide: Guide) -> Table:
    """Tell what amounts below nought are."""
    for column in table.with_role(Role.MEASURE):
        if column.type != "number" or column.nature not in _SIGNED:
            continue
        low, high = table.extent(column.name)
        if low is None or not float(low) < 0 < float(high):
            continue
        table = _told(table, column, guide)
    return table


def _told(table: Table, column: Column, guide: Guide) -> Table:
    values = table.numbers(column.name)
    below, above = values < 0, values > 0
    if below.sum() > _MOST * (below.sum() + above.sum()):
        return table
    adds_up = column.nature in (Nature.FLOW, Nature.COUNT)
    if adds_up and _mirrored(table, column.name, values) >= _MIRRORED:
        gross, back = float(values[above].sum()), float(values[below].sum())
        problem = Problem(
            check="returns",
            severity="note",
            column=column.name,
            rows=int(below.sum()),
            examples=_examples(table, np.flatnonzero(below), values),
            message=phrased(
                "{column} is below nought in {n} rows that mirror others, as returns and corrections do: {gross} "
                "gross, {back} back, {net} net. Sums are net.",
                column=repr(column.name),
                n=int(below.sum()),
                gross=figure(gross, 2),
                back=figure(back, 2),
                net=figure(gross + back, 2),
            ),
        )
        return replace(table, problems=(*table.problems, problem))
    places = np.flatnonzero(below)
    if places.size > _FEW or above.sum() < _LEAST_ABOVE or not _usual_size(values, places):
        return table
    text = phrased("Is the sign wrong?")
    answer = guide.ask("signs", column.name, text, (KEPT, TURNED))
    message = phrased(
        "{column} is below nought in {n} of {rows} rows, though of a usual size.",
        column=repr(column.name),
        n=int(places.size),
        rows=table.rows,
    )
    problem = Problem(
        check="signs",
        severity="note" if isinstance(answer, str) else "question",
        column=column.name,
        rows=int(places.size),
        examples=_examples(table, places, values),
        message=message,
        question=None if isinstance(answer, str) else answer,
    )
    if answer == TURNED:
        table = turned(table, column.name, places.tolist())
        step = Step(do=TURN_SIGNS, column=column.name, facts={"places": places.tolist()})
        problem = replace(problem, severity="repair", repair=phrased("turned positive"), step=step)
    return replace(table, problems=(*table.problems, problem))


def turned(table: Table, name: str, places: list[int]) -> Table:
    """The table with the numbers in some rows of a column without their sign."""
    import pyarrow as pa
    import pyarrow.compute as pc

    from .repairs import rebuilt

    arrow = table.arrow
    values = arrow.column(name)
    whole = values.combine_chunks() if isinstance(values, pa.ChunkedArray) else values
    hit = np.zeros(table.rows, dtype=bool)
    hit[places] = True
    made = pc.if_else(pa.array(hit), pc.abs(whole), whole)
    return rebuilt(table, arrow.set_column(arrow.column_names.index(name), name, made), table.row_numbers())


def _mirrored(table: Table, name: str, values: Floats) -> float:
    """The share of the values below nought to which one above it of the same size belongs, with the same labels."""
    below = np.flatnonzero(values < 0)
    if below.size < 2:
        return 0.0
    sizes = np.abs(values)
    best = 0.0
    # Whose return it is, some column says; which one, the rows tell.
    others = [column for column in table.columns if column.role in (Role.DIMENSION, Role.KEY) and column.distinct > 1]
    for column in others[:8]:
        codes, _ = table.codes(column.name)
        found = set(zip(codes[values > 0].tolist(), sizes[values > 0].tolist(), strict=True))
        hits = sum((int(codes[place]), float(sizes[place])) in found for place in below)
        # What labels of two or three would find by chance is no mirror.
        by_chance = _by_chance(codes, sizes, values)
        if hits / below.size > max(best, 2 * by_chance):
            best = hits / below.size
    return best


def _by_chance(codes: npt.NDArray[Any], sizes: Floats, values: Floats) -> float:
    """The share of values below nought that would find one of their size under the label of any other row."""
    below = np.flatnonzero(values < 0)
    found = set(zip(codes[values > 0].tolist(), sizes[values > 0].tolist(), strict=True))
    # Neighbours may belong together: a return beside its sale.
    others = codes[np.random.default_rng(_SEED).permutation(codes.size)]
    return sum((int(others[place]), float(sizes[place])) in found for place in below) / below.size


def _usual_size(values: Floats, places: npt.NDArray[np.intp]) -> bool:
    above = values[values > 0]
    low, high = np.quantile(above, (0.01, 0.99))
    return bool(((-values[places] >= low) & (-values[places] <= high)).all())


def _examples(table: Table, places: npt.NDArray[np.intp], values: Floats) -> tuple[tuple[int, str], ...]:
    return tuple(table.example(int(place), f"{values[place]:.10g}") for place in places[:3])
