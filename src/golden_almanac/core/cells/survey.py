"""What detectors look at: the table's cells, by any keys, over any of the measures."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

import numpy as np
import numpy.typing as npt

from ..errors import RequestError
from ..measures import Measure, Part
from ..tables import Column, Grain, Table, Timeline
from ..tables.hashing import mixed, row_hashes
from .base import Base, BasePart, estimated_cells, make_base, rolled
from .cells import Cells, PartCells
from .exact import added
from .hierarchies import parent_codes
from .plan import Plan

#: The key that stands for the period in `Survey.cells`.
PERIOD = "\0period"
#: More cells than this are not worth grouping in memory: the keys hardly group at all.
MOST_CELLS = 20_000_000
#: Tables shorter than this are grouped as they are; a base is worth making below this share of cells per row.
LEAST_ROWS, WORTH = 20_000, 0.4
#: Tests that need the rows themselves take about so many of them.
MOST_SAMPLED = 1_000_000
#: Periods that months nest in.
NESTED = (Grain.MONTH, Grain.QUARTER, Grain.YEAR)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Survey:
    """A table with what is asked of it: measures, dimensions and, if it has dates, its timeline.

    `parents` maps a dimension to the one it lies within (port → region); `rows` per cell are counted
    over rows that have a date when the period is among the keys, over all rows otherwise. `finer` is a survey of
    the same table by shorter periods, whose groups can be put together.
    """

    table: Table
    measures: tuple[Measure, ...]
    dimensions: tuple[Column, ...]
    timeline: Timeline | None
    parents: dict[str, str] = field(default_factory=dict)
    finer: Survey | None = None
    _cache: dict[Any, Any] = field(default_factory=dict)

    @property
    def size(self) -> int:
        return self.table.rows

    def places(self) -> npt.NDArray[np.intp]:
        """Each row's place on the timeline; one past the last for rows without a date; shape (rows,)."""
        if self.timeline is None:
            raise RequestError("The time", None, "a column of dates")
        key = "places"
        if key not in self._cache:
            line = self.timeline
            days = self.table.days(line.column)
            missing = np.isnat(days)
            filled = np.where(missing, line.first_day, days) if missing.any() else days
            places = line.places(filled).astype(np.intp)
            places[missing] = line.count
            self._cache[key] = places
        return self._cache[key]  # type: ignore[no-any-return]

    def labels(self, key: str) -> tuple[str | None, ...]:
        if key == PERIOD:
            line = self.timeline
            return () if line is None else tuple(str(line.period(place).start) for place in range(line.count))
        return self.table.codes(key)[1]

    def codes(self, key: str) -> tuple[npt.NDArray[Any], int]:
        """Codes of the rows by a key, and how many there are (the undated bin of PERIOD included)."""
        if key == PERIOD:
            assert self.timeline is not None
            return self.places(), self.timeline.count + 1
        codes, labels = self.table.codes(key)
        return codes, len(labels)

    def cells(self, *keys: str) -> Cells:
        """The cells by those keys, with every part of every measure; cached."""
        key = ("cells", keys)
        if key not in self._cache:
            self._cache[key] = self._group(keys)
        return self._cache[key]  # type: ignore[no-any-return]

    def values(self, part: Part) -> npt.NDArray[np.float64]:
        """A part's row expression as doubles, NaN where missing; shape (rows,)."""
        if not part.sql:
            return np.ones(self.size)
        if part.column and part.sql in (f'"{part.column}"', f'CAST("{part.column}" AS INT)'):
            return self.table.numbers(part.column)
        return self.table.evaluate(part.sql)

    def base(self) -> Base | None:
        """The finest grouping worth making, or None where the rows themselves are as good; made once."""
        key = "base"
        if key not in self._cache:
            if self.finer is not None:
                self._cache[key] = self._coarser_base(self.finer)
            else:
                self._cache[key] = self._make_base()
        return self._cache[key]  # type: ignore[no-any-return]

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
        if self.size < LEAST_ROWS or not keys or not all(self._rolls_up(part) for part in self._parts()):
            return None
        coded = [(key, *self.codes(key)) for key in keys]
        estimate = estimated_cells([(codes, size) for _, codes, size in coded], self.size)
        self._cache["estimate"] = estimate
        if estimate > WORTH * self.size:
            return None
        base = make_base(coded, {part: self.values(part) for part in self._parts()})
        codes, sizes = dict(base.codes), dict(base.sizes)
        for child, above in sorted(self.parents.items(), key=lambda pair: pair[0] not in codes):
            # A dimension that another lies within is read off that one's label.
            if above not in codes and child in codes:
                codes[above] = parent_codes(self.table, child, above)[codes[child]]
                sizes[above] = len(self.table.codes(above)[1])
        return replace(base, codes=codes, sizes=sizes)

    def _coarser_base(self, finer: Survey) -> Base | None:
        """The base of a survey by shorter periods, its periods put together; None where they do not nest."""
        base, line, short = finer.base(), self.timeline, finer.timeline
        if base is None or line is None or short is None or short.column != line.column:
            return None
        if short.grain is not line.grain and (line.grain not in NESTED or short.grain not in (Grain.DAY, *NESTED)):
            return None
        starts = np.array([short.period(place).start for place in range(short.count)])
        place = np.append(line.places(starts), line.count)
        if place[:-1].min() < 0 or place[:-1].max() >= line.count:
            return None
        codes = dict(base.codes) | {PERIOD: place[base.codes[PERIOD]]}
        return replace(base, codes=codes, sizes=dict(base.sizes) | {PERIOD: line.count + 1})

    def _parts(self) -> list[Part]:
        parts = dict.fromkeys(part for measure in self.measures for part in measure.parts)
        return [part for part in parts if part.kind != "count" or part.sql]

    def _rolls_up(self, part: Part) -> bool:
        return part.kind != "distinct"

    def _covered(self, keys: tuple[str, ...]) -> bool:
        base = self.base()
        return base is not None and all(key in base.codes for key in keys)

    def _group(self, keys: tuple[str, ...]) -> Cells:
        base = self.base()
        if base is not None and all(key in base.codes for key in keys) and all(p in base.parts for p in self._parts()):
            number, sizes = base.number(keys)
        else:
            base, number, sizes = None, np.zeros(self.size, dtype=np.intp), []
            for key in keys:
                codes, size = self.codes(key)
                number = number * size + codes
                sizes.append(size)
        total = int(np.prod(sizes, dtype=np.int64)) if sizes else 1
        if total > MOST_CELLS:
            raise RequestError(
                f"The grouping by {', '.join(map(said, keys))}", f"{total:,} groups", f"at most {MOST_CELLS:,} groups"
            )
        # The bin of rows without a date is cut off the axis of the periods.
        trim = tuple(slice(0, size - (key == PERIOD)) for key, size in zip(keys, sizes, strict=True))

        def shaped(flat: npt.NDArray[Any]) -> npt.NDArray[np.float64]:
            return np.asarray(flat, dtype=np.float64).reshape(sizes)[trim]

        counted = None if base is None else base.rows
        rows = shaped(np.bincount(number, weights=counted, minlength=total))
        parts = {
            part: self._part(part, number, total, shaped)
            if base is None
            else _rolled_part(part, base.parts[part], number, total, shaped)
            for part in self._parts()
        }
        return Cells(keys=keys, labels=tuple(self.labels(key) for key in keys), rows=rows, parts=parts)

    def _part(self, part: Part, number: npt.NDArray[np.intp], total: int, shaped: Any) -> PartCells:
        if part.kind == "distinct":
            codes, labels = self._distinct_codes(part)
            filled = codes >= 0
            pairs = np.unique(number[filled] * np.int64(len(labels) + 1) + codes[filled])
            other = shaped(np.bincount(pairs // (len(labels) + 1), minlength=total))
            count = shaped(np.bincount(number[filled], minlength=total))
            return PartCells(count=count, total=other, squares=other, other=other)
        made = make_base([("row", number, total)], {part: self.values(part)})
        at = made.codes["row"].astype(np.intp)
        return _rolled_part(part, made.parts[part], at, total, shaped)

    def sample(self) -> npt.NDArray[np.intp] | None:
        """The places of an even sample of about `MOST_SAMPLED` rows, None where there are hardly more.

        A row is taken by a hash of what it holds (its dimensions, date and measures), not of its place, so that the
        order of the rows changes nothing.
        """
        key = "sample"
        if key not in self._cache:
            self._cache[key] = None if self.size <= 1.5 * MOST_SAMPLED else self._sampled()
        return self._cache[key]  # type: ignore[no-any-return]

    def _sampled(self) -> npt.NDArray[np.intp]:
        columns = [self.codes(column.name)[0] for column in self.dimensions]
        columns += [self.table.days(self.timeline.column).astype(np.int64)] if self.timeline is not None else []
        columns += [self.values(part) for part in self._parts() if part.kind != "distinct"]
        total = row_hashes([partial(mixed, column, place) for place, column in enumerate(columns)], self.size)
        return np.flatnonzero(mixed(total, len(columns)) < np.uint64(2**64 * (MOST_SAMPLED / self.size)))

    def _distinct_codes(self, part: Part) -> tuple[npt.NDArray[Any], tuple[str | None, ...]]:
        if part.column:
            codes, labels = self.table.codes(part.column)
            missing = len(labels) - 1 if labels and labels[-1] is None else len(labels)
            return np.where(codes == missing, -1, codes), labels
        values = self.values(part)
        found, places = np.unique(values, return_inverse=True)
        return np.where(np.isnan(values), -1, places), tuple(str(value) for value in found)


def said(key: str) -> str:
    """A key as people know it."""
    return "period" if key == PERIOD else key


def _rolled_part(part: Part, base: BasePart, number: npt.NDArray[np.intp], total: int, shaped: Any) -> PartCells:
    """A part of base cells put together by the number of their group."""
    other = None
    if base.low is not None:
        other = shaped(rolled(np.minimum, number, base.low, total))
    elif base.high is not None:
        other = shaped(rolled(np.maximum, number, base.high, total))
    return PartCells(
        count=shaped(np.bincount(number, weights=base.count, minlength=total)),
        total=shaped(added([one.grouped(number, total) for one in base.sums])),
        squares=shaped(added([one.grouped(number, total) for one in base.squares])),
        other=other,
    )
