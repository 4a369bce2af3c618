"""What every result must do, whichever analysis made it."""

from __future__ import annotations

import dataclasses
import json
from collections.abc import Callable
from html import escape
from typing import Any

import pandas as pd
import pytest
from matplotlib.figure import Figure

import golden_almanac as ga
from golden_almanac.api.result import Result
from golden_almanac.charts import Chart
from golden_almanac.tables import Table

#: A call for each result.
MADE: dict[str, Callable[[Table], Any]] = {
    "check": ga.check,
    "scan": lambda table: ga.scan(table, measures=["sum(revenue)"], by=["route", "channel"]),
    "explain_change": lambda table: ga.explain_change(table, "sum(revenue)", by=["route"]),
    "explain_changes": lambda table: ga.explain_changes(table, ["sum(revenue)", "avg(delay_min)"], by=["route"]),
    "find_drivers": lambda table: ga.find_drivers(table, "delay_min", ["vessel", "channel", "passengers"]),
    "compare": lambda table: ga.compare(table, "delay_min", "vessel"),
    "relate": lambda table: ga.relate(table, "revenue", "passengers"),
    "regress": lambda table: ga.regress(table, "fuel_cost", ["passengers"]),
    "model_outcome": lambda table: ga.model_outcome(table, "on_time", ["vessel", "passengers"], kind="tree"),
    "total": lambda table: ga.total(table, "sum(revenue)", by="route"),
    "key_figures": ga.key_figures,
    "table_of": lambda table: ga.table_of(table, "route", "channel", "sum(revenue)"),
    "list_rows": lambda table: ga.list_rows(table, order="revenue", top=5),
    "ask": lambda table: ga.ask(table, "revenue by route"),
}
HEAD = ["format", "table", "request", "readiness", "caveats"]
TABLE = ["rows", "columns", "time", "grain", "first", "last", "partial_last_period"]


@pytest.fixture(scope="module")
def table(sailings: Any) -> Table:
    frame = pd.read_csv(sailings)
    return ga.read(frame[frame["date"] >= "2025-01-01"].reset_index(drop=True), name="sailings")


@pytest.fixture(scope="module")
def results(table: Table) -> dict[str, Result]:
    return {name: make(table) for name, make in MADE.items()}


@pytest.mark.parametrize("name", MADE)
def test_a_result_does_what_all_do(results: dict[str, Result], name: str) -> None:
    one = results[name]
    assert isinstance(one, Result)
    with pytest.raises(dataclasses.FrozenInstanceError):
        one.voice = None  # type: ignore[assignment,misc]
    assert one.headline
    assert one.headline == one.summary().headline
    with pytest.raises(ga.RequestError):
        one.summary("endless")
    assert isinstance(one.to_frame(), pd.DataFrame)
    assert all(isinstance(text, str) for text in one.caveats())
    assert one.headline in repr(one)
    page = one._repr_html_()
    assert "<script" not in page
    assert escape(one.headline) in page
    assert len(page) < 40_000
    # No sentence is cut, in a notebook or a terminal.
    assert "..." not in page
    assert "..." not in repr(one)


@pytest.mark.parametrize("name", MADE)
def test_it_draws_into_axes_of_the_callers(results: dict[str, Result], name: str) -> None:
    figure = Figure(figsize=(9, 5))
    left, right = figure.subplots(1, 2)
    untouched = len(right.get_children())
    try:
        usual = results[name].chart()
    except LookupError:
        with pytest.raises(LookupError):
            results[name].chart(ax=left)
        return
    made = results[name].chart(ax=left)
    assert made.figure is figure
    assert figure.axes == [left, right]
    assert len(right.get_children()) == untouched
    # The same marks and the same words, but for how the lines of the title break.
    pd.testing.assert_frame_equal(made.to_frame(), usual.to_frame())
    inside = [left, *left.child_axes]
    drawn = sum(len(axes.lines) + len(axes.patches) + len(axes.collections) + len(axes.images) for axes in inside)
    assert drawn or name in ("table",)
    said = " ".join(text.get_text().replace("\n", " ") for axes in inside for text in axes.texts)
    assert usual.title.split()[0] in said
    # What is drawn next has a figure of its own again.
    assert results[name].chart().figure is not figure


def test_what_is_no_axes_is_refused(results: dict[str, Result]) -> None:
    with pytest.raises(ga.RequestError, match="axes of Matplotlib"):
        results["explain_change"].chart(ax="here")  # type: ignore[arg-type]


@pytest.mark.parametrize("name", MADE)
def test_its_json_has_one_head(results: dict[str, Result], name: str) -> None:
    told = json.loads(json.dumps(results[name].to_dict(), allow_nan=False))
    assert list(told)[:5] == HEAD
    assert list(told)[-1] == "summary"
    assert told["format"].startswith("golden-almanac/")
    assert list(told["table"])[:7] == TABLE
    assert told["table"]["first"] == "2025-01-01"
    assert told["request"]["source"] == "sailings"
    assert list(told["request"])[-1] == "where"
    assert list(told["summary"]) == ["headline", "text", "bullets"]


@pytest.mark.parametrize("name", MADE)
def test_it_is_drawn_and_published(results: dict[str, Result], name: str) -> None:
    one = results[name]
    charts = one.charts()
    assert all(isinstance(chart, Chart) and chart.issues() == [] for chart in charts)
    assert bool(charts) == (name not in ("check", "list_rows"))
    report = one.report()
    assert report.html().startswith(b"<!doctype html>")
    assert one.headline[:20].encode() in report.made("md")


@pytest.mark.parametrize("name", MADE)
def test_it_speaks_another_language_without_being_made_again(results: dict[str, Result], name: str) -> None:
    one = results[name]
    other = one.in_language("de")
    assert type(other) is type(one)
    assert other.headline != one.headline
    assert other.in_language("en").headline == one.headline
    # Figures are the same in any language.
    assert other.to_frame().select_dtypes("number").equals(one.to_frame().select_dtypes("number"))
