"""Dimensions that lie within one another (port in region), and labels that are the same rows twice."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from ..tables import Column, Table

#: Pairs of labels up to this number are looked up in a table of their own.
_MOST_PAIRS = 50_000_000


def parents(table: Table, dimensions: tuple[Column, ...]) -> dict[str, str]:
    """For each dimension the nearest one it lies within: every label of it has one label of the other.

    Two dimensions that rename each other (aliases) are not parent and child; see `aliases`. What was stated goes before
    what the rows show.
    """
    found: dict[str, str] = {}
    names = {one.name for one in dimensions}
    for child in dimensions:
        if table.stated.within.get(child.name) in names:
            found[child.name] = table.stated.within[child.name]
            continue
        above = [
            other
            for other in dimensions
            if other is not child
            and 1 < len(table.labels(other.name)) < len(table.labels(child.name))
            and depends(table, child.name, other.name)
        ]
        if above:
            found[child.name] = max(above, key=lambda other: (len(table.labels(other.name)), other.name)).name
    return found


def aliases(table: Table, dimensions: tuple[Column, ...]) -> set[str]:
    """Dimensions whose labels only rename those of an earlier one; of a code and a name the code does."""
    seen: list[Column] = []
    renamed: set[str] = set()
    for column in sorted(dimensions, key=lambda one: one.type != "text"):
        size = len(table.labels(column.name))
        if any(len(table.labels(other.name)) == size and depends(table, column.name, other.name) for other in seen):
            renamed.add(column.name)
        else:
            seen.append(column)
    return renamed


def depends(table: Table, child: str, parent: str) -> bool:
    """True when each label of `child` occurs with only one label of `parent`."""
    return _may_depend(table, child, parent) and bool((parent_codes(table, child, parent) >= 0).all())


def parent_codes(table: Table, child: str, parent: str) -> npt.NDArray[np.int64]:
    """The parent's code of each child label, −1 where it has several; shape (labels of child,)."""
    key = ("parent codes", child, parent)
    if key not in table._cache:
        below, above = table.store.pairs([(child, parent)])[child, parent]
        table._cache[key] = _single(below, above, len(table.labels(child)), len(table.labels(parent)))
    return table._cache[key]  # type: ignore[no-any-return]


def ask_together(table: Table, dimensions: Sequence[Column], flags: Sequence[Column] = ()) -> None:
    """Ask for all that `parents` and `aliases` look at in one go, where each question is a pass over a file; of flags
    the labels only."""
    if table.store.abilities.in_order:
        return
    counted = table.store.label_counts([column.name for column in (*dimensions, *flags)])
    sizes = {column.name: len(counted[column.name][0]) for column in dimensions}
    pairs = [(child, parent) for child in sizes for parent in sizes if child != parent]
    table.store.pairs([pair for pair in pairs if sizes[pair[1]] <= sizes[pair[0]] and _may_depend(table, *pair)])


def _may_depend(table: Table, child: str, parent: str) -> bool:
    """False where a few rows tell that the columns do not go together, as they do of most."""
    sample = table.sample()
    return sample is None or bool((parent_codes(sample, child, parent) >= 0).all())


def _single(codes: npt.NDArray[Any], above: npt.NDArray[Any], labels: int, above_labels: int) -> npt.NDArray[np.int64]:
    """The one code of `above` that each code occurs with, −1 where there are several."""
    if labels * above_labels <= _MOST_PAIRS:
        flat = np.zeros(labels * above_labels, dtype=bool)
        flat[codes.astype(np.int64) * above_labels + above] = True
        seen = flat.reshape(labels, above_labels)
        return np.where(seen.sum(axis=1) == 1, seen.argmax(axis=1), -1).astype(np.int64)
    low, high = np.full(labels, above_labels), np.full(labels, -1)
    np.minimum.at(low, codes, above)
    np.maximum.at(high, codes, above)
    return np.where(low == high, high, -1).astype(np.int64)
