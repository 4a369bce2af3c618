"""CSV and Parquet files to Arrow, nothing dropped: rows in the file equal rows in the table."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Any

from ...support.errors import SourceError
from ...support.phrasing import phrased, phrased_count
from ..problems import Problem, Step
from ..reading_guide import Guide
from . import decoding, fixed_width
from .line_numbers import beside_blank_lines
from .raw_table import Loaded, Origin, from_arrow, tidy_names

_LOOKS = re.compile(r"^[(+\-−]?[^A-Za-z]{0,3}[\d.,' /:\-]+[^A-Za-z]{0,3}\w{0,3}\)?$")
CSV_ENDINGS = (".csv", ".tsv", ".txt")
PARQUET_ENDINGS = (".parquet", ".pq")
_DELIMITERS = (",", ";", "\t", "|")
_HEAD = 1 << 18
_SAMPLE = 1000
#: Letters of one text at most.
_LONGEST = 1 << 30
_BLANK_LINES = re.compile(rb"(?<=\n)(?:[ \t;,|]*\r?\n)+")
#: Files with titles, footnotes or headings over two lines are read cell by cell up to this size.
_MOST_MESSY = 50_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Head:
    """How a text file is written, by its first lines: headings, and the lines to skip before the first row. `escape` is
    the mark before a quote that stands for itself, None where quotes are doubled."""

    text: str
    encoding: str
    delimiter: str
    titled: bool
    headless: bool
    original: list[str]
    names: list[str]
    skip: int
    escape: str | None = None


def head_of(path: Path, data: bytes | None = None) -> Head:
    """What the first lines tell. Raises SourceError for a file that is no table of text."""
    shown = str(path)
    if data is None:
        with path.open("rb") as stream:
            head = stream.read(_HEAD)
    else:
        head = data[:_HEAD]
    if head.startswith((b"PK\x03\x04", b"PAR1", b"\x1f\x8b", b"%PDF", b"\xd0\xcf\x11\xe0")) or (
        _binary(head[:4096]) and not head.startswith(decoding.UTF16)
    ):
        raise SourceError(shown, "this is not a text file", "Save it as CSV (UTF-8) and try again.")
    encoding, text = decoding.of_head(head, len(head) == _HEAD)
    text = decoding.line_ends(text)
    escape = _escape(text)
    delimiter = _delimiter(text, escape)
    titled = _has_titles(text, delimiter, escape)
    reader = rows_of(io.StringIO(text), delimiter, escape)
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
        escape=escape,
    )


def rows_of(lines: Iterable[str], delimiter: str, escape: str | None) -> Any:
    """A reader of rows; texts may be as long as they are."""
    csv.field_size_limit(_LONGEST)
    return csv.reader(lines, delimiter=delimiter, escapechar=escape, doublequote=escape is None)


def first_rows(text: str, delimiter: str, escape: str | None, most: int) -> list[list[str]]:
    """The rows of the first lines, as far as they can be read; only line feeds end a line."""
    reader = rows_of((line + "\n" for line in text.split("\n", most)[:most]), delimiter, escape)
    rows: list[list[str]] = []
    while True:
        try:
            rows.append(next(reader))
        except (StopIteration, csv.Error):
            # The end, a carriage return in the middle of a line, or a quote left open.
            return rows


def _binary(head: bytes) -> bool:
    """Whether there are so many noughts among the bytes that this is no text; a few stand in labels."""
    return head.count(0) > max(20, 0.02 * len(head))


def _escape(text: str) -> str | None:
    """The backslash, where quotes inside quotes stand behind one and are not doubled."""
    behind = len(re.findall(r'\\"(?![,;\t|\r\n]|$)', text))
    return "\\" if behind and behind > text.count('""') else None


def read_csv(path: Path, guide: Guide) -> Loaded:
    """A delimited text file, its cells as texts. Raises SourceError."""
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    shown = str(path)
    small = path.stat().st_size <= _MOST_MESSY
    # Whatever is not plain UTF-8 with the line ends of today is turned into it once, in memory.
    plain = decoding.decoded(path, _HEAD)
    head = head_of(path, plain.data)
    printed = fixed_width.lines_of(plain.text(path)) if small and _undivided(head) else None
    if printed:
        return _found(path, printed, plain, " ", guide)
    if head.titled or (small and _second_table(plain.bytes(path), head)):
        return _messy(path, plain, head, guide)
    names, skip, delimiter = head.names, head.skip, head.delimiter
    bad: list[Any] = []

    def on_bad(row: Any) -> str:
        bad.append(row)
        return "skip"

    few, coded = _of_few_texts(names, head, skip), pa.dictionary(pa.int32(), pa.string())

    def load(threads: bool, block: int = 1 << 20) -> Any:
        # ',' inside quotes and line breaks inside quotes are data; only '' is missing ("None" may be a name).
        return arrow_csv.read_csv(
            str(path) if plain.data is None else pa.py_buffer(plain.data),
            read_options=arrow_csv.ReadOptions(
                column_names=names, skip_rows=skip, use_threads=threads, encoding="utf8", block_size=block
            ),
            parse_options=arrow_csv.ParseOptions(
                delimiter=delimiter,
                newlines_in_values=True,
                invalid_row_handler=on_bad,
                escape_char=head.escape or False,
                double_quote=head.escape is None,
            ),
            convert_options=arrow_csv.ConvertOptions(
                column_types={name: coded if name in few else pa.string() for name in names},
                null_values=[""],
                strings_can_be_null=True,
            ),
        )

    try:
        try:
            raw = load(True)
        except pa.ArrowInvalid as problem:
            if "UTF8" in str(problem).upper() and plain.data is None:
                # Bytes that are no UTF-8 stand further down than the first lines.
                plain = decoding.decoded(path, None)
                bad.clear()
                raw = load(True)
            elif "straddl" in str(problem):
                bad.clear()
                raw = load(True, min(max(path.stat().st_size, 1 << 20), (1 << 31) - 1))
            else:
                raise
    except (pa.ArrowInvalid, UnicodeDecodeError, OSError) as problem:
        if "Empty CSV" in str(problem):
            raise SourceError(shown, "it has a header line but no rows", "Export it again with its rows.") from problem
        raise SourceError(
            shown,
            "it cannot be read as CSV",
            "Open it in a text editor and look for a broken line or a quote left open.",
        ) from problem
    if bad and small and all(row.actual_columns < row.expected_columns or _blank_behind(row, head) for row in bad):
        return _messy(path, plain, head, guide)
    if bad:
        bad.clear()
        load(False)
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
        numbers=beside_blank_lines(
            plain.bytes(path), skip, raw.num_rows, lambda text: rows_of(text, head.delimiter, head.escape)
        ),
        origin=Origin(kind="csv", encoding=plain.spoken, delimiter=delimiter),
        problems=(*plain.problems(raw.num_rows), *(_HEADLESS if head.headless else ())),
    )


def _undivided(head: Head) -> bool:
    """Whether hardly a line holds the separator: then blanks may set the columns off."""
    lines = [line for line in head.text.split("\n", 200)[:200] if line.strip()]
    return sum(head.delimiter in line for line in lines) < 0.5 * len(lines)


def _blank_behind(row: Any, head: Head) -> bool:
    """Whether what a row has beyond the headings is blank."""
    cells = [cell for line in first_rows(str(row.text), head.delimiter, head.escape, 1) for cell in line]
    return row.actual_columns > row.expected_columns and not any(cell.strip() for cell in cells[len(head.names) :])


def _second_table(data: bytes, head: Head) -> bool:
    """Whether behind a blank line another heading stands: a line of several texts, without a figure, below lines that
    have some."""
    if not any(mark in data for mark in (b"\n\n", b"\n\r\n", *(b"\n" + 2 * one.encode() for one in _DELIMITERS))):
        return False
    for match in _BLANK_LINES.finditer(data, 0, _MOST_MESSY):
        line = data[match.end() :].partition(b"\n")[0].decode("utf-8", "replace")
        above = data[max(0, match.start() - 2000) : match.start()].rstrip()
        before = above.rpartition(b"\n")[2].decode("utf-8", "replace")
        cells = [cell for row in first_rows(line, head.delimiter, head.escape, 1) for cell in row if cell.strip()]
        if len(cells) > 1 and not any(map(str.isdigit, line)) and any(map(str.isdigit, before)):
            return True
    return False


def _of_few_texts(names: list[str], head: Head, skip: int) -> set[str]:
    """Columns of words that repeat, by the first lines: they are read as codes, at half the time and memory."""
    lines = [row for row in first_rows(head.text, head.delimiter, head.escape, skip + _SAMPLE)[skip:] if row]
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
    try:
        below = [row for row, _ in zip(reader, range(30), strict=False) if len(row) == len(first)]
    except csv.Error:
        return False
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


def _messy(path: Path, plain: decoding.Decoded, head: Head, guide: Guide) -> Loaded:
    """A text file with titles above, footnotes below, headings over two lines or rows that end early."""
    text = io.StringIO(plain.text(path))
    try:
        lines = list(rows_of(text, head.delimiter, head.escape))
    except csv.Error as problem:
        raise SourceError(
            str(path), "it cannot be read as CSV", "Open it in a text editor and look for a quote left open."
        ) from problem
    return _found(path, lines, plain, head.delimiter, guide)


def _found(path: Path, lines: list[list[str]], plain: decoding.Decoded, delimiter: str, guide: Guide) -> Loaded:
    """The table among lines of cells: found as in a sheet."""
    from . import table_detection, workbooks

    shown = str(path)
    grid = [
        [_Figure(cell) if any(c.isdigit() for c in cell) and _LOOKS.match(cell.strip()) else cell for cell in line]
        for line in lines
    ]
    found = table_detection.find_table(grid, (), guide.place_of_table(path.name, None))
    if found is None:
        raise SourceError(shown, "no table with a heading and rows was found", "The first line must name the columns.")
    wide = max(len(found.headings), next((len(line) for line in lines if len(line) >= len(found.headings)), 0))
    filled = [number for number in found.numbers.tolist() if any(cell.strip() for cell in lines[number - 1][wide:])]
    if filled:
        raise SourceError(
            shown,
            f"line {filled[0]} has {len(lines[filled[0] - 1])} fields where the header has {wide}",
            "Mend the line (a separator inside a text needs quotes) or the header.",
        )
    short = [number for number in found.numbers.tolist() if 1 < len(lines[number - 1]) < wide]
    origin = Origin(kind="csv", encoding=plain.spoken, delimiter=delimiter)
    made = workbooks.loaded(found, origin)
    return replace(made, problems=(*made.problems, *plain.problems(made.rows), *_short(short, lines)))


def _short(numbers: list[int], lines: list[list[str]]) -> tuple[Problem, ...]:
    """Rows that end before the last column: a cell may be missing in their middle, and all behind it have moved."""
    if not numbers:
        return ()
    return (
        Problem(
            check="rows that end early",
            severity="repair",
            column=None,
            rows=len(numbers),
            examples=tuple((number, ", ".join(lines[number - 1])[:80]) for number in numbers[:3]),
            repair=phrased("counted as missing"),
            message=phrased_count(
                len(numbers),
                "{n} row ends before the last column; the cells that it lacks count as missing. Check that none is "
                "missing in its middle.",
                "{n} rows end before the last column; the cells that they lack count as missing. Check that none is "
                "missing in their middle.",
            ),
            step=Step(do="count missing cells of short rows as missing"),
        ),
    )


def _has_titles(text: str, delimiter: str, escape: str | None = None) -> bool:
    """True when the first line has fewer fields than most lines have: a title stands above the table; or when the
    headings go over two lines."""
    rows = [row for row in first_rows(text, delimiter, escape, 200) if any(c.strip() for c in row)]
    counts = [len(row) for row in rows]
    if len(counts) < 3:
        return False
    usual = max(set(counts), key=counts.count)
    first = rows[0]
    filled = sum(bool(cell.strip()) for cell in first)
    titled = counts[0] < usual or filled < max(2, 0.5 * len(first))
    two = filled < len(first) and not _figures(rows[0]) and not _figures(rows[1]) and bool(_figures(rows[2]))
    two = two and all(cell.strip() for cell in rows[1])
    return usual > 1 and (titled or two) and counts.count(usual) >= 0.5 * len(counts)


def _figures(row: list[str]) -> int:
    return sum(_kind_of(cell) != "text" for cell in row if cell.strip())


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


def _delimiter(text: str, escape: str | None = None) -> str:
    sample = "\n".join([line for line in text.split("\n", 60)[:60] if line.strip()][:50])
    best, best_score = ",", 0.0
    for mark in _DELIMITERS:
        counts = [max(0, len(row) - 1) for row in first_rows(sample, mark, escape, 50)] or [0]
        # Most lines, not the first, tell: a title may stand above.
        usual = max((count for count in set(counts) if count), key=lambda one: (counts.count(one), one), default=0)
        score = counts.count(usual) / len(counts) * min(usual, 20) ** 0.5 if usual else 0.0
        if score > best_score:
            best, best_score = mark, score
    return best
