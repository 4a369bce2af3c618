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
    from .scan import Scan

#: Slices at most, the sections of each where the page switches between them, and where each has a page.
_MOST_SLICES, _MOST_SECTIONS, _MOST_PAGE_SECTIONS = 12, 5, 3


def slices_of(
    found: Scan, what: str, by: str, title: str | None, progress: Callable[[str], None]
) -> tuple[tuple[str, Report], ...]:
    """The labels of a column with most rows, each with the report of its slice, scanned by itself for the leading
    measures. Raises RequestError, which calls the wish `what`, for a column that is not broken down by."""
    from .scan import scan

    survey = found.result.survey
    names = [column.name for column in survey.dimensions]
    if by.casefold() in {name.casefold() for name in survey.table.private}:
        raise ColumnError.private(by)
    if by not in names:
        raise RequestError(what, by, f"a column that is broken down by ({', '.join(names)})")
    counts = sorted(zip(*survey.table.label_counts(by), strict=True), key=lambda pair: (-pair[1], str(pair[0])))
    leading = [one.measure.name for one in found.latest[:2]] or [survey.measures[0].name]
    made = []
    for label in [label for label, _ in counts if label is not None][:_MOST_SLICES]:
        progress(f"scanning {label}")
        part = survey.table.filter(survey.table.equals(by, label))
        inside = scan(part, measures=leading, by=[name for name in names if name != by] or None)
        model = inside.report(title).model
        # The JSON beside the page has the findings of the whole: numbers of a slice are none of its figures.
        sections = tuple(replace(section, figures={}, path="") for section in model.sections[:_MOST_SECTIONS])
        made.append((label, replace(model, sections=sections)))
    return tuple(made)


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
