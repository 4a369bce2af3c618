"""`ga.read`: one door for files, DataFrames and anything that speaks Arrow."""

from __future__ import annotations

import glob
import os
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from ...engine import arrow_arrays, memory_budget
from ...engine.held_store import Held
from ...support.errors import BudgetError, RequestError, SourceError
from ...support.parallel import LONG, each
from ...support.phrasing import phrased, phrased_count
from ..calendar import Calendar
from ..parsing import Typed, decimal_comma, numeric_dates, typed
from ..problems import Problem, Step
from ..reading_guide import Guide
from ..roles import describe, may_be_codes
from ..table import Column, Role, Table
from . import archives, inner_rows, large_files
from .raw_table import Loaded, Spots, from_arrow, stack, tidy_names, without
from .regular_files import regular_file
from .server_tables import is_remote, remote_source
from .sheet_columns import to_column
from .sources import Source, source_of

_MOST_FILES = 10_000


def read(
    source: Any,
    guide: Guide,
    *,
    name: str | None = None,
    sheet: str | None = None,
    table: str | None = None,
    query: str | None = None,
    calendar: Calendar | None = None,
    memory: str | int | None = None,
    hold: bool = False,
    private: Sequence[str] = (),
) -> Table:
    """The table as it stands in its source, typed, with roles guessed; `ga.read` documents the arguments.

    Columns that are `private` go before anything is looked at. Nothing is checked for fitness here: that is
    `core.readiness`.
    """
    if is_remote(source):
        found = remote_source(
            source, name, calendar or Calendar(), table=table, query=query, hold=hold, private=private
        )
        if isinstance(found, Table):
            return found
        return _typed(name or table or "query", found, guide, calendar, private)
    paths = files(source)
    several = not isinstance(source, str | os.PathLike) or len(paths or ()) > 1
    if paths is not None and sheet is table is query is None:
        limit = memory_budget.half_of_machine() if memory is None else memory_budget.bytes_of(memory)
        if _stays_in_file(paths, guide, limit, hold):
            told = name or (f"{len(paths)} files" if len(paths) > 1 else paths[0].name)
            left = large_files.filed(paths, told, guide, calendar or Calendar(), limit, several)
            if left is not None:
                return left.leave_out(private) if private else left
    if paths is None:
        loaded = from_arrow(_from_memory(source), "memory")
        name = name or "table"
    else:
        parts = [(path.name, _file(regular_file(path), sheet, table, query, guide, private)) for path in paths]
        loaded = stack(parts, "file") if several else parts[0][1]
        name = name or (parts[0][0] if len(parts) == 1 else f"{len(parts)} files")
    return _typed(name, loaded, guide, calendar, private)


def _typed(name: str, loaded: Loaded, guide: Guide, calendar: Calendar | None, private: Sequence[str]) -> Table:
    """What was loaded, without private columns, as a table."""
    if not private:
        return typed_table(name, loaded, guide, calendar or Calendar())
    public, hidden = without(loaded, private)
    if hidden and not public.names:
        raise SourceError(name, "all of its columns are private", "Leave at least one to report on.")
    return replace(typed_table(name, public, guide, calendar or Calendar()), private=hidden)


def _stays_in_file(paths: list[Path], guide: Guide, limit: int, hold: bool) -> bool:
    """Whether a table is too large for the budget, or so long that it is better asked where it is (unless `hold`)."""
    size = large_files.size_of([regular_file(path) for path in paths])
    if size is None:
        return False
    if size.memory <= limit:
        plain = not (guide.answers or guide.replays)
        return not hold and plain and size.rows is not None and size.rows >= large_files.LONG
    if guide.answers or guide.replays:
        raise BudgetError(
            f"{paths[0]} would take about {memory_budget.said(int(size.memory))} in memory, more than the budget of "
            f"{memory_budget.said(limit)}, and answers and repair logs need all rows in memory. Raise the budget with "
            "--memory, or mend the source."
        )
    return True


def files(source: Any) -> list[Path] | None:
    """The files that a path, a pattern (`sailings-*.csv`) or a list of paths names, in order; None for no path."""
    if isinstance(source, list | tuple) and source and all(isinstance(one, str | os.PathLike) for one in source):
        return [Path(one) for one in source]
    if not isinstance(source, str | os.PathLike):
        return None
    text = os.fspath(source)
    try:
        if not any(mark in text for mark in "*?[") or Path(text).exists():
            return [Path(text)]
    except (OSError, ValueError):
        # No file can have such a name, which is told where it is opened.
        return [Path(text)]
    found = sorted(Path(one) for one in glob.glob(text, recursive=True) if Path(one).is_file())
    if not found:
        raise SourceError(text, "no file matches this pattern", "Check the folder, and put the pattern in quotes.")
    if len(found) > _MOST_FILES:
        raise SourceError(text, f"{len(found):,} files match this pattern", f"Name at most {_MOST_FILES:,}.")
    return found


def _file(
    path: Path, sheet: str | None, table: str | None, query: str | None, guide: Guide, private: Sequence[str] = ()
) -> Loaded:
    ending = path.suffix.lower()
    if ending in archives.ENDINGS:
        with archives.unpacked(path) as inside:
            if inside.suffix.lower() in archives.ENDINGS:
                raise SourceError(str(path), "it holds another archive", "Unpack it, and name what is inside.")
            return _file(regular_file(inside), sheet, table, query, guide, private)
    source = source_of(ending)
    if source is None:
        raise SourceError(
            str(path),
            f"files ending in {ending!r} cannot be read",
            "Save it as CSV (.csv, .tsv, .txt), Parquet, a workbook (.xlsx, .ods) or JSON.",
        )
    _check_choices(source, ending, sheet, table, query)
    return source.load(path, guide, sheet=sheet, table=table, query=query, private=private)


def _check_choices(source: Source, ending: str, sheet: str | None, table: str | None, query: str | None) -> None:
    """Refuses a choice that a file of this kind does not have."""
    lacking = {"sheet": "have no sheets", "table": "are no databases", "query": "are no databases"}
    for name, choice in (("sheet", sheet), ("table", table), ("query", query)):
        if choice is not None and name not in source.takes:
            raise RequestError(
                f"The {name}", choice, f"left out: files ending in {ending or 'nothing'} {lacking[name]}"
            )
    if table is not None and query is not None:
        raise RequestError("The table", table, "left out where there is a query")


def typed_table(name: str, loaded: Loaded, guide: Guide, calendar: Calendar) -> Table:
    """The table of what was loaded: texts read as what they hold, a role guessed for each column."""
    import pyarrow as pa

    if not loaded.names or loaded.rows == 0:
        raise SourceError(name, "it holds no rows", "Check the export or the query that made it.")
    loaded = inner_rows.settle(loaded, guide)
    part = loaded.origin.part
    texts = (one for one in loaded.columns if _is_text(one.type))
    guide = replace(guide, decimal_comma=not loaded.stated and decimal_comma(texts))
    spots = Spots(
        numbers=loaded.numbers, first_row=loaded.first_row, parts=None if part is None else loaded.columns[-1]
    )

    def column(place: int) -> tuple[list[tuple[Column, Any]], tuple[Problem, ...]]:
        name, values = loaded.names[place], _plain_type(loaded.columns[place], calendar.zone)
        # The text is let go as soon as it is read: a large file is not held twice.
        loaded.columns[place] = None
        told = Typed(values=values)
        if name != part and _is_text(values.type):
            told = typed(name, values, spots.example, guide, loaded.stated)
        del values
        dated, problem = numeric_dates.read(name, told.values, spots, guide)
        told = replace(told, values=dated, problems=(*told.problems, *([problem] if problem else [])))
        finite, problem = _finite(name, told.values, spots)
        told = replace(told, values=finite, problems=(*told.problems, *([problem] if problem else [])))
        whole = told.values.combine_chunks() if isinstance(told.values, pa.ChunkedArray) else told.values
        told = replace(told, values=whole)
        raw = loaded.original[place]
        if loaded.rows >= LONG:
            # What the texts took is given back at once, not kept for later.
            pa.default_memory_pool().release_unused()
        made = [(_no_labels(describe(name, raw, told.values, told.unit), told), told.values)]
        if told.units is not None:
            made.append((describe(f"{name} unit", raw, told.units), told.units))
        return made, told.problems

    read_columns = each(column, range(len(loaded.names)), loaded.rows)
    made = [one for pair, _ in read_columns for one in pair]
    problems = [*loaded.problems, *(problem for _, told in read_columns for problem in told)]
    arrow = pa.table({described.name: values for described, values in made})
    columns = tuple(described for described, _ in made)
    cache: dict[tuple[str, ...], Any] = {} if loaded.numbers is None else {("row numbers",): loaded.numbers}
    return Table(
        name=name,
        store=Held(arrow),
        columns=columns,
        rows_read=loaded.rows + len(loaded.aside),
        first_row=loaded.first_row,
        problems=tuple(problems),
        aside=loaded.aside,
        origin=loaded.origin,
        calendar=calendar,
        _cache=cache,
    )


def _no_labels(column: Column, told: Typed) -> Column:
    """A column of numbers with a few texts among them, left as text until somebody says what those are: no labels."""
    mixed = any(one.check == "mixed types" and one.severity == "question" for one in told.problems)
    return replace(column, role=Role.TEXT) if mixed and not may_be_codes(column) else column


def _finite(name: str, values: Any, spots: Spots) -> tuple[Any, Problem | None]:
    """The column with infinities counted as missing, since no sum or average can hold one."""
    import pyarrow as pa
    import pyarrow.compute as pc

    if not pa.types.is_floating(values.type) or not pc.any(pc.is_inf(values)).as_py():
        return values, None
    infinite = arrow_arrays.flags(pc.is_inf(values))
    places = infinite.nonzero()[0]
    return pc.if_else(pc.is_inf(values), None, values), Problem(
        check="infinite values",
        severity="repair",
        column=name,
        rows=int(places.size),
        examples=tuple(spots.example(int(place), phrased("infinite")) for place in places[:3]),
        message=phrased_count(
            int(places.size),
            "{n} cell of {column} is infinite and counts as missing.",
            "{n} cells of {column} are infinite and count as missing.",
            column=repr(name),
        ),
        repair=phrased("counted as missing"),
        step=Step(do="count infinite values as missing", column=name),
    )


def _is_text(kind: Any) -> bool:
    import pyarrow as pa

    return bool(pa.types.is_string(kind) or (pa.types.is_dictionary(kind) and pa.types.is_string(kind.value_type)))


def _from_memory(source: Any) -> Any:
    import pyarrow as pa

    try:
        if hasattr(source, "to_arrow_table") and type(source).__module__.startswith(("duckdb", "_duckdb")):
            return source.to_arrow_table()
        if hasattr(source, "__arrow_c_stream__") and not _is_pandas(source):
            if hasattr(source, "to_frame") and not hasattr(source, "columns"):
                source = source.to_frame()
            return pa.table(source)
        if _is_pandas(source):
            return _from_pandas(_framed(source))
        if isinstance(source, Mapping):
            return pa.table(dict(source))
    except (pa.ArrowInvalid, pa.ArrowTypeError, TypeError, OverflowError, ValueError) as problem:
        reason = str(problem).splitlines()[0]
        raise SourceError(
            "table", f"a column mixes types that cannot be read together ({reason})", "Give each column one type."
        ) from problem
    raise SourceError(
        type(source).__name__, "this kind of object cannot be read", "Give a path, a DataFrame, or an Arrow table."
    )


def _from_pandas(source: Any) -> Any:
    """A DataFrame as Arrow; headings over several levels are joined, columns of mixed objects spelled out as text."""
    import pandas as pd
    import pyarrow as pa

    frame = source.copy(deep=False)
    frame.columns = tidy_names(
        [" ".join(map(str, name)).strip() if isinstance(name, tuple) else str(name) for name in frame.columns]
    )
    plain = isinstance(frame.index, pd.RangeIndex) or frame.index.name is None
    if not plain or frame.index.nlevels > 1:
        frame = frame.reset_index()
    columns: dict[str, Any] = {}
    for name in frame.columns:
        column = frame[name]
        if isinstance(column.dtype, pd.PeriodDtype):
            # A period stands for its first day.
            column = column.dt.to_timestamp()
        try:
            made = pa.Array.from_pandas(column)
            if isinstance(made.type, pa.ExtensionType) or _odd_labels(made.type):
                raise pa.ArrowTypeError
            columns[name] = made
        except (pa.ArrowException, TypeError, ValueError, OverflowError, NotImplementedError, AttributeError):
            columns[name] = to_column([_spelled(value) for value in column])
    return pa.table(columns)


def _odd_labels(kind: Any) -> bool:
    """Whether categories are of a type that no column can have."""
    import pyarrow as pa

    return bool(pa.types.is_dictionary(kind) and isinstance(kind.value_type, pa.ExtensionType))


def _spelled(value: Any) -> Any:
    """A value of a frame that Arrow has no type for: None where it is missing, else itself, or as text."""
    import pandas as pd

    if pd.api.types.is_scalar(value) and pd.isna(value):
        return None
    if isinstance(value, str) and any("\ud800" <= letter <= "\udfff" for letter in value):
        return value.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
    return value if isinstance(value, str | int | float | bool) or hasattr(value, "isoformat") else str(value)


def _framed(source: Any) -> Any:
    """A series as a frame of one column, with its index beside it where that says anything."""
    import pandas as pd

    if not isinstance(source, pd.Series):
        return source
    frame = source.to_frame("value" if source.name is None else source.name)
    if isinstance(source.index, pd.RangeIndex):
        return frame
    names = [name or ("date" if isinstance(source.index, pd.DatetimeIndex | pd.PeriodIndex) else "label")
             for name in source.index.names]  # fmt: skip
    return frame.reset_index(names=names if len(names) > 1 else names[0])


def _is_pandas(source: Any) -> bool:
    return type(source).__module__.partition(".")[0] == "pandas" and hasattr(source, "iloc")


def _lasting(seconds: float | None) -> str | None:
    """So many seconds as a text that says that they are no time of day."""
    if seconds is None:
        return None
    minutes, rest = divmod(abs(seconds), 60)
    return f"{'-' if seconds < 0 else ''}{int(minutes)}m {rest:.6g}s"


def _plain_type(column: Any, zone: str | None) -> Any:
    """A type the rest of the house knows; views, decimals, nested values and zoned moments are turned."""
    import pyarrow as pa
    import pyarrow.compute as pc

    kind = column.type
    if pa.types.is_dictionary(kind) and not pa.types.is_string(kind.value_type):
        column = column.cast(kind.value_type)
        kind = column.type
    if pa.types.is_large_string(kind) or "view" in str(kind) or pa.types.is_null(kind):
        return column.cast(pa.string())
    if pa.types.is_decimal(kind) or pa.types.is_float16(kind) or pa.types.is_float32(kind):
        return column.cast(pa.float64())
    if pa.types.is_date64(kind):
        return column.cast(pa.date32())
    if pa.types.is_timestamp(kind):
        if kind.tz is not None and zone is not None:
            column = pc.local_timestamp(column.cast(pa.timestamp("us", zone), safe=False))
        column = column.cast(pa.timestamp("us"), safe=False)
        days = column.cast(pa.date32(), safe=False)
        return days if days.cast(pa.timestamp("us")).equals(column) else column
    if pa.types.is_duration(kind):
        # As a text that is no time of day; it is read like those of files.
        seconds = pc.divide(column.cast(pa.duration("us"), safe=False).cast(pa.int64()).cast(pa.float64()), 1e6)
        return pa.chunked_array([pa.array([_lasting(one) for one in seconds.to_pylist()], pa.string())])
    if any(is_so(kind) for is_so in (pa.types.is_nested, pa.types.is_binary, pa.types.is_time)):
        spelled = [None if value is None else str(value) for value in column.to_pylist()]
        return pa.chunked_array([pa.array(spelled, pa.string())])
    return column
