"""What a notebook shows of everything: in the house look, bounded, and never markup of the data's."""

from __future__ import annotations

import re
import sys
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

import duckdb
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.engine.embedded_engine import silence
from golden_almanac.support.notebook_view import COLUMNS, ROWS, SENTENCES, grid_of, view


class _Tags(HTMLParser):
    """The tags of a page, and its text."""

    def __init__(self) -> None:
        super().__init__()
        self.tags: list[str] = []
        self.text = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append(tag)

    def handle_data(self, data: str) -> None:
        self.text += data


def read(page: str) -> _Tags:
    tags = _Tags()
    tags.feed(page)
    return tags


@pytest.fixture(scope="module")
def things(demo_scan: ga.Scan, sailings: Path) -> dict[str, Any]:
    table = ga.read(sailings)
    change = ga.explain_change(table, "revenue")
    talk = ga.conversation(table)
    talk.ask("revenue by route")
    return {
        "table": table,
        "scan": demo_scan,
        "finding": demo_scan.findings[0],
        "summary": demo_scan.summary(),
        "text table": change.tables()[0],
        "answer": talk.answers[0],
        "conversation": talk,
        "report": change.report(),
        "readiness": ga.check(table),
        "tables": ga.read_all({"sailings": table.to_frame().head(50), "routes": pd.DataFrame({"a": [1, 2]})}),
    }


@pytest.mark.parametrize(
    "name",
    ["table", "scan", "finding", "summary", "text table", "answer", "conversation", "report", "readiness", "tables"],
)
def test_everything_has_a_view(things: dict[str, Any], name: str) -> None:
    page = things[name]._repr_html_()
    assert page.startswith("<style>.golden-almanac{")
    assert "prefers-color-scheme:dark" in page
    assert len(page) < 60_000
    assert read(page).text.strip()


def test_a_finding_shows_how_to_check_it(things: dict[str, Any]) -> None:
    told = read(things["finding"]._repr_html_()).text
    assert things["finding"].headline in told
    assert "SELECT" in told


def test_a_published_edition_and_its_verification(tmp_path: Path, sailings: Path) -> None:
    pd.read_csv(sailings, dtype=str)[["date", "route", "revenue"]].iloc[::8].to_csv(tmp_path / "s.csv", index=False)
    (tmp_path / "b.toml").write_text('source = "s.csv"\nmeasures = ["revenue"]\nformats = ["md"]\n', encoding="utf-8")
    edition = ga.publish_brief(tmp_path / "b.toml")
    assert edition.headline in read(edition._repr_html_()).text
    assert "agree with the source" in read(ga.verify(edition)._repr_html_()).text


@given(st.text(max_size=40), st.text(max_size=3000), st.lists(st.text(max_size=400), min_size=1, max_size=60))
def test_the_data_are_never_markup_and_the_view_is_bounded(head: str, sentence: str, cells: list[str]) -> None:
    frame = pd.DataFrame({f"<b>{place}": cells for place in range(30)})
    page = view(f"<script>{head}", [f"<img src=x>{sentence}"] * 50, grid_of(frame), code=f"</pre>{sentence}")
    allowed = {"style", "div", "p", "table", "thead", "tbody", "tr", "th", "td", "details", "summary", "pre"}
    assert set(read(page).tags) <= allowed
    assert page.count("<tr>") <= ROWS + 1
    assert page.count("<th") - page.count("<thead") <= COLUMNS
    assert page.count("<p>") <= SENTENCES
    assert not re.search("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e]", page.replace("\n", ""))


def test_figures_are_written_out() -> None:
    page = view("x", grid=grid_of(pd.DataFrame({"n": [1234567], "share": [0.25], "big": [12345678.9], "none": [None]})))
    assert ">1,234,567<" in page
    assert ">0.25<" in page
    assert ">12,345,679<" in page
    assert "1 of" not in page


def test_results_and_tables_are_given_as_polars_frames(things: dict[str, Any], monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("scan", "readiness", "answer"):
        made, frame = things[name].to_polars(), things[name].to_frame()
        assert made.columns == [str(column) for column in frame.columns]
        assert made.height == len(frame)
    rows = things["table"].to_polars()
    assert rows.height == things["table"].rows
    assert float(rows["revenue"].sum()) == pytest.approx(float(things["table"].to_frame()["revenue"].sum()), rel=1e-12)
    monkeypatch.setitem(sys.modules, "polars", None)
    with pytest.raises(ga.OutputError, match="pip install polars"):
        things["scan"].to_polars()


def test_an_engine_that_can_draw_no_bar_is_left_as_it_is() -> None:
    """In a notebook without widgets the engine refuses to be told to draw none; nothing else is forgiven."""

    class Connection:
        def __init__(self, fault: Exception) -> None:
            self.fault = fault

        def execute(self, sql: str) -> None:
            raise self.fault

    silence(Connection(duckdb.InvalidInputException("ipywidgets is missing")))
    with pytest.raises(duckdb.IOException):
        silence(Connection(duckdb.IOException("disk")))
