"""Slides: nothing stands on anything else, however long a headline is, measured with the widths of the fonts."""

from __future__ import annotations

import io
from dataclasses import replace
from itertools import combinations
from pathlib import Path

import pytest
from pptx import Presentation

import golden_almanac as ga
from golden_almanac.charts import theme
from golden_almanac.export import slides, text_fitting
from golden_almanac.text import Summary

LANGUAGES = ["en", "de", "es", "fr"]
LONG = [
    "Revenue of the Outer Isles " + "fell considerably " * 20,
    "W" * 400,
    "M mm WW " * 60,
    "Die Verspätungsstundenabweichungsquote der Inselverbindungsfährgesellschaften " * 5,
    "新しい航路の収益 " * 60,
    "short",
    "",
]


def boxes(deck: bytes) -> list[list[tuple[str, float, float, float, float]]]:
    """The shapes of each slide: name, left, top, right, bottom in inches."""
    made = []
    for slide in Presentation(io.BytesIO(deck)).slides:
        own = []
        for shape in slide.shapes:
            left, top, width, height = (value / 914_400 for value in (shape.left, shape.top, shape.width, shape.height))
            if shape.has_text_frame and shape.text_frame.text.strip():
                height = max(height if shape.is_placeholder else 0.0, needed(shape))
            elif shape.has_text_frame:
                continue
            own.append((shape.name, left, top, left + width, top + height))
        made.append(own)
    return made


def needed(shape: object) -> float:
    """The height that the text of a shape takes."""
    total = 0.0
    for paragraph in shape.text_frame.paragraphs:  # type: ignore[attr-defined]
        run = paragraph.runs[0]
        serif = run.font.name == theme.SERIF
        width = shape.width / 914_400  # type: ignore[attr-defined]
        total += text_fitting.lines(paragraph.text, run.font.size.pt, width, serif=serif, bold=bool(run.font.bold)) * (
            run.font.size.pt * text_fitting.LEADING / 72
        )
    return total


def free(deck: bytes) -> None:
    for number, own in enumerate(boxes(deck), start=1):
        for one, other in combinations(own, 2):
            apart = one[3] <= other[1] or other[3] <= one[1] or one[4] <= other[2] + 0.02 or other[4] <= one[2] + 0.02
            assert apart, (number, one, other)
        for name, _, _, right, bottom in own:
            assert right <= 13.34, (number, name)
            assert bottom <= 7.52, (number, name)


@pytest.mark.parametrize("language", LANGUAGES)
def test_the_longest_headlines_of_the_demo_stand_free(demo_scan: ga.Scan, language: str) -> None:
    told = demo_scan.in_language(language)
    every = sorted((*told.findings, *told.folded), key=lambda one: -len(one.headline))
    report = told.report()
    sections = tuple(
        replace(section, claim=one.headline, detail=one.detail)
        for section, one in zip(report.model.sections, every, strict=False)
    )
    headline = max((one.headline for one in every), key=len)
    summary = replace(report.model.summary, headline=headline, bullets=tuple(one.headline for one in every[:9]))
    free(slides.render(replace(report.model, sections=sections, summary=summary)))


@pytest.mark.parametrize("text", LONG, ids=lambda text: text[:12])
def test_any_text_stands_free(demo_scan: ga.Scan, text: str) -> None:
    model = demo_scan.report().model
    summary = Summary(headline=text, text=text, bullets=(text,) * 7)
    sections = tuple(replace(one, claim=text, detail=text, part=text[:80]) for one in model.sections[:3])
    keys = tuple(replace(one, name=text[:30], value=text[:12], change=text[:30]) for one in model.keys)
    free(slides.render(replace(model, summary=summary, sections=sections, caveats=(text,) * 12, keys=keys)))


def test_lines_by_the_widths_of_the_font() -> None:
    assert text_fitting.lines("", 20, 5) == 1
    assert text_fitting.lines("one two", 20, 5) == 1
    assert text_fitting.lines("word " * 100, 20, 5) > text_fitting.lines("word " * 100, 12, 5) > 2
    assert text_fitting.lines("a\nb\nc", 20, 5) == 3
    # An em is as wide as its size: 4.8 inches hold 345.6 points, of which a margin is kept.
    assert text_fitting.lines("—" * 30, 10, 5) in (1, 2)


def test_the_deck_of_the_demo(demo_scan: ga.Scan, tmp_path: Path) -> None:
    deck = demo_scan.report().made("pptx")
    free(deck)
    (tmp_path / "report.pptx").write_bytes(deck)
    assert len(Presentation(str(tmp_path / "report.pptx")).slides) >= 10
