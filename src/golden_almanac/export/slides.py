"""The report as slides: one message a slide, native charts that can be edited, the evidence in the notes."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from ..charts.chart import MADE_BY
from ..charts.look import worn
from ..reports import Report, Section
from ..reports.page_model import shown_edition
from ..text import page_labels
from . import text_fitting
from .display_cells import frame_cells
from .office_parts import Native, clean, native, steady, subtitle
from .slide_templates import fitted, opened

_MOST_TABLE_ROWS = 13
#: The colours of the series of a native chart: roles, then categories by their place.
_SERIES: tuple[str | int, ...] = ("accent", "context", "ink", 1, 2, 3)


def render(report: Report) -> bytes:
    """The presentation's bytes, 16:9, the same on every run."""
    from pptx import Presentation
    from pptx.util import Inches

    template = worn().slides
    if template is None:
        deck = Presentation()
        deck.slide_width, deck.slide_height = Inches(13.333), Inches(7.5)
        blank = deck.slide_layouts[5]
    else:
        deck, blank = opened(template)
    deck.core_properties.title = clean(report.title, 200)
    deck.core_properties.author, deck.core_properties.keywords = clean(report.owner, 100), MADE_BY
    _opening(deck.slides.add_slide(blank), report)
    for section in report.sections:
        _section(deck.slides.add_slide(blank), section)
    if report.steps:
        slide = deck.slides.add_slide(blank)
        top = _title(slide, page_labels.heading("steps"))
        _bullets(slide, report.steps, top=top, height=_BOTTOM - top, sizes=_POINTS)
    for texts in _closing([*report.caveats, *report.made]):
        slide = deck.slides.add_slide(blank)
        top = _title(slide, page_labels.heading("closing"))
        _bullets(slide, texts, top=top, height=_BOTTOM - top, sizes=_CLOSING)
    if template is not None:
        fitted(deck)
    buffer = io.BytesIO()
    deck.save(buffer)
    return steady(buffer.getvalue())


#: Inches: the left edge of everything, its width, and where a slide's own part ends.
_LEFT, _WIDTH, _BOTTOM = 0.6, 12.1, 7.05
#: Points: titles, the opening headline, texts below a title, points of the opening and of the closing slide.
_TITLES, _HEADLINES, _DETAILS = (24.0, 22.0, 20.0, 18.0, 16.0), (30.0, 26.0, 22.0, 20.0, 18.0), (14.0, 13.0, 12.0, 11.0)
_POINTS, _CLOSING = (17.0, 16.0, 15.0, 14.0, 13.0, 12.0, 11.0), (14.0, 13.0, 12.0)
_MOST_TITLE = 260


def _opening(slide: Any, report: Report) -> None:
    from pptx.util import Inches

    edition = clean(shown_edition(report), 400)
    size = next((size for size in (12.0, 11.0, 10.0, 9.0) if text_fitting.lines(edition, size, _WIDTH) == 1), 8.0)
    look = worn()
    if look.logo is not None and look.slides is None:
        # A template has the logo where its owners want it.
        logo = slide.shapes.add_picture(io.BytesIO(look.logo.read_bytes()), 0, Inches(0.1), height=Inches(0.42))
        logo.left = Inches(_LEFT + _WIDTH) - logo.width
        logo._element._nvXxPr.cNvPr.set("descr", "")
    top = _title(slide, report.summary.headline, sizes=_HEADLINES, room=1.7)
    top = _over(slide, text_fitting.one_line(edition, size, _WIDTH), top, size)
    bottom = _keys(slide, report) if report.keys else _BOTTOM
    _bullets(slide, report.summary.bullets, top=top, height=bottom - top - 0.1, sizes=_POINTS)


def _keys(slide: Any, report: Report) -> float:
    """The key figures in a row at the foot of the slide; returns where they begin."""
    wide = _WIDTH / len(report.keys) - 0.2
    # Name, value and change of each, with the sizes that they may have and the most that each may take.
    rows = (("name", (11.0, 10.0, 9.0), 0.6, False), ("value", (26.0, 22.0, 18.0, 14.0, 11.0), 0.6, True),
            ("change", (11.0, 10.0, 9.0), 0.6, False))  # fmt: skip
    bottom = 7.4
    for name, sizes, room, bold in reversed(rows):
        texts = [clean(getattr(key, name), 120) for key in report.keys]
        size = min(text_fitting.largest(text, sizes, wide, room, bold=bold) for text in texts)
        height = max(text_fitting.height(text, size, wide, bold=bold) for text in texts)
        bottom -= height
        for place, text in enumerate(texts):
            left = _LEFT + place * (wide + 0.2)
            role = "ink" if bold else "quiet"
            _note(slide, text, top=bottom, left=left, width=wide, height=height, size=size, role=role, bold=bold)
    return bottom


def _closing(texts: list[str]) -> list[list[str]]:
    """The closing points, as many on a slide as fit there."""
    slides: list[list[str]] = []
    for text in texts:
        last = slides[-1] if slides else []
        if last and _fits([*last, text], _BOTTOM - 1.2, _CLOSING[-1]):
            last.append(text)
        else:
            slides.append([text])
    return slides[:4]


def _section(slide: Any, section: Section) -> None:
    from pptx.util import Inches

    top = _title(slide, section.claim)
    if section.part:
        part = text_fitting.one_line(clean(section.part, 300), 12, _WIDTH, bold=True)
        top = _over(slide, part, top, 12, role="accent", bold=True)
    if section.detail:
        text = clean(section.detail, 600)
        size = text_fitting.largest(text, _DETAILS, _WIDTH, 1.3)
        height = text_fitting.height(text, size, _WIDTH)
        _note(slide, text, top=top, size=size, width=_WIDTH, height=height)
        top += height
    chart = section.chart
    top += 0.1
    if chart is not None:
        data = native(chart)
        height = _BOTTOM - top
        if data is not None:
            _native(slide, data, chart.alternative, top, height)
            line = text_fitting.one_line(subtitle(chart), 11, _WIDTH)
            _note(slide, line, top=_BOTTOM + 0.03, size=11, height=0.3)
        else:
            picture = io.BytesIO(chart.png(title=False))
            ratio = chart.figure.get_figwidth() / chart.figure.get_figheight()
            wide = min(_WIDTH, height * ratio) * section.size
            shape = slide.shapes.add_picture(picture, Inches(_LEFT), Inches(top), width=Inches(wide))
            shape._element._nvXxPr.cNvPr.set("descr", clean(chart.alternative, 1000))
    if section.table is not None:
        _table(slide, section, top)
    lines = [f"{word}: {text}" for word, text in section.evidence]
    if section.sql:
        lines += [
            f"{page_labels.heading('check')}:",
            section.sql,
            ", ".join(f"{name} = {value}" for name, value in section.expect),
        ]
    slide.notes_slide.notes_text_frame.text = clean("\n".join(lines))


def _table(slide: Any, section: Section, top: float) -> None:
    """A section's own table, as a native one."""
    from pptx.util import Inches

    assert section.table is not None
    cells = frame_cells(section.table)
    most = max(1, min(_MOST_TABLE_ROWS, int((_BOTTOM - top) / 0.36) - 2))
    head, rows, words = cells.heads, cells.first(most), cells.words
    shape = slide.shapes.add_table(
        len(rows) + 1, len(head), Inches(_LEFT), Inches(top), Inches(_WIDTH), Inches(0.36 * (len(rows) + 1))
    )
    shape._element.graphic.graphicData.tbl.tblPr.attrib.clear()
    for down, row in enumerate((head, *rows)):
        for across, text in enumerate(row):
            cell = shape.table.cell(down, across)
            cell.text = clean(text, 200)
            cell.fill.background()
            for paragraph in cell.text_frame.paragraphs:
                paragraph.alignment = 1 if words[across] else 3
                for run in paragraph.runs:
                    _lettered(run, 12, bold=down == 0)


def _native(slide: Any, data: Native, alternative: str, top: float, height: float) -> None:
    from pptx.enum.chart import XL_CHART_TYPE, XL_LEGEND_POSITION, XL_TICK_LABEL_POSITION
    from pptx.enum.dml import MSO_LINE
    from pptx.util import Inches, Pt

    bars = data.kind == "bars"
    made = _chart_data()
    order = slice(None, None, -1) if bars else slice(None)
    made.categories = list(data.categories[order])
    for name, values in data.series:
        made.add_series(page_labels.column(name), list(values[order]))
    kind = XL_CHART_TYPE.BAR_CLUSTERED if bars else XL_CHART_TYPE.LINE
    frame = slide.shapes.add_chart(kind, Inches(0.6), Inches(top), Inches(12.1), Inches(height), made)
    frame._element._nvXxPr.cNvPr.set("descr", clean(alternative, 1000))
    chart = frame.chart
    chart.font.size = Pt(13)
    if worn().slides is None:
        chart.font.name = worn().sans
    chart.has_title = False
    chart.has_legend = len(data.series) > 1
    if chart.has_legend:
        chart.legend.position, chart.legend.include_in_layout = XL_LEGEND_POSITION.TOP, False
    chart.value_axis.has_major_gridlines = not bars
    chart.category_axis.tick_label_position = XL_TICK_LABEL_POSITION.LOW
    plain = ("#,##0.0" if _small(data) else "#,##0") if bars else "#,##0"
    chart.value_axis.tick_labels.number_format = data.number_format or plain
    chart.value_axis.tick_labels.number_format_is_linked = False
    if bars:
        chart.value_axis.visible = False
        chart.value_axis.minimum_scale = None if min(v or 0 for _, vs in data.series for v in vs) < 0 else 0
        chart.plots[0].gap_width = 45
        chart.plots[0].has_data_labels = True
        chart.plots[0].data_labels.number_format = data.number_format or plain
        chart.plots[0].data_labels.number_format_is_linked = False
    else:
        shares = data.number_format.endswith("%")
        if shares and 0.5 < max(value or 0.0 for _, values in data.series for value in values) <= 1:
            # A rate ends at all of it.
            chart.value_axis.maximum_scale = 1
        _painted(chart.value_axis.major_gridlines.format.line.color, "rule")
        chart.value_axis.format.line.fill.background()
    for series, role in zip(chart.plots[0].series, _SERIES, strict=False):
        if bars:
            series.format.fill.solid()
            _painted(series.format.fill.fore_color, "context" if any(data.marked) else role)
            for place, marked in enumerate(data.marked[order]):
                if marked:
                    point = series.points[place].format.fill
                    point.solid()
                    _painted(point.fore_color, "accent")
            continue
        series.smooth = False
        if series.name == page_labels.column("fitted"):
            series.format.line.dash_style = MSO_LINE.DASH
        _painted(series.format.line.color, role)
        series.format.line.width = Pt(2.5 if role == "accent" else 1.5)


def _lettered(run: Any, size: float, *, bold: bool = False, serif: bool = False, role: str = "ink") -> None:
    """Letters in the look that is worn; on a template, in its fonts and colours, which runs inherit."""
    from pptx.util import Pt

    look = worn()
    run.font.size, run.font.bold = Pt(size), bold
    if look.slides is None:
        run.font.name = look.serif if serif else look.sans
        _painted(run.font.color, role)


def _painted(colour: Any, role: str | int) -> None:
    """A colour by its role, or by its place among the categories; on a template, the nearest of its theme."""
    from pptx.dml.color import RGBColor
    from pptx.enum.dml import MSO_THEME_COLOR

    look = worn()
    if look.slides is None:
        wanted = look.colour(role) if isinstance(role, str) else look.categories[role]
        colour.rgb = RGBColor.from_string(wanted[1:])
        return
    accents = (MSO_THEME_COLOR.ACCENT_1, MSO_THEME_COLOR.ACCENT_2, MSO_THEME_COLOR.ACCENT_3, MSO_THEME_COLOR.ACCENT_4)
    if isinstance(role, int):
        colour.theme_color = accents[role % len(accents)]
    else:
        colour.theme_color = MSO_THEME_COLOR.ACCENT_1 if role == "accent" else MSO_THEME_COLOR.TEXT_1
        # What stands beside is the colour of letters, made paler.
        colour.brightness = {"context": 0.5, "rule": 0.8}.get(role, 0.0)


def _chart_data() -> Any:
    """Data of a native chart, whose workbook holds labels as text: nothing in one becomes a formula or a link."""
    from contextlib import contextmanager

    from pptx.chart.data import CategoryChartData
    from pptx.chart.xlsx import CategoryWorkbookWriter
    from xlsxwriter import Workbook

    class PlainWriter(CategoryWorkbookWriter):  # type: ignore[misc]
        @contextmanager
        def _open_worksheet(self, xlsx_file: Any) -> Any:
            plain = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False}
            with Workbook(xlsx_file, plain) as book:
                yield book, book.add_worksheet()

    class PlainData(CategoryChartData):  # type: ignore[misc]
        @property
        def _workbook_writer(self) -> Any:
            return PlainWriter(self)

    return PlainData()


def _small(data: Native) -> bool:
    return max(abs(value or 0.0) for _, values in data.series for value in values) < 100


def _title(slide: Any, text: str, sizes: tuple[float, ...] = _TITLES, room: float = 1.25) -> float:
    """The title, as large as it fits into so many inches; returns where it ends."""
    from pptx.enum.text import MSO_ANCHOR
    from pptx.util import Inches

    shape = slide.shapes.title
    kept = clean(text, _MOST_TITLE)
    if worn().slides is None:
        slide.background.fill.solid()
        _painted(slide.background.fill.fore_color, "paper")
        top, wide = 0.5, _WIDTH
        size = text_fitting.largest(kept, sizes, wide, room, serif=True, bold=True)
        height = text_fitting.height(kept, size, wide, serif=True, bold=True)
        shape.left, shape.top, shape.width, shape.height = Inches(_LEFT), Inches(top), Inches(wide), Inches(height)
    else:
        # The title of a template stays where it is, in letters that fit there.
        top, wide, height = (length / Inches(1) for length in (shape.top, shape.width, shape.height))
        size = text_fitting.largest(kept, sizes, wide, height, serif=True, bold=True)
    frame = shape.text_frame
    frame.word_wrap, frame.vertical_anchor = True, MSO_ANCHOR.TOP
    frame.text = kept
    for paragraph in frame.paragraphs:
        paragraph.alignment = 1
        for run in paragraph.runs:
            _lettered(run, size, bold=True, serif=True)
    return top + height + 0.06


def _over(slide: Any, text: str, top: float, size: float, **letters: Any) -> float:
    """A line over the title, or under it on a template, whose title may begin at the edge; returns where the slide goes
    on."""
    if worn().slides is None:
        _note(slide, text, top=0.2, size=size, height=0.3, **letters)
        return top
    _note(slide, text, top=top, size=size, height=0.3, **letters)
    return top + 0.32


def _note(
    slide: Any,
    text: str,
    *,
    top: float,
    size: float,
    left: float = 0.6,
    width: float = 12.1,
    height: float = 0.4,
    role: str = "quiet",
    bold: bool = False,
) -> None:
    from pptx.util import Inches

    box = slide.shapes.add_textbox(Inches(left), Inches(top), Inches(width), Inches(height))
    box.text_frame.word_wrap = True
    box.text_frame.text = clean(text, 600)
    for run in (run for paragraph in box.text_frame.paragraphs for run in paragraph.runs):
        _lettered(run, size, bold=bold, role=role)


def _fits(texts: Sequence[str], room: float, size: float) -> bool:
    """Whether points of so many points (letters) fit into so many inches."""
    return sum(text_fitting.height(_point(text), size, _WIDTH) for text in texts) <= room


def _point(text: str) -> str:
    return f"— {clean(text, 400)}"


def _bullets(slide: Any, texts: Sequence[str], *, top: float, height: float, sizes: tuple[float, ...]) -> None:
    """Points, as large as all of them fit; where they do not even in the smallest letters, the first that do."""
    from pptx.util import Inches, Pt

    size = next((size for size in sizes if _fits(texts, height, size)), sizes[-1])
    kept = list(texts)
    while len(kept) > 1 and not _fits(kept, height, size):
        kept.pop()
    box = slide.shapes.add_textbox(Inches(_LEFT), Inches(top), Inches(_WIDTH), Inches(height))
    box.text_frame.word_wrap = True
    for place, text in enumerate(kept):
        paragraph = box.text_frame.paragraphs[0] if place == 0 else box.text_frame.add_paragraph()
        paragraph.text = _point(text)
        paragraph.space_after = Pt(5)
        for run in paragraph.runs:
            _lettered(run, size)
