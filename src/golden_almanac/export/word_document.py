"""The report as a text document: headings, native tables, pictures with alternative texts."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from ..charts.chart import MADE_BY
from ..charts.look import Look, worn
from ..reports import Report
from ..reports.page_model import shown_edition
from ..support.errors import OutputError
from ..text import page_labels
from .display_cells import chart_cells, frame_cells
from .office_parts import clean, steady

_MOST_ROWS, _MOST_TABLE_ROWS = 14, 60
_REMEDY = "Save it anew as .docx or .dotx."
#: Styles that a template must have.
_STYLES = ("Normal", "Heading 1", "Heading 2", "Heading 3", "List Bullet")


def render(report: Report) -> bytes:
    """The document's bytes, the same on every run."""
    from docx import Document
    from docx.shared import Cm, Pt

    look = worn()
    document = Document() if look.document is None else _on_template(look.document)
    document.core_properties.title, document.core_properties.author = clean(report.title, 200), clean(report.owner, 100)
    document.core_properties.keywords, document.core_properties.comments = MADE_BY, ""
    if look.document is None:
        _in_look(document, look)
    if look.logo is not None and look.document is None:
        document.add_picture(io.BytesIO(look.logo.read_bytes()), height=Cm(1.2))
    page = document.sections[0]
    wide = min(Cm(16.4), page.page_width - page.left_margin - page.right_margin)
    document.add_paragraph(clean(shown_edition(report)))
    document.add_heading(clean(report.summary.headline), 1)
    for text in report.summary.bullets:
        document.add_paragraph(clean(text), style="List Bullet")
    if report.keys:
        _table(
            document,
            [page_labels.column(name) for name in ("figure", "value", "change")],
            [[key.name, key.value, key.change] for key in report.keys],
            (True, False, False),
        )
    for section in report.sections:
        if section.new_page:
            document.add_page_break()
        if section.part:
            document.add_paragraph(clean(section.part)).runs[0].bold = True
        document.add_heading(clean(section.claim), section.level)
        if section.detail:
            document.add_paragraph(clean(section.detail)).paragraph_format.keep_with_next = True
        if section.chart is not None:
            document.add_picture(io.BytesIO(section.chart.png(title=False)), width=round(wide * section.size))
            document.inline_shapes[-1]._inline.docPr.set("descr", clean(section.chart.alternative, 1000))
            cells = chart_cells(section.chart)
            _table(document, cells.heads, cells.first(_MOST_ROWS), cells.words)
        if section.table is not None:
            cells = frame_cells(section.table)
            _table(document, cells.heads, cells.first(_MOST_TABLE_ROWS), cells.words)
        for word, text in section.evidence:
            paragraph = document.add_paragraph()
            paragraph.paragraph_format.space_after = Pt(1)
            paragraph.add_run(clean(f"{word}: ")).bold = True
            paragraph.add_run(clean(text))
    for which, texts in (
        ("steps", report.steps),
        ("further", report.further),
        ("caveats", report.caveats),
        ("made", report.made),
    ):
        if texts:
            document.add_heading(page_labels.heading(which), 2)
            for text in texts:
                document.add_paragraph(clean(text), style="List Bullet")
    checked = [section for section in report.sections if section.sql]
    if checked:
        document.add_heading(page_labels.heading("check"), 2)
    for section in checked:
        document.add_paragraph(clean(section.claim)).runs[0].bold = True
        document.add_paragraph(clean(page_labels.to_check(section.expect)))
        document.add_paragraph(clean(section.sql))
    buffer = io.BytesIO()
    document.save(buffer)
    return steady(buffer.getvalue())


def _in_look(document: Any, look: Look) -> None:
    """Page and styles, where no template brings its own."""
    from docx.shared import Cm, Pt, RGBColor

    page = document.sections[0]
    page.page_width, page.page_height = Cm(21), Cm(29.7)
    page.left_margin = page.right_margin = Cm(2.2)
    for name, font, size in (
        ("Normal", look.sans, 10.5),
        ("Heading 1", look.serif, 20),
        ("Heading 2", look.serif, 14),
        ("Heading 3", look.serif, 13),
    ):
        style = document.styles[name]
        style.font.name, style.font.size = font, Pt(size)
        style.font.color.rgb = RGBColor.from_string(look.colour("ink")[1:])
        fonts = style.element.get_or_add_rPr().get_or_add_rFonts()
        for kind in ("ascii", "hAnsi", "cs", "eastAsia"):
            fonts.set(f"{{http://schemas.openxmlformats.org/wordprocessingml/2006/main}}{kind}", font)
        for kind in ("asciiTheme", "hAnsiTheme", "cstheme", "eastAsiaTheme"):
            fonts.attrib.pop(f"{{http://schemas.openxmlformats.org/wordprocessingml/2006/main}}{kind}", None)


def _on_template(path: Path) -> Any:
    """A document with the pages, styles, headers and footers of the organisation's template, and none of its text.
    Raises OutputError for one that cannot be opened or that lacks a style."""
    from docx import Document

    from .office_parts import as_document

    try:
        document = Document(io.BytesIO(as_document(path.read_bytes())))
    except Exception as problem:
        # Of a package that is no document the library stumbles over whatever it misses first.
        raise OutputError(str(path), "it cannot be opened as a document", _REMEDY) from problem
    known = {style.name for style in document.styles}
    missing = [name for name in _STYLES if name not in known]
    if missing:
        raise OutputError(str(path), f"the template lacks the style {missing[0]}", "Add the style to it.")
    body = document.element.body
    for part in list(body):
        if not part.tag.endswith("}sectPr"):
            body.remove(part)
    return document


def _table(made: Any, heads: Sequence[str], rows: list[list[str]], words: Sequence[bool]) -> None:
    from docx.enum.text import WD_ALIGN_PARAGRAPH
    from docx.shared import Pt

    table = made.add_table(rows=1, cols=len(heads))
    _ruled(table)
    for row in [heads, *rows]:
        cells = table.rows[0].cells if row is heads else table.add_row().cells
        for place, (cell, text) in enumerate(zip(cells, row, strict=True)):
            cell.text = clean(text, 200)
            for paragraph in cell.paragraphs:
                paragraph.paragraph_format.space_after = Pt(0)
                if not words[place]:
                    paragraph.alignment = WD_ALIGN_PARAGRAPH.RIGHT
                for run in paragraph.runs:
                    run.font.size, run.font.bold = Pt(9), row is heads
    made.add_paragraph()


def _ruled(table: Any) -> None:
    """Rules above and below and under the head, none between columns."""
    from docx.oxml import OxmlElement
    from docx.oxml.ns import qn

    borders = OxmlElement("w:tblBorders")
    for side in ("top", "bottom", "insideH"):
        line = OxmlElement(f"w:{side}")
        colour = worn().colour("rule") if side == "insideH" else worn().colour("ink")
        for name, value in (("val", "single"), ("sz", "4"), ("space", "0"), ("color", colour[1:])):
            line.set(qn(f"w:{name}"), value)
        borders.append(line)
    table._tbl.tblPr.append(borders)
