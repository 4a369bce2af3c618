"""What detectors look at: the table's cells, by any keys, over any of the measures."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from ..errors import RequestError
from ..measures import Measure, Part
from ..tables import Column, Table, Timeline
from .cells import Cells, PartCells
from .exact import grouped_sum

#: The key that stands for the period in `Survey.cells`.
PERIOD = "\0period"
#: More cells than this are not worth grouping in memory: the keys hardly group at all.
MOST_CELLS = 20_000_000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Survey:
    """A table with what is asked of it: measures, dimensions and, if it has dates, its timeline.

    `parents` maps a dimension to the one it lies within (port → region); `rows` per cell are counted
    over rows that have a date when the period is among the keys, over all rows otherwise.
    """

    table: Table
    measures: tuple[Measure, ...]
    dimensions: tuple[Column, ...]
    timeline: Timeline | None
    parents: dict[str, str] = field(default_factory=dict)
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
        if keys not in self._cache:
            self._cache[keys] = self._group(keys)
        return self._cache[keys]  # type: ignore[no-any-return]

    def values(self, part: Part) -> npt.NDArray[np.float64]:
        """A part's row expression as doubles, NaN where missing; shape (rows,)."""
        if not part.sql:
            return np.ones(self.size)
        if part.column and part.sql in (f'"{part.column}"', f'CAST("{part.column}" AS INT)'):
            return self.table.numbers(part.column)
        return self.table.evaluate(part.sql)

    def _group(self, keys: tuple[str, ...]) -> Cells:
        sizes: list[int] = []
        number = np.zeros(self.size, dtype=np.intp)
        for key in keys:
            codes, size = self.codes(key)
            number = number * size + codes
            sizes.append(size)
        total = int(np.prod(sizes, dtype=np.int64)) if sizes else 1
        if total > MOST_CELLS:
            raise RequestError(
                f"The grouping by {', '.join(keys)}", f"{total:,} groups", f"at most {MOST_CELLS:,} groups"
            )
        # The bin of rows without a date is cut off the axis of the periods.
        trim = tuple(slice(0, size - (key == PERIOD)) for key, size in zip(keys, sizes, strict=True))

        def shaped(flat: npt.NDArray[Any]) -> npt.NDArray[np.float64]:
            return np.asarray(flat, dtype=np.float64).reshape(sizes)[trim]

        rows = shaped(np.bincount(number, minlength=total))
        parts: dict[Part, PartCells] = {}
        for part in dict.fromkeys(part for measure in self.measures for part in measure.parts):
            if part.kind == "count" and not part.sql:
                continue
            parts[part] = self._part(part, number, total, shaped)
        return Cells(keys=keys, labels=tuple(self.labels(key) for key in keys), rows=rows, parts=parts)

    def _part(self, part: Part, number: npt.NDArray[np.intp], total: int, shaped: Any) -> PartCells:
        if part.kind == "distinct":
            codes, labels = self._distinct_codes(part)
            filled = codes >= 0
            pairs = np.unique(number[filled] * np.int64(len(labels) + 1) + codes[filled])
            other = shaped(np.bincount(pairs // (len(labels) + 1), minlength=total))
            count = shaped(np.bincount(number[filled], minlength=total))
            return PartCells(count=count, total=other, squares=other, other=other)
        values = self.values(part)
        filled = ~np.isnan(values)
        every = bool(filled.all())
        where, what = (number, values) if every else (number[filled], values[filled])
        other = None
        if part.kind in ("min", "max"):
            order = np.lexsort((what, where))
            firsts = np.flatnonzero(np.diff(where[order], prepend=-1))
            flat = np.full(total, np.nan)
            if order.size:
                picks = firsts if part.kind == "min" else np.append(firsts[1:], order.size) - 1
                flat[where[order][firsts]] = what[order][picks]
            other = shaped(flat)
        squares = shaped(np.bincount(where, weights=what * what, minlength=total))
        return PartCells(
            count=shaped(np.bincount(where, minlength=total)),
            total=shaped(grouped_sum(where, what, total)),
            squares=squares,
            other=other,
        )

    def _distinct_codes(self, part: Part) -> tuple[npt.NDArray[Any], tuple[str | None, ...]]:
        if part.column:
            codes, labels = self.table.codes(part.column)
            missing = len(labels) - 1 if labels and labels[-1] is None else len(labels)
            return np.where(codes == missing, -1, codes), labels
        values = self.values(part)
        found, places = np.unique(values, return_inverse=True)
        return np.where(np.isnan(values), -1, places), tuple(str(value) for value in found)
