"""A scan's slices by themselves: views that the reader of a page switches between, and pages behind the overview."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from ..reports import Report, Section
from ..support.errors import ColumnError, RequestError
from ..text import names
from .json_envelope import live_name_of

if TYPE_CHECKING:
    from ..tables import Table
    from .scan import Scan

#: Slices at most, the sections of each where the page switches between them, and where each has a page.
_MOST_SLICES, _MOST_SECTIONS, _MOST_PAGE_SECTIONS = 12, 5, 3
#: Views of a page with two switches at most, and the rows that a slice of both needs.
_MOST_VIEWS, _LEAST_ROWS = 30, 30


def slices_of(
    found: Scan, what: str, by: str, title: str | None, progress: Callable[[str], None]
) -> tuple[tuple[str, Report], ...]:
    """The labels of a column with most rows, each with the report of its slice, scanned by itself for the leading
    measures. Raises RequestError, which calls the wish `what`, for a column that is not broken down by."""
    survey = found.result.survey
    names = [column.name for column in survey.dimensions]
    if by.casefold() in {name.casefold() for name in survey.table.private}:
        raise ColumnError.private(by)
    if by not in names:
        raise RequestError(what, by, f"a column that is broken down by ({', '.join(names)})")
    counts = sorted(zip(*survey.table.label_counts(by), strict=True), key=lambda pair: (-pair[1], str(pair[0])))
    made = []
    for label in [label for label, _ in counts if label is not None][:_MOST_SLICES]:
        progress(f"scanning {label}")
        part = survey.table.filter(survey.table.equals(by, label))
        made.append((label, _told_alone(found, part, (by,), title)))
    return tuple(made)


def _told_alone(found: Scan, part: Table, by: Sequence[str], title: str | None) -> Report:
    """The report of a slice along the columns `by`, scanned by itself for the measures that lead the whole."""
    from .scan import scan

    survey = found.result.survey
    leading = [one.measure.name for one in found.latest[:2]] or [survey.measures[0].name]
    inside = scan(part, measures=leading, by=[one.name for one in survey.dimensions if one.name not in by] or None)
    model = inside.report(title).model
    # The JSON beside the page has the findings of the whole: numbers of a slice are none of its figures.
    sections = tuple(replace(section, figures={}, path="") for section in model.sections[:_MOST_SECTIONS])
    return replace(model, sections=sections)


def views_of(
    found: Scan, by: Sequence[str], title: str | None, progress: Callable[[str], None]
) -> tuple[tuple[tuple[str | None, ...], Report], ...]:
    """What the reader of a page switches between: the slices of each column by itself, and of two columns those that
    lie in both, most rows first; none of those where one has fewer rows than the least size of groups. Raises
    RequestError for more than two columns, or one that is not broken down by."""
    if not 1 <= len(set(by)) == len(by) <= 2:
        raise RequestError("The switch", ", ".join(by), "one column, or two that differ")
    alone = [slices_of(found, "The switch", column, title, progress) for column in by]
    if len(by) == 1:
        return tuple(((label,), model) for label, model in alone[0])
    first, second = by
    views: list[tuple[tuple[str | None, ...], Report]] = [((label, None), model) for label, model in alone[0]]
    views += [((None, label), model) for label, model in alone[1]]
    table = found.result.survey.table
    pairs = []
    for one, _ in alone[0]:
        inside = table.filter(table.equals(first, one))
        counts = dict(zip(*inside.label_counts(second), strict=True))
        pairs += [(counts.get(other, 0), one, other) for other, _ in alone[1]]
    pairs.sort(key=lambda pair: (-pair[0], pair[1], pair[2]))
    if any(rows < table.minimum for rows, _, _ in pairs):
        # What the others of a row leave over would tell of the few, who are counted as none here.
        return tuple(views)
    for rows, one, other in pairs[: _MOST_VIEWS - len(views)]:
        if rows >= _LEAST_ROWS:
            progress(f"scanning {one}, {other}")
            part = table.filter(table.equals(first, one)).filter(table.equals(second, other))
            views.append(((one, other), _told_alone(found, part, by, title)))
    return tuple(views)


def pages_of(by: str, parts: Sequence[tuple[str, Report]]) -> list[Section]:
    """A page for each label: its headline and summary, then its sections."""
    sections = []
    for place, (label, model) in enumerate(parts, start=1):
        key = f"{live_name_of(by)}-{place}"
        summary = model.summary
        opening = Section(
            id=key,
            claim=summary.headline,
            detail=summary.text,
            chart=None,
            evidence=(),
            sql="",
            expect=(),
            new_page=True,
            part=names.label(label),
        )
        sections.append(opening)
        # What its summary opens with is said; the charts are what a page adds.
        sections += [
            replace(section, id=f"{key}-{section.id}", level=3) for section in model.sections[:_MOST_PAGE_SECTIONS]
        ]
    return sections
