"""Reports in the organisation's look: its colours, fonts, logo and templates, held to what can be read."""

from __future__ import annotations

import io
import re
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import matplotlib
import pandas as pd
import pytest
from docx import Document
from PIL import Image
from pptx import Presentation
from pptx.util import Inches

import golden_almanac as ga
from golden_almanac.charts.look import HOUSE, look_of, wearing
from golden_almanac.charts.palette import contrast

FONTS = Path(matplotlib.get_data_path()) / "fonts" / "ttf"
COLOURS = {"accent": "#005B7F", "paper": "#FFFFFF", "ink": "#1A1A2E", "context": "#7A8594"}


@pytest.fixture(scope="module")
def change(sailings: Path) -> ga.Change:
    rows = pd.read_csv(sailings, usecols=["date", "route", "channel", "revenue"])
    return ga.explain_change(rows[rows["date"] >= "2024-01-01"], "sum(revenue)")


@pytest.fixture
def look(tmp_path: Path) -> dict[str, Any]:
    Image.new("RGB", (60, 20), "#005B7F").save(tmp_path / "logo.png")
    (tmp_path / "own.ttf").write_bytes((FONTS / "DejaVuSerif.ttf").read_bytes())
    (tmp_path / "own-bold.ttf").write_bytes((FONTS / "DejaVuSerif-Bold.ttf").read_bytes())
    return {**COLOURS, "sans": "own.ttf", "sans_bold": "own-bold.ttf", "logo": "logo.png"}


def parts(package: bytes, names: str) -> str:
    """The XML of an office file's parts of such names."""
    with zipfile.ZipFile(io.BytesIO(package)) as file:
        return "".join(file.read(name).decode("utf-8") for name in file.namelist() if re.search(names, name))


def test_every_format_has_its_colours_fonts_and_logo(change: ga.Change, look: dict[str, Any], tmp_path: Path) -> None:
    plain, report = change.report(), change.report().dressed(look, tmp_path)
    before = plain.made("html")
    page = report.made("html").decode("utf-8")
    drawn = re.sub(r"@font-face\{[^}]*\}", "", page)
    assert "#A86A00" not in drawn
    assert "--accent:#005B7F" in drawn
    assert "font-family:'DejaVu Serif'" in page
    assert "Source Sans 3" not in page
    assert page.count("data:image/png;base64,") == 1
    slides = parts(report.made("pptx"), r"slides/slide|charts/chart")
    assert "A86A00" not in slides
    assert "005B7F" in slides
    assert 'typeface="DejaVu Serif"' in slides
    words = parts(report.made("docx"), r"word/(styles|document)\.xml")
    assert "DejaVu Serif" in words
    assert "pic:pic" in words
    book = parts(report.made("xlsx"), r"styles|charts/chart|worksheets/sheet")
    assert "A86A00" not in book
    assert "005B7F" in book
    from pypdf import PdfReader

    pdf = PdfReader(io.BytesIO(report.made("pdf")))
    fonts = {
        font["/BaseFont"] for one in pdf.pages for font in (f.get_object() for f in one["/Resources"]["/Font"].values())
    }
    assert any("DejaVuSerif" in name for name in fonts)
    assert any(one.images for one in pdf.pages[:1])
    # Nothing of it stays behind: the house looks as before.
    assert plain.made("html") == before
    assert report.made("html").decode("utf-8") == page
    # Held to what can be read, in its own colours and fonts, as the house is.
    assert report.issues() == []
    with wearing(replace(report.look, colours={**report.look.colours, "quiet": "#EEEEEE"})):
        assert any("stands out too little" in issue for issue in change.chart().issues())
    assert not any("stands out too little" in issue for issue in change.chart().issues())


def test_slides_and_documents_on_a_template(change: ga.Change, tmp_path: Path) -> None:
    deck = Presentation()
    deck.slide_width, deck.slide_height = Inches(10), Inches(7.5)
    deck.slides.add_slide(deck.slide_layouts[0]).shapes.title.text = "An old slide"
    deck.save(tmp_path / "house.pptx")
    paper = Document()
    paper.sections[0].header.paragraphs[0].text = "Pellow Sound Ferries"
    paper.sections[0].page_width = paper.sections[0].page_width // 2
    paper.add_paragraph("An old text")
    paper.save(tmp_path / "house.docx")
    # A template differs from a document in its declared type alone.
    with zipfile.ZipFile(tmp_path / "house.docx") as plain, zipfile.ZipFile(tmp_path / "house.dotx", "w") as template:
        for name in plain.namelist():
            data = plain.read(name).replace(b"wordprocessingml.document.main", b"wordprocessingml.template.main")
            template.writestr(name, data)
    report = change.report().dressed({"slides": "house.pptx", "document": "house.dotx"}, tmp_path)
    made = Presentation(io.BytesIO(report.made("pptx")))
    assert (made.slide_width, made.slide_height) == (Inches(10), Inches(7.5))
    titles = [slide.shapes.title.text for slide in made.slides]
    assert titles[0] == report.model.summary.headline
    assert "An old slide" not in titles
    for slide in made.slides:
        for shape in slide.shapes:
            assert 0 <= shape.left <= shape.left + shape.width <= made.slide_width, shape.name
            assert 0 <= shape.top <= shape.top + shape.height <= made.slide_height + Inches(0.1), shape.name
            fonts = [run.font for text in ([shape.text_frame] if shape.has_text_frame else [])
                     for paragraph in text.paragraphs for run in paragraph.runs]  # fmt: skip
            # Fonts and colours are the template's, which runs inherit.
            assert all(font.name is None for font in fonts)
        tops = sorted((shape.top, shape.top + shape.height) for shape in slide.shapes if shape.has_text_frame)
        assert tops[0][0] >= 0
    document = Document(io.BytesIO(report.made("docx")))
    assert document.sections[0].header.paragraphs[0].text == "Pellow Sound Ferries"
    assert document.sections[0].page_width == paper.sections[0].page_width
    told = [paragraph.text for paragraph in document.paragraphs]
    assert report.model.summary.headline in told
    assert "An old text" not in told


@pytest.mark.parametrize(
    ("wishes", "words"),
    [
        ({"accent": "#FFEE00"}, "stands out from its paper"),
        ({"ink": "#AAAAAA"}, "4.5:1"),
        ({"dark": {"paper": "#888888"}}, "of the dark look"),
        ({"accent": "gold"}, "#RRGGBB"),
        ({"accnt": "#000000"}, "key of the look"),
        ({"categories": ["#005B7F", "#005B7F"]}, "none twice"),
        ({"categories": ["#FFFFFF"]}, "category of the look"),
        ({"sans": "nothing.ttf"}, "no such file"),
        ({"sans": "text.ttf"}, "no font"),
        ({"logo": "text.ttf"}, "PNG or JPEG"),
        ({"logo": "/dev/zero"}, "no such file"),
        ({"slides": "text.ttf"}, "no template"),
        ({"document": "."}, "no such file"),
    ],
)
def test_what_cannot_be_used_is_refused(wishes: dict[str, Any], words: str, tmp_path: Path) -> None:
    (tmp_path / "text.ttf").write_text("plain text", encoding="utf-8")
    with pytest.raises(ga.AlmanacError, match=re.escape(words)):
        look_of(wishes, tmp_path)


def test_dark_paper_is_made_from_light_where_it_is_not_said() -> None:
    look = look_of(COLOURS, Path())
    assert look.dark["paper"] == HOUSE.dark["paper"]
    assert contrast(look.dark["accent"], look.dark["paper"]) >= 3
    assert contrast(look.dark["ink"], look.dark["paper"]) >= 4.5
    assert len(set(look.categories)) == len(HOUSE.categories)
    assert look.categories[0] == COLOURS["accent"]
    assert look_of({}, Path()) == HOUSE


def test_a_brief_says_its_look(sailings: Path, look: dict[str, Any], tmp_path: Path) -> None:
    pd.read_csv(sailings, dtype=str)[["date", "route", "revenue"]].iloc[::6].to_csv(tmp_path / "s.csv", index=False)
    lines = "\n".join(f'{name} = "{value}"' for name, value in look.items())
    (tmp_path / "b.toml").write_text(
        f'source = "s.csv"\nmeasures = ["sum(revenue)"]\nformats = ["html"]\n[look]\n{lines}\n', encoding="utf-8"
    )
    edition = ga.publish_brief(tmp_path / "b.toml")
    page = (edition.folder / "report.html").read_text(encoding="utf-8")
    assert "--accent:#005B7F" in page
    assert "'DejaVu Serif'" in page
    assert ga.verify(edition).agrees


def test_what_people_take_out_or_write_anew_holds_in_the_table_of_all(demo_scan: ga.Scan) -> None:
    report = demo_scan.report()
    first, second, *_ = report.ids
    gone = report.model.sections[0].claim
    page = report.drop(first).made("html").decode("utf-8")
    assert gone.replace("'", "&#39;") not in page
    sections = tuple(
        replace(section, claim="As Ana wrote it.") if section.id == second else section
        for section in report.model.sections
    )
    edited = replace(report, model=replace(report.model, sections=sections)).made("html").decode("utf-8")
    assert f'<a href="#{second}">As Ana wrote it.</a>' in edited
