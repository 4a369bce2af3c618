"""Columns made from another one for a model, its logarithm or its square: they say what it says."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ...support.phrasing import phrased
from .. import Column, Role, Table
from . import glimpse

Floats = npt.NDArray[np.float64]

#: Values that must agree, and how closely.
_LEAST, _NEAR = 5, 1e-3
#: What is put before a column's name for its logarithm, and behind it for its square.
_LOG = ("l", "ln", "log", "l_", "ln_", "log_")
_SQUARE = ("sq", "sqr", "squared", "2", "_sq", "_sqr", "_squared", "_2")


def derived(table: Table) -> Table:
    """The table without such columns among its measures."""
    numbers = {one.name.casefold(): one for one in table.columns if one.type == "number"}
    found: dict[str, Column] = {}
    for column in table.with_role(Role.MEASURE):
        name = column.name.casefold()
        logs = [name[len(one) :] for one in _LOG if name.startswith(one)]
        squares = [name[: -len(one)] for one in _SQUARE if name.endswith(one)]
        other = _of(table, column, (numbers[one] for one in logs if one in numbers), _logarithm)
        because = phrased("it is the logarithm of {column}", column=repr(other))
        if other is None:
            other = _of(table, column, (numbers[one] for one in squares if one in numbers), np.square)
            because = phrased("it is the square of {column}", column=repr(other))
        if other is not None:
            found[column.name] = replace(column, role=Role.IGNORED, adds_up=None, unit=None, nature="", because=because)
    return table.with_described(found)


def _of(table: Table, column: Column, others: Iterable[Column], made: Callable[[Floats], Floats]) -> str | None:
    """The one of some columns that a column is made from, by its values."""
    for other in others if column.type == "number" else ():
        values, raw = glimpse.numbers(table, column.name), made(glimpse.numbers(table, other.name))
        both = np.isfinite(values) & np.isfinite(raw)
        several = np.unique(values[both]).size >= _LEAST
        if several and np.allclose(raw[both], values[both], rtol=_NEAR, atol=_NEAR):
            return other.name
    return None


def _logarithm(values: Floats) -> Floats:
    return np.log(np.where(values > 0, values, np.nan))
