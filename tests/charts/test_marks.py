"""Marks stand for the figures that they are drawn by, whatever the kind of chart; sources give the figures they are
for."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.api.draw import chart_kinds
from golden_almanac.charts import Chart, draw
from golden_almanac.charts.figure_sources import Cell, Source, change, largest, mean, row_of, that_give, total
from golden_almanac.charts.marks import lit_rows
from golden_almanac.export.office_parts import native, subtitle
from golden_almanac.export.pointer_marks import overlay
from golden_almanac.text.languages import leaves

CROSSED = pd.DataFrame({"route": ["a", "a", "b", "b"], "fare": ["x", "y"] * 2, "v": [5.0, 7.0, 9.0, 2.0]})
MONTHS = pd.DataFrame({"month": [f"2025-{m:02d}-01" for m in range(1, 7)], "v": [5.0, 7.0, 9.0, 2.0, 8.0, 4.0]})


def drawn_as(chart: Chart) -> list[tuple[float, float]]:
    """(what a mark measures on the paper, the figure that it stands for)."""
    pairs = []
    for mark in chart.marks:
        values = chart.data[mark.column].to_numpy(dtype=float) if mark.column else []
        if mark.column and mark.row is None:
            heights = np.asarray(mark.artist.get_ydata(), dtype=float)
            pairs += [(a, b) for a, b in zip(heights, values, strict=True) if np.isfinite(a)]
        elif mark.column and hasattr(mark.artist, "get_width"):
            pairs.append((float(mark.artist.get_width()), float(values[mark.row])))
        elif mark.column:
            pairs.append((float(mark.artist.get_xdata()[0]), float(values[mark.row])))
    return pairs


@pytest.mark.parametrize("kind", [kind for kind in chart_kinds() if kind != "scatter"])
def test_a_mark_is_as_long_as_its_figure(kind: str) -> None:
    by = "fare" if kind in ("grouped", "stacked") else None
    chart = ga.draw(CROSSED if by else MONTHS, kind, title="What there is", by=by)
    pairs = drawn_as(chart)
    if kind == "shares":
        # All of a bar is its whole; what it stands for is the amount.
        pairs = [(value, value) for _, value in pairs]
    assert all(size == pytest.approx(value) for size, value in pairs)
    if kind in ("bars", "diverging", "line", "dots", "grouped", "stacked", "shares"):
        assert len(pairs) == len(chart.data)
        assert overlay(chart).count('class="mark"') == len(pairs)


def test_the_marks_of_findings_are_their_data(demo_scan: ga.Scan) -> None:
    seen = 0
    for section in demo_scan.report().model.sections:
        assert section.chart is not None
        pairs = drawn_as(section.chart)
        assert all(size == pytest.approx(value) for size, value in pairs)
        seen += bool(pairs)
    assert seen >= 10


def test_a_native_chart_lights_what_the_picture_lights() -> None:
    frame = pd.DataFrame({"port": list("abcdefghijklmn"), "v": [float(v) for v in range(14, 0, -1)]})
    chart = ga.draw(frame, "bars", title="Ports", highlight=["c"])
    data = native(chart)
    assert data is not None
    # The picture folds the last labels into one bar, the native chart has them all.
    assert [label for label, lit in zip(data.categories, data.marked, strict=True) if lit] == ["c"]
    assert lit_rows(chart.marks) == {2}
    unfinished = ga.draw(MONTHS, "bars", title="Months", order="given", partial_last=True, subtitle="Revenue")
    assert "unfinished" in unfinished.subtitle
    assert subtitle(unfinished) == "Revenue"


def test_what_cells_give_is_what_plain_sums_give() -> None:
    data = pd.DataFrame({"who": list("abc"), "v": [4.0, 6.0, 10.0]})

    class At:
        def cell(self, column: str, row: int) -> str:
            return f"{column}{row}"

        def span(self, column: str, first: int, past: int) -> str:
            return f"{column}{first}:{column}{past - 1}"

    share = Cell("v", 0) / total("v", 0, 3)
    assert (share.value(data), share.formula(At())) == (0.2, "(v0/SUM(v0:v2))")
    grown = change(Cell("v", 2), Cell("v", 0), data)
    assert (grown.term.value(data), grown.term.formula(At())) == (150.0, "(100*((v2-v0)/v0))")
    assert [(a.formula(At()), b.formula(At())) for a, b in grown.holds] == [("v2", "v0")]
    fallen = change(Cell("v", 0), Cell("v", 2), data, percent=False)
    assert fallen.term.value(data) == -6.0
    assert [a.formula(At()) for a, _ in fallen.holds] == ["v2"]
    assert (mean("v", 0, 2) + largest("v", 0, 3)).value(data) == 15.0
    assert (row_of(data, "b"), row_of(data, "d")) == (1, None)
    assert row_of(pd.DataFrame({"who": ["a", "a"], "v": [1.0, 2.0]}), "a") is None
    both = {"share": Source(share), "other": Source(share), "gone": Source(share)}
    assert list(that_give(both, data, {"share": 0.2, "other": 0.21}.get)) == ["share"]


def test_sources_of_findings_give_their_figures(demo_scan: ga.Scan) -> None:
    kinds = set()
    for finding in demo_scan.findings:
        chart, figures = draw(finding, demo_scan.result.survey), leaves(finding.figures)
        for path, source in chart.sources.items():
            assert source.term.value(chart.data) == pytest.approx(figures[path], rel=1e-9)
            assert all(a.value(chart.data) >= b.value(chart.data) for a, b in source.holds)
        kinds |= {finding.kind} if chart.sources else set()
    assert kinds >= {"trend", "shift", "seasonality", "ranking", "difference", "outlier", "spike"}


def test_the_others_drawn_are_the_others_said(demo_scan: ga.Scan) -> None:
    """A vessel that began meanwhile belongs to "the other vessels" in the sentence and in the line alike."""
    steps = [one for one in demo_scan.findings if one.kind == "shift" and one.where.conditions]
    assert any(("vessel", "Puffin") in one.where.conditions for one in steps)
    for finding in steps:
        assert "rest_change_pct" in draw(finding, demo_scan.result.survey).sources, finding.headline
