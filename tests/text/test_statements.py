"""A number that is said still is the figure that it stands for, in every language, through to the page."""

from __future__ import annotations

import html
import re
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.text import numbers
from golden_almanac.text.languages import (
    Quantity,
    Statement,
    capital,
    figure_of,
    joined,
    pieces_of,
    quantity,
    say,
    statement,
)

parts = st.one_of(st.text(max_size=6), st.builds(quantity, st.text(min_size=1, max_size=6), st.floats(-1e9, 1e9)))


def whole(text: str) -> bool:
    return "".join(pieces_of(text)) == text


@given(st.lists(parts, max_size=5), st.lists(parts, max_size=3), st.sampled_from([" ", ", ", ""]))
def test_a_statement_is_its_pieces_whatever_is_done_to_it(first: list[str], second: list[str], between: str) -> None:
    one, other = statement(first), statement(second)
    assert str(one) == "".join(first)
    for made, plain in (
        (one + other, "".join(first) + "".join(second)),
        (one + " and", "".join(first) + " and"),
        ("so " + one, "so " + "".join(first)),
        (one.strip(), "".join(first).strip()),
        (one.strip(" ."), "".join(first).strip(" .")),
        (capital(one), "".join(first)[:1].upper() + "".join(first)[1:]),
        (joined(between, [one, other, "x"]), between.join(["".join(first), "".join(second), "x"])),
    ):
        assert made == plain
        assert whole(made)
    # What stands whole in the text is still the figure.
    kept = [piece for piece in (one + other).pieces if isinstance(piece, Quantity)]
    assert [piece.value for piece in kept] == [p.value for p in (*first, *second) if isinstance(p, Quantity)]


def test_what_is_said_of_figures_knows_them() -> None:
    told = say("{size} of all {whole}", size=numbers.percent(100 * 0.3721), whole="rows")
    assert isinstance(told, Statement)
    assert told == "37% of all rows"
    assert [(piece, piece.value) for piece in told.pieces if isinstance(piece, Quantity)] == [("37%", 37.21)]
    assert not isinstance(say("{size} of all {whole}", size="a third", whole="rows"), Quantity | Statement)


def test_a_figure_is_found_by_its_value_and_not_by_its_digits() -> None:
    figures = {"change_pct": 12.0400001, "share": 0.1204, "parts": [{"share": 0.5}], "same": True}
    assert figure_of(quantity("12%", 12.04), figures) == ("share", 0.1204)
    assert figure_of(quantity("−12%", -12.0400001), figures) == ("change_pct", 12.0400001)
    assert figure_of(quantity("50%", 50.0), figures) == ("parts[0].share", 0.5)
    assert figure_of(quantity("12%", 12.0), figures) is None
    assert figure_of(quantity("1", 1.0), figures) is None


def at(data: Any, path: str) -> Any:
    for name, place in re.findall(r"(\w+)|\[(\d+)\]", path):
        data = data[name] if name else data[int(place)]
    return data


@pytest.mark.parametrize("language", ["en", "de"])
def test_a_published_number_knows_which_figure_it_is(demo_scan: ga.Scan, language: str) -> None:
    told = demo_scan.in_language(language)
    page, data = told.report().html().decode(), told.to_dict()
    borne = re.findall(r'<data value="([^"]+)" data-figure="([^"]+)">([^<]+)</data>', page)
    assert len(borne) > 40
    for value, path, _ in borne:
        assert at(data, path) == float(value)
    # The words are those of the finding, with nothing lost.
    plain = html.unescape(re.sub(r"<[^>]+>", "", page))
    for finding in told.findings[:8]:
        assert finding.headline in plain
        assert finding.detail in plain
    first = [text for _, path, text in borne if path == "findings[0].figures.change_pct"]
    assert first
    assert html.unescape(first[0]) in told.findings[0].headline


def test_numbers_of_a_slice_claim_no_figure_of_the_whole(demo_scan: ga.Scan) -> None:
    small = ga.scan(
        demo_scan.result.survey.table,
        measures=["sum(revenue)"],
        by=["region", "channel"],
        kinds=["trend", "difference"],
    )
    page, alone = (small.report(switch=switch).html().decode() for switch in ("region", None))
    assert page.count("data-figure") == alone.count("data-figure") > 0
