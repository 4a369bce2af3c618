"""What every chart is: a figure with the data it was drawn from, and words for those who cannot see it."""

from __future__ import annotations

import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from ..aggregation import Survey
from ..aggregation.measures import Measure
from ..findings import Slice
from ..support.printable import made_visible, visible
from ..tables import Table
from ..text import names, numbers
from ..text.languages import mark, say
from . import theme
from .caller_axes import Panel
from .figure_sources import Source
from .look import worn
from .marks import Mark
from .rendering import remembered

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.figure import Figure


#: What every file that we make says of itself, so that it may be made anew without asking.
MADE_BY = "Golden Almanac"
#: How hard a PNG is pressed (zlib, 0 to 9): the usual 6 takes a tenth longer and saves less than a hundredth.
_PRESSED = 4
#: The mark on the lines of the title, and their height in inches.
TITLE, LINE = "title", 0.27


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Chart:
    """A finished chart. `alternative` is the text for screen readers; `data` what was drawn; `kind` is bars or
    line where an office program can draw the same from the data, else ""; `figures` those of the finding that it shows,
    beside what was drawn. Of a column whose parts add up `shown` has the figures as the marks say them, and `total` the
    whole, so that tables beside the chart say the same. `marks` are what was drawn, and what each stands for; `scope`
    is the subtitle without what is said of marks that only the picture has, where there is such; `sources` say from
    which cells of `data` figures of the finding come, by their path; `number_format` is how an office program writes
    its figures as the page does."""

    name: str
    figure: Figure
    data: pd.DataFrame
    title: str
    subtitle: str
    alternative: str
    kind: str = ""
    figures: tuple[float, ...] = ()
    shown: Mapping[str, Sequence[str]] = field(default_factory=dict)
    total: Mapping[str, str] = field(default_factory=dict)
    marks: tuple[Mark, ...] = field(default=(), repr=False)
    scope: str = ""
    sources: Mapping[str, Source] = field(default_factory=dict)
    number_format: str = ""

    def __post_init__(self) -> None:
        if isinstance(self.figure, Panel):
            # Drawn into axes of the caller's: the figure is theirs.
            object.__setattr__(self, "figure", self.figure.axes.get_figure(root=True))

    def png(self, *, title: bool = True, dark: bool = False) -> bytes:
        """The chart as PNG, the same bytes on every run.

        Without `title` for places where the claim stands above it; `dark` for dark paper.
        """

        def made() -> bytes:
            buffer = io.BytesIO()
            wishes = {"metadata": {"Software": MADE_BY}, "pil_kwargs": {"compress_level": _PRESSED}}
            self._save(buffer, title=title, dark=dark, shaped=True, format="png", dpi=theme.DPI, **wishes)
            return buffer.getvalue()

        picture: bytes = remembered(self, ("png", (("title", title), ("dark", dark))), made)
        return picture

    def svg(self, *, text: bool = False, title: bool = True, dark: bool = False) -> str:
        """The chart as SVG, the same bytes on every run.

        `text` keeps letters as text, which needs the house fonts where it is shown; without `title` the
        title is cut off, for places where the claim already stands above the chart; `dark` for dark paper.
        """
        from matplotlib import rc_context

        def made() -> str:
            buffer = io.StringIO()
            with rc_context({"svg.hashsalt": self.name, "svg.fonttype": "none" if text else "path"}):
                self._save(
                    buffer,
                    title=title,
                    dark=dark,
                    # What shows letters as text puts them in order by itself.
                    shaped=not text,
                    format="svg",
                    metadata={"Date": None, "Creator": MADE_BY},
                )
            # Comments hold the letters that outlines stand for, and no XML may hold control characters.
            return visible(buffer.getvalue())

        drawn: str = remembered(self, ("svg", (("text", text), ("title", title), ("dark", dark))), made)
        return drawn

    def _save(self, buffer: Any, *, title: bool, dark: bool, shaped: bool, **wishes: Any) -> None:
        from matplotlib.transforms import Bbox

        from .saved_figure import saved, unwarned

        width, height = self.figure.get_size_inches()
        lines = [text for text in self.figure.texts if text.get_gid() == TITLE]
        cut = 0.0 if title else 0.08 + LINE * len(lines)
        for line in lines:
            line.set_visible(title)
        paper = (worn().dark if dark else worn().colours)["paper"]
        box = Bbox([[0, 0], [width, height - cut]]) if cut or wishes["format"] == "svg" else None
        with unwarned(), saved(self.figure, dark=dark, shaped=shaped):
            self.figure.savefig(buffer, facecolor=paper, bbox_inches=box, **wishes)
        for one in lines:
            one.set_visible(True)

    def to_frame(self) -> pd.DataFrame:
        return self.data.copy()

    def issues(self, beside: Iterable[Chart] = ()) -> list[str]:
        """What is wrong with how the chart looks, by itself and next to the charts `beside`; see `legibility`."""
        from .legibility import issues

        return issues(self, beside)

    def _repr_html_(self) -> str:
        from markupsafe import escape

        return f'<figure aria-label="{escape(visible(self.alternative))}">{self.svg()}</figure>'

    def _repr_png_(self) -> bytes:
        return self.png()

    @made_visible
    def __repr__(self) -> str:
        return f"Chart {self.name}: {self.title}"


def source_of(survey: Survey) -> str:
    """The source line: "Source: sailings.csv, 25,386 rows where …"."""
    table = survey.table if survey.source is None else survey.source[0]
    return source_line(table, table.rows)


def source_line(table: Table, rows: int) -> str:
    """The source line of so many rows of a table."""
    source = say("Source: {table}, {n} rows", table=table.name, n=numbers.whole(rows))
    return say("{text} where {condition}", text=source, condition=clip(table.where, 72)) if table.where else source


def measured(measure: Measure, where: Slice | None = None) -> str:
    """What an axis measures, with its unit: "Revenue (EUR)"."""
    name = names.measure_name(measure) if where is None else names.of(measure, where)
    return names.capital(name) + (f" ({measure.unit})" if measure.unit else "")


#: What charts are called by their kind, for those who cannot see them.
_KINDS = (
    mark("Line chart"),
    mark("Small line charts"),
    mark("Bar chart"),
    mark("Stacked bars"),
    mark("Grouped bars"),
    mark("Bridge chart"),
    mark("Slope chart"),
    mark("Dot chart"),
    mark("Dots with intervals"),
    mark("Box chart"),
    mark("Histogram"),
    mark("Scatter"),
    mark("Table of tiles"),
    mark("Table with spark lines"),
    mark("Tree of rules"),
    mark("No chart"),
)


def described(kind: str, text: str) -> str:
    """The text of a chart for those who cannot see it: what it is, then what it shows."""
    return f"{say(kind)}. {text}"


def not_from_nought() -> str:
    """The note on an axis that is cut."""
    return say("scale does not start at 0")


def more_left_out(more: int) -> str:
    """The note on how many are not drawn."""
    return say("{n} more not shown", n=more)


def other(count: int) -> str:
    """What labels that are put together are called: "other (22)"."""
    return f"{say('other')} ({count})"


def titled(figure: Figure, title: str, subtitle: str, source: str) -> tuple[float, float]:
    """Write title, subtitle and source line; returns the bottom and top (0–1) left for the axes."""
    height, wide = figure.get_figheight(), figure.get_figwidth() / theme.WIDTH
    lines = wrap(title, round(74 * wide))
    top = 1 - 0.16 / height
    for line in lines:
        figure.text(
            0.015,
            top,
            line,
            fontsize=theme.TITLE,
            color=theme.INK,
            va="top",
            ha="left",
            gid=TITLE,
            **theme.font(serif=True, bold=True),
        )
        top -= LINE / height
    top -= 0.03 / height
    subtitle = clip(subtitle, round(132 * wide))
    figure.text(0.015, top, subtitle, fontsize=theme.SUBTITLE, color=theme.QUIET, va="top", ha="left", **theme.font())
    figure.text(
        0.015,
        0.10 / height,
        clip(source, round(150 * wide)),
        fontsize=8.5,
        color=theme.QUIET,
        va="bottom",
        ha="left",
        **theme.font(),
    )
    return 0.36 / height, top - 0.34 / height


def wrap(text: str, width: int) -> list[str]:
    """Lines of at most `width` characters; words are kept whole unless longer than a line."""
    import textwrap

    if len(text) > 3 * width:
        text = clip(text, 3 * width - 8)
    # Wide letters fill a line sooner.
    wide = sum(map(_wide, text)) / max(1, len(text))
    return textwrap.wrap(text, max(10, int(width / max(1.0, wide))), break_on_hyphens=False)[:3] or [""]


def wrapped(text: str, width: int) -> str:
    """A label on one line of so many letters, or on two; what is longer than that is cut at the end."""
    line = visible(" ".join(text.split()))
    if clip(line, width) == line:
        return line
    first, *rest = wrap(clip(line, 2 * width + 1), width)
    return "\n".join([clip(first, width), *([clip(" ".join(rest), width)] if rest else [])])


@dataclass(frozen=True, slots=True)
class RowNames:
    """The names of rows as they are drawn; `lines` that the longest of them takes, and its letters on one of them."""

    shown: list[str]
    lines: int
    longest: int

    @property
    def more(self) -> float:
        """What a row is higher by, in inches, than with names of one line."""
        return 0.11 * (self.lines - 1)


def row_names(labels: Sequence[str], width: int = 28) -> RowNames:
    """Labels for rows, long ones wrapped."""
    shown = [wrapped(label, width) for label in labels]
    pieces = [text.split("\n") for text in shown]
    return RowNames(
        shown, max(map(len, pieces), default=1), max((len(one) for text in pieces for one in text), default=0)
    )


def clip(text: str, width: int) -> str:
    """A label no wider than `width` usual letters, on one line."""
    line = visible(" ".join(text.split()))
    if len(line) <= width and sum(map(_wide, line)) <= width:
        return line
    room, kept = width - 1.0, []
    for letter in line:
        room -= _wide(letter)
        if room < 0:
            break
        kept.append(letter)
    return "".join(kept).rstrip() + "…"


def _wide(letter: str) -> float:
    """The width of a letter beside a usual one."""
    if letter in "mwMW@%":
        return 1.75
    return 1.9 if ord(letter) > 0x2E80 else 1.0
