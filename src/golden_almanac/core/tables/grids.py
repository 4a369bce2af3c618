"""Finding the table in a sheet: title rows above, footnotes below, headers over two rows, several blocks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any

from .problems import Aside, Problem, Step, counted

Grid = Sequence[Sequence[Any]]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Found:
    """The table of a sheet: headings, rows of cells, and for each row the number a person sees beside it.

    `aside` are rows of the sheet that are no data.
    """

    headings: list[str]
    rows: list[list[Any]]
    numbers: list[int]
    aside: tuple[Aside, ...]
    problems: tuple[Problem, ...]


def find_table(
    grid: Grid, merged: Sequence[tuple[tuple[int, int], tuple[int, int]]] = (), told: Step | None = None
) -> Found | None:
    """The largest table on a sheet, or None when there is none.

    `merged` are ranges ((row, column), (row, column)); `told` is a step that says where the table stands.
    """
    cells = [[_tidy(value) for value in row] for row in grid]
    width = max((len(row) for row in cells), default=0)
    cells = [row + [None] * (width - len(row)) for row in cells]
    problems = _spaces(grid)
    filled = _fill_merged(cells, merged)
    if filled:
        problems.append(
            Problem(
                check="merged cells",
                severity="repair",
                column=None,
                rows=filled,
                repair="filled from the merged cell",
                message=f"{counted(filled, 'cell was', 'cells were')} empty because of merged cells and got the value "
                "of the merged cell.",
                step=Step(do="fill merged cells"),
            )
        )
    blocks = _blocks(cells)
    place = _told(told, cells) if told is not None else _place(cells, blocks)
    if place is None:
        return None
    start, depth, end, left, right = place
    body = [row[left:right] for row in cells]
    headings = _headings(body[start : start + depth])
    rows, numbers = [], []
    for number in range(start + depth, end):
        if any(value is not None for value in body[number]):
            rows.append(list(body[number]))
            numbers.append(number + 1)
    if not rows:
        return None
    aside = tuple(
        Aside(row=number + 1, why="around the table", text=" ".join(_text(v) for v in row if v is not None))
        for number, row in enumerate(cells)
        if any(v is not None for v in row) and not start <= number < end
    )
    keep = [c for c in range(right - left) if headings[c] or any(row[c] is not None for row in rows)]
    facts = {"header": [start + 1, start + depth], "last": end, "columns": [left + 1, right]}
    step = Step(do="find the table", facts=facts)
    if depth > 1:
        problems.append(
            Problem(
                check="header rows",
                severity="repair",
                column=None,
                rows=depth,
                repair="header rows joined",
                message=f"The headings stand in {depth} rows; they were joined as “Upper Lower”.",
                step=step,
            )
        )
    if aside:
        problems.append(
            Problem(
                check="rows around the table",
                severity="repair",
                column=None,
                rows=len(aside),
                examples=tuple((one.row, one.text[:80]) for one in aside[:3]),
                repair="set aside",
                message=f"{counted(len(aside), 'row')} above, below or beside the table "
                f"{'is no data and was' if len(aside) == 1 else 'are no data and were'} set aside.",
                step=step,
            )
        )
    size = (end - start) * (right - left)
    others = [
        block for block in blocks if block[2] >= right or block[3] <= left or block[0] >= end or block[1] <= start
    ]
    others = [block for block in others if (block[1] - block[0]) * (block[3] - block[2]) >= 0.2 * size]
    if others:
        spots = ", ".join(f"rows {first + 1} to {last}" for first, last, _, _ in others[:4])
        problems.append(
            Problem(
                check="several blocks",
                severity="note",
                column=None,
                rows=sum(last - first for first, last, _, _ in others),
                message=f"{counted(len(others), 'more block')} of cells ({spots}) may be a table too; the largest, "
                f"rows {start + 1} to {end}, was read.",
            )
        )
    return Found(
        headings=[headings[c] for c in keep],
        rows=[[row[c] for c in keep] for row in rows],
        numbers=numbers,
        aside=aside,
        problems=tuple(problems),
    )


def _place(cells: list[list[Any]], blocks: list[tuple[int, int, int, int]]) -> tuple[int, int, int, int, int] | None:
    """First heading row and how many there are, the row after the last, first column and the one after the last."""
    if not blocks:
        return None
    first, last, left, right = max(blocks, key=lambda b: ((b[1] - b[0]) * (b[3] - b[2]), -b[0]))
    body = [row[left:right] for row in cells[first:last]]
    head = _header(body)
    if head is None:
        return None
    start, depth = head
    end = len(body)
    while end > start + depth + 1 and _is_note(body[end - 1]):
        end -= 1
    return first + start, depth, first + end, left, right


def _told(step: Step, cells: list[list[Any]]) -> tuple[int, int, int, int, int] | None:
    top, bottom = step.facts["header"]
    left, right = step.facts["columns"]
    inside = step.facts["last"] <= len(cells) and right <= len(cells[0])
    return (top - 1, bottom - top + 1, step.facts["last"], left - 1, right) if inside else None


def _spaces(grid: Grid) -> list[Problem]:
    spaced = [
        (r + 1, value) for r, row in enumerate(grid) for value in row if isinstance(value, str) and _spaced(value)
    ]
    if not spaced:
        return []
    return [
        Problem(
            check="spaces around texts",
            severity="repair",
            column=None,
            rows=len(spaced),
            repair="spaces taken off",
            examples=tuple((row, repr(value)) for row, value in spaced[:3]),
            message=f"Spaces before or after the text were taken off {counted(len(spaced), 'cell')}.",
            step=Step(do="take off spaces"),
        )
    ]


def _tidy(value: Any) -> Any:
    """One cell: empty texts are nothing, whole doubles are whole numbers, times of day are texts."""
    if isinstance(value, str):
        return value.strip() or None
    if isinstance(value, float):
        return int(value) if value.is_integer() and abs(value) < 2**53 else value
    if isinstance(value, datetime):
        return value.date() if value.time() == time() else value
    return value


def _spaced(value: str) -> bool:
    return value != value.strip() and bool(value.strip())


def _fill_merged(cells: list[list[Any]], merged: Sequence[tuple[tuple[int, int], tuple[int, int]]]) -> int:
    filled = 0
    for (top, left), (bottom, right) in merged:
        if top >= len(cells) or left >= len(cells[top]) or cells[top][left] is None:
            continue
        # A range over the whole width is a title, and stays in its own cell.
        if top == bottom and right - left + 1 >= len(cells[top]) - 1:
            continue
        for row in range(top, min(bottom + 1, len(cells))):
            for column in range(left, min(right + 1, len(cells[row]))):
                if cells[row][column] is None:
                    cells[row][column] = cells[top][left]
                    filled += 1
    return filled


def _blocks(cells: list[list[Any]]) -> list[tuple[int, int, int, int]]:
    """Runs of rows with at least two cells, a single empty row within being bridged: (first, last, left, right)."""
    counts = [sum(value is not None for value in row) for row in cells]
    found: list[tuple[int, int, int, int]] = []
    row = 0
    while row < len(cells):
        if counts[row] < 1:
            row += 1
            continue
        end = row
        while end < len(cells) and (counts[end] >= 1 or (end + 1 < len(cells) and _goes_on(cells, row, end + 1))):
            end += 1
        used = [c for c in range(len(cells[0])) if sum(cells[r][c] is not None for r in range(row, end)) >= 1]
        # An empty column parts two tables that stand side by side.
        for left, right in _spans(used):
            inside = [
                r for r in range(row, end) if sum(v is not None for v in cells[r][left:right]) >= min(2, right - left)
            ]
            if len(inside) >= 2:
                found.append((row, inside[-1] + 1 if right - left > 1 else end, left, right))
        row = end
    return found


def _spans(used: list[int]) -> list[tuple[int, int]]:
    spans: list[tuple[int, int]] = []
    for column in used:
        if spans and spans[-1][1] == column:
            spans[-1] = (spans[-1][0], column + 1)
        else:
            spans.append((column, column + 1))
    return spans


def _goes_on(cells: list[list[Any]], first: int, row: int) -> bool:
    """After one empty row the table goes on if the next row is as wide and holds numbers or dates again."""
    if not any(value is not None for value in cells[row]):
        return False
    here = {c for c, value in enumerate(cells[row]) if value is not None}
    wide = {c for r in range(first, row) for c, value in enumerate(cells[r]) if value is not None}
    return (
        len(here) >= 2
        and len(here & wide) >= 0.7 * len(wide)
        and any(not isinstance(v, str) for v in cells[row] if v is not None)
    )


def _header(body: list[list[Any]]) -> tuple[int, int] | None:
    """The row where the headings start, and over how many rows they go."""
    width = len(body[0])
    for start, row in enumerate(body[:30]):
        known = [value for value in row if value is not None]
        if len(known) < max(2 if width > 1 else 1, 0.5 * width) or start + 1 >= len(body):
            continue
        if sum(isinstance(value, str | date) or _is_year(value) for value in known) < 0.8 * len(known):
            continue
        below = body[start + 1]
        two = (
            (len(known) < width or len(set(map(_text, known))) < len(known))
            and _all_text(below)
            and start + 2 < len(body)
        )
        if two and sum(v is not None for v in below) >= 0.5 * width and not _all_text(body[start + 2]):
            return start, 2
        return start, 1
    return None


def _headings(rows: list[list[Any]]) -> list[str]:
    if len(rows) == 1:
        return ["" if value is None else _text(value) for value in rows[0]]
    upper, last = [], ""
    for place, value in enumerate(rows[0]):
        # A merged heading stands in its first cell only; it holds until the next, where a lower one is.
        last = _text(value) if value is not None else last if rows[1][place] is not None else ""
        upper.append(last)
    joined = []
    for top, low in zip(upper, rows[1], strict=True):
        below = "" if low is None else _text(low)
        joined.append(top if not below or below == top else f"{top} {below}".strip())
    return joined


def _is_note(row: list[Any]) -> bool:
    known = [value for value in row if value is not None]
    return len(row) > 2 and len(known) == 1 and isinstance(known[0], str)


def _all_text(row: list[Any]) -> bool:
    known = [value for value in row if value is not None]
    return bool(known) and all(isinstance(value, str) for value in known)


def _is_year(value: Any) -> bool:
    return isinstance(value, int) and 1900 <= value <= 2100


def _text(value: Any) -> str:
    return value.isoformat() if isinstance(value, date) else str(value)
