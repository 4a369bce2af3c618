"""Charts: legible, honest, the same bytes twice, and drawn from the figures they show."""

from __future__ import annotations

import struct
import xml.etree.ElementTree as ET
from itertools import combinations, pairwise
from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.aggregation.measures import parse_measure
from golden_almanac.charts import theme
from golden_almanac.charts.bars import bars
from golden_almanac.charts.chart import titled
from golden_almanac.charts.slope import spread_out
from tests.analysis.detectors.tables import planted


def luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(a: str, b: str) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def test_contrast_by_the_web_accessibility_formula() -> None:
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21)
    for text in (theme.INK, theme.QUIET):
        assert contrast(text, theme.PAPER) >= 4.5
    for mark in (theme.ACCENT, theme.CONTEXT, theme.GOOD, theme.BAD):
        assert contrast(mark, theme.PAPER) >= 3


def test_every_chart_of_the_demo_is_legible(demo_scan: ga.Scan) -> None:
    kinds = set()
    for one in demo_scan.findings:
        chart = one.chart()
        assert chart.issues() == [], one.headline
        assert chart.title == one.headline
        assert chart.alternative
        assert len(chart.to_frame())
        kinds.add(one.kind)
    assert kinds >= {
        "trend",
        "shift",
        "seasonality",
        "ranking",
        "difference",
        "outlier",
        "spike",
        "gap",
        "relationship",
    }


def test_charts_of_a_change_are_legible(sailings: object) -> None:
    for measure in ("sum(revenue)", "avg(on_time)"):
        change = ga.explain_change(sailings, measure, period="2025-Q1", baseline="2023-Q1")
        for breakdown in change.explanation.breakdowns:
            chart = change.chart(breakdown.by)
            assert chart.issues() == []
            assert chart.to_frame()["value"].sum() == pytest.approx(change.explanation.change)


def test_the_same_bytes_twice(demo_scan: ga.Scan) -> None:
    one = demo_scan.findings[0]
    first, second = one.chart(), one.chart()
    assert first.png() == second.png()
    assert first.svg() == second.svg()
    assert first.png() == first.png()


def test_png_and_svg_are_whole(demo_scan: ga.Scan) -> None:
    chart = demo_scan.findings[1].chart()
    png = chart.png()
    assert png[:8] == b"\x89PNG\r\n\x1a\n"
    assert struct.unpack(">I", png[16:20])[0] == int(theme.WIDTH * theme.DPI)
    assert ET.fromstring(chart.svg()).tag.endswith("svg")
    assert chart.title.split()[0] not in "".join(ET.fromstring(chart.svg(text=True, title=False)).itertext())


@pytest.fixture
def measure() -> object:
    return parse_measure("sum(amount)", ga.read(planted()))


def draw(labels: list[str], values: list[float], measure: object, **more: object):
    options = {
        "name": "t",
        "title": "A title that says what is seen.",
        "subtitle": "Amount",
        "source": "Source: t",
        "highlight": labels[0],
        "by": "shop",
        "adds_up": True,
        "measure": measure,
        **more,
    }
    return bars(labels=labels, values=values, **options)  # type: ignore[arg-type]


def test_bars_start_at_nought_and_are_sorted(measure: object) -> None:
    chart = draw(["a", "b", "c"], [95.0, 100.0, 98.0], measure)
    axes = chart.figure.axes[0]
    assert [patch.get_x() for patch in axes.patches] == [0, 0, 0]
    assert axes.get_xlim()[0] <= 0
    assert chart.to_frame()["value"].tolist() == [100, 98, 95]


def test_thirty_labels_become_ten_and_other(measure: object) -> None:
    chart = draw([f"label {i}" for i in range(30)], [float(100 - i) for i in range(30)], measure)
    shown = [text.get_text() for text in chart.figure.axes[0].get_yticklabels()]
    assert shown[-1] == "other (20)"
    assert len(shown) == 11
    assert chart.figure.axes[0].patches[-1].get_width() == sum(100 - i for i in range(10, 30))
    assert chart.issues() == []


def test_averages_have_no_other_bar(measure: object) -> None:
    chart = draw([f"label {i}" for i in range(30)], [float(100 - i) for i in range(30)], measure, adds_up=False)
    assert all("other" not in text.get_text() for text in chart.figure.axes[0].get_yticklabels())
    assert "20 more not shown" in chart.subtitle or any("20 more not shown" in t.get_text() for t in chart.figure.texts)


@pytest.mark.parametrize(
    ("labels", "values"),
    [
        (["a" * 10_000, "b"], [3.0, 1.0]),
        (["مرحبا", "😀 smile"], [3.0, 1.0]),
        (["one"], [0.0]),
        (["a", "b"], [5.0, 5.0]),
        (["a", "b"], [-3.0, -9.0]),
        (["a", "b"], [1e15, 1.0]),
        (["$x_1$", "a_b^c"], [2.0, 1.0]),
    ],
)
@pytest.mark.filterwarnings("ignore:Glyph")
def test_odd_labels_and_values_are_borne(labels: list[str], values: list[float], measure: object) -> None:
    chart = draw(labels, values, measure)
    assert chart.issues() == []
    assert chart.png()


def test_the_check_sees_what_is_wrong() -> None:
    figure = theme.figure(3)
    titled(figure, "Title", "Subtitle", "Source")
    figure.text(0.5, 0.5, "one label", **theme.font())
    figure.text(0.51, 0.5, "another label", **theme.font())
    figure.text(0.97, 0.3, "runs over the edge", **theme.font())
    figure.text(0.1, 0.3, "tiny", fontsize=5, **theme.font())
    axes = figure.add_axes((0.1, 0.1, 0.2, 0.1))
    axes.barh([0, 1], [1, 2], left=[1, 1])
    from golden_almanac.charts import Chart

    found = " ".join(
        Chart(name="x", figure=figure, data=pd.DataFrame(), title="", subtitle="", alternative="").issues()
    )
    for word in ("overlap", "clipped", "smaller than", "does not start at 0"):
        assert word in found


def test_missing_periods_are_gaps_not_noughts() -> None:
    frame = planted()
    frame = frame[(frame["date"] < "2023-04-01") | (frame["date"] > "2023-04-30")]
    scan = ga.scan(frame, measures=["sum(amount)"], kinds=["trend", "seasonality", "shift"])
    assert all(not np.isclose(f.candidate.series["own"], 0).any() for f in scan.findings if "own" in f.candidate.series)
    assert any("holds no rows" in text for text in scan.caveats())


@pytest.mark.parametrize(
    ("measure", "asked"),
    [
        ("sum(revenue)", {"period": "2025-Q1"}),
        ("sum(revenue)", {"period": "2025", "baseline": "2024"}),
        ("avg(on_time)", {"period": "2025-01/2025-09", "baseline": "2023-01/2023-09"}),
        ("sum(revenue) / sum(passengers)", {"period": "last 30 days"}),
        ("count(*)", {"period": "2025-08", "baseline": "previous"}),
    ],
)
def test_every_chart_of_a_change_is_legible_and_adds_up(sailings: Path, measure: str, asked: dict[str, str]) -> None:
    change = ga.explain_change(sailings, measure, **asked)
    one = change.explanation
    drawn = {chart.name.split("-")[0]: chart for chart in change.charts()}
    assert {"change", "bridge", "slope", "series"} <= set(drawn)
    for chart in drawn.values():
        assert chart.issues() == [], chart.name
    steps = drawn["bridge"].to_frame()["value"]
    assert steps.iloc[:-1].sum() == pytest.approx(steps.iloc[-1], rel=1e-9)
    if "rate" in drawn:
        frame = drawn["rate"].to_frame()
        assert frame.iloc[:, 1:].to_numpy().sum() == pytest.approx(one.change, abs=1e-9 * abs(one.value))
    with pytest.raises(ga.RequestError, match="kind of chart"):
        change.chart(kind="pie")


def test_dollars_in_a_label_are_no_formula() -> None:
    labels = ["$x_1$", "$\\frac$"]
    chart = bars(
        name="n", title="$a_1$ and $^$", subtitle="$b_2$", source="$c$", labels=labels, values=[2.0, 1.0],
        highlight="$x_1$", measure=None, by="what", adds_up=True,
    )  # fmt: skip
    assert chart.png()  # which would fail on what is no formula
    texts = [*chart.figure.texts, *chart.figure.axes[0].get_yticklabels(), *chart.figure.axes[0].texts]
    assert not any(text.get_parse_math() for text in texts if text.get_text())


@given(st.lists(st.floats(0, 100), min_size=1, max_size=9))
def test_labels_are_moved_apart_and_keep_their_order(wanted: list[float]) -> None:
    placed = spread_out(wanted, 5.0, 0.0, 100.0)
    order = sorted(range(len(wanted)), key=lambda place: (wanted[place], place))
    heights = [placed[place] for place in order]
    assert all(later - earlier >= 5.0 - 1e-9 for earlier, later in pairwise(heights))
    assert min(heights) >= -1e-9
    assert max(heights) <= 100 + 1e-9
    # Those that are far enough apart stay where they are.
    if all(abs(a - b) >= 5 for a, b in combinations(wanted, 2)) and min(wanted) >= 0:
        assert placed == pytest.approx(wanted)
