"""The repairs that readiness makes, each from its facts alone: made when found, and made again from a log."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from ...engine.held_store import Held
from ...support.errors import RequestError
from ...support.phrasing import phrased, phrased_count
from .. import Role, Table
from ..meaning.date_parts import TOGETHER, free_name, put_together
from ..problems import Aside, Problem, Step
from ..roles import describe
from .missing_codes import TAKE_OUT, taken_out
from .negative_amounts import TURN_SIGNS, turned
from .running_totals import APART, taken_apart

#: What a column made of columns is called besides, where its name is taken.
_COLUMNS = " of the columns"
SET_ASIDE, TURN, MERGE = "set rows aside", "turn columns into rows", "merge labels"


def set_aside(table: Table, places: npt.NDArray[np.intp], why: str) -> Table:
    """The table without the rows at these places; they are listed as set aside. Columns are described anew."""

    mask = np.ones(table.rows, dtype=bool)
    mask[places] = False
    numbers = table.row_numbers()
    gone = table.arrow.take(arrow_arrays.column(places)).to_pylist()
    part = table.origin.part
    aside = tuple(
        Aside(
            row=int(numbers[place]),
            why=why,
            text=row_text(cells),
            part=None if part is None else str(cells.get(part)),
            cells=cells,
        )
        for place, cells in zip(places, gone, strict=True)
    )
    kept = rebuilt(table, table.arrow.filter(arrow_arrays.column(mask)), numbers[mask])
    return replace(kept, aside=(*table.aside, *aside))


def take_out(
    table: Table, places: npt.NDArray[np.intp], why: str, problem: Problem, message: str
) -> tuple[Table, Problem]:
    """Rows set aside because someone answered so: the table without them, and the problem as a repair."""
    step = Step(do=SET_ASIDE, facts={"why": why, "places": places.tolist()})
    told = replace(problem, severity="repair", message=message, repair=phrased("taken out"), question=None, step=step)
    return set_aside(table, places, why), told


def turn(table: Table, columns: Mapping[str, date], without: Sequence[str] = ()) -> Table:
    """Columns whose headings are periods turned into rows, with the columns "period" and "value".

    Other numbers stand on a row for each period now: they are left alone unless asked for, and then averaged.
    """
    import pyarrow as pa

    names = [column.name for column in table.columns if column.name not in columns and column.name not in without]
    n, k = table.rows, len(columns)
    place = np.repeat(np.arange(n), k)
    melted: dict[str, Any] = {name: table.arrow.column(name).take(pa.array(place)) for name in names}
    melted[free_name("period", names, _COLUMNS)] = pa.array(list(columns.values()) * n, pa.date32())
    flat = np.column_stack([table.numbers(name) for name in columns]).ravel()
    melted[free_name("value", names, _COLUMNS)] = pa.array(flat, pa.float64(), mask=np.isnan(flat))
    value = list(melted)[-1]
    made = rebuilt(table, pa.table(melted), table.row_numbers()[place])
    described = tuple(
        replace(column, role=Role.IGNORED, adds_up=False)
        if column.role is Role.MEASURE and column.name != value
        else column
        for column in made.columns
    )
    return replace(made, columns=described)


def merge(table: Table, column: str, labels: Mapping[str, str]) -> Table:
    """Some labels of a column written as others are."""
    import pyarrow as pa

    values = table.arrow.column(column)
    encoded = values if pa.types.is_dictionary(values.type) else values.dictionary_encode()
    encoded = encoded.unify_dictionaries().combine_chunks()
    if isinstance(encoded, pa.ChunkedArray):
        encoded = encoded.chunk(0)
    spelled = [labels.get(label, label) for label in encoded.dictionary.to_pylist()]
    merged = pa.array(spelled, pa.string()).take(encoded.indices).dictionary_encode()
    place = table.arrow.column_names.index(column)
    return rebuilt(table, table.arrow.set_column(place, column, merged), table.row_numbers())


def again(table: Table, step: Step) -> Table:
    """One step of a log, made again. Raises RequestError where it does not fit the table."""
    try:
        if step.do == SET_ASIDE:
            places = np.asarray(step.facts["places"], dtype=np.intp)
            if places.size and not 0 <= places.min() <= places.max() < table.rows:
                raise KeyError("places")
            table = set_aside(table, places, str(step.facts["why"]))
            said = phrased_count(
                int(places.size), "{n} row set aside ({why})", "{n} rows set aside ({why})", why=str(step.facts["why"])
            )
        elif step.do == TURN:
            columns = {name: date.fromisoformat(day) for name, day in step.facts["columns"].items()}
            table = turn(table, columns, step.facts.get("without", ()))
            said = phrased_count(len(columns), "{n} column turned into rows", "{n} columns turned into rows")
        elif step.do == MERGE:
            assert step.column is not None
            table = merge(table, table.column(step.column).name, step.facts["labels"])
            said = phrased_count(
                len(step.facts["labels"]),
                "{n} label of {column} merged",
                "{n} labels of {column} merged",
                column=repr(step.column),
            )
        elif step.do == TOGETHER:
            names = tuple(str(name) for name in step.facts["columns"])
            table = put_together(table, names)
            said = phrased("dates put together from {names}", names=list(names))
        elif step.do == TAKE_OUT:
            assert step.column is not None
            table, count, _ = taken_out(table, table.column(step.column).name, list(step.facts["codes"]))
            said = phrased_count(count, "{n} code counted as missing", "{n} codes counted as missing")
        elif step.do == TURN_SIGNS:
            assert step.column is not None
            signs = [int(place) for place in step.facts["places"]]
            table = turned(table, table.column(step.column).name, signs)
            said = phrased_count(
                len(signs), "{n} sign of {column} turned", "{n} signs of {column} turned", column=repr(step.column)
            )
        elif step.do == APART:
            assert step.column is not None
            facts = step.facts
            total, by = table.column(step.column).name, tuple(str(name) for name in facts["by"])
            table, amounts = taken_apart(table, total, str(facts["time"]), by, str(facts["start"]))
            said = phrased("{total} taken apart into {amounts}", total=repr(total), amounts=repr(amounts))
        else:
            return table
    except (KeyError, ValueError, IndexError) as problem:
        raise RequestError("A step of the repair log", step.do, "a step that fits this table") from problem
    made = Problem(
        check=step.do,
        severity="repair",
        column=step.column,
        rows=0,
        message=phrased("As the repair log says: {what}.", what=said),
        repair=said,
        step=step,
    )
    return replace(table, problems=(*table.problems, made))


def rebuilt(table: Table, arrow: Any, numbers: Any) -> Table:
    """The table with other rows or columns, each described anew."""
    known = {column.name: column for column in table.columns}
    columns = tuple(
        describe(
            name,
            known[name].original if name in known else name,
            arrow.column(name),
            known[name].unit if name in known else None,
        )
        for name in arrow.column_names
    )
    return replace(table, store=Held(arrow), columns=columns, _cache={("row numbers",): numbers})


def row_text(cells: Mapping[str, Any]) -> str:
    return ", ".join(str(value) for value in cells.values() if value is not None)
