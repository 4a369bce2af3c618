"""Tables beside charts say what the marks say, with their total; long ones say how many rows more there are."""

from __future__ import annotations

import numpy as np
import pandas as pd

import golden_almanac as ga
from golden_almanac.export.display_cells import chart_cells, frame_cells
from golden_almanac.text.languages import speaking, voice_of

ROUTES = pd.DataFrame({"route": ["a", "b", "c"], "revenue": [171_449.0, 119_449.0, 108_532.0]})


def test_a_frame_of_its_own_is_shown_figure_by_figure() -> None:
    cells = frame_cells(pd.DataFrame({"who": ["x", "y"], "n": [1234.5678, np.nan], "none": [None, None]}))
    assert cells.heads == ("who", "n", "none")
    assert cells.rows == ((("x", "x"), ("1,235", "1234.5678"), ("", "")), (("y", "y"), ("", ""), ("", "")))
    assert cells.foot == ()


def test_figures_of_bars_are_those_of_the_marks_and_have_a_total() -> None:
    chart = ga.draw(ROUTES, "bars", title="Revenue")
    cells = chart_cells(chart)
    marks = [text.get_text() for text in chart.figure.axes[0].texts]
    assert [row[1][0] for row in cells.rows] == marks
    assert cells.foot[0] == "Total"
    assert sum(int(text.replace(",", "")) for text in marks) == int(cells.foot[1].replace(",", ""))
    # What they are sorted by is the figure itself.
    assert [float(row[1][1]) for row in cells.rows] == sorted(ROUTES["revenue"], reverse=True)


def test_bars_that_do_not_add_up_have_no_total() -> None:
    falling = ROUTES.assign(revenue=[1.0, -2.0, 3.0])
    assert chart_cells(ga.draw(falling, "bars", title="Change")).foot == ()
    assert chart_cells(ga.draw(ROUTES, "line", title="Line")).foot == ()


def test_the_rest_is_counted_and_the_total_stays() -> None:
    many = pd.DataFrame({"route": [f"r{n}" for n in range(30)], "revenue": np.arange(1.0, 31.0)})
    cells = chart_cells(ga.draw(many, "bars", title="Many"))
    first = cells.first(10)
    assert len(first) == 12
    assert first[10] == ["… 20 more", ""]
    assert first[11] == ["Total", "465"]
    with speaking(voice_of("fr")):
        assert chart_cells(ga.draw(many, "bars", title="Beaucoup")).first(10)[-1][0] == "Total"
        assert "20" in chart_cells(ga.draw(many, "bars", title="Beaucoup")).first(10)[10][0]


def test_other_bars_are_the_sum_of_what_they_hold() -> None:
    many = pd.DataFrame({"route": [f"r{n}" for n in range(30)], "revenue": np.arange(1.0, 31.0)})
    chart = ga.draw(many, "bars", title="Many", most=5)
    marks = [int(text.get_text()) for text in chart.figure.axes[0].texts]
    assert marks == [30, 29, 28, 27, 26, sum(range(1, 26))]
    assert sum(marks) == int(chart.total["value"])
