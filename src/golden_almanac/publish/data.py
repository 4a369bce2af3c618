"""Findings as JSON and CSV."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..core.tables import Table


def to_json(value: dict[str, Any]) -> bytes:
    """UTF-8 JSON, keys in the order given, no NaN; ends with a line break."""
    return (json.dumps(value, ensure_ascii=False, indent=1, allow_nan=False) + "\n").encode("utf-8")


def to_csv(frame: Any) -> bytes:
    """UTF-8 CSV with a header line. Text that a spreadsheet would take for a formula is quoted with '."""
    safe = frame.map(lambda cell: "'" + cell if isinstance(cell, str) and cell[:1] in "=+-@\t\r" else cell)
    return str(safe.to_csv(index=False, lineterminator="\n")).encode("utf-8")


def frame_bytes(frame: Any) -> bytes:
    """A frame as UTF-8 CSV, safe to open in a spreadsheet."""
    return to_csv(frame)


def table_bytes(table: Table, ending: str) -> bytes:
    """A table after its repairs, as CSV or Parquet."""
    import pyarrow as pa

    sink = pa.BufferOutputStream()
    if ending.lower() == ".parquet":
        from pyarrow import parquet

        parquet.write_table(table.arrow, sink)
    else:
        from pyarrow import csv

        csv.write_csv(table.arrow, sink, csv.WriteOptions(quoting_style="needed"))
    return bytes(sink.getvalue())
