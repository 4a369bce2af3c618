"""Dark paper, letters from right to left, unfinished bars, colours kept, titles held to their data."""

from __future__ import annotations

import io
from itertools import combinations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.charts import theme
from golden_almanac.charts.palette import CATEGORIES, DARK_CATEGORIES, Palette, contrast
from golden_almanac.charts.saved_figure import in_order
from golden_almanac.charts.title_checks import unfounded

from .test_drawn import DEFICIENCIES, _lab

MONTHS = pd.DataFrame({"month": ["Jun", "Jul", "Aug", "Sep"], "revenue": [10.0, 12.0, 15.0, 6.0]})
CROSSED = pd.DataFrame({"route": list("aabb"), "fare": list("xyxy"), "revenue": [4.0, 2.0, 3.0, 1.0]})


def _picture(png: bytes) -> np.ndarray:
    from matplotlib.image import imread

    return np.asarray(imread(io.BytesIO(png), format="png"))[:, :, :3]


def _colours(png: bytes) -> set[str]:
    pixels = np.rint(255 * _picture(png)).astype(int).reshape(-1, 3)
    return {"#" + "".join(f"{part:02X}" for part in one) for one in np.unique(pixels, axis=0)}


@pytest.mark.parametrize("deficiency", sorted(DEFICIENCIES))
def test_dark_categories_differ_for_all_eyes(deficiency: str) -> None:
    labs = {colour: _lab(colour, DEFICIENCIES[deficiency]) for colour in DARK_CATEGORIES}
    for one, other in combinations(DARK_CATEGORIES, 2):
        assert np.linalg.norm(labs[one] - labs[other]) > 20, (one, other)


def test_dark_roles_have_contrast() -> None:
    paper = theme.DARK[theme.PAPER]
    assert all(contrast(colour, paper) >= 3 for colour in DARK_CATEGORIES)
    assert all(contrast(theme.DARK[role], paper) >= 4.5 for role in (theme.INK, theme.QUIET))
    assert set(theme.DARK) >= {
        *CATEGORIES,
        theme.PAPER,
        theme.INK,
        theme.RULE,
        theme.ACCENT,
        theme.CONTEXT,
        theme.QUIET,
    }


@pytest.mark.parametrize("kind", ["line", "bars", "stacked", "grouped", "heat", "dots", "sparks", "card"])
def test_a_chart_turns_dark_and_back(kind: str) -> None:
    frame = CROSSED if kind in ("stacked", "grouped", "heat", "sparks") else MONTHS
    chart = ga.draw(frame, kind, title="Revenue", by="fare" if frame is CROSSED else None)
    before = chart.png()
    dark = _colours(chart.png(dark=True))
    assert theme.DARK[theme.PAPER] in dark
    assert theme.PAPER not in dark or kind == "heat"
    assert theme.INK not in dark
    assert chart.png() == before
    assert theme.DARK[theme.PAPER].lower() in chart.svg(dark=True).lower()


def test_right_to_left_letters_are_drawn_in_reading_order() -> None:
    # Unicode's own examples: letters run from the right, numbers inside them from the left.
    assert in_order("שלום 12") == "12 םולש"
    assert in_order("abc") == "abc"
    assert in_order("سلام") != "سلام"
    frame = pd.DataFrame({"who": ["עברית שלום", "مرحبا", "日本", "😀"], "v": [5.0, 4.0, 3.0, 2.0]})
    chart = ga.draw(frame, "bars", title="שלום")
    assert chart.png() == chart.png()
    assert chart.title == "שלום"
    assert "שלום" in chart.svg(text=True)
    assert chart.issues() == []


def test_an_unfinished_bar_is_hatched_and_said() -> None:
    chart = ga.draw(MONTHS, "bars", title="Revenue", order="given", partial_last=True)
    bars = chart.figure.axes[0].patches
    assert [bool(bar.get_hatch()) for bar in bars] == [False, False, False, True]
    assert "unfinished" in chart.subtitle


def test_a_label_keeps_its_colour_from_chart_to_chart() -> None:
    palette = ga.Palette({"x": "#123456"})
    ga.draw(CROSSED, "stacked", title="One", by="fare", colours=palette)
    other = CROSSED.assign(fare=["y", "z", "y", "z"])
    chart = ga.draw(other, "grouped", title="Two", by="fare", colours=palette)
    given = palette.colour("y")
    from matplotlib.colors import to_hex

    drawn = {to_hex(bar.get_facecolor()).upper() for bar in chart.figure.axes[0].patches}
    assert drawn == {given, palette.colour("z")}
    plain = ga.draw(CROSSED.assign(who=["x", "p", "q", "r"]), "bars", x="who", title="Three", colours=palette)
    assert to_hex(plain.figure.axes[0].patches[0].get_facecolor()).upper() == "#123456"
    with pytest.raises(ga.RequestError, match="colour"):
        Palette({"x": "blue"})


@pytest.mark.parametrize(
    ("title", "wrong"),
    [
        ("August made 15 million", []),
        ("August made 16.2 million", ["16.2"]),
        ("August is 25% above July", []),
        ("August is 31% above July", ["31"]),
        ("August made 35% of all", []),
        ("August made 48% of all", ["48"]),
        ("Three months made 37 of 43", []),
        ("Since 14 March 2024 things are well", []),
        ("Seit 2024 sind es 12,0 Mio.", []),
    ],
)
def test_numbers_of_a_title_are_those_of_the_data(title: str, wrong: list[str]) -> None:
    chart = ga.draw(MONTHS, "bars", title=title)
    assert unfounded(chart) == wrong
    assert bool([one for one in chart.issues() if "title says" in one]) == bool(wrong)


def test_a_missing_font_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    with pytest.raises(ga.OutputError, match=r"font Lost\.ttf.*Install the package again"):
        theme.font_file("Lost.ttf")


def test_colours_are_held_to_their_categories() -> None:
    chart = ga.draw(CROSSED, "stacked", title="One", by="fare")
    assert chart.issues() == []
    # The key says one colour, a bar another; and then two categories have one.
    bar = next(mark for mark in chart.marks if mark.category == "x")
    bar.artist.set_facecolor(CATEGORIES[4])
    assert chart.issues() == ["'x' is drawn in 2 colours"]
    for one in (*chart.figure.axes[0].patches, *chart.figure.patches):
        one.set_facecolor(CATEGORIES[4])
    assert "'x' and 'y' are drawn in one colour" in " ".join(chart.issues())


def test_colours_are_held_to_those_of_other_charts() -> None:
    first = ga.draw(CROSSED, "stacked", title="One", by="fare", colours={"x": "#123456"})
    second = ga.draw(CROSSED, "line", x="route", title="Two", by="fare", colours={"x": "#654321"})
    assert second.issues() == []
    assert second.issues([first]) == ["'x' has another colour than in the chart 'One'"]


def test_a_report_is_held_to_one_colour_a_category(demo_scan: ga.Scan) -> None:
    report = demo_scan.report()
    assert report.issues() == []
    one, other = (
        ga.draw(CROSSED, "stacked", title="Fares", by="fare", colours={"x": c}) for c in ("#123456", "#654321")
    )
    assert report.chart(one).chart(other).issues() == ["Fares: 'x' has another colour than in the chart 'Fares'"]


LONG = "The long crossing to the Outer Isles by night"


@pytest.mark.parametrize(
    "kind", ["bars", "diverging", "stacked", "grouped", "heat", "crosstab", "dots", "box", "sparks"]
)
def test_long_labels_wrap(kind: str) -> None:
    frame = pd.DataFrame({"route": [LONG, LONG, "Hop", "Hop"], "fare": list("xyxy"), "v": [5.0, 3.0, 4.0, 2.0]})
    by = "fare" if kind in ("stacked", "grouped", "heat", "crosstab", "sparks") else None
    chart = ga.draw(frame if by or kind == "box" else frame.iloc[1:3], kind, title="Long names", by=by)
    texts = [
        text.get_text()
        for axes in chart.figure.axes
        for text in (*axes.get_yticklabels(), *axes.texts)
        if "crossing" in text.get_text()
    ]
    assert [" ".join(text.split("\n")) for text in texts] == [LONG]
    assert texts[0].count("\n") == 1
    assert chart.issues() == []


def test_names_at_the_ends_of_lines_wrap_and_keep_apart() -> None:
    frame = pd.DataFrame({"month": ["a", "b", "c"], LONG: [1.0, 2.0, 3.0], LONG + " again": [1.0, 2.0, 3.01]})
    chart = ga.draw(frame, "line", title="Long names")
    assert sum("\n" in text.get_text() for text in chart.figure.axes[0].texts) == 2
    assert chart.issues() == []


def test_a_name_of_ten_thousand_letters_is_cut() -> None:
    frame = pd.DataFrame({"r": ["x" * 10_000, "word " * 2_000, "ok"], "v": [1.0, 2.0, 3.0]})
    chart = ga.draw(frame, "bars", title="Names")
    shown = [text.get_text() for text in chart.figure.axes[0].get_yticklabels()]
    assert all(len(line) <= 28 for text in shown for line in text.split("\n"))
    assert sum(text.endswith("…") for text in shown) == 2
    assert chart.issues() == []


def test_long_heads_of_tiles_wrap() -> None:
    heads = ["Early morning return", "Day", "Night with cabin"]
    frame = pd.DataFrame({"route": np.repeat(["a", "b"], 3), "fare": heads * 2, "v": [5.0, 3.0, 4.0, 2.0, 3.0, 1.0]})
    chart = ga.draw(frame, "crosstab", title="Heads", by="fare")
    shown = [text.get_text() for text in chart.figure.axes[0].get_xticklabels()]
    assert [text.replace("\n", " ") for text in shown] == heads
    assert chart.issues() == []
