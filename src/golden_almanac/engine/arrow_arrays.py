"""Arrow columns as NumPy arrays, without the second that Arrow's own way spends on importing pandas."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

_BY_WIDTH = {8: np.int8, 16: np.int16, 32: np.int32, 64: np.int64}

#: Days between the first date and the last up to which they are counted in a table of their own.
_MOST_DAYS = 1_000_000


def floats(column: Any) -> npt.NDArray[np.float64]:
    """A column of numbers or flags as doubles, NaN where missing; the column itself where it is that already."""
    import pyarrow as pa

    if pa.types.is_boolean(column.type):
        column = column.cast(pa.int8())
    if column.type != pa.float64():
        column = column.cast(pa.float64(), safe=False)
    return _filled(column, np.float64, float("nan"))


def flags(column: Any) -> npt.NDArray[np.bool_]:
    """A column of yes and no as a mask, no where missing."""
    import pyarrow as pa

    return _filled(column.cast(pa.int8()), np.int8, 0).view(np.bool_)


def wholes(column: Any, missing: int = 0) -> npt.NDArray[Any]:
    """A column of whole numbers, of days or of moments (as their counts), in its own width."""
    import pyarrow as pa

    width = column.type.bit_width
    if not pa.types.is_integer(column.type):
        column = column.cast(pa.int32() if width == 32 else pa.int64())
    kind: Any = _BY_WIDTH[width]
    if pa.types.is_unsigned_integer(column.type):
        kind = np.dtype(kind).newbyteorder("=").str.replace("i", "u")
    return _filled(column, kind, missing)


def days(column: Any) -> npt.NDArray[np.datetime64]:
    """A column of dates or moments as days, NaT where missing."""
    import pyarrow as pa

    nat = np.iinfo(np.int64).min
    if pa.types.is_date32(column.type):
        if not column.null_count:
            return wholes(column).astype("datetime64[D]")
        return wholes(column.cast(pa.int32()).cast(pa.int64()), nat).view("datetime64[D]")
    moments = wholes(column, nat).view(f"datetime64[{column.type.unit}]")
    return moments.astype("datetime64[D]")


def _filled(column: Any, kind: Any, missing: float) -> npt.NDArray[Any]:
    """The values of a fixed-width column, with `missing` in place of what is."""
    import pyarrow as pa
    import pyarrow.compute as pc

    values = _plain(column, kind)
    if not column.null_count:
        return values
    # A scalar to fill with would be made by what knows data frames.
    known = _plain(pc.is_valid(column).cast(pa.int8()), np.int8).view(np.bool_)
    return np.where(known, values, np.array(missing).astype(kind))


def _plain(column: Any, kind: Any) -> npt.NDArray[Any]:
    """The values of a fixed-width column, anything where they are missing."""
    import pyarrow as pa

    whole = column.combine_chunks() if isinstance(column, pa.ChunkedArray) else column
    chunks = whole.chunks if isinstance(whole, pa.ChunkedArray) else [whole]
    made = [
        np.frombuffer(chunk.buffers()[1], dtype=kind)[chunk.offset : chunk.offset + len(chunk)]
        if len(chunk)
        else np.empty(0, dtype=kind)
        for chunk in chunks
    ]
    return made[0] if len(made) == 1 else np.concatenate(made) if made else np.empty(0, dtype=kind)


def column(values: npt.NDArray[Any]) -> Any:
    """A NumPy array of numbers, days or yes and no as an Arrow column; NaN stays NaN."""
    import pyarrow as pa

    kinds = {"f8": pa.float64(), "i4": pa.int32(), "i8": pa.int64()}
    if values.dtype.kind == "M":
        return column(values.astype("datetime64[D]").astype(np.int64).astype(np.int32)).cast(pa.date32())
    if values.dtype.kind == "b":
        bits = pa.py_buffer(np.packbits(values, bitorder="little"))
        return pa.Array.from_buffers(pa.bool_(), values.size, [None, bits])
    whole = np.ascontiguousarray(values)
    return pa.Array.from_buffers(kinds[whole.dtype.str[1:]], whole.size, [None, pa.py_buffer(whole)])


def listed(values: Sequence[Any], kind: Any) -> Any:
    """Values of Python, some of them None, as an Arrow column of a kind."""
    import pyarrow as pa

    if pa.types.is_string(kind):
        return texts(values)
    coded = next((dtype for known, dtype in _of_python(pa) if kind == known), None)
    if coded is None or any(isinstance(value, int) and abs(value) >= 2**63 for value in values):
        return pa.array(values, type=kind)
    there = [value is not None for value in values]
    zero = 0 if coded.kind in "fib" else np.datetime64(0, "D")
    held = np.array([value if known else zero for value, known in zip(values, there, strict=True)], dtype=coded)
    if coded.kind == "M":
        held = held.astype(np.int64).astype(np.int32 if pa.types.is_date32(kind) else np.int64)
    if coded.kind == "b":
        held = np.packbits(held, bitorder="little")
    known_bits = None if all(there) else pa.py_buffer(np.packbits(there, bitorder="little"))
    return pa.Array.from_buffers(kind, len(there), [known_bits, pa.py_buffer(np.ascontiguousarray(held))])


def _of_python(pa: Any) -> list[tuple[Any, np.dtype[Any]]]:
    """The kinds of columns that NumPy turns Python's values into."""
    return [
        (pa.float64(), np.dtype(np.float64)),
        (pa.int64(), np.dtype(np.int64)),
        (pa.bool_(), np.dtype(np.bool_)),
        (pa.date32(), np.dtype("datetime64[D]")),
        (pa.timestamp("us"), np.dtype("datetime64[us]")),
    ]


def texts(values: Sequence[str | None]) -> Any:
    """Texts as an Arrow column."""
    import pyarrow as pa

    coded = [(value or "").encode() for value in values]
    ends = np.cumsum([0, *map(len, coded)]).astype(np.int32)
    known = np.packbits([value is not None for value in values], bitorder="little")
    buffers = [pa.py_buffer(known), pa.py_buffer(ends), pa.py_buffer(b"".join(coded))]
    return pa.Array.from_buffers(pa.string(), len(coded), buffers)


def encoded(values: Any) -> tuple[npt.NDArray[np.signedinteger[Any]], tuple[str | None, ...]]:
    """Codes of an Arrow column, in the smallest type that holds them, and their labels in sorted order, missing (None)
    last."""
    import pyarrow as pa
    import pyarrow.compute as pc

    if pa.types.is_dictionary(values.type):
        values = values.unify_dictionaries()
        held = values.combine_chunks()
    else:
        held = values.combine_chunks().dictionary_encode()
    if isinstance(held, pa.ChunkedArray):
        held = held.chunk(0) if held.num_chunks else pa.array([], pa.string()).dictionary_encode()
    raw = held.dictionary
    text = pc.cast(raw, pa.string()).to_pylist()
    if pa.types.is_boolean(raw.type):
        text = [None if value is None else {"true": "yes", "false": "no"}[value] for value in text]
    order = sorted(range(len(text)), key=lambda place: (text[place] is None, text[place] or ""))
    kind = next(one for one in (np.int8, np.int16, np.int32) if len(text) + 1 <= np.iinfo(one).max)
    rank = np.empty(len(text) + 1, dtype=kind)
    labels: list[str | None] = []
    for place in order:
        if not labels or labels[-1] != text[place]:
            labels.append(text[place])
        rank[place] = len(labels) - 1
    indices = wholes(held.indices, len(text))
    if held.indices.null_count and (not labels or labels[-1] is not None):
        labels.append(None)
    rank[len(text)] = max(len(labels) - 1, 0)
    codes = rank[indices]
    # Labels that no row bears (a filtered table, an unused category) take no part.
    used = np.bincount(codes, minlength=len(labels)) > 0
    if not used.all():
        renumber = np.cumsum(used) - 1
        codes = renumber[codes].astype(kind)
        labels = [label for label, kept in zip(labels, used, strict=True) if kept]
    codes.flags.writeable = False
    return codes, tuple(labels)


def day_counts(days: npt.NDArray[np.datetime64]) -> tuple[npt.NDArray[np.datetime64], npt.NDArray[np.int64]]:
    """The days that occur, in order, and how often each does; missing ones left out."""
    whole = days.astype("datetime64[D]").astype(np.int64)
    missing = np.iinfo(np.int64).min
    present = whole[whole != missing] if (whole == missing).any() else whole
    if present.size == 0:
        return np.empty(0, dtype="datetime64[D]"), np.empty(0, dtype=np.int64)
    first, last = int(present.min()), int(present.max())
    if last - first < _MOST_DAYS:
        counts = np.bincount(present - first)
        places = np.flatnonzero(counts)
        return (places + first).astype("datetime64[D]"), counts[places]
    found, counts = np.unique(present, return_counts=True)
    return found.astype("datetime64[D]"), counts
