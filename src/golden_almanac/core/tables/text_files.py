"""CSV and Parquet files to Arrow, nothing dropped: rows in the file equal rows in the table."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Any

from ..errors import SourceError
from ..phrasing import phrased
from .guide import Guide
from .loaded import Loaded, Origin, from_arrow, tidy_names
from .problems import Problem, Step

_LOOKS = re.compile(r"^[(+\-−]?[^A-Za-z]{0,3}[\d.,' /:\-]+[^A-Za-z]{0,3}\w{0,3}\)?$")
CSV_ENDINGS = (".csv", ".tsv", ".txt")
PARQUET_ENDINGS = (".parquet", ".pq")
_DELIMITERS = (",", ";", "\t", "|")
_HEAD = 1 << 18
_SAMPLE = 1000
_UTF16 = (b"\xff\xfe", b"\xfe\xff")
#: Files with titles, footnotes or headings over two lines are read cell by cell up to this size.
_MOST_MESSY = 50_000_000
#: Encodings by the names people know.
_SPOKEN = {"utf8": "UTF-8", "utf8-sig": "UTF-8 with BOM", "utf-16": "UTF-16", "cp1252": "windows-1252"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Head:
    """How a text file is written, by its first lines: headings, and the lines to skip before the first row."""

    text: str
    encoding: str
    delimiter: str
    titled: bool
    headless: bool
    original: list[str]
    names: list[str]
    skip: int


def head_of(path: Path) -> Head:
    """What the first lines tell. Raises SourceError for a file that is no table of text."""
    shown = str(path)
    with path.open("rb") as stream:
        head = stream.read(_HEAD)
    if head.startswith((b"PK\x03\x04", b"PAR1", b"\x1f\x8b", b"%PDF", b"\xd0\xcf\x11\xe0")) or (
        b"\x00" in head[:4096] and not head.startswith(_UTF16)
    ):
        raise SourceError(shown, "this is not a text file", "Save it as CSV (UTF-8) and try again.")
    encoding, text = _decode(head)
    delimiter = _delimiter(text)
    titled = _has_titles(text, delimiter)
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    header: list[str] = []
    try:
        header = next(row for row in reader if any(cell.strip() for cell in row))
    except (StopIteration, csv.Error) as problem:
        raise SourceError(shown, "no header line was found", "The first line must name the columns.") from problem
    if not titled and len(header) == 1 and not text.strip().partition("\n")[2].strip():
        raise SourceError(shown, "it holds one line and no rows", "Export it again with its rows.")
    skip = reader.line_num
    headless = _is_data(header, reader)
    original = [""] * len(header) if headless else header
    return Head(
        text=text,
        encoding=encoding,
        delimiter=delimiter,
        titled=titled,
        headless=headless,
        original=original,
        names=tidy_names(original),
        skip=0 if headless else skip,
    )


def read_csv(path: Path, guide: Guide) -> Loaded:
    """A delimited text file, its cells as texts. Raises SourceError."""
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    shown = str(path)
    head = head_of(path)
    encoding, delimiter = head.encoding, head.delimiter
    if head.titled:
        return _messy(path, encoding, delimiter, guide)
    names, skip = head.names, head.skip
    bad: list[Any] = []

    def on_bad(row: Any) -> str:
        bad.append(row)
        return "skip"

    few, coded = _of_few_texts(names, head.text, delimiter, skip), pa.dictionary(pa.int32(), pa.string())

    def load(charset: str, threads: bool) -> Any:
        # ',' inside quotes and line breaks inside quotes are data; only '' is missing ("None" may be a name).
        return arrow_csv.read_csv(
            pa.py_buffer(path.read_bytes()) if charset == "utf8-sig" else str(path),
            read_options=arrow_csv.ReadOptions(
                column_names=names,
                skip_rows=skip,
                use_threads=threads,
                encoding="utf8" if charset == "utf8-sig" else charset,
            ),
            parse_options=arrow_csv.ParseOptions(
                delimiter=delimiter, newlines_in_values=True, invalid_row_handler=on_bad
            ),
            convert_options=arrow_csv.ConvertOptions(
                column_types={name: coded if name in few else pa.string() for name in names},
                null_values=[""],
                strings_can_be_null=True,
            ),
        )

    try:
        try:
            raw = load(encoding, True)
        except pa.ArrowInvalid as problem:
            if "UTF8" not in str(problem).upper() or encoding == "cp1252":
                raise
            encoding, raw = "cp1252", load("cp1252", True)
    except (pa.ArrowInvalid, UnicodeDecodeError, OSError) as problem:
        if "Empty CSV" in str(problem):
            raise SourceError(shown, "it has a header line but no rows", "Export it again with its rows.") from problem
        raise SourceError(
            shown,
            "it cannot be read as CSV (" + str(problem).splitlines()[0] + ")",
            "Open it in a text editor and look for a broken line or a quote left open.",
        ) from problem
    if bad and all(row.actual_columns < row.expected_columns for row in bad) and path.stat().st_size <= _MOST_MESSY:
        return _messy(path, encoding, delimiter, guide)
    if bad:
        bad.clear()
        load(encoding, False)
        row = bad[0]
        line = f"line {row.number}" if row.number is not None else f"the line {str(row.text)[:60]!r}"
        raise SourceError(
            shown,
            f"{line} has {row.actual_columns} fields where the header has {row.expected_columns}"
            + (f" ({len(bad)} such lines)" if len(bad) > 1 else ""),
            "Mend the line (a separator inside a text needs quotes) or the header.",
        )
    if raw.num_rows == 0:
        raise SourceError(shown, "it has a header line but no rows", "Export it again with its rows.")
    return Loaded(
        names=names,
        original=head.original,
        columns=list(raw.columns),
        rows=raw.num_rows,
        first_row=skip + 1,
        origin=Origin(kind="csv", encoding=_SPOKEN[encoding], delimiter=delimiter),
        problems=(*_decoded(encoding, raw.num_rows), *(_HEADLESS if head.headless else ())),
    )


def _decoded(encoding: str, rows: int) -> tuple[Problem, ...]:
    if encoding != "cp1252":
        return ()
    return (
        Problem(
            check="encoding",
            severity="repair",
            column=None,
            rows=rows,
            repair="read as windows-1252",
            message=phrased("The file is not UTF-8; it was read as windows-1252."),
            step=Step(do="decode", facts={"as": "windows-1252"}),
        ),
    )


def _of_few_texts(names: list[str], head: str, delimiter: str, skip: int) -> set[str]:
    """Columns of words that repeat, by the first lines: they are read as codes, at half the time and memory."""
    lines = [row for row in csv.reader(head.splitlines()[skip : skip + _SAMPLE], delimiter=delimiter) if row]
    few = set()
    for place, name in enumerate(names):
        cells = [row[place] for row in lines if place < len(row) and row[place]]
        words = [cell for cell in cells if cell[0] not in "+-.0123456789 "]
        if cells and len(words) >= 0.9 * len(cells) and len(set(cells)) <= 0.3 * len(cells):
            few.add(name)
    return few


_HEADLESS = (
    Problem(
        check="no headings",
        severity="note",
        column=None,
        rows=1,
        message=phrased(
            "The first line holds data like the others, so it was read as a row; the columns are numbered. Put their "
            "names into a first line to use them."
        ),
    ),
)


def _is_data(first: list[str], reader: Any) -> bool:
    """True when the first line is one of data: dates over dates and numbers over numbers, in all such columns.

    Years over numbers are headings, as in a table with its periods across the columns.
    """
    below = [row for row, _ in zip(reader, range(30), strict=False) if len(row) == len(first)]
    if not below:
        return False
    alike: list[str] = []
    for place, cell in enumerate(first):
        column = [row[place] for row in below if row[place].strip()]
        kinds = {_kind_of(text) for text in column}
        if kinds & {"text"} or not kinds:
            continue
        if _kind_of(cell) not in kinds or re.fullmatch(r"((0?[1-9]|1[0-2])[./])?(19|20)\d\d", cell.strip()):
            return False
        alike.append(cell.strip())
    counted = len(alike) > 2 and all(cell.isdigit() for cell in alike)
    # 1, 2, 3 … are headings as well.
    return bool(alike) and not (counted and all(int(b) - int(a) == 1 for a, b in pairwise(alike)))


def _kind_of(text: str) -> str:
    bare = text.strip()
    if re.fullmatch(r"\d{4}-\d{2}-\d{2}.*|\d{1,2}[./]\d{1,2}[./]\d{2,4}.*", bare):
        return "date"
    return "number" if re.fullmatch(r"[-+]?[\d.,]*\d[\d.,]*", bare) else "text"


class _Figure:
    """A cell of a text file that looks like a number or a date, so that it is told from a heading."""

    def __init__(self, text: str) -> None:
        self.text = text

    def __str__(self) -> str:
        return self.text


def _messy(path: Path, encoding: str, delimiter: str, guide: Guide) -> Loaded:
    """A text file with titles above, footnotes below or headings over two lines: found as in a sheet."""
    from . import grids, workbooks

    shown = str(path)
    text = path.read_bytes().decode("utf-8-sig" if encoding.startswith("utf8") else encoding, errors="strict")
    lines = list(csv.reader(io.StringIO(text), delimiter=delimiter))
    grid = [
        [_Figure(cell) if any(c.isdigit() for c in cell) and _LOOKS.match(cell.strip()) else cell for cell in line]
        for line in lines
    ]
    found = grids.find_table(grid, (), guide.place_of_table(path.name, None))
    if found is None:
        raise SourceError(shown, "no table with a heading and rows was found", "The first line must name the columns.")
    width = max(len(lines[number - 1]) for number in found.numbers)
    for number in found.numbers:
        fields = len(lines[number - 1])
        if 1 < fields < len(found.headings) or (fields < width and fields > 1):
            raise SourceError(
                shown,
                f"line {number} has {fields} fields where others have {width}",
                "Mend the line (a separator inside a text needs quotes).",
            )
    origin = Origin(kind="csv", encoding=_SPOKEN[encoding], delimiter=delimiter)
    made = workbooks.loaded(found, origin)
    return replace(made, problems=(*made.problems, *_decoded(encoding, made.rows)))


def _has_titles(text: str, delimiter: str) -> bool:
    """True when the first line has fewer fields than most lines have: a title stands above the table."""
    counts = [
        len(row) for row in csv.reader(text.splitlines()[:200], delimiter=delimiter) if any(c.strip() for c in row)
    ]
    if len(counts) < 3:
        return False
    usual = max(set(counts), key=counts.count)
    first = next(row for row in csv.reader(text.splitlines()[:200], delimiter=delimiter) if any(c.strip() for c in row))
    filled = sum(bool(cell.strip()) for cell in first)
    return (
        usual > 1
        and (counts[0] < usual or filled < max(2, 0.5 * len(first)))
        and counts.count(usual) >= 0.5 * len(counts)
    )


def read_parquet(path: Path) -> Loaded:
    """Arrow table, text columns as dictionaries. Raises SourceError."""
    import pyarrow as pa
    from pyarrow import parquet

    try:
        schema = parquet.read_schema(path)
        text = [f.name for f in schema if pa.types.is_string(f.type) or pa.types.is_large_string(f.type)]
        return from_arrow(parquet.read_table(path, read_dictionary=text), "parquet")
    except (pa.ArrowInvalid, OSError) as problem:
        raise SourceError(str(path), "it cannot be read as Parquet", "It may be cut off; write it again.") from problem


def _decode(head: bytes) -> tuple[str, str]:
    if head.startswith(_UTF16):
        return "utf-16", head[: len(head) // 2 * 2].decode("utf-16", errors="ignore")
    if head.startswith(b"\xef\xbb\xbf"):
        return "utf8-sig", head.decode("utf-8-sig", errors="ignore")
    try:
        # The head may end inside a character: the last few bytes do not count.
        return "utf8", (head[:-4] if len(head) == _HEAD else head).decode("utf-8", errors="strict")
    except UnicodeDecodeError as problem:
        if len(head) == _HEAD and problem.start > len(head) - 8:
            return "utf8", head.decode("utf-8", errors="ignore")
        return "cp1252", head.decode("cp1252", errors="replace")


def _delimiter(text: str) -> str:
    lines = [line for line in text.splitlines()[:50] if line.strip()]
    best, best_score = ",", 0.0
    for mark in _DELIMITERS:
        counts = [len(row) - 1 for row in csv.reader(lines, delimiter=mark)]
        # Most lines, not the first, tell: a title may stand above.
        usual = max((count for count in set(counts) if count), key=lambda one: (counts.count(one), one), default=0)
        score = counts.count(usual) / len(counts) * min(usual, 20) ** 0.5 if usual else 0.0
        if score > best_score:
            best, best_score = mark, score
    return best
