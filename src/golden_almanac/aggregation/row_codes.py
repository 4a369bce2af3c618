"""The rows of a table as detectors and groupings take them: codes, places on the timeline, values."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ..support.errors import RequestError
from ..support.parallel import LONG
from ..support.phrasing import phrased
from ..tables import Table, Timeline
from .exact_sums import Slice, slices
from .magnitude_limits import check_size
from .measures import Part
from .rollup import SQUARE_SLICES
from .row_filter import EVERY, Only

#: Values of all parts whose slices are kept for a long table.
_KEPT_VALUES = 8_000_000
#: The key that stands for the period.
PERIOD = "\0period"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cut:
    """The values of rows, `filled` telling which have one (None where all do), with slices of both powers."""

    filled: npt.NDArray[np.bool_] | None
    values: npt.NDArray[np.float64]
    sums: tuple[Slice, ...]
    squares: tuple[Slice, ...]

    @classmethod
    def of(cls, values: npt.NDArray[np.float64], part: Part) -> Cut:
        filled = ~np.isnan(values)
        every = bool(filled.all())
        held = values if every else values[filled]
        check_size(part.sql, float(np.max(np.abs(held), initial=0.0)), int(held.size))
        with np.errstate(over="ignore"):
            squares = held * held
        return cls(
            filled=None if every else filled,
            values=held,
            sums=tuple(slices(held)),
            squares=tuple(slices(squares, SQUARE_SLICES)),
        )

    def kept(self, taken: npt.NDArray[np.intp]) -> Cut:
        """The same of some of the rows."""
        if self.filled is None:
            which, filled = taken, None
        else:
            filled = self.filled[taken]
            which = (np.cumsum(self.filled) - 1)[taken][filled]
        sums, squares = (
            tuple(replace(one, whole=one.whole[which]) for one in cuts) for cuts in (self.sums, self.squares)
        )
        return Cut(filled=filled, values=self.values[which], sums=sums, squares=squares)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Rows:
    """All rows of `whole`, or those of `table`, a sample of it; codes are numbered as in the whole. `plain_parts`
    keeps, for groupings, which parts are whole numbers of one scale."""

    whole: Table
    table: Table
    timeline: Timeline | None
    plain_parts: dict[tuple[str, tuple[Part, ...]], dict[Part, Slice]] = field(default_factory=dict)
    _cache: dict[Any, Any] = field(default_factory=dict)

    @property
    def size(self) -> int:
        return self.table.rows

    @property
    def sampled(self) -> bool:
        return self.table is not self.whole

    def named(self, test: str) -> str:
        """The name of a test on these rows, with that they are a sample, where they are."""
        if not self.sampled:
            return test
        return phrased("{test}, the scores of an even sample of {n} rows", test=test, n=self.size)

    def codes(self, key: str) -> tuple[npt.NDArray[Any], int]:
        """Codes of the rows by a key, and how many there are (the undated bin of PERIOD included)."""
        if key == PERIOD:
            assert self.timeline is not None
            return self.places(), self.timeline.count + 1
        codes, labels = self.table.codes(key)
        if not self.sampled:
            return codes, len(labels)
        every = self.whole.labels(key)
        if ("codes", key) not in self._cache:
            number = {label: place for place, label in enumerate(every)}
            self._cache["codes", key] = np.array([number[label] for label in labels], dtype=np.int32)[codes]
        return self._cache["codes", key], len(every)

    def places(self) -> npt.NDArray[np.intp]:
        """Each row's place on the timeline; one past the last for rows without a date; shape (rows,)."""
        line = self.timeline
        if line is None:
            raise RequestError("The time", None, "a column of dates")
        if "places" not in self._cache:
            days = self.table.days(line.column)
            missing = np.isnat(days)
            filled = np.where(missing, line.first_day, days) if missing.any() else days
            places = line.places(filled).astype(np.intp)
            places[missing] = line.count
            self._cache["places"] = places
        return self._cache["places"]  # type: ignore[no-any-return]

    def values(self, part: Part) -> npt.NDArray[np.float64]:
        """A part's row expression as doubles, NaN where missing; shape (rows,)."""
        if not part.sql:
            return np.ones(self.size)
        if part.column and part.sql in (f'"{part.column}"', f'CAST("{part.column}" AS INT)'):
            return self.table.numbers(part.column)
        return self.table.evaluate(part.sql)

    def cut(self, part: Part, taken: npt.NDArray[np.intp] | None = None) -> Cut:
        """A part's row expression as slices whose sums are exact, of the rows `taken` (None for all); those of a table
        that is not very long are kept for all its groupings."""
        key = ("cut", part.sql)
        if key not in self._cache:
            held = sum(1 for known in self._cache if known[0] == "cut")
            if self.size > LONG and (held + 1) * self.size > _KEPT_VALUES:
                values = self.values(part)
                return Cut.of(values if taken is None else values[taken], part)
            self._cache[key] = Cut.of(self.values(part), part)
        whole: Cut = self._cache[key]
        return whole if taken is None else whole.kept(taken)

    def kept(self, only: Only) -> npt.NDArray[np.intp] | None:
        """The places of the rows of a slice and span; None for all."""
        if only == EVERY:
            return None
        bits = [self._bits(condition) for condition in only.conditions]
        if only.span is not None:
            bits.append(self._bits(only.span))
        both = bits[0]
        for more in bits[1:]:
            both = both & more
        return np.flatnonzero(np.unpackbits(both, count=self.size))

    def _bits(self, condition: tuple[Any, Any]) -> npt.NDArray[np.uint8]:
        """The rows that meet a condition (column and label, or first and last day), eight to a byte; kept."""
        key = ("bits", str(condition[0]), str(condition[1]))
        if key not in self._cache:
            first, last = condition
            if isinstance(first, np.datetime64):
                assert self.timeline is not None
                days = self.table.days(self.timeline.column)
                meets = (days >= first) & (days <= last)
            else:
                codes, labels = self.table.codes(first)
                meets = codes == (labels.index(last) if last in labels else -1)
            self._cache[key] = np.packbits(meets)
        return self._cache[key]  # type: ignore[no-any-return]
