"""A few of the fuzz cases in every run of the suite; thousands are run by hand (see `fuzzing`)."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from golden_almanac.core.commands import suggested
from golden_almanac.core.visible import line, paragraph, visible

from .fuzzing import VOCABULARY, case


@pytest.mark.parametrize("block", range(4))
def test_nasty_tables_names_and_options(block: int) -> None:
    faults = [fault for number in range(block * 12, block * 12 + 12) for fault in case(2024, number)]
    assert faults == []


@settings(max_examples=300)
@given(st.lists(st.sampled_from(VOCABULARY) | st.text(max_size=40), max_size=4).map("".join))
def test_what_is_shown_cannot_steer(text: str) -> None:
    for shown in (
        visible(text).replace("\n", "").replace("\t", ""),
        line(text),
        paragraph(text),
        suggested("scan", text, text),
    ):
        assert all(letter.isprintable() or letter in "\u00a0\u202f\u00ad\u3000" or letter.isspace() for letter in shown)
        shown.encode("utf-8")
    assert len(paragraph(text * 500)) <= 900
    assert visible(visible(text)) == visible(text)
