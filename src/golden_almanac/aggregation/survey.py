"""What detectors look at: the table's cells, by any keys, over any of the measures."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from ..support.errors import BudgetError
from ..tables import Column, Table, Timeline
from ..tables.meaning.name_words import is_rest
from . import known_groups, memory_groups, sql_groups
from .cells import Cells, PartCells
from .exact_sums import Slice, added
from .grouping_plan import Plan
from .hierarchies import parent_codes
from .measures import Measure, Part
from .rollup import Base, BasePart, estimated_cells, rolled
from .row_codes import PERIOD, Rows
from .row_filter import EVERY, Only
from .sql_groups import check_budget, fits

Made = TypeVar("Made")

#: More cells than this are not worth grouping in memory: the keys hardly group at all.
MOST_CELLS = 20_000_000
#: Tables shorter than this are grouped as they are; a base is worth making below this share of cells per row.
LEAST_ROWS, WORTH = 20_000, 0.4
#: Short tables hold all combinations of codes as long as there are so many for each row.
_DENSE = 8
#: The numbers of so many rows, or base cells, are kept for what is asked of them later.
_KEPT = 50_000
Shape = Callable[[npt.NDArray[Any]], npt.NDArray[np.float64]]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Survey:
    """A table with what is asked of it: measures, dimensions and, if it has dates, its timeline.

    `parents` maps a dimension to the one it lies within (port → region); `rows` per cell are counted over rows that
    have a date when the period is among the keys, over all rows otherwise. `finer` is a survey of the same table by
    shorter periods, whose groups can be put together. Labels with fewer than `least_rows` rows take no part by
    themselves; `notes` say what of the table is not looked at; `source` is the table and timeline that its SQL and
    words speak of, where rows were moved in `table`. `planned` is the survey of what was beside what was planned, whose
    `plans` are pairs of measures with the name of the plan. Where `only` names some of the rows, `whole` is the survey
    of all.
    """

    table: Table
    measures: tuple[Measure, ...]
    dimensions: tuple[Column, ...]
    timeline: Timeline | None
    parents: dict[str, str] = field(default_factory=dict)
    finer: Survey | None = None
    notes: tuple[tuple[str, dict[str, Any]], ...] = ()
    source: tuple[Table, Timeline] | None = None
    planned: Survey | None = None
    plans: tuple[tuple[Measure, Measure, str], ...] = ()
    least_rows: int = 0
    flags: tuple[Column, ...] = ()
    only: Only = EVERY
    whole: Survey | None = None
    _cache: dict[Any, Any] = field(default_factory=dict)

    @property
    def size(self) -> int:
        return self.table.rows

    def labels(self, key: str) -> tuple[str | None, ...]:
        if key == PERIOD:
            line = self.timeline
            if line is None:
                return ()
            return self._once("periods", lambda: tuple(str(line.period(place).start) for place in range(line.count)))
        return self.table.labels(key)

    def told(self, key: str) -> npt.NDArray[np.bool_]:
        """Which labels of a dimension have rows enough to be told of by themselves; shape (labels,)."""

        def make() -> npt.NDArray[np.bool_]:
            # What has no label is no label, and what is left over is no one: it takes no place, leads and ends nothing.
            named = np.array([label is not None and not is_rest(label) for label in self.labels(key)], dtype=bool)
            return np.asarray((self.cells(key).rows >= self.least_rows) & named)

        return self._once(("told", key), make)

    def rows(self) -> Rows:
        """All rows; of a table left in its file, those are read into memory."""
        return self._once("rows", lambda: Rows(whole=self.table, table=self.table, timeline=self.timeline))

    def drawn(self) -> Rows:
        """The rows that tests on rows take: all, or the even sample of a long table (see `Table.sample`)."""

        def make() -> Rows:
            sample = self.table.sample()
            return self.rows() if sample is None else Rows(whole=self.table, table=sample, timeline=self.timeline)

        return self._once("drawn", make)

    def kept(self, only: Only) -> Survey:
        """The same survey of some of the rows: a slice, a span of days; labels and timeline stay."""
        if only == EVERY:
            return self
        return self._once(
            ("kept", only.conditions, str(only.span)),
            lambda: replace(self, only=only, whole=self, finer=None, _cache={}),
        )

    def _once(self, key: Any, make: Callable[[], Made]) -> Made:
        if key not in self._cache:
            self._cache[key] = make()
        return self._cache[key]  # type: ignore[no-any-return]

    def cells(self, *keys: str) -> Cells:
        """The cells by those keys, with every part of every measure; cached."""
        return self._once(("cells", keys), lambda: self._group(keys))

    def base(self) -> Base | None:
        """The finest grouping worth making, or None where the rows themselves are as good; made once."""
        if self.whole is not None:
            whole = self.whole
            return self._once("base", lambda: self._part_of(whole))
        if self.finer is not None:
            finer = self.finer
            return self._once("base", lambda: self._coarser_base(finer))
        return self._once("base", self._make_base)

    def plan(self) -> Plan:
        """How the groups asked for so far were made."""
        base = self.base()
        asked = sorted(key[1] for key in self._cache if isinstance(key, tuple) and key[0] == "cells")
        keys = self._base_keys()
        estimate = self._cache.get("estimate")
        return Plan(
            rows=self.size,
            keys=tuple(said(key) for key in keys),
            derived={}
            if base is None
            else {said(above): said(child) for child, above in self.parents.items() if above not in keys},
            estimated=estimate,
            cells=None if base is None else base.count,
            rolled=tuple(tuple(map(said, one)) for one in asked if self._covered(one)),
            direct=tuple(tuple(map(said, one)) for one in asked if not self._covered(one)),
        )

    def _base_keys(self) -> list[str]:
        """Dimensions (those that another lies within are told by it), and the period."""
        within = set(self.parents.values())
        keys = [column.name for column in self.dimensions if column.name not in within]
        return [*keys, PERIOD] if self.timeline is not None else keys

    def _make_base(self) -> Base | None:
        keys = self._base_keys()
        if not keys or (self.size < LEAST_ROWS and not self.table.store.abilities.groups_in_sql):
            return None
        coded = [self.drawn().codes(key) for key in keys]
        estimate = estimated_cells(coded, self.size)
        self._cache["estimate"] = estimate
        parts = [part for part in self._parts() if part.kind != "distinct"]
        # Where every grouping is a pass over the file, one is better than many, however little it groups.
        worth = self.table.store.abilities.groups_in_sql or estimate <= WORTH * self.size
        if not worth or estimate > MOST_CELLS or not fits(self.table, estimate, keys, len(parts)):
            return None
        base = self.from_rows(keys, parts)
        codes, sizes = dict(base.codes), dict(base.sizes)
        for child, above in sorted(self.parents.items(), key=lambda pair: pair[0] not in codes):
            # A dimension that another lies within is read off that one's label.
            if above not in codes and child in codes:
                codes[above] = parent_codes(self.table, child, above)[codes[child]]
                sizes[above] = len(self.labels(above))
        return replace(base, codes=codes, sizes=sizes)

    def from_rows(self, keys: Sequence[str], parts: Sequence[Part]) -> Base:
        """Cells made from the rows, where those are."""
        if self.table.store.abilities.groups_in_sql:
            return sql_groups.group(self.table, self.timeline, keys, parts, self.only)
        rows = self.rows() if self.whole is None else self.whole.rows()
        return memory_groups.group(rows, keys, parts, self.only)

    def _part_of(self, whole: Survey) -> Base | None:
        """The cells of the whole's base that lie in this part of it; None where they do not tell it apart."""
        base, only = whole.base(), self.only
        if base is None or not all(column in base.codes for column, _ in only.conditions):
            return None
        which = np.ones(base.count, dtype=bool)
        for column, label in only.conditions:
            labels = self.labels(column)
            which &= base.codes[column] == (labels.index(label) if label in labels else -1)
        if only.span is not None:
            places = None if self.timeline is None else known_groups.inside(self.timeline, *only.span)
            if places is None or PERIOD not in base.codes:
                return None
            which &= (base.codes[PERIOD] >= places[0]) & (base.codes[PERIOD] < places[1])
        return base.kept(which)

    def _coarser_base(self, finer: Survey) -> Base | None:
        """The base of a survey by shorter periods, its periods put together; None where they do not nest."""
        base, line, short = finer.base(), self.timeline, finer.timeline
        if base is None or line is None or short is None:
            return None
        place = known_groups.places_of(short, line)
        if place is None:
            return None
        codes = dict(base.codes) | {PERIOD: place[base.codes[PERIOD]]}
        return replace(base, codes=codes, sizes=dict(base.sizes) | {PERIOD: line.count + 1})

    def _parts(self) -> list[Part]:
        parts = dict.fromkeys(part for measure in self.measures for part in measure.parts)
        return [part for part in parts if part.kind != "count" or part.sql]

    def _covered(self, keys: tuple[str, ...]) -> bool:
        base = self.base()
        return base is not None and all(key in base.codes for key in keys)

    def _short(self, total: int) -> bool:
        """Whether the rows are few, and every combination of codes may be held for them."""
        plain = all(part.kind in ("sum", "count") for part in self._parts())
        in_memory = not self.table.store.abilities.groups_in_sql
        return plain and in_memory and self.size <= _KEPT and total <= max(1000, _DENSE * self.size)

    def _summed(self, keys: tuple[str, ...]) -> Cells:
        rows = self.rows() if self.whole is None else self.whole.rows()
        counted, sizes, parts = memory_groups.summed(rows, keys, self._parts(), self.only)
        shaped = _shaper(keys, sizes)
        return Cells(
            keys=keys,
            labels=tuple(self.labels(key) for key in keys),
            rows=shaped(counted),
            parts={
                part: PartCells(count=_then(shaped, count), total=_then(shaped, total), squares=_then(shaped, squares))
                for part, (count, total, squares) in parts.items()
            },
        )

    def _known(self, keys: tuple[str, ...]) -> Base | None:
        """What groupings made before tell, where each new one is a pass over a file or a question to a server."""
        if not self.table.store.abilities.groups_in_sql or (self.whole is None and PERIOD not in keys):
            return None
        return sql_groups.already(self.table, self.timeline, keys, self._parts(), self.only)

    def _shaped(self, made: Base, keys: tuple[str, ...]) -> Cells:
        """Cells of a grouping put together by its keys."""
        number, shaped = _numbers(made, keys), _shaper(keys, [made.sizes[key] for key in keys])
        total = math.prod(made.sizes[key] for key in keys)
        return Cells(
            keys=keys,
            labels=tuple(self.labels(key) for key in keys),
            rows=shaped(np.bincount(number(), weights=made.rows, minlength=total)),
            parts={part: _rolled_part(made.parts[part], number, total, shaped) for part in self._parts()},
        )

    def _group(self, keys: tuple[str, ...]) -> Cells:
        total = math.prod(len(self.labels(key)) + (key == PERIOD) for key in keys)
        if total > MOST_CELLS:
            raise BudgetError(
                f"The grouping by {', '.join(map(said, keys))} has {total:,} groups, more than can be held "
                f"({MOST_CELLS:,}). Name fewer columns with --by, or a longer grain."
            )
        known = self._known(keys)
        if known is not None:
            return self._shaped(known, keys)
        covered, base = self._covered(keys), self.base()
        if not covered and self._short(total):
            return self._summed(keys)
        direct = [part for part in self._parts() if base is None or not covered or part not in base.parts]
        made = base if base is not None and covered else None
        if made is None or direct:
            check_budget(self.table, min(total, self.size), keys, len(direct))
            fresh = self.from_rows(keys, direct)
            made = made or fresh
        else:
            fresh = made
        number, sizes = _numbers(made, keys), [made.sizes[key] for key in keys]
        shaped = _shaper(keys, sizes)
        own = _numbers(fresh, keys)
        return Cells(
            keys=keys,
            labels=tuple(self.labels(key) for key in keys),
            rows=shaped(np.bincount(number(), weights=made.rows, minlength=total)),
            parts={
                part: _rolled_part(fresh.parts[part], own, total, shaped)
                if part in direct
                else _rolled_part(made.parts[part], number, total, shaped)
                for part in self._parts()
            },
        )


def said(key: str) -> str:
    """A key as people know it."""
    return "period" if key == PERIOD else key


def _shaper(keys: tuple[str, ...], sizes: Sequence[int]) -> Shape:
    """Flat cells as an array; the bin of rows without a date is cut off the axis of the periods."""
    trim = tuple(slice(0, size - (key == PERIOD)) for key, size in zip(keys, sizes, strict=True))

    def shaped(flat: npt.NDArray[Any]) -> npt.NDArray[np.float64]:
        return np.asarray(flat, dtype=np.float64).reshape(sizes)[trim]

    return shaped


def _then(shaped: Shape, make: Callable[[], npt.NDArray[np.float64]]) -> Callable[[], npt.NDArray[np.float64]]:
    return lambda: shaped(make())


def _numbers(base: Base, keys: tuple[str, ...]) -> Callable[[], npt.NDArray[np.intp]]:
    """The number of each base cell's group, kept where there are few."""
    if base.count > _KEPT:
        return lambda: base.number(keys)[0]
    number = base.number(keys)[0]
    return lambda: number


def _rolled_part(base: BasePart, number: Callable[[], npt.NDArray[np.intp]], total: int, shaped: Shape) -> PartCells:
    """A part of base cells put together by the number of their group."""

    def count() -> npt.NDArray[np.float64]:
        return shaped(np.bincount(number(), weights=base.count, minlength=total))

    def added_up(cuts: Sequence[Slice]) -> npt.NDArray[np.float64]:
        where = number()
        return shaped(added([one.grouped(where, total) for one in cuts]))

    other: npt.NDArray[np.float64] | None = None
    if base.distinct is not None:
        other = shaped(np.bincount(number(), weights=base.distinct, minlength=total))
        return PartCells(count=count, total=other, squares=other, other=other)
    if base.low is not None:
        other = shaped(rolled(np.minimum, number(), base.low, total))
    elif base.high is not None:
        other = shaped(rolled(np.maximum, number(), base.high, total))
    return PartCells(
        count=count, total=lambda: added_up(base.sums), squares=lambda: added_up(base.squares), other=other
    )
