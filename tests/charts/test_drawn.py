"""Any frame as any kind of chart: legible, or a sentence; colours that all eyes tell apart; wishes held to what there
is."""

from __future__ import annotations

from itertools import combinations
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.api.draw import chart_kinds, gallery
from golden_almanac.charts import theme
from golden_almanac.charts.palette import CATEGORIES, OTHER, Palette, contrast

RNG = np.random.default_rng(3)
SMALL = pd.DataFrame(
    {
        "who": ["a", "b", "c"] * 4,
        "what": ["x"] * 3 + ["y"] * 3 + ["z"] * 3 + ["v"] * 3,
        "one": RNG.gamma(2, 10, 12).round(1),
        "two": RNG.gamma(2, 10, 12).round(1),
    }
)
HOSTILE = {
    "one row": SMALL.head(1),
    "all equal": SMALL.assign(one=5.0, two=5.0),
    "all missing": SMALL.assign(one=np.nan, two=np.nan),
    "negative": SMALL.assign(one=-SMALL["one"]),
    "fifteen orders": SMALL.assign(one=10.0 ** np.linspace(-7, 8, 12), two=10.0 ** np.linspace(8, -7, 12)),
    "long labels": SMALL.assign(who=["w" * 10_000, "a long label of many words " * 40, "c"] * 4),
    "odd labels": SMALL.assign(who=["=1+1", "<b>$x$</b>", "עברית"] * 4, what=["{{ x }}", "\u202egnp", "tab\there"] * 4),
    "infinite": SMALL.assign(one=[np.inf, -np.inf, *range(10)]),
    "many labels": pd.concat([SMALL.assign(who=SMALL["who"] + str(i)) for i in range(14)]),
}


@pytest.mark.parametrize("shape", sorted(HOSTILE))
@pytest.mark.parametrize("kind", chart_kinds())
@pytest.mark.filterwarnings("ignore:Glyph")
def test_every_kind_draws_or_says_why_not(kind: str, shape: str) -> None:
    frame = HOSTILE[shape]
    before = frame.copy()
    by = "what" if kind in ("grouped", "stacked", "shares", "heat", "crosstab", "triangle", "sparks") else None
    y = None if kind == "scatter" else "one"
    chart = ga.draw(frame, kind, title="What this is about", source="Source: made up", x=None, y=y, by=by)
    assert chart.png().startswith(b"\x89PNG")
    assert chart.alternative
    assert [issue for issue in chart.issues() if "smaller" not in issue and "overlap" not in issue] == []
    pd.testing.assert_frame_equal(frame, before)


@pytest.mark.parametrize("kind", chart_kinds())
def test_no_rows_is_a_sentence(kind: str) -> None:
    chart = ga.draw(SMALL.head(0), kind, title="Nothing yet")
    assert "no rows" in chart.alternative


def test_the_gallery_is_legible_and_complete(sailings: Path) -> None:
    charts = gallery(sailings)
    assert {chart.name.split("-")[0] for chart in charts} == set(chart_kinds())
    for chart in charts:
        assert chart.issues() == [], chart.name
    assert gallery(sailings)[2].svg() == charts[2].svg()


def test_figures_drawn_are_those_given() -> None:
    frame = pd.DataFrame({"route": ["A", "B", "C"], "revenue": [3.0, 1.0, 2.0]})
    chart = ga.draw(frame, "bars", title="A leads", unit="k", highlight="A")
    assert chart.to_frame()["value"].tolist() == [3.0, 2.0, 1.0]
    texts = [text.get_text() for text in chart.figure.axes[0].texts]
    assert texts == ["3k", "2k", "1k"]
    assert all(bar.get_x() == 0 for bar in chart.figure.axes[0].patches)
    folded = ga.draw(pd.DataFrame({"l": [f"L{i}" for i in range(30)], "v": range(30)}), "bars", most=8)
    assert any("other (22)" in tick.get_text() for tick in folded.figure.axes[0].get_yticklabels())


def test_gaps_are_gaps_and_the_unfinished_is_hollow() -> None:
    frame = pd.DataFrame({"month": list("abcdef"), "value": [1.0, 2, None, 4, 5, 3]})
    chart = ga.draw(frame, "line", title="A gap", partial_last=True)
    line = chart.figure.axes[0].lines[0].get_ydata()
    assert np.isnan(line[2])
    assert np.isnan(line[-1])
    assert "hollow: unfinished" in chart.subtitle


@pytest.mark.parametrize(
    ("wishes", "message"),
    [
        ({"kind": "pie"}, "one of bars, box"),
        ({"x": "whom"}, "Did you mean 'who'"),
        ({"y": "who"}, "no numbers"),
        ({"order": "size"}, "value, label, given"),
        ({"colours": {"a": "red"}}, "written as #RRGGBB"),
        ({"size": (500, 3)}, "inches"),
    ],
)
def test_wishes_that_cannot_be_met(wishes: dict, message: str) -> None:
    with pytest.raises(ga.AlmanacError, match=message):
        ga.draw(SMALL, **wishes)


def test_wishes_are_kept() -> None:
    chart = ga.draw(SMALL, "stacked", by="what", y="one", colours={"x": "#123456"}, size=(6, 4), order="label")
    assert tuple(chart.figure.get_size_inches()) == (6, 4)
    assert any(
        tuple(round(255 * part) for part in bar.get_facecolor()[:3]) == (0x12, 0x34, 0x56)
        for bar in chart.figure.axes[0].patches
    )


#: Machado, Oliveira & Fernandes 2009, severity 1: what the three deficiencies make of linear RGB.
DEFICIENCIES = {
    "none": np.eye(3),
    "protanopia": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "deuteranopia": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
    ),
    "tritanopia": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
    ),
}


def _lab(colour: str, matrix: np.ndarray) -> np.ndarray:
    rgb = np.array([int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    linear = np.clip(matrix @ linear, 0, 1)
    to_xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
    xyz = to_xyz @ linear / np.array([0.9505, 1.0, 1.089])
    f = np.where(xyz > 0.008856, np.cbrt(xyz), 7.787 * xyz + 16 / 116)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


@pytest.mark.parametrize("deficiency", sorted(DEFICIENCIES))
def test_categories_differ_for_all_eyes(deficiency: str) -> None:
    labs = {colour: _lab(colour, DEFICIENCIES[deficiency]) for colour in CATEGORIES}
    for one, other in combinations(CATEGORIES, 2):
        assert np.linalg.norm(labs[one] - labs[other]) > 10, (one, other)


def test_contrast_and_keeping_of_colours() -> None:
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21)
    assert all(contrast(colour, theme.PAPER) >= 3 for colour in (*CATEGORIES, OTHER))
    assert all(contrast(colour, theme.PAPER) >= 4.5 for colour in (theme.INK, theme.QUIET))
    palette = Palette({"Tern": "#123456"})
    first = palette.colours(["Gannet", "Tern", "Puffin"])
    assert palette.colours(["Puffin", "Gannet"]) == [first[2], first[0]]
    assert first[1] == "#123456"
    assert len(set(first)) == 3
    assert palette.colour("other (4)") == OTHER


@pytest.mark.parametrize("kind", ["bars", "diverging", "stacked", "grouped", "shares", "crosstab", "heat"])
@pytest.mark.parametrize("values", [[1e-300, 1e300, 1.0], [5e-324, 1.0, 2.0], [0.0, -0.0, 0.0], [1e15, 1.0, 1e-3]])
def test_figures_of_any_size_are_drawn(kind: str, values: list[float]) -> None:
    frame = pd.DataFrame({"a": list("xyz"), "b": list("ppq"), "v": values})
    by = "b" if kind in ("stacked", "grouped", "shares", "crosstab", "heat") else None
    chart = ga.draw(frame, kind, title="Sizes", by=by)
    assert chart.png()
    assert [text for text in chart.issues() if "every bar is empty" not in text] == []
