"""Workbooks (xlsx, xlsm, xls, ods) to typed columns."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from pathlib import Path
from typing import Any

from ..errors import SourceError, join_or, nearest
from . import grids
from .problems import Problem
from .text_files import Loaded, tidy_names
from .texts import typed

ENDINGS = (".xlsx", ".xlsm", ".xls", ".ods")
#: A workbook larger than this, packed or unpacked, is no table for a spreadsheet program.
MOST_BYTES, MOST_UNPACKED, MOST_RATIO = 300_000_000, 2_000_000_000, 200


def read_workbook(path: Path, sheet: str | None = None) -> Loaded:
    """The sheet asked for, or the one with the largest table. Raises SourceError."""
    from python_calamine import CalamineError, CalamineWorkbook, SheetVisibleEnum

    shown = str(path)
    _bounded(path)
    try:
        book = CalamineWorkbook.from_path(path)
    except CalamineError as problem:
        locked = "password" in str(problem).lower() or path.read_bytes()[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
        said = (
            "it is locked with a password"
            if locked and path.suffix.lower() != ".xls"
            else "it cannot be read as a workbook"
        )
        remedy = (
            "Save it without one."
            if "locked" in said
            else "It may be cut off or of another kind; save it again as .xlsx."
        )
        raise SourceError(shown, said, remedy) from problem
    names = list(book.sheet_names)
    hidden = [meta.name for meta in book.sheets_metadata if meta.visible != SheetVisibleEnum.Visible]
    if sheet is not None and sheet not in names:
        near = nearest(sheet, names)
        raise SourceError(
            shown,
            f"there is no sheet named {sheet!r}",
            f"Did you mean {join_or(near)}?" if near else f"The sheets are {', '.join(names[:12])}.",
        )
    found: list[tuple[str, grids.Found]] = []
    for name in names if sheet is None else [sheet]:
        if sheet is None and name in hidden:
            continue
        page = book.get_sheet_by_name(name)
        grid = page.to_python(skip_empty_area=False)
        table = grids.find_table(grid, page.merged_cell_ranges or ())
        if table is not None:
            found.append((name, table))
    if not found:
        raise SourceError(
            shown, "no sheet holds a table with a heading and rows", "Check that the file is the right one."
        )
    name, best = max(found, key=lambda one: (len(one[1].rows) * len(one[1].headings), -names.index(one[0])))
    problems = list(best.problems)
    others = [other for other, _ in found if other != name]
    if others:
        problems.insert(
            0,
            Problem(
                check="several sheets",
                severity="note",
                column=None,
                rows=0,
                message=f"The sheet {name!r} was read, the largest; others hold tables too: "
                f"{', '.join(map(repr, others))}. Choose one with --sheet.",
            ),
        )
    if hidden:
        problems.append(
            Problem(
                check="hidden sheets",
                severity="note",
                column=None,
                rows=0,
                message=f"Hidden sheets were not read: {', '.join(map(repr, hidden))}.",
            )
        )
    return loaded(best, problems, name, tuple(others))


def loaded(
    found: grids.Found, problems: list[Problem], sheet: str | None = None, others: tuple[str, ...] = ()
) -> Loaded:
    """A table found on a sheet, its columns in their types."""
    import numpy as np
    import pyarrow as pa

    names = tidy_names(found.headings)
    columns, units = {}, {}
    for place, name in enumerate(names):
        cells = [row[place] for row in found.rows]
        values, made = _column(name, cells, found.numbers)
        if isinstance(values, pa.Array) and pa.types.is_string(values.type):
            told = typed(name, values, lambda row: found.numbers[row])
            values = told.values
            made += told.problems
            if told.unit:
                units[name] = told.unit
        columns[name] = values
        problems += made
    return Loaded(
        arrow=pa.table(columns),
        original=list(found.headings),
        first_row=found.numbers[0],
        problems=tuple(problems),
        units=units,
        numbers=np.asarray(found.numbers),
        aside=found.aside,
        sheet=sheet,
        others=others,
    )


def _column(name: str, cells: Sequence[Any], numbers: Sequence[int]) -> tuple[Any, tuple[Problem, ...]]:
    """Cells of one type keep it; a mixture is spelled out as text, and the text is read again."""
    import pyarrow as pa

    known = [value for value in cells if value is not None]
    kinds = {_kind(value) for value in known}
    if not known:
        return pa.array([None] * len(cells), pa.string()), ()
    if kinds == {"number"}:
        whole = all(isinstance(value, int) for value in known)
        return pa.array(cells, pa.int64() if whole else pa.float64()), ()
    if kinds == {"date"}:
        moments = any(isinstance(value, datetime) for value in known)
        made = [
            datetime(v.year, v.month, v.day) if moments and v is not None and not isinstance(v, datetime) else v
            for v in cells
        ]
        return pa.array(made, pa.timestamp("us") if moments else pa.date32()), ()
    if kinds == {"flag"}:
        return pa.array(cells, pa.bool_()), ()
    return pa.array([None if value is None else _spelled(value) for value in cells], pa.string()), ()


def _kind(value: Any) -> str:
    if isinstance(value, bool):
        return "flag"
    if isinstance(value, int | float):
        return "number"
    return "date" if isinstance(value, date) else "text"


def _spelled(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value.isoformat(sep=" ") if isinstance(value, datetime) else str(value)


def _bounded(path: Path) -> None:
    """Refuse what would unpack to more than any workbook holds."""
    import zipfile

    shown = str(path)
    size = path.stat().st_size
    if size > MOST_BYTES:
        raise SourceError(shown, "the workbook is larger than 300 MB", "Export the table as CSV or Parquet.")
    if zipfile.is_zipfile(path):
        with zipfile.ZipFile(path) as pack:
            unpacked = sum(member.file_size for member in pack.infolist())
        if unpacked > MOST_UNPACKED or (unpacked > 50_000_000 and unpacked > MOST_RATIO * size):
            raise SourceError(
                shown, "it unpacks to far more than a workbook holds, and was not opened", "Export the table as CSV."
            )
