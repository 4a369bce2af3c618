"""A few of the fuzz cases in every run of the suite; thousands are run by hand (see `fuzzing`)."""

from __future__ import annotations

import sys
import unicodedata

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from golden_almanac.support.printable import line, paragraph, visible
from golden_almanac.support.shell import suggested

from .fuzzing import VOCABULARY, case


@pytest.mark.parametrize("block", range(4))
def test_nasty_tables_names_and_options(block: int) -> None:
    faults = [fault for number in range(block * 12, block * 12 + 12) for fault in case(2024, number)]
    assert faults == []


#: Invisible letters that scripts need: soft hyphens, joiners, and the number signs of Arabic, Syriac and Kaithi.
NEEDED = "\u00ad\u200c\u200d\u0600\u0601\u0602\u0603\u0604\u0605\u06dd\u070f\u0890\u0891\u08e2\U000110bd\U000110cd"


def steers(letter: str) -> bool:
    """Whether a letter is a control, a mark of direction or format, half a surrogate pair or a separator of lines."""
    return unicodedata.category(letter) in ("Cc", "Cf", "Cs", "Zl", "Zp") and letter not in NEEDED


def test_every_letter_that_steers_is_spelled_out_and_none_that_is_read() -> None:
    letters = [chr(code) for code in range(sys.maxunicode + 1) if chr(code) not in "\t\n"]
    assert [letter for letter in letters if steers(letter) and visible(letter) == letter] == []
    assert [letter for letter in letters if letter.isprintable() and visible(letter) != letter] == []


@settings(max_examples=300)
@given(st.lists(st.sampled_from(VOCABULARY) | st.text(max_size=40), max_size=4).map("".join))
def test_what_is_shown_cannot_steer(text: str) -> None:
    for shown in (
        visible(text).replace("\n", "").replace("\t", ""),
        line(text),
        paragraph(text),
        suggested("scan", text, text),
    ):
        assert not [letter for letter in shown if steers(letter) and letter not in "\t\n"]
        shown.encode("utf-8")
    assert len(paragraph(text * 500)) <= 900
    assert visible(visible(text)) == visible(text)
