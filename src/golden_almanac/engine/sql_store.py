"""What every store that is asked in SQL answers alike: rows, labels, days, ends and pairs, each asked in one go."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt

from ..sql.expressions import quote_name
from . import arrow_arrays
from .arrow_arrays import days, encoded, floats, wholes
from .store import Labels, Pairs

if TYPE_CHECKING:
    import pyarrow as pa

#: What answers call the set that a row belongs to, and the rows of a group; no column can be named so.
_SET, _COUNT = "\tset", "\trows"
#: Bytes that a cell takes once it is in memory, with what is made of it.
CELL = 24


class SqlStore(ABC):
    """Answers by statements over `source`; what was asked of a column is kept in `_made`."""

    __slots__ = ()

    _made: dict[Any, Any]

    #: Groupings that one statement makes, and columns that they tell apart.
    @property
    def together(self) -> tuple[int, int]:
        return 24, 48

    @abstractmethod
    def query(self, sql: str, beside: Mapping[str, Any] | None = None) -> pa.Table:
        """The answer to one SELECT over `source`."""

    def schema(self) -> pa.Schema:
        """The names and types of the columns."""
        return self.query("SELECT * FROM source LIMIT 0").schema

    @property
    def rows(self) -> int:
        if "rows" not in self._made:
            self._made["rows"] = int(self.query("SELECT count(*) AS n FROM source").column("n")[0].as_py())
        return int(self._made["rows"])

    def remember_rows(self, rows: int) -> None:
        """How many rows there are, where it was counted along with something else."""
        self._made["rows"] = rows

    def remember_extents(self, ends: Mapping[str, tuple[Any, Any]]) -> None:
        """The ends of columns, where they were asked for along with something else."""
        self._made.update({("ends", name): end for name, end in ends.items()})

    def label_counts(self, names: Sequence[str]) -> dict[str, tuple[Labels, npt.NDArray[np.int64]]]:
        unknown = [name for name in dict.fromkeys(names) if ("labels", name) not in self._made]
        for (name,), found in self._grouped([(name,) for name in unknown]):
            codes, labels = encoded(found.column(name))
            counts = np.bincount(codes, weights=floats(found.column(_COUNT)), minlength=len(labels))
            self._made["labels", name] = labels, counts.astype(np.int64)
        return {name: self._made["labels", name] for name in names}

    def pairs(self, wanted: Sequence[tuple[str, str]]) -> dict[tuple[str, str], Pairs]:
        self.label_counts([name for pair in wanted for name in pair])
        unknown = [pair for pair in dict.fromkeys(wanted) if ("pairs", *pair) not in self._made]
        for (first, second), found in self._grouped(unknown):
            self._made["pairs", first, second] = tuple(
                self._placed(name, found.column(name)) for name in (first, second)
            )
        return {pair: self._made["pairs", *pair] for pair in wanted}

    def _placed(self, name: str, column: Any) -> npt.NDArray[np.int64]:
        """The codes of some values of a column."""
        place = {label: number for number, label in enumerate(self._made["labels", name][0])}
        codes, labels = encoded(column)
        numbers = np.array([place[label] for label in labels], dtype=np.int64)
        return np.asarray(numbers[codes], dtype=np.int64)

    def _grouped(self, groupings: Sequence[tuple[str, ...]]) -> Iterator[tuple[tuple[str, ...], pa.Table]]:
        """Each grouping of the rows by some columns, with the rows of each group under `_COUNT`: a pass for many of
        them, told apart by the bits of the columns that a grouping set leaves out."""
        for some in self._batches(groupings):
            names = list(dict.fromkeys(name for one in some for name in one))
            quoted = {name: quote_name(name) for name in names}
            sets = ", ".join(f"({', '.join(quoted[name] for name in one)})" for one in some)
            listed = ", ".join(quoted.values())
            found = self.query(
                f"SELECT {listed}, grouping({listed}) AS {quote_name(_SET)}, count(*) AS {quote_name(_COUNT)} "
                f"FROM source GROUP BY GROUPING SETS ({sets})"
            )
            of = wholes(found.column(_SET))
            for one in some:
                left_out = sum(1 << (len(names) - 1 - at) for at, name in enumerate(names) if name not in one)
                yield one, found.take(arrow_arrays.column(np.flatnonzero(of == left_out)))

    def _batches(self, groupings: Sequence[tuple[str, ...]]) -> list[list[tuple[str, ...]]]:
        """As many groupings together as the engine makes in one statement."""
        most, columns = self.together
        made: list[list[tuple[str, ...]]] = []
        for one in groupings:
            names = {name for other in (made[-1] if made else ()) for name in other} | set(one)
            if not made or len(made[-1]) >= most or len(names) > columns:
                made.append([])
            made[-1].append(one)
        return made

    def day_counts(self, name: str) -> tuple[npt.NDArray[np.datetime64], npt.NDArray[np.int64]]:
        key = ("days", name)
        if key not in self._made:
            found = self.query(
                f"SELECT CAST({quote_name(name)} AS DATE) AS d, count(*) AS n FROM source "
                f"WHERE {quote_name(name)} IS NOT NULL GROUP BY 1 ORDER BY 1"
            )
            self._made[key] = days(found.column("d")), wholes(found.column("n"))
        return self._made[key]  # type: ignore[no-any-return]

    def extents(self, names: Sequence[str]) -> dict[str, tuple[Any, Any]]:
        unknown = [name for name in dict.fromkeys(names) if ("ends", name) not in self._made]
        if unknown:
            listed = [f"min({q}) AS l{at}, max({q}) AS h{at}" for at, q in enumerate(map(quote_name, unknown))]
            row = self.query(f"SELECT {', '.join(listed)} FROM source")
            for at, name in enumerate(unknown):
                self._made["ends", name] = row.column(f"l{at}")[0].as_py(), row.column(f"h{at}")[0].as_py()
        return {name: self._made["ends", name] for name in names}

    def total(self, name: str) -> float | None:
        found = self.query(f"SELECT sum({quote_name(name)}) AS total FROM source").column("total")[0].as_py()
        # The engine adds doubles in another order on every run: the last digits are not to be relied on.
        return float(f"{found:.12g}") if isinstance(found, float) else None if found is None else int(found)
