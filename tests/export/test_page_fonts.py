"""The fonts that pages carry: cut beforehand for nearly all of them, and no other than those of the house."""

from __future__ import annotations

import base64
import io
import re

import pytest
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont

from golden_almanac.charts import theme
from golden_almanac.export.page_fonts import LATIN_LETTERS, PLAIN_LETTERS, READY, cut_fonts, page_fonts


def _fonts(rules: str) -> list[TTFont]:
    found = re.findall(r"base64,([^)]*)\)", rules)
    return [TTFont(io.BytesIO(base64.b64decode(one))) for one in found]


@pytest.mark.parametrize("name", READY)
def test_fonts_kept_ready_are_those_of_the_house(name: str) -> None:
    """Each letter of the set that a font has is there, with the same outline and width, and no other."""
    for kept, file in zip(_fonts(page_fonts(READY[name])), theme.FONT_FILES, strict=True):
        whole = TTFont(theme.font_file(file))
        letters, every = kept.getBestCmap(), whole.getBestCmap()
        assert set(letters) == {ord(letter) for letter in READY[name]} & set(every)
        drawn, wanted = kept.getGlyphSet(), whole.getGlyphSet()
        for code in sorted(letters)[::7]:
            one, other = DecomposingRecordingPen(drawn), DecomposingRecordingPen(wanted)
            drawn[letters[code]].draw(one)
            wanted[every[code]].draw(other)
            assert one.value == other.value
            assert drawn[letters[code]].width == wanted[every[code]].width


def test_a_page_with_other_letters_gets_them() -> None:
    assert page_fonts(frozenset("abc\n")) == page_fonts(PLAIN_LETTERS)
    assert page_fonts(frozenset("aé")) == page_fonts(LATIN_LETTERS)
    greek = page_fonts(frozenset("aΩ"))
    assert greek not in (page_fonts(PLAIN_LETTERS), page_fonts(LATIN_LETTERS))
    assert any(ord("Ω") in font.getBestCmap() for font in _fonts(greek))
    assert greek == cut_fonts(LATIN_LETTERS | {"Ω"})
