"""The report as Markdown: claims, figures and checks as plain text that any editor shows."""

from __future__ import annotations

import re

from ..charts.chart import MADE_BY
from ..reports import Report
from ..reports.page_model import shown_edition
from ..text import page_labels
from .display_cells import Cells, chart_cells, frame_cells
from .office_parts import clean

_MOST_ROWS = 40


def render(report: Report, pictures: dict[str, str] | None = None) -> bytes:
    """UTF-8 Markdown; `pictures` are the paths of charts by the id of their section."""
    lines = [f"# {_text(report.summary.headline)}", "", f"*{_text(shown_edition(report))}*", ""]
    lines += [f"- {_text(sentence)}" for sentence in report.summary.bullets] + [""]
    if report.keys:
        lines += ["| " + " | ".join(map(page_labels.column, ("figure", "value", "change"))) + " |", "|---|---:|---|"]
        lines += [f"| {_text(key.name)} | {_text(key.value)} | {_text(key.change)} |" for key in report.keys] + [""]
    for section in report.sections:
        lines += [f"**{_text(section.part)}**", ""] if section.part else []
        lines += [f"{'#' * section.level} {_text(section.claim)}", ""]
        if section.detail:
            lines += [_text(section.detail), ""]
        if section.chart is not None:
            if pictures and section.id in pictures:
                lines += [f"![{_text(section.chart.alternative)}]({pictures[section.id]})", ""]
            lines += [*_table(chart_cells(section.chart)), ""]
        if section.table is not None:
            lines += [*_table(frame_cells(section.table)), ""]
        lines += [f"- {_text(word)}: {_text(text)}" for word, text in section.evidence] + [""]
        if section.sql:
            fence = "`" * max(3, 1 + max((len(run) for run in re.findall("`+", section.sql)), default=0))
            lines += [page_labels.to_check(section.expect), "", f"{fence}sql", section.sql, fence, ""]
    for which, texts in (
        ("steps", report.steps),
        ("further", report.further),
        ("caveats", report.caveats),
        ("made", report.made),
    ):
        if texts:
            lines += [f"## {page_labels.heading(which)}", "", *(f"- {_text(text)}" for text in texts), ""]
    lines += [f"<!-- {MADE_BY} -->"]
    return ("\n".join(lines).rstrip() + "\n").encode("utf-8")


def _table(cells: Cells) -> list[str]:
    lines = [
        f"| {' | '.join(_text(text).replace('|', chr(92) + '|') for text in row)} |"
        for row in (cells.heads, *cells.first(_MOST_ROWS))
    ]
    return [lines[0], "|" + "---|" * len(cells.heads), *lines[1:]]


def _text(text: str) -> str:
    """Text as text: nothing in it is markup, on one line."""
    line = " ".join(clean(text).split())
    line = re.sub(r"([\\`*_\[\]<>#])", r"\\\1", line)
    # What would open a list or a rule at the start of a line.
    return re.sub(r"^(\d+)([.)])(?=\s)", r"\1\\\2", re.sub(r"^([-+=])", r"\\\1", line))
