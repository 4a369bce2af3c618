"""The report as PDF: vector charts, bundled fonts, tagged for screen readers, the same bytes on every run.

All text goes into the document as data, never as its source, so that nothing in a label is ever markup.
"""

from __future__ import annotations

import json
import tempfile
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any, Literal

from ..charts import theme
from ..charts.chart import MADE_BY
from ..charts.look import Look, worn
from ..reports import KeyFigure, Report, Section
from ..reports.page_model import shown_edition
from ..support.errors import OutputError
from ..text import page_labels
from .display_cells import frame_cells
from .office_parts import clean

#: Rows of a table, and dots per inch of a picture of the page.
_MOST_TABLE_ROWS, _DENSITY = 60, 110.0


def render(report: Report) -> bytes:
    """The document's bytes. Raises OutputError where the compiler refuses it."""
    return _compiled(report, "pdf")


def picture(report: Report) -> bytes:
    """The whole report as one long picture (PNG). Raises OutputError where the compiler refuses it."""
    return _compiled(report, "png")


def _compiled(report: Report, kind: Literal["pdf", "png"]) -> bytes:
    import typst

    with tempfile.TemporaryDirectory(prefix="almanac-pdf-") as name:
        folder = Path(name)
        for place, section in enumerate(report.sections):
            if section.chart is not None:
                (folder / f"chart{place}.svg").write_text(section.chart.svg(title=False), encoding="utf-8")
        told = _data(report) | {"long": kind == "png"}
        (folder / "data.json").write_text(json.dumps(told, ensure_ascii=False), encoding="utf-8")
        source = files("golden_almanac.export").joinpath("page.typ").read_text(encoding="utf-8")
        (folder / "page.typ").write_text(source, encoding="utf-8")
        look = worn()
        fonts = theme.font_file(next(iter(theme.FONT_FILES))).parent
        for role, path in look.fonts.items():
            # Under a name of its own: theirs could be that of the page, or of each other.
            (folder / f"font-{role}{path.suffix}").write_bytes(path.read_bytes())
        picture = look.logo_picture()
        if picture is not None:
            (folder / _logo_name(picture[0])).write_bytes(picture[1])
        try:
            page, kept = str(folder / "page.typ"), [str(fonts), *([name] if look.fonts else [])]
            made = (
                typst.compile(page, root=name, font_paths=kept, ignore_system_fonts=True, pdf_standards="ua-1")
                if kind == "pdf"
                else typst.compile(
                    page, root=name, font_paths=kept, ignore_system_fonts=True, format="png", ppi=_DENSITY
                )
            )
        except Exception as problem:
            if type(problem).__module__.split(".")[0] not in ("typst", "builtins"):
                raise
            raise OutputError(
                "the PDF",
                f"it cannot be set ({str(problem).splitlines()[0][:160]})",
                "Publish another format, or change the labels named.",
            ) from problem
    return bytes(made) if kind == "pdf" else _signed(bytes(made))


def _signed(picture: bytes) -> bytes:
    """The picture with the name of who made it in a text chunk, as all our pictures have."""
    import struct
    import zlib

    body = b"tEXtSoftware\0" + MADE_BY.encode("latin-1")
    chunk = struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))
    # Behind the signature (8 bytes) and the header chunk (25).
    return picture[:33] + chunk + picture[33:]


def _data(report: Report) -> dict[str, Any]:
    return {
        "title": _shown(report.title),
        "edition": _shown(shown_edition(report)),
        "headline": _shown(report.summary.headline),
        "bullets": [_shown(text) for text in report.summary.bullets],
        "keys": [_key(one) for one in report.keys],
        "sections": [
            {
                "claim": _shown(section.claim),
                "detail": _shown(section.detail),
                "chart": None if section.chart is None else f"chart{place}.svg",
                "alternative": "" if section.chart is None else _shown(section.chart.alternative, 1500),
                "evidence": [[_shown(word), _shown(text, 400)] for word, text in section.evidence],
                "sql": _shown(section.sql, 1800),
                "part": _shown(section.part),
                "level": section.level,
                "new_page": section.new_page,
                "width": f"{86 * section.size:.0f}%",
                "table": _table(section),
                "words": [] if section.table is None else list(frame_cells(section.table).words),
                "expect": _shown(page_labels.to_check(section.expect)),
            }
            for place, section in enumerate(report.sections)
        ],
        "steps": [_shown(text) for text in report.steps],
        "further": [_shown(text) for text in report.further],
        "caveats": [_shown(text) for text in report.caveats],
        "made": [_shown(text) for text in report.made],
        "lang": report.voice.language,
        "look": _look(worn()),
        "owner": _shown(report.owner),
        "words": {which: page_labels.heading(which) for which in ("steps", "further", "caveats", "made", "check")},
    }


def _look(look: Look) -> dict[str, Any]:
    picture = look.logo_picture()
    return {
        **{role: look.colour(role) for role in ("ink", "quiet", "rule", "accent", "paper")},
        "sans": look.sans,
        "serif": look.serif,
        "logo": None if picture is None else _logo_name(picture[0]),
    }


def _logo_name(kind: str) -> str:
    return "logo.png" if kind == "image/png" else "logo.jpg"


def _table(section: Section) -> list[list[str]]:
    """The head and the rows of a section's own table, as shown; nothing where it has none."""
    if section.table is None:
        return []
    cells = frame_cells(section.table)
    return [[_shown(text, 200) for text in row] for row in (cells.heads, *cells.first(_MOST_TABLE_ROWS))]


def _key(key_figure: KeyFigure) -> dict[str, str]:
    return {"name": _shown(key_figure.name), "value": _shown(key_figure.value), "change": _shown(key_figure.change)}


def _shown(text: str, most: int = 900) -> str:
    """Text the fonts can show: letters they lack become a hollow box."""
    known = _letters(tuple(worn().font_files().values()))
    return "".join(letter if ord(letter) in known or letter in "\n " else "\u25a1" for letter in clean(text, most))


@lru_cache(maxsize=4)
def _letters(fonts: tuple[Path, ...]) -> frozenset[int]:
    """The letters that all of the fonts have."""
    from fontTools.ttLib import TTFont

    found: set[int] | None = None
    for path in fonts:
        with TTFont(path, lazy=True) as font:
            own = set(font.getBestCmap())
        found = own if found is None else found & own
    return frozenset(found or ())
