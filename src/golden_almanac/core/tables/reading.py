"""`ga.read`: one door for files, DataFrames and anything that speaks Arrow."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from ..errors import SourceError
from . import packed, structured, text_files, workbooks
from .roles import describe
from .table import Table
from .text_files import Loaded

_CSV_ENDINGS = (".csv", ".tsv", ".txt")
_PARQUET_ENDINGS = (".parquet", ".pq")


def read(
    source: Any,
    *,
    name: str | None = None,
    roles: Mapping[str, str] | None = None,
    sheet: str | None = None,
    table: str | None = None,
    query: str | None = None,
) -> Table:
    """The table as it stands in its source, typed, with roles guessed; `ga.read` documents the arguments.

    Nothing is checked for fitness here: that is `core.readiness`.
    """
    if isinstance(source, Table):
        return source if roles is None else source.set_roles(roles)
    if isinstance(source, str | os.PathLike):
        path = text_files.regular_file(Path(source))
        loaded = _file(path, sheet, table, query)
        name = name or path.name
    else:
        arrow = _from_memory(source)
        loaded = Loaded(arrow=arrow, original=[str(column) for column in arrow.column_names], first_row=1)
        name = name or "table"
    made = _table(name, loaded)
    return made if roles is None else made.set_roles(roles)


def _file(path: Path, sheet: str | None, table: str | None, query: str | None) -> Loaded:
    ending = path.suffix.lower()
    if ending in packed.ENDINGS:
        with packed.unpacked(path) as inside:
            return _file(text_files.regular_file(inside), sheet, table, query)
    if ending in workbooks.ENDINGS:
        return workbooks.read_workbook(path, sheet)
    if ending in structured.JSON_ENDINGS:
        return structured.read_json(path)
    if ending in structured.DATABASE_ENDINGS:
        return structured.read_database(path, table, query)
    if ending in _PARQUET_ENDINGS:
        arrow = text_files.read_parquet(path)
        return Loaded(arrow=arrow, original=list(arrow.column_names), first_row=1)
    if ending in _CSV_ENDINGS or ending == "":
        return text_files.read_csv(path)
    raise SourceError(
        str(path),
        f"files ending in {ending!r} cannot be read",
        "Save it as CSV (.csv, .tsv, .txt), Parquet, a workbook (.xlsx, .ods) or JSON.",
    )


def _table(name: str, loaded: Loaded) -> Table:
    arrow = loaded.arrow
    if arrow.num_columns == 0 or arrow.num_rows == 0:
        raise SourceError(name, "it holds no rows", "Check the export or the query that made it.")
    arrow = _plain_types(arrow.rename_columns(text_files.tidy_names([str(n) for n in arrow.column_names])))
    columns = tuple(
        describe(column, raw, arrow.column(column), loaded.units.get(column))
        for column, raw in zip(arrow.column_names, loaded.original, strict=True)
    )
    cache: dict[tuple[str, ...], Any] = {} if loaded.numbers is None else {("row numbers",): loaded.numbers}
    return Table(
        name=name,
        arrow=arrow,
        columns=columns,
        rows_read=arrow.num_rows,
        first_row=loaded.first_row,
        problems=loaded.problems,
        aside=loaded.aside,
        sheet=loaded.sheet,
        others=loaded.others,
        _cache=cache,
    )


def _from_memory(source: Any) -> Any:
    import pyarrow as pa

    try:
        if hasattr(source, "to_arrow_table") and type(source).__module__.startswith(("duckdb", "_duckdb")):
            return source.to_arrow_table()
        if hasattr(source, "__arrow_c_stream__") and not _is_pandas(source):
            return pa.table(source)
        if _is_pandas(source):
            frame = source.copy(deep=False)
            frame.columns = [str(column) for column in frame.columns]
            import pandas as pd

            plain = isinstance(frame.index, pd.RangeIndex) or frame.index.name is None
            if not plain or frame.index.nlevels > 1:
                frame = frame.reset_index()
            return pa.Table.from_pandas(frame, preserve_index=False)
        if isinstance(source, Mapping):
            return pa.table(dict(source))
    except (pa.ArrowInvalid, pa.ArrowTypeError, TypeError) as problem:
        reason = str(problem).splitlines()[0]
        raise SourceError(
            "table", f"a column mixes types that cannot be read together ({reason})", "Give each column one type."
        ) from problem
    raise SourceError(
        type(source).__name__, "this kind of object cannot be read", "Give a path, a DataFrame, or an Arrow table."
    )


def _is_pandas(source: Any) -> bool:
    return type(source).__module__.partition(".")[0] == "pandas" and hasattr(source, "columns")


def _plain_types(arrow: Any) -> Any:
    """Types the rest of the house knows; views, decimals, nested values and zoned moments are turned."""
    import pyarrow as pa

    told_as_text = (pa.types.is_nested, pa.types.is_binary, pa.types.is_time, pa.types.is_duration)
    columns = []
    for column in arrow.columns:
        kind = column.type
        if pa.types.is_dictionary(kind) and not pa.types.is_string(kind.value_type):
            column = column.cast(kind.value_type)
            kind = column.type
        if pa.types.is_large_string(kind) or "view" in str(kind):
            column = column.cast(pa.string())
        elif pa.types.is_decimal(kind) or pa.types.is_float16(kind) or pa.types.is_float32(kind):
            column = column.cast(pa.float64())
        elif pa.types.is_date64(kind):
            column = column.cast(pa.date32())
        elif pa.types.is_timestamp(kind):
            column = column.cast(pa.timestamp("us"), safe=False)
            days = column.cast(pa.date32(), safe=False)
            if days.cast(pa.timestamp("us")).equals(column):
                column = days
        elif pa.types.is_null(kind):
            column = column.cast(pa.string())
        elif any(is_so(kind) for is_so in told_as_text):
            spelled = [None if value is None else str(value) for value in column.to_pylist()]
            column = pa.chunked_array([pa.array(spelled, pa.string())])
        columns.append(column)
    return pa.table(dict(zip(arrow.column_names, columns, strict=True)))
