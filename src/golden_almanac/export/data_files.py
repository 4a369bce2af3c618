"""Findings, frames and tables as JSON, CSV and Parquet: the one writer of each."""

from __future__ import annotations

import csv
import io
import json
import math
import re
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any

from ..support.printable import UNSEEN

if TYPE_CHECKING:
    from ..tables import Table

#: How a cell begins that a spreadsheet takes for a formula, in plain and in full-width letters.
_FORMULA = r"^\s*[=+\-@\t\r\uff1d\uff0b\uff0d\uff20]"


def json_bytes(value: dict[str, Any]) -> bytes:
    """JSON as every command and every file has it."""
    return to_json(value)


def to_json(value: dict[str, Any]) -> bytes:
    """UTF-8 JSON, keys in the order given, no NaN; ends with a line break. What would steer a terminal, and halves
    of surrogate pairs, are written as escapes."""
    text = json.dumps(value, ensure_ascii=False, indent=1, allow_nan=False) + "\n"
    return UNSEEN.sub(lambda match: json.dumps(match[0])[1:-1], text).encode("utf-8")


def frame_records(frame: Any) -> list[dict[str, Any]]:
    """The rows of a frame as JSON values: what is missing or not finite is null, dates are ISO 8601, numbers keep all
    their digits."""
    names = [str(name) for name in frame.columns]
    return [
        {name: _json_value(value) for name, value in zip(names, row, strict=True)}
        for row in frame.astype(object).itertuples(index=False, name=None)
    ]


def _json_value(value: Any) -> Any:
    if hasattr(value, "item"):
        value = value.item()
    if value is None or isinstance(value, str | bool | int):
        return value
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if hasattr(value, "isoformat"):
        return None if value != value else value.isoformat()
    if isinstance(value, dict):
        return {str(key): _json_value(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_json_value(one) for one in value]
    return None if type(value).__name__ in ("NAType", "NaTType") else str(value)


def cell_text(cell: Any) -> Any:
    """A cell as CSV holds it: text that a spreadsheet would take for a formula, or for a number that the text is not,
    is set behind a quote; numbers stay numbers."""
    if isinstance(cell, str) and re.match(_FORMULA, cell):
        return f"'{cell}"
    return cell


def csv_bytes(heads: Sequence[str], rows: Iterable[Sequence[Any]]) -> bytes:
    """UTF-8 CSV with a header line, safe to open in a spreadsheet; None is an empty cell."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n").writerow
    write([cell_text(str(name)) for name in heads])
    for row in rows:
        write(["" if cell is None or cell != cell else cell_text(cell) for cell in row])
    return out.getvalue().encode("utf-8", "replace")


def to_csv(frame: Any) -> bytes:
    """A frame as UTF-8 CSV with a header line, safe to open in a spreadsheet."""
    return csv_bytes([str(name) for name in frame.columns], frame.astype(object).itertuples(index=False, name=None))


def frame_bytes(frame: Any) -> bytes:
    """A frame as UTF-8 CSV, safe to open in a spreadsheet."""
    return to_csv(frame)


def table_bytes(table: Table, ending: str) -> bytes:
    """A table after its repairs, as CSV (safe to open in a spreadsheet) or Parquet (every text as it is)."""
    import pyarrow as pa

    sink = pa.BufferOutputStream()
    if ending.lower() == ".parquet":
        from pyarrow import parquet

        parquet.write_table(table.arrow, sink)
    else:
        from pyarrow import csv as arrow_csv

        safe = pa.table(
            [_safe(column) for column in table.arrow.columns], names=[cell_text(name) for name in table.names]
        )
        arrow_csv.write_csv(safe, sink, arrow_csv.WriteOptions(quoting_style="needed"))
    return bytes(sink.getvalue())


def _safe(column: Any) -> Any:
    """A column of texts with the rule of `cell_text`, over the whole column at once."""
    import pyarrow as pa
    import pyarrow.compute as pc

    kind = column.type
    if pa.types.is_dictionary(kind):
        column = column.cast(kind.value_type)
        kind = column.type
    if not (pa.types.is_string(kind) or pa.types.is_large_string(kind)):
        return column
    formula = r"^[\s]*[=+\-@\t\r\x{ff1d}\x{ff0b}\x{ff0d}\x{ff20}]"
    risky = pc.match_substring_regex(column, formula)
    return pc.if_else(risky, pc.binary_join_element_wise("'", column, ""), column)


def aside_bytes(table: Table) -> bytes:
    """The rows set aside as CSV: their number, the file or sheet, why, and their cells, or their text where they
    have not the table's shape."""
    names = list(dict.fromkeys(name for row in table.aside for name in row.cells))
    rows = []
    for row in table.aside:
        cells = ["" if row.cells.get(name) is None else str(row.cells[name]) for name in names]
        rows.append([row.row, row.part or "", row.why, *cells, "" if row.cells else row.text])
    return csv_bytes(["row", "part", "why", *names, "text"], rows)
