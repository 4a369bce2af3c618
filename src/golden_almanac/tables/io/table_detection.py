"""Finding the table in a sheet: title rows above, footnotes below, headers over two rows, several blocks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np
import numpy.typing as npt

from ...support.phrasing import phrased, phrased_count
from ..problems import Aside, Problem, Step
from .sheet_columns import Page, Ranges, page_of, spelled

#: Where a table stands on a page: first heading row, how many heading rows, the row after the last, first column and
#: the one after the last.
Place = tuple[int, int, int, int, int]
#: A run of filled cells: first row, the one after the last, first column, the one after the last.
Block = tuple[int, int, int, int]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Found:
    """The table of a sheet: headings, columns of cells, and for each row the number a person sees beside it.

    `aside` are rows of the sheet that are no data.
    """

    headings: list[str]
    columns: list[list[Any]]
    numbers: npt.NDArray[np.int64]
    aside: tuple[Aside, ...]
    problems: tuple[Problem, ...]


def find_table(grid: Sequence[Sequence[Any]], merged: Ranges = (), told: Step | None = None) -> Found | None:
    """The largest table on a sheet, or None when there is none.

    `merged` are ranges ((row, column), (row, column)); `told` is a step that says where the table stands.
    """
    page, problems = page_of(grid, merged)
    blocks = _blocks(page)
    place = _told(told, page) if told is not None else _place(page, blocks)
    if place is None:
        return None
    start, depth, end, left, right = place
    some = page.some()
    inside = np.flatnonzero(some[start + depth : end] & page.filled[start + depth : end, left:right].any(axis=1))
    rows = inside + start + depth
    if rows.size == 0:
        return None
    headings = _headings([page.row(row, left, right) for row in range(start, start + depth)])
    around = [row for row in np.flatnonzero(some).tolist() if not start <= row < end]
    aside = tuple(
        Aside(row=row + 1, why="around the table", text=" ".join(spelled(v) for v in page.row(row) if v is not None))
        for row in around
    )
    step = Step(
        do="find the table", facts={"header": [start + 1, start + depth], "last": end, "columns": [left + 1, right]}
    )
    problems += [*_header_problem(depth, step), *_around_problem(aside, step), *_blocks_problem(blocks, place)]
    # A run of rows without a hole is cut out whole.
    whole = rows.size == end - start - depth
    columns = []
    kept = []
    for place_of, heading in enumerate(headings, start=left):
        if heading or page.filled[rows, place_of].any():
            column = page.columns[place_of]
            columns.append(column[start + depth : end] if whole else [column[row] for row in rows.tolist()])
            kept.append(heading)
    return Found(headings=kept, columns=columns, numbers=rows + 1, aside=aside, problems=tuple(problems))


def _header_problem(depth: int, step: Step) -> list[Problem]:
    if depth == 1:
        return []
    return [
        Problem(
            check="header rows",
            severity="repair",
            column=None,
            rows=depth,
            repair=phrased("header rows joined"),
            message=phrased("The headings stand in {n} rows; they were joined as “Upper Lower”.", n=depth),
            step=step,
        )
    ]


def _around_problem(aside: tuple[Aside, ...], step: Step) -> list[Problem]:
    if not aside:
        return []
    return [
        Problem(
            check="rows around the table",
            severity="repair",
            column=None,
            rows=len(aside),
            examples=tuple((one.row, one.text[:80]) for one in aside[:3]),
            repair=phrased("set aside"),
            message=phrased_count(
                len(aside),
                "{n} row above, below or beside the table is no data and was set aside.",
                "{n} rows above, below or beside the table are no data and were set aside.",
            ),
            step=step,
        )
    ]


def _blocks_problem(blocks: list[Block], place: Place) -> list[Problem]:
    """A note of other runs of cells that are not much smaller than the table."""
    start, _, end, left, right = place
    others = [
        block for block in blocks if block[2] >= right or block[3] <= left or block[0] >= end or block[1] <= start
    ]
    least = 0.2 * (end - start) * (right - left)
    others = [one for one in others if (one[1] - one[0]) * (one[3] - one[2]) >= least]
    if not others:
        return []
    spots = [phrased("rows {first} to {last}", first=first + 1, last=last) for first, last, _, _ in others[:4]]
    return [
        Problem(
            check="several blocks",
            severity="note",
            column=None,
            rows=sum(last - first for first, last, _, _ in others),
            message=phrased_count(
                len(others),
                "{n} more block of cells ({spots}) may be a table too; the largest, rows {first} to {last}, was read.",
                "{n} more blocks of cells ({spots}) may be a table too; the largest, rows {first} to {last}, was read.",
                spots=spots,
                first=start + 1,
                last=end,
            ),
        )
    ]


def _place(page: Page, blocks: list[Block]) -> Place | None:
    if not blocks:
        return None
    first, last, left, right = max(blocks, key=lambda b: ((b[1] - b[0]) * (b[3] - b[2]), -b[0]))
    top = [page.row(row, left, right) for row in range(first, min(last, first + 33))]
    head = _header(top, last - first)
    if head is None:
        return None
    start, depth = head
    end = last
    while end > first + start + depth + 1 and _is_note(page.row(end - 1, left, right)):
        end -= 1
    return first + start, depth, end, left, right


def _told(step: Step, page: Page) -> Place | None:
    top, bottom = step.facts["header"]
    left, right = step.facts["columns"]
    inside = step.facts["last"] <= page.rows and right <= page.width
    return (top - 1, bottom - top + 1, step.facts["last"], left - 1, right) if inside else None


def _blocks(page: Page) -> list[Block]:
    """Runs of rows that hold cells, a single empty row within being bridged where the table goes on."""
    some = page.some()
    blocks: list[Block] = []
    row = 0
    while row < page.rows:
        if not some[row]:
            row += 1
            continue
        end = row
        while end < page.rows and (some[end] or (end + 1 < page.rows and _goes_on(page, row, end + 1))):
            gap = np.flatnonzero(~some[end:])
            end = (end + int(gap[0]) if gap.size else page.rows) if some[end] else end + 1
        used = np.flatnonzero(page.filled[row:end].any(axis=0)).tolist()
        # An empty column parts two tables that stand side by side.
        for left, right in _spans(used):
            counts = page.filled[row:end, left:right].sum(axis=1)
            inside = np.flatnonzero(counts >= min(2, right - left))
            if inside.size >= 2:
                blocks.append((row, row + int(inside[-1]) + 1 if right - left > 1 else end, left, right))
        row = end
    return blocks


def _spans(used: list[int]) -> list[tuple[int, int]]:
    spans: list[tuple[int, int]] = []
    for column in used:
        if spans and spans[-1][1] == column:
            spans[-1] = (spans[-1][0], column + 1)
        else:
            spans.append((column, column + 1))
    return spans


def _goes_on(page: Page, first: int, row: int) -> bool:
    """After one empty row the table goes on if the next row is as wide and holds numbers or dates again."""
    here = page.filled[row]
    wide = page.filled[first:row].any(axis=0)
    return bool(
        here.sum() >= 2
        and (here & wide).sum() >= 0.7 * wide.sum()
        and any(not isinstance(v, str) for v in page.row(row) if v is not None)
    )


def _header(body: list[list[Any]], rows: int) -> tuple[int, int] | None:
    """The row where the headings start, and over how many rows they go; `body` are the first of so many rows."""
    width = len(body[0])
    for start, row in enumerate(body[:30]):
        known = [value for value in row if value is not None]
        if len(known) < max(2 if width > 1 else 1, 0.5 * width) or start + 1 >= rows:
            continue
        if sum(isinstance(value, str | date) or _is_year(value) for value in known) < 0.8 * len(known):
            continue
        below = body[start + 1]
        two = (
            (len(known) < width or len(set(map(spelled, known))) < len(known))
            and _allspelled(below)
            and start + 2 < rows
        )
        if two and sum(v is not None for v in below) >= 0.5 * width and not _allspelled(body[start + 2]):
            return start, 2
        return start, 1
    return None


def _headings(rows: list[list[Any]]) -> list[str]:
    if len(rows) == 1:
        return ["" if value is None else spelled(value) for value in rows[0]]
    upper, last = [], ""
    for place, value in enumerate(rows[0]):
        # A merged heading stands in its first cell only; it holds until the next, where a lower one is.
        last = spelled(value) if value is not None else last if rows[1][place] is not None else ""
        upper.append(last)
    joined = []
    for top, low in zip(upper, rows[1], strict=True):
        below = "" if low is None else spelled(low)
        joined.append(top if not below or below == top else f"{top} {below}".strip())
    return joined


def _is_note(row: list[Any]) -> bool:
    known = [value for value in row if value is not None]
    return len(row) > 2 and len(known) == 1 and isinstance(known[0], str)


def _allspelled(row: list[Any]) -> bool:
    known = [value for value in row if value is not None]
    return bool(known) and all(isinstance(value, str) for value in known)


def _is_year(value: Any) -> bool:
    return isinstance(value, int | float) and float(value).is_integer() and 1900 <= value <= 2100
