"""The report as one HTML file: no request leaves it, and the one script that runs in it is ours, named by its hash.

Without the script everything can still be read: values stand in the tables behind the charts.
"""

from __future__ import annotations

import base64
import hashlib
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import TYPE_CHECKING, Any

from ..charts import theme
from ..charts.look import Look, worn
from ..charts.palette import CATEGORIES
from ..charts.rendering import remembered
from ..reports import KeyFigure, Report, Section
from ..reports.page_model import shown_edition
from ..support.printable import visible
from ..text import names, numbers, page_labels
from ..text.languages import Quantity, figure_of, pieces_of, say
from .display_cells import chart_cells, frame_cells
from .page_fonts import page_fonts
from .pointer_marks import overlay

if TYPE_CHECKING:
    from jinja2 import Template

#: Chart colours that turn with the page from light to dark.
_ROLES = {
    **{colour: f"--category{place}" for place, colour in enumerate(CATEGORIES[1:], start=2)},
    theme.PAPER: "--paper",
    theme.INK: "--ink",
    theme.RULE: "--rule",
    theme.ACCENT: "--accent",
    theme.CONTEXT: "--context",
    theme.QUIET: "--quiet",
}


#: The label of a slice along each switch; None for all.
Labels = tuple[str | None, ...]
#: Bytes that a page with a switch may take: what a mail server lets through without a word.
BUDGET = 3_000_000


@dataclass(frozen=True, slots=True)
class _Switch:
    """A column that the reader picks a label of, as the page names both."""

    name: str
    labels: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _View:
    """A slice with its place among the labels of each switch ("2-1"; nothing for all), and the prefix of its ids."""

    choice: str
    report: Report
    key: str


def render(report: Report, views: Sequence[tuple[Labels, Report]] = (), by: Sequence[str] = ()) -> bytes:
    """The page as UTF-8 bytes, the same on every run.

    `views` are slices, each with its label along every column of `by` (None for all): the reader picks one, or two
    beside each other, and the whole page becomes that slice's. Those that would take the page over its budget are left
    out, the last first, and it is said.
    """
    page: bytes = remembered(report, ("page", (("views", bool(views)),)), lambda: _within_budget(report, views, by))
    return page


def _within_budget(report: Report, views: Sequence[tuple[Labels, Report]], by: Sequence[str]) -> bytes:
    kept = list(views)
    while True:
        content = _rendered(report, kept, by, len(views) - len(kept))
        if len(content) <= BUDGET or not kept:
            return content
        kept.pop()


def _rendered(report: Report, views: Sequence[tuple[Labels, Report]], by: Sequence[str], left: int) -> bytes:
    look = worn()
    switches = [
        _Switch(names.capital(names.dimension(column)), tuple(_labels(views, place))) for place, column in enumerate(by)
    ]
    told = [
        _View("-".join(_places(labels, switches)), one, f"s{place}-")
        for place, (labels, one) in enumerate(views, start=1)
    ]
    whole = _View("-" * max(0, len(by) - 1), report, "")
    charts, tables = {}, {}
    for view in (whole, *told):
        for place, section in enumerate(view.report.sections):
            if section.chart is not None:
                key = view.key
                drawn = section.chart.svg(text=True, title=False)
                marks = overlay(section.chart)
                charts[key + section.id] = _inline(drawn, section.chart.alternative, f"{key}c{place}-", marks)
                tables[key + section.id] = chart_cells(section.chart)
    script = files("golden_almanac.export").joinpath("page.js").read_text(encoding="utf-8")
    named = base64.b64encode(hashlib.sha256(script.encode("utf-8")).digest()).decode("ascii")
    page = _template().render(
        report=report,
        charts=charts,
        tables=tables,
        spark=_spark,
        fonts="",
        script=script,
        script_hash=named,
        views=told,
        by=switches,
        whole=whole.choice,
        # What people wrote or corrected in a claim holds in the table of all too.
        claims_of=lambda one: {section.id: section.claim for section in one.sections},
        score=lambda value: numbers.plain(value, 2),
        take=page_labels.heading("take"),
        left=say("{n} smaller ones are left out", n=left) if left else "",
        told=_with_figures,
        word=page_labels.heading,
        edition=shown_edition,
        frame=frame_cells,
        to_check=page_labels.to_check,
        lang=report.voice.language,
        light=_roles(look.colours, look.categories),
        dark=_roles(look.dark, look.dark_categories),
        sans=look.sans,
        serif=look.serif,
        logo=_logo(look),
    )
    # Drawings bring what is not put in as text: the words for those who cannot see them, the parts under a pointer.
    page = visible(page)
    # Nothing in the data can be this mark: its brackets would be escaped.
    return page.replace("<!--fonts-->", page_fonts(frozenset(page), look), 1).encode("utf-8")


def _labels(views: Sequence[tuple[Labels, Report]], place: int) -> list[str]:
    """The labels of one switch, in the order in which they come first."""
    return list(dict.fromkeys(label for labels, _ in views if (label := labels[place]) is not None))


def _places(labels: Labels, switches: Sequence[_Switch]) -> list[str]:
    """Where the labels of a view stand among those of each switch, from 1; "" for all."""
    return [
        "" if label is None else str(switch.labels.index(label) + 1)
        for label, switch in zip(labels, switches, strict=True)
    ]


@lru_cache(maxsize=1)
def _template() -> Template:
    from jinja2 import Environment

    source = files("golden_almanac.export").joinpath("page.html.jinja").read_text(encoding="utf-8")
    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True, finalize=_seen)
    return environment.from_string(source)


def _seen(value: Any) -> Any:
    """Whatever is put into the page as text, also what a brief says, with control characters spelled out."""
    return visible(value) if isinstance(value, str) and not hasattr(value, "__html__") else value


def _with_figures(text: str, section: Section) -> Any:
    """A sentence whose numbers bear the figure that they are: its value, and its path in the result's JSON."""
    from markupsafe import Markup, escape

    written = []
    for piece in pieces_of(text):
        found = figure_of(piece, section.figures) if isinstance(piece, Quantity) else None
        if found is None:
            written.append(escape(visible(str(piece))))
            continue
        path, value = found
        figure = Markup('<data value="{}" data-figure="{}">{}</data>')
        written.append(figure.format(repr(value), f"{section.path}.{path}", str(piece)))
    return Markup("").join(written)


def _roles(colours: Mapping[str, str], categories: Sequence[str]) -> str:
    """The colours of the page as properties of its style."""
    roles = "".join(f"--{role}:{colours[role]}; " for role in ("paper", "ink", "rule", "accent", "context", "quiet"))
    return roles + " ".join(f"--category{place}:{colour};" for place, colour in enumerate(categories[1:], start=2))


def _logo(look: Look) -> str:
    """The logo as the address of a picture within the page; "" where there is none."""
    picture = look.logo_picture()
    return "" if picture is None else f"data:{picture[0]};base64,{base64.b64encode(picture[1]).decode('ascii')}"


def _inline(svg: str, alternative: str, prefix: str, marks: str) -> str:
    """The SVG element alone, as an image with a text, its colours bound to the page's."""
    from markupsafe import escape

    body = re.sub(r"<metadata>.*?</metadata>|<!--.*?-->", "", svg[svg.index("<svg") :], flags=re.DOTALL)
    # Several charts share the page: ids that are referred to get the chart's own prefix, others go.
    used = {name for tag in _TAG.findall(body) for name in re.findall(r'(?:url\(#|href="#)([^)"]+)', tag)}
    body = _TAG.sub(lambda tag: _tag(tag[0], prefix, used), body)
    body = re.sub(r'(<svg[^>]*?) width="[^"]*"', r"\1", body, count=1)
    body = re.sub(r'(<svg[^>]*?) height="[^"]*"', r"\1", body, count=1)
    body = body.replace("</svg>", f"{marks}</svg>")
    return body.replace("<svg", f'<svg role="img" aria-label="{escape(alternative)}"', 1)


#: A tag with its attributes; what stands between tags is text of the data, whatever it looks like.
_TAG = re.compile(r"<[^<>]*>")


def _tag(tag: str, prefix: str, used: set[str]) -> str:
    """A tag of a drawing with the page's colours and the chart's own ids."""
    turned = worn().turned(dark=False)
    for colour, role in _ROLES.items():
        tag = re.sub(re.escape(turned.get(colour, colour)), f"var({role})", tag, flags=re.IGNORECASE)
    tag = re.sub(r' id="([^"]*)"', lambda match: f' id="{prefix}{match[1]}"' if match[1] in used else "", tag)
    return re.sub(r'(url\(#|href="#)', rf"\g<1>{prefix}", tag)


def _spark(key: KeyFigure) -> str:
    """A spark line as an SVG path over 120 × 28."""
    values = key.spark
    if len(values) < 3:
        return ""
    low, high = min(values), max(values)
    spread = (high - low) or 1.0
    step = 116 / (len(values) - 1)
    return "M" + " L".join(f"{2 + i * step:.1f} {26 - 24 * (v - low) / spread:.1f}" for i, v in enumerate(values))
