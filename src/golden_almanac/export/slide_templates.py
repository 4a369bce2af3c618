"""Slides on the organisation's own template: its masters, layouts, fonts and colours, without its slides."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

from ..support.errors import OutputError
from .office_parts import as_document

#: Inches that slides are laid out on.
_WIDE, _HIGH = 13.333, 7.5


def opened(path: Path) -> tuple[Any, Any]:
    """The template without its slides, and the layout that a slide of ours takes: a title, and as little else as there
    is. Raises OutputError for a file that is no presentation, or has no layout with a title."""
    from pptx import Presentation

    try:
        deck = Presentation(io.BytesIO(as_document(path.read_bytes())))
    except Exception as problem:
        # Of a package that is no document the library stumbles over whatever it misses first.
        raise OutputError(str(path), "it cannot be opened as slides", "Save it anew as .pptx or .potx.") from problem
    slides = deck.slides._sldIdLst
    for slide in list(slides):
        deck.part.drop_rel(slide.rId)
        slides.remove(slide)
    layouts = [layout for layout in deck.slide_layouts if _title_of(layout) is not None]
    if not layouts:
        raise OutputError(str(path), "no layout of the template has a title", "Add a title to one of its layouts.")
    return deck, min(layouts, key=lambda layout: (len(_boxes(layout)), layout.name))


def fitted(deck: Any) -> None:
    """What was laid out for a wide slide, on a slide of the template's size; its own title stays as it is."""
    from pptx.util import Inches, Pt

    across, down = deck.slide_width / Inches(_WIDE), deck.slide_height / Inches(_HIGH)
    for slide in deck.slides:
        for shape in list(slide.placeholders):
            # Boxes of the layout that nothing is written into would ask to be filled.
            if shape.has_text_frame and not shape.text_frame.text:
                shape._element.getparent().remove(shape._element)
        for shape in slide.shapes:
            if shape.is_placeholder:
                continue
            shape.left, shape.width = round(shape.left * across), round(shape.width * across)
            shape.top, shape.height = round(shape.top * down), round(shape.height * down)
            if shape.has_text_frame:
                for paragraph in shape.text_frame.paragraphs:
                    for run in paragraph.runs:
                        run.font.size = Pt(max(8, round(run.font.size.pt * min(across, down))))
            if shape.has_table:
                for column in shape.table.columns:
                    column.width = round(column.width * across)


def _title_of(layout: Any) -> Any:
    from pptx.enum.shapes import PP_PLACEHOLDER

    kinds = (PP_PLACEHOLDER.TITLE, PP_PLACEHOLDER.CENTER_TITLE)
    return next((box for box in layout.placeholders if box.placeholder_format.type in kinds), None)


def _boxes(layout: Any) -> list[Any]:
    """The boxes to be filled, but for date, foot and number."""
    from pptx.enum.shapes import PP_PLACEHOLDER

    quiet = (PP_PLACEHOLDER.DATE, PP_PLACEHOLDER.FOOTER, PP_PLACEHOLDER.SLIDE_NUMBER)
    return [box for box in layout.placeholders if box.placeholder_format.type not in quiet]
