"""Columns made from another one for a model, its logarithm or its square: they say what it says."""

from __future__ import annotations

import re
from collections.abc import Callable
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
_LOG = re.compile(r"(?:l|ln|log)_?(?P<of>.+)")
_SQUARE = re.compile(r"(?P<of>.+?)_?(?:sq|sqr|squared|2)")


def derived(table: Table) -> Table:
    """The table without such columns among its measures."""
    numbers = {one.name.casefold(): one for one in table.columns if one.type == "number"}
    found: dict[str, Column] = {}
    for column in table.with_role(Role.MEASURE):
        other = _of(table, column, numbers, _LOG, _logarithm)
        because = phrased("it is the logarithm of {column}", column=repr(other))
        if other is None:
            other = _of(table, column, numbers, _SQUARE, np.square)
            because = phrased("it is the square of {column}", column=repr(other))
        if other is not None:
            found[column.name] = replace(column, role=Role.IGNORED, adds_up=None, unit=None, nature="", because=because)
    return table.with_described(found)


def _of(
    table: Table, column: Column, numbers: dict[str, Column], named: re.Pattern[str], made: Callable[[Floats], Floats]
) -> str | None:
    """The column that one of such a name is made from, if its values are."""
    match = named.fullmatch(column.name.casefold())
    other = None if match is None else numbers.get(match["of"])
    if column.type != "number" or other is None or other.name == column.name:
        return None
    values, raw = glimpse.numbers(table, column.name), made(glimpse.numbers(table, other.name))
    both = np.isfinite(values) & np.isfinite(raw)
    several = np.unique(values[both]).size >= _LEAST
    return other.name if several and np.allclose(raw[both], values[both], rtol=_NEAR, atol=_NEAR) else None


def _logarithm(values: Floats) -> Floats:
    return np.log(np.where(values > 0, values, np.nan))
