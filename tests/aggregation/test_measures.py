"""Measures: parsed, taken apart, and equal to what SQL makes of them."""

from __future__ import annotations

from pathlib import Path

import pytest

import golden_almanac as ga
from golden_almanac.aggregation.measures import parse_measure
from golden_almanac.analysis.scan_pipeline import survey_of

ALL = [
    "sum(price)",
    "avg(price)",
    "count(*)",
    "count(units)",
    "count(distinct item)",
    "min(price)",
    "max(units)",
    "sum(price * units)",
    "sum(price * units) / sum(units)",
    "100.0 * sum(units) / count(*)",
    "sum(price) - sum(units)",
    "(sum(price) + sum(units)) / count(*)",
    "avg(sold)",
    "sum(case when price > 3 then 1 else 0 end) / count(*)",
    "sum(units) / nullif(sum(price), 0)",
    "-sum(units)",
    "avg(price) * 2",
    "sum(price) as turnover",
    "sum(units) / 2",
]


@pytest.mark.parametrize("text", ALL)
def test_cells_agree_with_sql(shop: Path, text: str) -> None:
    table = ga.read(shop)
    measure = parse_measure(text, table)
    survey = survey_of(table, measures=[text], by=["item"], time=None, grain=None)
    cells = survey.cells("item")
    values = dict(zip(cells.labels[0], cells.value(measure).tolist(), strict=True))
    for label, value in values.items():
        where = "item IS NULL" if label is None else f"item = '{label}'"
        wanted = table.sql(f"SELECT CAST({measure.sql} AS DOUBLE) AS v FROM source WHERE {where}")["v"][0]
        assert value == pytest.approx(wanted, nan_ok=True), label


@pytest.mark.parametrize(
    ("text", "kind", "label"),
    [
        ("sum(price)", "additive", "price"),
        ("price", "ratio", "price"),
        ("units", "additive", "units"),
        ("sold", "mean", "sold rate"),
        ("count(*)", "additive", "rows"),
        ("count(distinct item)", "other", "distinct item"),
        ("sum(price) / sum(units)", "ratio", "price per unit"),
        ("sum(price) as turnover", "additive", "turnover"),
        ("max(units)", "other", "highest units"),
    ],
)
def test_kinds_and_labels(shop: Path, text: str, kind: str, label: str) -> None:
    measure = parse_measure(text, ga.read(shop))
    assert (measure.kind, measure.label) == (kind, label)


def test_a_mean_of_ratios_is_never_taken(shop: Path) -> None:
    # tea: 2.5·4 + 2.5·6 + 3·2 = 31 over 12 units; the mean of the row prices would be 2.67.
    table = ga.read(shop)
    survey = survey_of(table, measures=["sum(price * units) / sum(units)"], by=["item"], time=None, grain=None)
    cells = survey.cells("item")
    assert cells.value(survey.measures[0])[cells.labels[0].index("tea")] == pytest.approx(31 / 12)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("sum(prise)", "Did you mean 'price'"),
        ("sum(price", "not SQL"),
        ("price + 1", "not an aggregate"),
        ("avg(sum(price))", "inside"),
        ("sum(distinct price)", "DISTINCT"),
        ("sum(price) over ()", "a window"),
        ("median(price)", "median"),
        ("item", "holds text"),
        ("sum(price); select 1", "more than one"),
        ("sum(random())", "the function"),
        ("sum((select 1))", "a query"),
        ("min(price) + max(price)", "do not add up"),
        ("", "is empty"),
    ],
)
def test_what_is_no_measure_is_refused(shop: Path, text: str, words: str) -> None:
    with pytest.raises(ga.AlmanacError, match=words):
        parse_measure(text, ga.read(shop))
