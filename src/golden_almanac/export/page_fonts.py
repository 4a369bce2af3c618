"""The house fonts inside a page, cut to the letters that it may hold.

Nearly all pages do with one of two sets of letters, and cutting fonts takes longer than all else of a page: the fonts
for those are kept ready beside the fonts themselves (`python -m golden_almanac.export.page_fonts` makes them anew), so
that pages are the same whatever compresses them.
"""

from __future__ import annotations

import base64
import io
import logging
from functools import lru_cache
from pathlib import Path

from ..charts import theme
from ..charts.look import HOUSE, Look

#: Letters that pages nearly always hold, and those of the languages written with accents.
PLAIN_LETTERS = frozenset(map(chr, range(0x20, 0x7F))) | frozenset(
    "\u00a0\u00b7\u00d7\u2013\u2014\u2026\u202f\u2212€£÷▁▂▃▄▅▆▇█"
)
#: What has no shape: breaks, and the wide blank that sets names in.
_BLANKS = frozenset("\n\r\t\u2003")
LATIN_LETTERS = PLAIN_LETTERS | frozenset(map(chr, range(0xA0, 0x180))) | frozenset("“”„‘’‚«»‹›→←↑↓≤≥≈½¼¾")
#: The sets kept ready, and what their rules are called.
READY = {"page-plain.css": PLAIN_LETTERS, "page-latin.css": LATIN_LETTERS}


def page_fonts(letters: frozenset[str], look: Look = HOUSE) -> str:
    """@font-face rules for a page with these letters."""
    needed = letters - _BLANKS
    if look.fonts:
        return _cut_once(LATIN_LETTERS | needed, tuple(look.font_files().items()), (look.sans, look.serif))
    for name, ready in READY.items():
        if needed <= ready:
            return _kept(name)
    return cut_fonts(LATIN_LETTERS | needed)


@lru_cache(maxsize=2)
def _kept(name: str) -> str:
    return theme.font_file(name).read_text(encoding="ascii")


def cut_fonts(letters: frozenset[str]) -> str:
    """@font-face rules with the house fonts, cut to the letters of the page."""
    return _cut_once(letters, tuple(HOUSE.font_files().items()), (theme.SANS, theme.SERIF))


@lru_cache(maxsize=8)
def _cut_once(letters: frozenset[str], fonts: tuple[tuple[str, Path], ...], families: tuple[str, str]) -> str:
    """@font-face rules with the four fonts, by what each is for, cut to letters."""
    from fontTools import subset
    from fontTools.ttLib import TTFont

    # Tables that no page needs are dropped; that it does so need not be said of each.
    logging.getLogger("fontTools.subset").setLevel(logging.ERROR)
    rules = []
    for name, path in fonts:
        family, weight = families[name.startswith("serif")], 600 if name.endswith("bold") else 400
        options = subset.Options(layout_features=["kern"], hinting=False, notdef_outline=True, recalc_timestamp=False)
        # Of other features nothing is kept: they need not be read.
        options.drop_tables += ["GSUB", "GDEF"]
        with TTFont(path, recalcTimestamp=False, lazy=True) as font:
            # Looking for names that nothing refers to any longer takes longer than all else.
            names = font["name"]
            names.names = [one for one in names.names if one.nameID in (1, 2, 4, 6)]
            del font["name"]
            cutter = subset.Subsetter(options)
            cutter.populate(unicodes=sorted(map(ord, letters)))
            cutter.subset(font)
            font["name"] = names
            buffer = io.BytesIO()
            font.flavor = "woff"
            font.save(buffer)
        data = base64.b64encode(buffer.getvalue()).decode("ascii")
        rules.append(
            f"@font-face{{font-family:'{family}';font-weight:{weight};"
            f"src:url(data:font/woff;base64,{data}) format('woff')}}"
        )
    return "\n".join(rules)


if __name__ == "__main__":
    folder = theme.font_file(next(iter(theme.FONT_FILES))).parent
    for name, letters in READY.items():
        (folder / name).write_text(cut_fonts(letters), encoding="ascii")
