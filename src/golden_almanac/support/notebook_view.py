"""What a notebook shows of a thing: a headline, sentences, a table, in the house look on light and on dark paper.

A view is bounded, whatever it is of: so many sentences, rows, columns and letters, and a line that says how much more
there is. Nothing of the data is markup.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from html import escape
from typing import TYPE_CHECKING, Any

from .house_colours import DARK_PAPER, LIGHT_PAPER
from .phrasing import phrased
from .printable import visible

if TYPE_CHECKING:
    import pandas as pd

#: Rows and columns of a table, sentences, and letters of a cell and of a sentence, at most.
ROWS, COLUMNS, SENTENCES = 20, 12, 24
_CELL, _SENTENCE = 160, 1200


@dataclass(frozen=True, slots=True)
class Grid:
    """A table of text: heads, rows, which columns are figures, and how many rows and columns there are in all."""

    heads: Sequence[str]
    rows: Sequence[Sequence[str]]
    figures: Sequence[bool]
    all_rows: int
    all_columns: int


def view(
    headline: str,
    sentences: Iterable[str] = (),
    grid: Grid | None = None,
    *,
    code: str = "",
    code_label: str = "",
    phrase: Callable[..., str] = phrased,
) -> str:
    """The view as HTML; `code` is folded away under `code_label`, such as the SQL that gives a figure again; `phrase`
    puts what the view itself says into a language."""
    told = list(sentences)
    body = [f"<p class='ga-head'>{_text(headline)}</p>"]
    body += [f"<p>{_text(sentence)}</p>" for sentence in told[:SENTENCES]]
    if len(told) > SENTENCES:
        body.append(f"<p class='ga-more'>{_text(phrase('{n} more not shown', n=len(told) - SENTENCES))}</p>")
    if grid is not None and grid.heads:
        body.append(_table(grid, phrase))
    if code:
        body.append(f"<details><summary>{_text(code_label)}</summary><pre>{_text(code, 4 * _SENTENCE)}</pre></details>")
    return f"<style>{_STYLE}</style><div class='golden-almanac'>{''.join(body)}</div>"


def grid_of(frame: pd.DataFrame) -> Grid:
    """A frame as a table of text: its first rows and columns, figures written out."""
    shown = frame.iloc[:ROWS, :COLUMNS]
    figures = [shown[name].dtype.kind in "iuf" for name in shown.columns]
    rows = [[_cell(value) for value in row] for row in shown.itertuples(index=False, name=None)]
    return Grid([str(name) for name in shown.columns], rows, figures, len(frame), len(frame.columns))


def _cell(value: Any) -> str:
    if value is None or value != value:
        return ""
    if isinstance(value, float):
        return f"{value:,.0f}" if abs(value) >= 10_000 else f"{value:,.4g}"
    if isinstance(value, int) and not isinstance(value, bool):
        return f"{value:,}"
    return str(value)


def _table(grid: Grid, phrase: Callable[..., str]) -> str:
    def line(cells: Sequence[str], tag: str) -> str:
        kinds = zip(cells[:COLUMNS], grid.figures, strict=False)
        drawn = (f"<{tag}{' class=ga-figure' if figure else ''}>{_text(text, _CELL)}</{tag}>" for text, figure in kinds)
        return f"<tr>{''.join(drawn)}</tr>"

    rows = "".join(line(row, "td") for row in grid.rows[:ROWS])
    told = f"<table><thead>{line(grid.heads, 'th')}</thead><tbody>{rows}</tbody></table>"
    more = []
    if grid.all_rows > ROWS:
        more.append(phrase("{n} of {all} rows", n=ROWS, all=f"{grid.all_rows:,}"))
    if grid.all_columns > COLUMNS:
        more.append(phrase("{n} of {all} columns", n=COLUMNS, all=f"{grid.all_columns:,}"))
    return told + (f"<p class='ga-more'>{_text(' · '.join(more))}</p>" if more else "")


def _text(text: str, most: int = _SENTENCE) -> str:
    return escape(visible(text if len(text) <= most else f"{text[: most - 1]}…"))


def _roles(colours: dict[str, str]) -> str:
    return ";".join(f"--ga-{role}:{colour}" for role, colour in colours.items())


#: Dark where the reader's system is dark, and where the notebook says that it is, whatever the system says.
_STYLE = (
    f".golden-almanac{{{_roles(LIGHT_PAPER)};background:var(--ga-paper);color:var(--ga-ink);max-width:60rem;"
    "padding:.6rem 1rem;overflow-x:auto;font:14px/1.45 'Source Sans 3','Source Sans Pro',system-ui,sans-serif}"
    f"@media (prefers-color-scheme:dark){{.golden-almanac{{{_roles(DARK_PAPER)}}}}}"
    f"[data-jp-theme-light='true'] .golden-almanac{{{_roles(LIGHT_PAPER)}}}"
    f"[data-jp-theme-light='false'] .golden-almanac,.vscode-dark .golden-almanac{{{_roles(DARK_PAPER)}}}"
    ".golden-almanac p{margin:.3rem 0;max-width:46rem}"
    ".golden-almanac .ga-head{font:600 17px/1.35 'Source Serif 4','Source Serif Pro',Georgia,serif}"
    ".golden-almanac .ga-more{color:var(--ga-quiet);font-size:12px}"
    ".golden-almanac table{border-collapse:collapse;margin:.6rem 0;border-top:1px solid var(--ga-ink);"
    "border-bottom:1px solid var(--ga-ink);background:none;color:inherit;font-variant-numeric:tabular-nums}"
    ".golden-almanac th{color:var(--ga-quiet);font-weight:600;text-align:left;border-bottom:1px solid var(--ga-rule)}"
    ".golden-almanac td,.golden-almanac th{padding:.15rem .7rem .15rem 0;text-align:left;vertical-align:top;"
    "background:none;max-width:28rem}"
    ".golden-almanac td.ga-figure,.golden-almanac th.ga-figure{text-align:right;white-space:nowrap}"
    ".golden-almanac tr{background:none}"
    ".golden-almanac summary{color:var(--ga-accent);cursor:pointer}"
    ".golden-almanac pre{white-space:pre-wrap;color:inherit;background:none}"
)
