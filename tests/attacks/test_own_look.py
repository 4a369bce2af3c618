"""What an organisation's look brings in (fonts, pictures, templates) is data: no markup, no vast picture, no bomb."""

from __future__ import annotations

import zipfile
import zlib
from pathlib import Path

import matplotlib
import pytest
from fontTools.ttLib import TTFont

import golden_almanac as ga
from golden_almanac.charts.look import look_of

FONT = Path(matplotlib.get_data_path()) / "fonts" / "ttf" / "DejaVuSans.ttf"


def test_the_name_of_a_font_is_no_markup(tmp_path: Path, sailings: Path) -> None:
    with TTFont(FONT) as font:
        for entry in font["name"].names:
            if entry.nameID in (1, 16):
                entry.string = "x'}</style><script>alert(1)</script>"
        font.save(tmp_path / "own.ttf")
    look = look_of({"sans": "own.ttf"}, tmp_path)
    assert "<" not in look.sans
    assert "'" not in look.sans
    report = ga.total(sailings, "sum(revenue)", by="route").report().dressed({"sans": "own.ttf"}, tmp_path)
    page = report.made("html").decode("utf-8")
    assert page.count("<script") == 1
    assert "alert(1)</script>" not in page
    assert report.made("pdf").startswith(b"%PDF")


def test_a_vast_picture_and_a_bomb_are_refused(tmp_path: Path) -> None:
    head = b"IHDR" + (60_000).to_bytes(4) + (60_000).to_bytes(4) + b"\x08\x02\0\0\0"
    chunk = (13).to_bytes(4) + head + zlib.crc32(head).to_bytes(4)
    (tmp_path / "vast.png").write_bytes(b"\x89PNG\r\n\x1a\n" + chunk)
    with pytest.raises(ga.OutputError, match="pixels"):
        look_of({"logo": "vast.png"}, tmp_path)
    with zipfile.ZipFile(tmp_path / "bomb.pptx", "w", zipfile.ZIP_DEFLATED) as package:
        for place in range(5):
            package.writestr(f"part{place}", bytes(100_000_000))
    with pytest.raises(ga.OutputError, match="unpacked"):
        look_of({"slides": "bomb.pptx"}, tmp_path)


@pytest.mark.parametrize("ending", ["pptx", "docx"])
def test_a_package_that_is_no_document_is_told(ending: str, tmp_path: Path, sailings: Path) -> None:
    with zipfile.ZipFile(tmp_path / f"own.{ending}", "w") as package:
        package.writestr("[Content_Types].xml", "<Types/>")
    key = "slides" if ending == "pptx" else "document"
    report = ga.total(sailings, "sum(revenue)", by="route").report().dressed({key: f"own.{ending}"}, tmp_path)
    with pytest.raises(ga.OutputError, match="cannot be opened"):
        report.made(ending)
