"""Amounts of several currencies or units turned into one, by a table of rates."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ...support.errors import RequestError, listed
from ...support.phrasing import phrased
from .. import Role, Table
from ..problems import Problem
from ..table import Column
from .mixed_units import MixedUnits, mixed_units_of
from .natures import Nature

Floats = npt.NDArray[np.float64]
#: A rate holds until the next, but no longer than so many days, or times the usual step between its dates.
_LEAST_DAYS, _STEPS = 7, 1.5
_MONEY = (Nature.FLOW, Nature.STOCK, Nature.RUNNING, Nature.PRICE)
_THINGS = (Nature.FLOW, Nature.STOCK, Nature.RUNNING, Nature.COUNT)


def converted(table: Table, rates: Table) -> Table:
    """The table with its amounts in one currency or unit: that whose rate is 1, or the one that the rates leave out.

    `rates` has a column of labels, one of what each is worth in that unit, and perhaps one of dates from which a rate
    holds. Raises RequestError for a table without such amounts, for labels without a rate, and for holes in time.
    """
    import pyarrow as pa

    mixed = mixed_units_of(table)
    if mixed is None:
        raise RequestError("The rates", rates.name, "left out: no amount stands beside several currencies or units")
    labels, worth, days = _columns(rates, mixed)
    target = _target(mixed, labels, worth, rates.name)
    each = _each_row(table, mixed, labels, worth, days, target, rates.name)
    arrow, columns = table.arrow, {}
    for column in table.columns:
        if not _in_units(column, mixed):
            continue
        values = table.numbers(column.name) * each
        place = arrow.column_names.index(column.name)
        arrow = arrow.set_column(place, column.name, pa.array(values, pa.float64(), mask=np.isnan(values)))
        columns[column.name] = replace(column, unit=target)
    from ...engine.held_store import Held

    others = sorted(set(mixed.labels) - {target})
    problem = Problem(
        check="exchange rates",
        severity="repair",
        column=mixed.column,
        rows=int((each != 1).sum()),
        message=phrased(
            "{columns} in {others} were turned into {target} at the rates of {source}.",
            columns=[repr(name) for name in columns],
            others=others,
            target=target,
            source=rates.name,
        ),
        repair=phrased("turned into {target}", target=target),
    )
    kept = {key: held for key, held in table._cache.items() if key == ("row numbers",)}
    made = replace(table, store=Held(arrow), problems=(*table.problems, problem), _cache=kept)
    return made.with_described(columns)


def _columns(rates: Table, mixed: MixedUnits) -> tuple[list[str | None], Floats, npt.NDArray[np.datetime64] | None]:
    """Labels, rates and dates (None where there are none), each of shape (rows of rates,)."""
    texts = [column for column in rates.columns if column.type == "text"]
    wanted = set(mixed.labels)
    known = {column.name: len(wanted & set(rates.labels(column.name))) for column in texts}
    by = max(known, key=lambda name: known[name], default=None)
    numbers = [column for column in rates.columns if column.type == "number" and column.role is not Role.PART]
    told = [column for column in numbers if column.nature in (Nature.PRICE, Nature.SHARE)] or numbers
    if by is None or not known[by] or len(told) != 1:
        raise RequestError(
            "The rates", rates.name, f"a table with a column of labels such as {mixed.read!r} and one column of rates"
        )
    codes, names = rates.codes(by)
    worth = rates.numbers(told[0].name)
    if not (worth[np.isfinite(worth)] > 0).all():
        raise RequestError("The rates", rates.name, "a table whose rates are all above nought")
    dated = rates.with_role(Role.TIME)
    return [names[code] for code in codes], worth, rates.days(dated[0].name) if dated else None


def _target(mixed: MixedUnits, labels: list[str | None], worth: Floats, name: str) -> str:
    """The label that amounts are turned into."""
    by_label: dict[str | None, list[float]] = {}
    for label, rate in zip(labels, worth, strict=True):
        by_label.setdefault(label, []).append(float(rate))
    missing = sorted(label for label in mixed.labels if label not in by_label)
    ones = sorted(label for label in mixed.labels if set(by_label.get(label, ())) == {1.0})
    if not missing and len(ones) == 1:
        return ones[0]
    if len(missing) == 1 and not ones:
        return missing[0]
    if missing and (ones or len(missing) > 1):
        raise RequestError("The rates", name, f"a table with a rate for {listed(missing)}, too")
    raise RequestError("The rates", name, "a table in which one of them has the rate 1: amounts are turned into that")


def _each_row(
    table: Table,
    mixed: MixedUnits,
    labels: list[str | None],
    worth: Floats,
    days: npt.NDArray[np.datetime64] | None,
    target: str,
    name: str,
) -> Floats:
    """What one unit of each row is worth in the target; NaN where the row says no unit. Shape (rows,)."""
    codes, names = table.codes(mixed.column)
    each = np.full(table.rows, np.nan)
    timed = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    if days is not None and not timed:
        raise RequestError("The rates", name, "rates without dates: the table has none to go by")
    for code, label in enumerate(names):
        here = np.flatnonzero(codes == code)
        if label == target:
            each[here] = 1.0
        elif label is not None:
            own = np.array([place for place, one in enumerate(labels) if one == label], dtype=np.intp)
            if days is None:
                if own.size != 1:
                    raise RequestError("The rates", name, f"one rate for {label!r}, or dates beside several")
                each[here] = worth[own[0]]
            else:
                each[here] = _as_of(table.days(timed[0].name)[here], days[own], worth[own], label, name)
    return each


def _as_of(asked: Any, days: npt.NDArray[np.datetime64], worth: Floats, label: str, name: str) -> Floats:
    """The rate that holds on each day asked for: the last one before it."""
    order = np.argsort(days, kind="stable")
    days, worth = days[order], worth[order]
    steps = np.diff(days).astype(np.int64)
    longest = max(_LEAST_DAYS, _STEPS * float(np.median(steps)) if steps.size else _LEAST_DAYS)
    place = np.searchsorted(days, asked, side="right") - 1
    known = ~np.isnat(asked)
    early = known & (place < 0)
    age = (asked - days[np.maximum(place, 0)]).astype(np.int64)
    hole = early | (known & (age > longest))
    if hole.any():
        day = min(asked[hole])
        raise RequestError("The rates", name, f"a table without holes: it has no rate for {label!r} on {day}")
    return np.where(known, worth[np.maximum(place, 0)], np.nan)


def _in_units(column: Column, mixed: MixedUnits) -> bool:
    """Whether the amounts of a column are in the units that the labels say."""
    natures = _MONEY if mixed.currency else _THINGS
    own = column.unit is None or column.unit in mixed.labels
    return column.role is Role.MEASURE and column.type == "number" and column.nature in natures and own
