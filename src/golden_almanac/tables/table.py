"""The table: rows with typed columns, each column with a role."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt

from ..engine import arrow_arrays
from ..engine.store import Store
from ..sql import expressions, select_statements
from ..support import progress
from ..support.errors import ColumnError, ExpressionError, RequestError, SourceError, shorten
from ..support.notebook_view import grid_of, view
from ..support.phrasing import phrased
from ..support.printable import made_visible
from ..support.shell import Named
from .calendar import Calendar
from .io.raw_table import Origin, Spots
from .polars_frames import in_polars
from .problems import Aside, Problem, Step
from .stated import Stated

if TYPE_CHECKING:
    import pandas as pd
    import polars as pl
    import pyarrow as pa


class Role(StrEnum):
    TIME = "time"
    DIMENSION = "dimension"
    MEASURE = "measure"
    KEY = "key"
    TEXT = "text"
    PART = "part of a date"
    IGNORED = "ignored"


#: Tests that need the rows themselves take about so many of them.
MOST_SAMPLED = 250_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """What is known of one column.

    `type` is number, date, datetime, text, boolean or empty. `adds_up` tells an amount (revenue), which is summed,
    from a rate (delay, price), which is averaged; it is None unless a measure, or a number left alone because it
    stands on several rows (a ship's tons beside each sailing). `nature` says more closely what kind of number it is
    (see `meaning.natures`), and `because` why it was taken for that; `beside` names the column whose plan, budget or
    last year it holds; `weighed` are, of a rate or price that is the ratio of two other columns, the one above the
    line, the one below it, and the factor (100 for percent); `weights` the columns that such a number is naturally
    averaged by (a price by the quantity), which it is where there is one.
    """

    name: str
    original: str
    type: str
    role: Role
    adds_up: bool | None
    unit: str | None
    missing: int
    distinct: int
    nature: str = ""
    because: str = ""
    beside: str = ""
    weighed: tuple[str, str, float] | None = None
    weights: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Table:
    """Rows with typed columns, held in memory as Arrow or left in their file; made by `ga.read`.

    `rows_read` counts the rows of the source before any repair: those kept and those `aside`. `first_row` is the
    number a person sees beside the first data row of the file (2 under one header line). `origin` tells where the
    table comes from, `calendar` by which calendar it is told. `where` is the condition already applied, as
    SQL, or None. `private` are names of columns that were left out where it was read, and that nothing may name;
    labels of fewer rows than `minimum` are put together (see `disclosure`). `noun` is what its rows are called, where
    somebody said so ("sailings"), and `stated` what else was said of measures and columns.
    """

    name: str
    store: Store
    columns: tuple[Column, ...]
    rows_read: int
    first_row: int = 2
    problems: tuple[Problem, ...] = ()
    aside: tuple[Aside, ...] = ()
    origin: Origin = field(default_factory=lambda: Origin(kind="memory"))
    calendar: Calendar = field(default_factory=Calendar)
    where: str | None = None
    private: tuple[str, ...] = ()
    minimum: int = 0
    noun: str = ""
    stated: Stated = field(default_factory=Stated)
    _cache: dict[tuple[Any, ...], Any] = field(default_factory=dict)

    @property
    def rows(self) -> int:
        return self.store.rows

    @property
    def arrow(self) -> pa.Table:
        """All rows in memory. Raises BudgetError for a table left in its file that does not fit."""
        return self.store.arrow()

    @property
    def readiness(self) -> tuple[Problem, ...]:
        """Problems found and repairs made, worst first."""
        from .problems import ordered

        return ordered(self.problems)

    @property
    def repairs(self) -> tuple[Step, ...]:
        """The repairs as data, in the order they were made."""
        steps: list[Step] = []
        for problem in self.problems:
            if problem.step is not None and problem.step not in steps:
                steps.append(problem.step)
        return tuple(steps)

    def repair_log(self) -> dict[str, Any]:
        """The repairs as plain data (golden-almanac/repairs/1), which `ga.read(source, repairs=log)` makes again.
        Raises JoinError for a joined table."""
        from .repair_log import log_of

        return log_of(self)

    def example(self, place: int, text: str) -> tuple[int, str]:
        """A row as a person finds it, with what is to be said of it."""
        part = self.origin.part
        parts = self.arrow.column(part) if part is not None and part in self.arrow.column_names else None
        return Spots(numbers=self.row_numbers(), parts=parts).example(place, text)

    @property
    def called(self) -> str:
        """The source as a command that is suggested names it."""
        origin = self.origin
        if origin.address is None:
            return self.name
        if origin.query is not None:
            return Named(origin.address, "--query", origin.query)
        return Named(origin.address, *(("--table", origin.table) if origin.table else ()))

    @property
    def names(self) -> list[str]:
        return [column.name for column in self.columns]

    def column(self, name: str, where: str = "") -> Column:
        """The column of that name, case folded. Raises ColumnError with the nearest names."""
        for column in self.columns:
            if column.name == name:
                return column
        for column in self.columns:
            if column.name.casefold() == name.casefold():
                return column
        raise ColumnError.unknown(name, self.names, where, self.private)

    def with_role(self, role: Role) -> list[Column]:
        return [column for column in self.columns if column.role is role]

    def with_described(self, columns: Mapping[str, Column]) -> Table:
        """A copy in which some columns are described otherwise; their values are the same."""
        return replace(self, columns=tuple(columns.get(column.name, column) for column in self.columns))

    def with_roles(self, **roles: str) -> Table:
        """A copy with the roles of some columns set: `table.with_roles(crew="key")`."""
        return self.set_roles(roles)

    def set_roles(self, roles: Mapping[str, str]) -> Table:
        """As `with_roles`, for names that are no Python words."""
        wanted = {}
        for name, role in roles.items():
            if role not in tuple(Role):
                raise RequestError(f"The role of {name}", role, "one of " + ", ".join(Role))
            wanted[self.column(name).name] = Role(role)
        changed = []
        for column in self.columns:
            role = wanted.get(column.name, column.role)
            if role is Role.MEASURE and column.type not in ("number", "boolean"):
                raise ColumnError(
                    column.name,
                    f"The column {column.name!r} holds {column.type}, so it cannot be a measure.",
                    "Only numbers and yes/no columns can.",
                )
            if role is Role.TIME and column.type not in ("date", "datetime"):
                raise ColumnError(
                    column.name,
                    f"The column {column.name!r} holds {column.type}, so it cannot be the time.",
                    "Only dates can.",
                )
            known = role is column.role or (role is Role.MEASURE and column.adds_up is not None)
            adds_up = column.adds_up if known else (True if role is Role.MEASURE else None)
            changed.append(replace(column, role=role, adds_up=adds_up))
        kept: dict[tuple[str, ...], Any] = {}
        if ("row numbers",) in self._cache:
            kept["row numbers",] = self._cache["row numbers",]
        return replace(self, columns=tuple(changed), _cache=kept)

    def set_natures(self, natures: Mapping[str, str]) -> Table:
        """A copy with what kind of number columns hold set; see `ga.read`. Raises ColumnError or RequestError."""
        from .meaning.natures import ADDED, Nature, contradiction

        wanted = {}
        for name, nature in natures.items():
            column = self.column(name)
            if nature not in tuple(Nature):
                raise RequestError(f"The nature of {name}", nature, "one of " + ", ".join(Nature))
            if column.type not in ("number", "boolean"):
                raise ColumnError(
                    column.name,
                    f"The column {column.name!r} holds {column.type}, so it has no nature of a number.",
                    "Only numbers and yes/no columns do.",
                )
            low, high = (0.0, 1.0) if column.type == "boolean" else self.extent(column.name)
            why = None if low is None else contradiction(Nature(nature), float(low), float(high))
            if why is not None:
                raise ColumnError(
                    column.name, f"The column {column.name!r} cannot be a {nature}: {why}.", "Name another."
                )
            code = nature == Nature.CODE
            wanted[column.name] = replace(
                column,
                role=Role.KEY if code else Role.MEASURE,
                adds_up=None if code else Nature(nature) in ADDED,
                nature=nature,
                because=phrased("so it was said"),
                # What is added up is no ratio of others, nor weighed by them.
                weighed=None if code or Nature(nature) in ADDED else column.weighed,
                weights=() if code or Nature(nature) in ADDED else column.weights,
            )
        columns = tuple(wanted.get(column.name, column) for column in self.columns)
        kept = {key: held for key, held in self._cache.items() if key == ("row numbers",)}
        return replace(self, columns=columns, _cache=kept)

    def filter(self, where: str) -> Table:
        """The rows that an SQL condition keeps. Raises ExpressionError, ColumnError, SourceError."""
        safe = expressions.condition(where, self.names, self.private)
        kept, which = self.store.kept(safe)
        if kept.rows == 0:
            raise SourceError(
                self.name, f"no row meets the condition {where!r}", "Loosen it, or check the spelling of its values."
            )
        both = safe if self.where is None else f"({self.where}) AND ({safe})"
        cache: dict[tuple[str, ...], Any] = {} if which is None else {("row numbers",): self.row_numbers()[which]}
        made = replace(self, store=kept, where=both, _cache=cache)
        if not self.minimum:
            return made
        # A slice has fewer rows of each label than the whole.
        from .disclosure import folded

        return folded(made, self.minimum)

    def leave_out(self, names: Sequence[str]) -> Table:
        """A copy without these columns, as if the source did not have them: what was noticed of them goes too."""
        from .disclosure import without_private

        return without_private(self, names)

    def codes(self, name: str) -> tuple[npt.NDArray[np.signedinteger[Any]], tuple[str | None, ...]]:
        """Integer codes, in the smallest type, and their labels in sorted order, missing (None) last; shape (rows,)."""
        return self.store.codes(name)

    def numbers(self, name: str) -> npt.NDArray[np.float64]:
        """The column as doubles; missing is NaN, yes is 1 and no 0; shape (rows,)."""

        key = ("numbers", name)
        if key not in self._cache:
            column = self.column(name)
            if column.type not in ("number", "boolean", "empty"):
                raise ColumnError(
                    name,
                    f"The column {shorten(name)!r} holds {column.type}, not numbers.",
                    "Count it with count(distinct …), or choose a number.",
                )
            self._cache[key] = arrow_arrays.floats(self.arrow.column(name))
        return self._cache[key]  # type: ignore[no-any-return]

    def days(self, name: str) -> npt.NDArray[np.datetime64]:
        """The column as days; missing is NaT; shape (rows,)."""
        key = ("days", name)
        if key not in self._cache:
            self._check_dates(name)
            self._cache[key] = arrow_arrays.days(self.arrow.column(name))
        return self._cache[key]  # type: ignore[no-any-return]

    def day_counts(self, name: str) -> tuple[npt.NDArray[np.datetime64], npt.NDArray[np.int64]]:
        """The days of a column that occur, in order, and the rows on each; missing ones left out."""
        self._check_dates(name)
        return self.store.day_counts(name)

    def _check_dates(self, name: str) -> None:
        column = self.column(name)
        if column.type not in ("date", "datetime"):
            dated = ", ".join(other.name for other in self.columns if other.type in ("date", "datetime"))
            raise ColumnError(
                name, f"The column {name!r} holds {column.type}, not dates.", f"Columns with dates: {dated or 'none'}."
            )

    def label_counts(self, name: str) -> tuple[tuple[str | None, ...], npt.NDArray[np.int64]]:
        """The labels of a column in sorted order, missing (None) last, and the rows of each."""
        return self.store.label_counts((name,))[name]

    def labels(self, name: str) -> tuple[str | None, ...]:
        """The labels of a column in sorted order, missing (None) last."""
        return self.store.label_counts((name,))[name][0]

    def evaluate(self, sql: str) -> npt.NDArray[np.float64]:
        """A bound row expression (see `expressions`) as doubles, NaN where missing; shape (rows,)."""
        key = ("expression", sql)
        if key not in self._cache:
            answer = self.store.query(f"SELECT TRY_CAST(({sql}) AS DOUBLE) AS v FROM source")
            values = arrow_arrays.floats(answer.column("v"))
            if np.isnan(values).all() and self._is_text(sql):
                raise ExpressionError(sql, "gives texts or dates, not numbers", "Give an expression over numbers.")
            self._cache[key] = values
        return self._cache[key]  # type: ignore[no-any-return]

    def _is_text(self, sql: str) -> bool:
        """Whether a row expression gives something that is no number."""
        kind = self.store.query(f"SELECT typeof(any_value({sql})) AS t FROM source").column("t")[0].as_py()
        return str(kind).startswith(("VARCHAR", "DATE", "TIME"))

    def row_numbers(self) -> npt.NDArray[np.int64]:
        """The number a person sees beside each row in the file."""
        if ("row numbers",) not in self._cache:
            self._cache["row numbers",] = self.store.row_numbers(self.first_row)
        return self._cache["row numbers",]  # type: ignore[no-any-return]

    def at(self, numbers: Sequence[int]) -> Table:
        """The rows that bear these numbers."""
        kept, its = self.store.at(numbers, self.row_numbers)
        return replace(self, store=kept, _cache={("row numbers",): its})

    def equals(self, column: str, label: str | None) -> str:
        """The rows where a column has a label, as an SQL condition."""
        name = expressions.quote_name(column)
        if label is None:
            return f"{name} IS NULL"
        kind = self.column(column).type
        if kind == "boolean":
            return f"{name} IS {'TRUE' if label == 'yes' else 'FALSE'}"
        return f"{name} = {label if kind == 'number' else expressions.quote_value(label)}"

    def label_sql(self, column: str) -> str:
        """The label of each row in a column, as SQL."""
        name = expressions.quote_name(column)
        kind = self.column(column).type
        if kind == "boolean":
            return f"CASE {name} WHEN TRUE THEN 'yes' WHEN FALSE THEN 'no' END"
        return name if kind == "text" else f"CAST({name} AS VARCHAR)"

    def extent(self, name: str) -> tuple[Any, Any]:
        """The least and the greatest value of a column; (None, None) where all are missing."""
        return self.store.extents((name,))[name]

    def total(self, name: str) -> float | None:
        """The sum of a column."""
        return self.store.total(name)

    def examples(self, name: str) -> list[str]:
        """A few different values, as text, from the first thousand rows."""
        import pyarrow.compute as pc

        if self.minimum:
            return []
        first = self.store.first(1000).column(name)
        return [str(value) for value in pc.unique(first).drop_null().slice(0, 3).to_pylist()]

    def sample(self) -> Table | None:
        """An even sample of about `MOST_SAMPLED` rows in memory (fewer where the budget holds fewer); None where there
        are hardly more.

        A row is taken by a number worked out from what it holds (see `content_numbers`), not by its place, so that the
        order of the rows and the engine that keeps them change nothing, and equal rows are taken or left together.
        """
        key = ("sample",)
        if key not in self._cache:
            wanted = min(MOST_SAMPLED, self.store.most_held())
            self._cache[key] = self._sampled(wanted) if self.rows > 1.5 * wanted else None
        return self._cache[key]  # type: ignore[no-any-return]

    def _sampled(self, wanted: int) -> Table:
        progress.say(f"drawing a sample of {self.rows:,} rows")
        kept, its = self.store.sampled(wanted, [(column.name, column.type) for column in self.columns])
        if self.store.abilities.in_order:
            # There the places are given; the numbers that a person sees are the table's.
            its = self.row_numbers()[its - 1]
        return replace(self, store=kept, _cache={("row numbers",): its})

    def sql(self, query: str) -> pd.DataFrame:
        """Run one SELECT over the table, named `source`, within bounds of time and memory.

        Of a table with a least size of groups only sums, counts and averages of groups of that size are given.
        Raises ExpressionError, ColumnError, BudgetError.
        """
        least, private = self.minimum, self.private
        safe = (
            select_statements.aggregated(query, least, private)
            if least > 1
            else select_statements.select(query, private)
        )
        return self.store.foreign(safe).to_pandas()  # type: ignore[no-any-return]

    def to_frame(self) -> pd.DataFrame:
        """The rows as a pandas DataFrame."""
        return self.arrow.to_pandas()  # type: ignore[no-any-return]

    def to_polars(self) -> pl.DataFrame:
        """The rows as a Polars frame. Raises OutputError where Polars is not installed."""
        return in_polars(self.arrow)

    def describe_columns(self) -> pd.DataFrame:
        """One row a column: name, type, role, unit, missing, distinct."""
        import pandas as pd

        return pd.DataFrame(
            [
                {
                    "column": c.name,
                    "type": c.type,
                    "role": c.role.value,
                    "adds up": {True: "sum", False: "average", None: ""}[c.adds_up],
                    "unit": c.unit or "",
                    "missing": c.missing,
                    "distinct": c.distinct,
                }
                for c in self.columns
            ]
        )

    def _repr_html_(self) -> str:
        where = f", where {self.where}" if self.where else ""
        sized = f"Table {self.name}: {self.rows:,} rows, {len(self.columns)} columns{where}"
        return view(sized, grid=grid_of(self.describe_columns()))

    @made_visible
    def __repr__(self) -> str:
        head = f"Table {self.name}: {self.rows:,} rows, {len(self.columns)} columns"
        if self.where:
            head += f", where {self.where}"
        lines = [
            f"  {c.name:<24.24} {c.type:<9} {c.role.value:<10}"
            f"{ {True: 'sum', False: 'average', None: ''}[c.adds_up]:<8} {c.distinct:>8,} distinct"
            + (f", {c.missing:,} missing" if c.missing else "")
            for c in self.columns[:40]
        ]
        if len(self.columns) > 40:
            lines.append(f"  … and {len(self.columns) - 40} more")
        return "\n".join([head, *lines])
