"""Keys between tables, found by containment, uniqueness and the likeness of names."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from ...support.name_parts import apart
from .. import Column, Role, Table
from .key_matching import comparable, match

#: Share of the left table's keys that the right one must hold, and that suffices where the names are alike.
_HELD, _HELD_ALIKE = 0.8, 0.5
#: Likeness of names (0 to 100) that counts as alike; numbers, which match by chance, must have it.
_ALIKE = 75.0
#: Rows on the left from which a column is a key at all, and the fewest keys.
_LEAST_KEYS = 2
_EXAMPLES = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Link:
    """A way to join two tables: each row of `left` finds at most one row of `right`.

    `held` is the share of the left table's keys that the right one has (0 to 1); `alike` the likeness of the names;
    `orphans` counts left rows without a match, `orphan_keys` shows some of their keys; `unused` counts right rows that
    no left row names. Rows before and after a join that keeps all left rows are the same, `rows`.
    """

    left: str
    right: str
    left_on: tuple[str, ...]
    right_on: tuple[str, ...]
    held: float
    alike: float
    rows: int
    orphans: int
    orphan_keys: tuple[str, ...]
    unused: int

    @property
    def score(self) -> float:
        return self.held * (0.5 + self.alike / 200)

    @property
    def on(self) -> str:
        """The columns of the join as a person says them: "vessel = name"."""
        return condition(self.left_on, self.right_on)


def condition(left_on: tuple[str, ...], right_on: tuple[str, ...]) -> str:
    """The columns of a join, left = right."""
    return " and ".join(a if a == b else f"{a} = {b}" for a, b in zip(left_on, right_on, strict=True))


def find_links(tables: Mapping[str, Table]) -> tuple[Link, ...]:
    """Links between the tables, most likely first; between two tables and on the same columns just the best."""
    links: list[Link] = []
    for a, left in tables.items():
        for b, right in tables.items():
            if a == b:
                continue
            links += _between(a, left, b, right)
    best: dict[tuple[str, str, tuple[str, ...]], Link] = {}
    for link in sorted(links, key=lambda one: (-one.score, one.left, one.right, one.left_on, one.right_on)):
        # Of a link both ways the one from the longer table is the one to follow.
        back = best.get((link.right, link.left, link.right_on))
        if back is not None and back.left_on == link.right_on and back.right_on == link.left_on:
            continue
        best.setdefault((link.left, link.right, link.left_on), link)
    return tuple(best.values())


def link(
    left_name: str, left: Table, right_name: str, right: Table, left_on: tuple[str, ...], right_on: tuple[str, ...]
) -> Link | None:
    """The link on these columns, or None where a key stands twice on the right."""
    keys = match(left, right, left_on, right_on)
    here, there = keys.counts()
    if (there > 1).any():
        return None
    lone = np.flatnonzero((here > 0) & (there == 0))
    lost = np.isin(keys.left, lone) | (keys.left < 0)
    firsts = [int(np.flatnonzero(keys.left == number)[0]) for number in lone[:_EXAMPLES]]
    own = int((here > 0).sum())
    return Link(
        left=left_name,
        right=right_name,
        left_on=left_on,
        right_on=right_on,
        held=0.0 if own == 0 else 1 - lone.size / own,
        alike=float(np.mean([_likeness(a, b, right_name) for a, b in zip(left_on, right_on, strict=True)])),
        rows=left.rows,
        orphans=int(lost.sum()),
        orphan_keys=tuple(
            ", ".join(str(left.arrow.column(name)[place].as_py()) for name in left_on) for place in firsts
        ),
        unused=int((there[here == 0]).sum()) + int((keys.right < 0).sum()),
    )


def _between(a: str, left: Table, b: str, right: Table) -> list[Link]:
    found = []
    for other in right.columns:
        if not _is_key(other, right):
            continue
        for column in left.columns:
            if column.role in (Role.IGNORED,) or not comparable(column, other) or column.distinct < _LEAST_KEYS:
                continue
            alike = _likeness(column.name, other.name, b)
            if column.type != "text" and alike < _ALIKE:
                continue
            made = link(a, left, b, right, (column.name,), (other.name,))
            if made is not None and made.held >= (_HELD_ALIKE if alike >= _ALIKE else _HELD):
                found.append(made)
    return found or _of_several(a, left, b, right)


def _of_several(a: str, left: Table, b: str, right: Table) -> list[Link]:
    """A key of two or three columns that have the same names in both tables."""
    names = {column.name.casefold(): column for column in right.columns if column.role is not Role.MEASURE}
    shared = [
        (column.name, names[column.name.casefold()].name)
        for column in left.columns
        if column.name.casefold() in names
        and column.role is not Role.MEASURE
        and comparable(column, names[column.name.casefold()])
    ][:6]
    for count in (2, 3):
        for chosen in combinations(shared, count):
            made = link(a, left, b, right, tuple(x for x, _ in chosen), tuple(y for _, y in chosen))
            if made is not None and made.held >= _HELD:
                return [made]
    return []


def _is_key(column: Column, table: Table) -> bool:
    whole = column.type in ("text", "date", "datetime") or (column.type == "number" and _is_whole(table, column.name))
    return whole and table.rows >= _LEAST_KEYS and column.distinct == table.rows - column.missing >= _LEAST_KEYS


def _is_whole(table: Table, name: str) -> bool:
    import pyarrow as pa

    return bool(pa.types.is_integer(table.arrow.column(name).type))


def _likeness(left: str, right: str, right_table: str) -> float:
    """Likeness of two columns' names, 0 to 100; "vessel" also is like "name" or "id" of a table of vessels."""
    from rapidfuzz import fuzz

    one, other = _words(left), _words(right)
    table = _words(right_table.rpartition(".")[0] or right_table)
    singular = table.removesuffix("s")
    plain = max(fuzz.ratio(one, other), fuzz.ratio(one, f"{singular} {other}"))
    if other in ("name", "id", "code", "key", "no", "number", "nr", "ref"):
        plain = max(plain, fuzz.ratio(one, singular), fuzz.ratio(one.removesuffix(f" {other}"), singular))
    return float(plain)


def _words(name: str) -> str:
    return " ".join(re.split(r"[\W_]+", apart(name, " ").casefold())).strip()
