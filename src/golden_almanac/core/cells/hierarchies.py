"""Dimensions that lie within one another (port in region), and labels that are the same rows twice."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..tables import Column, Table

#: Pairs of labels up to this number are looked up in a table of their own.
_MOST_PAIRS = 50_000_000


def parents(table: Table, dimensions: tuple[Column, ...]) -> dict[str, str]:
    """For each dimension the nearest one it lies within: every label of it has one label of the other.

    Two dimensions that rename each other (aliases) are not parent and child; see `aliases`.
    """
    found: dict[str, str] = {}
    for child in dimensions:
        above = [
            other
            for other in dimensions
            if other is not child
            and 1 < len(table.codes(other.name)[1]) < len(table.codes(child.name)[1])
            and depends(table, child.name, other.name)
        ]
        if above:
            found[child.name] = max(above, key=lambda other: (len(table.codes(other.name)[1]), other.name)).name
    return found


def aliases(table: Table, dimensions: tuple[Column, ...]) -> set[str]:
    """Dimensions whose labels only rename those of an earlier one."""
    seen: list[Column] = []
    renamed: set[str] = set()
    for column in dimensions:
        size = len(table.codes(column.name)[1])
        if any(len(table.codes(other.name)[1]) == size and depends(table, column.name, other.name) for other in seen):
            renamed.add(column.name)
        else:
            seen.append(column)
    return renamed


def depends(table: Table, child: str, parent: str) -> bool:
    """True when each label of `child` occurs with only one label of `parent`."""
    return bool((parent_codes(table, child, parent) >= 0).all())


def parent_codes(table: Table, child: str, parent: str) -> npt.NDArray[np.int64]:
    """The parent's code of each child label, −1 where it has several; shape (labels of child,)."""
    key = ("parent codes", child, parent)
    if key not in table._cache:
        codes, labels = table.codes(child)
        above, above_labels = table.codes(parent)
        size = len(above_labels)
        if len(labels) * size <= _MOST_PAIRS:
            flat = np.zeros(len(labels) * size, dtype=bool)
            flat[codes.astype(np.int64) * size + above] = True
            seen = flat.reshape(len(labels), size)
            found = np.where(seen.sum(axis=1) == 1, seen.argmax(axis=1), -1)
        else:
            low, high = np.full(len(labels), size), np.full(len(labels), -1)
            np.minimum.at(low, codes, above)
            np.maximum.at(high, codes, above)
            found = np.where(low == high, high, -1)
        table._cache[key] = found.astype(np.int64)
    return table._cache[key]  # type: ignore[no-any-return]
