"""Workbooks (xlsx, xlsm, xls, ods) to typed columns."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from ...support.errors import SourceError, rather
from ...support.phrasing import phrased, phrased_count
from ..problems import Aside, Problem, Step
from ..reading_guide import Guide
from . import sheet_facts, table_detection
from .raw_table import Loaded, Origin, same_columns, stack, tidy_names
from .sheet_columns import to_column

#: A workbook larger than this, packed or unpacked, is no table for a spreadsheet program.
MOST_CELLS = 120_000_000
MOST_BYTES, MOST_UNPACKED, MOST_RATIO = 300_000_000, 2_000_000_000, 200
#: Where the declarations of an XML file stand.
_PROLOGUE = 65_536


def read_workbook(path: Path, sheet: str | None, guide: Guide) -> Loaded:
    """The sheet asked for, or the one with the largest table and those with the same columns. Raises SourceError."""
    found, hidden = open_sheets(path, sheet, guide)
    order = [name for name, _ in found]
    largest = max(found, key=lambda one: (one[1].rows * len(one[1].names), -order.index(one[0])))
    alike = [(name, page) for name, page in found if same_columns(page.names, largest[1].names)]
    read = {name for name, _ in alike}
    others = tuple(name for name in order if name not in read)
    problems = []
    if len(alike) > 1:
        made = stack(alike, "sheet")
        put = made.columns[-1].unique().to_pylist()
        if len(put) > 1:
            problems.append(
                Problem(
                    check="sheets stacked",
                    severity="note",
                    column=None,
                    rows=made.rows,
                    message=phrased(
                        "{n} sheets have the same columns and were put one below the other: {names}. The column "
                        "{column} tells them apart.",
                        n=len(put),
                        names=", ".join(map(repr, sorted(put))),
                        column=repr(made.origin.part),
                    ),
                )
            )
    else:
        made = largest[1]
    if others:
        problems.append(
            Problem(
                check="several sheets",
                severity="note",
                column=None,
                rows=0,
                message=phrased(
                    "The sheet {sheet} was read, the largest; others hold tables too: {names}. Choose one with "
                    "--sheet, or join one with --join.",
                    sheet=repr(largest[0]),
                    names=", ".join(map(repr, others)),
                ),
            )
        )
    if hidden:
        problems.append(
            Problem(
                check="hidden sheets",
                severity="note",
                column=None,
                rows=0,
                message=phrased(
                    "Hidden sheets were not read: {names}. Read one with --sheet.", names=", ".join(map(repr, hidden))
                ),
            )
        )
    origin = replace(made.origin, sheet=largest[0], others=others)
    return replace(made, problems=(*problems, *made.problems), origin=origin)


def visible_sheets(path: Path) -> list[str]:
    """The names of the sheets that a person sees. Raises SourceError."""
    book, hidden = _opened(path)
    return [name for name in book.sheet_names if name not in hidden]


def open_sheets(path: Path, sheet: str | None, guide: Guide) -> tuple[list[tuple[str, Loaded]], list[str]]:
    """The table of each visible sheet that holds one (or just that of `sheet`), and the names of hidden sheets."""
    from python_calamine import CalamineError

    shown = str(path)
    book, hidden = _opened(path)
    names = list(book.sheet_names)
    if sheet is not None and sheet not in names:
        raise SourceError(shown, f"there is no sheet named {sheet!r}", rather(sheet, names, "sheets"))
    facts = sheet_facts.read(path)
    loadeds: list[tuple[str, Loaded]] = []
    for name in names if sheet is None else [sheet]:
        if sheet is None and name in hidden:
            continue
        own = facts.get(name, sheet_facts.NOTHING)
        if own.rows * own.columns > MOST_CELLS or own.beyond:
            where = own.beyond or f"{own.rows:,} rows by {own.columns:,} columns"
            raise SourceError(
                shown,
                f"the sheet {name!r} reaches to {where}, far beyond any table, and was not opened",
                "Delete the cells that stand far away, and save it again.",
            )
        try:
            page = book.get_sheet_by_name(name)
            grid = page.to_python(skip_empty_area=False)
        except CalamineError as problem:
            raise _unreadable(path, problem) from problem
        ranges = page.merged_cell_ranges or own.merged
        told = guide.place_of_table(path.name, name)
        table = table_detection.find_table(grid, ranges, told)
        if table is not None:
            made = loaded(table, Origin(kind="workbook", sheet=name))
            loadeds.append((name, _with_facts(made, name, own, guide)))
    if not loadeds:
        raise SourceError(
            shown, "no sheet holds a table with a heading and rows", "Check that the file is the right one."
        )
    return loadeds, hidden


def _opened(path: Path) -> tuple[Any, list[str]]:
    """The workbook, and the names of its hidden sheets."""
    from python_calamine import CalamineError, CalamineWorkbook, SheetVisibleEnum

    _bounded(path)
    try:
        book = CalamineWorkbook.from_path(path)
    except CalamineError as problem:
        raise _unreadable(path, problem) from problem
    return book, [meta.name for meta in book.sheets_metadata if meta.visible != SheetVisibleEnum.Visible]


def _with_facts(made: Loaded, sheet: str, facts: sheet_facts.SheetFacts, guide: Guide) -> Loaded:
    """What a sheet shows beside its values: rows that are hidden, cells that hold an error."""
    problems = [
        replace(problem, step=replace(problem.step, facts={**problem.step.facts, "sheet": sheet}))
        if problem.step
        else problem
        for problem in made.problems
    ]
    numbers = set(made.numbers.tolist())
    errors = [(row, f"{column}{row}: {text}") for row, column, text in facts.errors if row in numbers]
    if errors:
        problems.append(
            Problem(
                check="error cells",
                severity="repair",
                column=None,
                rows=len(errors),
                examples=tuple(errors[:3]),
                message=phrased_count(
                    len(errors),
                    "{n} cell holds an error of the spreadsheet and counts as missing.",
                    "{n} cells hold errors of the spreadsheet and count as missing.",
                ),
                repair=phrased("counted as missing"),
            )
        )
    made = replace(made, problems=tuple(problems))
    unseen = sorted(facts.hidden & numbers)
    return _hidden_rows(made, sheet, unseen, guide) if unseen else made


def _hidden_rows(loaded: Loaded, sheet: str, unseen: list[int], guide: Guide) -> Loaded:
    """Hidden rows are read like any others, unless someone says to take them out."""
    import numpy as np
    import pyarrow as pa

    count = len(unseen)
    asked = phrased("Were the hidden rows filtered out on purpose?")
    answer = guide.ask("hidden rows", sheet, asked, ("take out", "keep"))
    out = next((step for step in guide.steps("take out hidden rows") if step.facts["sheet"] == sheet), None)
    problem = Problem(
        check="hidden rows",
        severity="note" if isinstance(answer, str) else "question",
        column=None,
        rows=count,
        examples=tuple((row, phrased("hidden")) for row in unseen[:3]),
        message=phrased_count(
            count,
            "{n} row of the sheet {sheet} is hidden; it was read like any other.",
            "{n} rows of the sheet {sheet} are hidden; they were read like any other.",
            sheet=repr(sheet),
        ),
        question=None if isinstance(answer, str) else answer,
    )
    if answer != "take out" and out is None:
        return loaded if guide.replays else replace(loaded, problems=(*loaded.problems, problem))
    mask = ~np.isin(loaded.numbers, unseen)
    gone = pa.table(dict(zip(loaded.names, loaded.columns, strict=True))).filter(pa.array(~mask)).to_pylist()
    aside = tuple(
        Aside(row=row, why="hidden row", text=", ".join(str(v) for v in cells.values() if v is not None), cells=cells)
        for row, cells in zip(unseen, gone, strict=True)
    )
    problem = replace(
        problem,
        severity="repair",
        message=phrased_count(
            count,
            "{n} row of the sheet {sheet} is hidden; it was taken out, as answered.",
            "{n} rows of the sheet {sheet} are hidden; they were taken out, as answered.",
            sheet=repr(sheet),
        ),
        repair=phrased("taken out"),
        question=None,
        step=Step(do="take out hidden rows", facts={"sheet": sheet}),
    )
    return replace(
        loaded,
        columns=[column.filter(pa.array(mask)) for column in loaded.columns],
        rows=int(mask.sum()),
        numbers=loaded.numbers[mask],
        aside=(*loaded.aside, *aside),
        problems=(*loaded.problems, problem),
    )


def _unreadable(path: Path, problem: Exception) -> SourceError:
    if "password" in str(problem).lower() or (
        path.read_bytes()[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" and path.suffix.lower() != ".xls"
    ):
        return SourceError(str(path), "it is locked with a password", "Save it without one.")
    return SourceError(
        str(path), "it cannot be read as a workbook", "It may be cut off or of another kind; save it again as .xlsx."
    )


def loaded(found: table_detection.Found, origin: Origin) -> Loaded:
    """A table found on a sheet: one Arrow column for each heading, mixed cells spelled out as text."""
    return Loaded(
        names=tidy_names(found.headings),
        original=list(found.headings),
        columns=[to_column(column) for column in found.columns],
        rows=found.numbers.size,
        first_row=int(found.numbers[0]),
        origin=origin,
        problems=found.problems,
        numbers=found.numbers,
        aside=found.aside,
    )


def _bounded(path: Path) -> None:
    """Refuse what would unpack to more than any workbook holds."""
    import zipfile
    import zlib

    shown = str(path)
    size = path.stat().st_size
    if size > MOST_BYTES:
        raise SourceError(shown, "the workbook is larger than 300 MB", "Export the table as CSV or Parquet.")
    if not zipfile.is_zipfile(path):
        return
    try:
        with zipfile.ZipFile(path) as pack:
            unpacked = sum(member.file_size for member in pack.infolist())
            for member in pack.infolist():
                if member.filename.endswith((".xml", ".rels", ".vml")) and not member.flag_bits & 1:
                    with pack.open(member) as stream:
                        if b"<!DOCTYPE" in stream.read(_PROLOGUE):
                            raise SourceError(
                                shown,
                                "it declares XML entities, which no workbook needs, and was not opened",
                                "Save it again with a spreadsheet program.",
                            )
    except (zipfile.BadZipFile, EOFError, OSError, zlib.error) as problem:
        raise _unreadable(path, problem) from problem
    if unpacked > MOST_UNPACKED or (unpacked > 50_000_000 and unpacked > MOST_RATIO * size):
        raise SourceError(
            shown, "it unpacks to far more than a workbook holds, and was not opened", "Export the table as CSV."
        )
