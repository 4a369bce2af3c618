"""Tables and lines for the terminal: columns add up as they are shown, heads in the reader's language."""

from __future__ import annotations

import re
from pathlib import Path

import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.text.text_tables import TextTable

from .test_consistent_rounding import read


def column(table: TextTable, head: str) -> tuple[list[float], float]:
    """The figures of a column, and its total."""
    place = table.heads.index(head)
    texts = [row[place] for row in table.rows if row[place] not in ("", "–")]
    return [read(text) for text in texts], read(table.total[place])


@pytest.mark.parametrize("period", ["2025-Q1", "2025-Q3", "2025-08"])
def test_contributions_add_up_as_shown(sailings: Path, period: str) -> None:
    change = ga.explain_change(sailings, "sum(revenue)", period=period, baseline="year-ago")
    for table in change.tables(5):
        for head in ("baseline", "value", "contribution", "share of change"):
            parts, total = column(table, head)
            assert sum(parts) == pytest.approx(total, rel=1e-12, abs=1e-9), (table.title, head)
        for row in table.rows:
            before, now, moved = (read(row[place]) for place in (1, 2, 3))
            assert before + moved == pytest.approx(now, rel=1e-12)
        assert len(table.rows) <= 6
        assert str(table).count("\n") == len(table.rows) + 2


def test_rate_and_mix_add_up_as_shown(sailings: Path) -> None:
    change = ga.explain_change(sailings, "avg(on_time)", period="2025-Q1", baseline="year-ago")
    for table in change.tables(4):
        for head in ("contribution", "rate", "mix"):
            parts, total = column(table, head)
            assert sum(parts) == pytest.approx(total, abs=1e-9), (table.title, head)
        places = [table.heads.index(head) for head in ("contribution", "rate", "mix")]
        for row in (*table.rows, table.total):
            contribution, rate, mix = (read(row[place]) if row[place] != "–" else 0.0 for place in places)
            assert rate + mix == pytest.approx(contribution, abs=1e-9)
    rate = change.tables(4)[0]
    assert rate.total[-1] == "100%"


def test_a_chart_says_what_the_table_says(sailings: Path) -> None:
    change = ga.explain_change(sailings, "sum(revenue)", period="2025-Q3", baseline="year-ago")
    table = next(one for one in change.tables(20) if one.heads[0] == "route")
    chart = change.chart("route")
    assert list(chart.shown["value"]) == [row[3] for row in table.rows]
    assert chart.total["value"] == table.total[3]
    bridge = change.chart(kind="bridge")
    start, *steps, end = (read(text) for text in bridge.shown["value"])
    assert start + sum(steps) == pytest.approx(end, rel=1e-12)


def test_shares_of_a_crosstab_make_a_hundred() -> None:
    frame = pd.DataFrame({"who": list("aaabbb"), "what": list("xyzxyz"), "n": [1.0, 1.0, 1.0, 5.0, 3.0, 1.0]})
    chart = ga.draw(frame, "crosstab", title="Shares", by="what")
    texts = [text.get_text() for text in chart.figure.axes[0].texts]
    assert [sum(read(text) for text in texts[row : row + 3]) for row in (0, 3)] == [
        pytest.approx(100.0),
        pytest.approx(100.0),
    ]
    shares = ga.draw(frame, "shares", title="Shares", by="what")
    told = [read(text.get_text()) for text in shares.figure.axes[0].texts if text.get_text().endswith("%")]
    assert sum(told) == pytest.approx(200.0)


@pytest.mark.parametrize(
    ("language", "heads"),
    [
        ("de", ("Basis", "Wert", "Beitrag", "Anteil der Änderung")),
        ("es", ("base", "valor", "contribución", "parte del cambio")),
        ("fr", ("base", "valeur", "contribution", "part de la variation")),
    ],
)
def test_heads_are_in_the_language(sailings: Path, language: str, heads: tuple[str, ...]) -> None:
    change = ga.explain_change(sailings, "sum(revenue)", by=["route"], locale=language)
    assert change.tables()[0].heads[1:] == heads


def test_several_changes_stand_beside_each_other(sailings: Path) -> None:
    story = ga.explain_changes(
        sailings, ["sum(revenue)", "avg(delay_min)"], period="2025-Q3", baseline=["previous", "year-ago"]
    )
    (table,) = story.tables()
    assert table.heads[:3] == ("measure", "baseline", "verdict")
    assert len(table.rows) == 4
    assert table.rows[0][0] == "sum(revenue)"


def test_lines_of_a_scan(demo_scan: ga.Scan) -> None:
    told = [str(one) for one in demo_scan.lines(3)]
    assert told[0] == demo_scan.summary().headline
    assert "What to do next" in told
    heads = [line for line in told if re.match(r" \d  [█░]{10} ", line)]
    assert len(heads) == 3
    left = len(demo_scan.findings) - 3
    assert told[-1].strip().startswith(f"{left} more with --top {len(demo_scan.findings)}; ")
    german = [str(one) for one in demo_scan.in_language("de").lines(3)]
    assert "Was als Nächstes zu tun ist" in german
    assert german[-1].strip().startswith(f"{left} weitere mit --top")
    everything = [str(one) for one in demo_scan.in_language("fr").lines(everything=True)]
    assert sum(line.startswith("      · ") for line in everything) == len(demo_scan.folded)
    assert not [line for line in everything if "follows from" in line or "the same" in line]


def test_verdicts_stand_behind_findings(sailings: Path) -> None:
    scan = ga.scan(sailings, measures=["avg(delay_min)"], by=["route"], better={"avg(delay_min)": "down"}, locale="es")
    text = "\n".join(map(str, scan.lines()))
    assert "Es para peor." in text or "Es para mejor." in text


def test_comparisons_drivers_and_models_as_tables(sailings: Path) -> None:
    table = ga.read(sailings)
    crossed = ga.compare(table, "fare_class", "channel").tables()[0]
    total = [int(text.replace(",", "")) for text in crossed.total[1:]]
    assert sum(total[:-1]) == total[-1]
    for place in range(1, len(crossed.heads)):
        assert sum(int(row[place].replace(",", "")) for row in crossed.rows) == total[place - 1]
    groups, pairs = ga.compare(table, "delay_min", "region").tables()
    assert groups.rows[-1][0] == "all sailings"
    assert pairs.heads[-1] == "p, corrected"
    drivers = ga.find_drivers(table, "delay_min", ["route", "passengers"])
    assert drivers.tables()[0].rows[0][0] == "route"
    fit = ga.regress(table, "fuel_cost", ["capacity"])
    assert [row[0] for row in fit.tables()[0].rows] == ["intercept", "capacity"]
    assert fit.fit_line().startswith("25,")
    (averages,) = ga.relate(table, "passengers", "revenue").tables()
    assert averages.heads == ("passengers", "revenue", "sailings")
    model = ga.model_outcome(table, "on_time", ["route", "vessel"], kind="tree")
    judged, rules = model.tables()
    assert judged.rows[-1][0] == "base rate"
    assert all(row[0] for row in rules.rows)
