"""Tables to print: every cell, subtotal and total is what a query of its own gives."""

from __future__ import annotations

import json
from pathlib import Path

import duckdb
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga

from ..commands import run

TRADE = pd.DataFrame(
    [
        ("2024-01-10", "North", "Oslo", "tea", 10.0, 2), ("2024-02-11", "North", "Bergen", "cake", 20.0, 1),
        ("2024-03-12", "South", "Rome", "tea", 40.0, 8), ("2025-01-10", "North", "Oslo", "tea", 15.0, 5),
        ("2025-02-11", "South", "Rome", "cake", 60.0, 2), ("2025-03-31", "South", "Bari", "tea", 5.0, 5),
    ],
    columns=["day", "region", "town", "item", "sales", "units"],
).astype({"day": "datetime64[ns]"})  # fmt: skip


def test_an_example_worked_by_hand() -> None:
    found = ga.table_of(TRADE, "region", ["2024-Q1", "2025-Q1"], "sum(sales)")
    printed = found.tables()[0]
    assert printed.heads == ("Region", "Q1 2024", "Q1 2025", "Change", "Change in %")
    # North: 30 then 15; South: 40 then 65, which moved more.
    assert printed.rows == (("South", "40", "65", "+25", "+62%"), ("North", "30", "15", "−15", "−50%"))
    assert printed.total == ("Total", "70", "80", "+10", "+14%")
    assert found.headline == ("Sales: South moved most, 25 up from Q1 2024 to Q1 2025.")


def test_rates_of_all_are_those_of_all_rows() -> None:
    found = ga.table_of(TRADE, ["region", "town"], "item", "sum(sales) / sum(units)")
    printed = found.tables()[0]
    rows = {row[0].strip(): row[1:] for row in printed.rows}
    assert [row[0].startswith("\u2003") for row in printed.rows] == [False, True, True, False, True, True]
    assert rows["North"][-1] == "5.625"  # 45 over 8, no average of averages
    assert rows["Bergen"] == ("20", "–", "20")
    assert printed.total[-1] == "6.522"


def test_the_others_stand_together_and_shares_add_up() -> None:
    printed = ga.table_of(TRADE, "town", None, "sum(sales)", top=2, shares=True).tables()[0]
    assert printed.rows == (("Rome", "100", "67%"), ("Oslo", "25", "17%"), ("2 others", "25", "17%"))
    assert printed.total == ("Total", "150", "100%")


def test_the_others_of_rates_are_worked_out_from_their_rows() -> None:
    printed = ga.table_of(TRADE, "town", "item", "sum(sales) / sum(units)", top=1).tables()[0]
    first, rest = printed.rows
    # Bergen 20 over 1; of the others tea is 70 over 20, cake 60 over 2.
    assert (first[0], first[1]) == ("Bergen", "20")
    assert rest == ("3 others", "30", "3.500", "5.909")
    nested = ga.table_of(TRADE, ["region", "town"], None, "sum(sales)", top=1).tables()[0]
    assert [row[0].strip() for row in nested.rows] == ["South", "Rome", "1 other", "North", "Oslo", "1 other"]
    assert [row[1] for row in nested.rows] == ["105", "100", "5", "45", "25", "20"]


def test_months_down_and_years_across() -> None:
    days = pd.date_range("2022-01-01", "2024-06-30")
    frame = pd.DataFrame(
        {"day": days, "site": "A", "sales": [float(day.month * (1 + (day.year == 2023))) for day in days]}
    )
    found = ga.table_of(frame, "month", "year", "sum(sales)")
    printed = found.tables()[0]
    assert printed.heads == ("Period", "2022", "2023", "2024 (part)")
    assert [row[0] for row in printed.rows][:2] == ["January", "February"]
    assert printed.rows[11] == ("December", "372", "744", "–")
    # Months of which there are three and months of which there are two are not added up beside each other.
    assert found.headline == "Sales, 2023: December is highest with 744."
    assert ga.table_of(frame, "quarter", "year", "sum(sales)").tables()[0].rows[3][0] == "Q4"
    told = ga.read(frame).sql(found.sql)
    assert told["sum(sales)"].sum() == pytest.approx(frame["sales"].sum())
    german = found.in_language("de").tables()[0]
    assert german.rows[0][0] == "Januar"


def test_what_was_planned_is_no_part_of_the_sum() -> None:
    both = pd.concat([TRADE.assign(scenario="Actual"), TRADE.assign(scenario="Budget", sales=TRADE["sales"] * 3)])
    found = ga.table_of(both, "region", None, "sum(sales)")
    assert found.tables()[0].total == ("Total", "150")
    assert any("Budget" in text for text in found.caveats())
    # Told apart they stand beside each other.
    beside = ga.table_of(both, "region", "scenario", "sum(sales)").to_frame()
    assert beside[beside["region"].isna()]["value"].tolist() == [450.0, 150.0]
    # The same of a total, and of what members bring.
    assert ga.total(both, "sum(sales)").value == 150.0
    assert any("Budget" in text for text in ga.total(both, "sum(sales)").caveats())
    assert ga.total(both, "count(*)").value == 12
    brought = ga.cohorts(both, "town", "day", measure="sum(sales)").to_frame()
    assert brought["value"].sum() <= 150.0


def test_one_statement_gives_the_cells_of_all_spans() -> None:
    found = ga.table_of(TRADE, "region", ["2024-Q1", "2025-Q1"], ["sum(sales)", "sum(units)"])
    told = ga.read(TRADE).sql(found.sql)
    cells = found.to_frame().dropna(subset=["region"])
    for _, row in cells.iterrows():
        own = told[(told["span"] == row["column"]) & (told["region"] == row["region"])]
        assert own[row["measure"]].iloc[0] == row["value"]


def test_a_year_that_is_not_over_is_marked_and_set_against_none() -> None:
    days = pd.date_range("2023-01-01", "2025-04-20")
    frame = pd.DataFrame({"day": days, "site": ["A", "B"] * (len(days) // 2) + ["A"] * (len(days) % 2), "sales": 1.0})
    found = ga.table_of(frame, "site", ["2024", "2025"], "sum(sales)")
    assert found.tables()[0].heads == ("Site", "2024", "2025 (part)")
    assert "Not all of the data of 2025 are there." in found.caveats()
    # Without a change the value of the last year that is over is what matters.
    assert found.headline.startswith("Sales, 2024: A is highest")
    with pytest.raises(ga.RequestError, match="that are over"):
        ga.table_of(frame, "site", ["2024", "2025"], "sum(sales)", order="change")
    assert ga.table_of(frame, "site", "year", "sum(sales)").tables()[0].heads[-2:] == ("2025 (part)", "Total")


def test_levels_are_those_of_the_last_moment() -> None:
    months = pd.date_range("2024-01-31", periods=12, freq="ME")
    frame = pd.DataFrame(
        [(month, "AB"[size - 1], 100.0 * size + at) for at, month in enumerate(months) for size in (1, 2)],
        columns=["month", "branch", "closing_balance"],
    )  # fmt: skip
    found = ga.table_of(frame, "branch", "quarter", "sum(closing_balance)")
    printed = found.tables()[0]
    assert [row[1:5] for row in printed.rows] == [("202", "205", "208", "211"), ("102", "105", "108", "111")]


rows = st.lists(
    st.tuples(st.integers(0, 700), st.sampled_from("abc"), st.sampled_from("xyz"), st.integers(-50, 90)),
    min_size=4,
    max_size=40,
)


@settings(max_examples=30)
@given(rows=rows)
def test_every_cell_is_what_an_independent_query_gives(rows: list[tuple[int, str, str, int]]) -> None:
    frame = pd.DataFrame(rows, columns=["offset", "one", "two", "amount"])
    frame["day"] = pd.Timestamp("2023-01-01") + pd.to_timedelta(frame["offset"], unit="D")
    found = ga.table_of(frame[["day", "one", "two", "amount"]], "one", "two", ["sum(amount)", "avg(amount)"])
    cells = found.to_frame().astype(object)
    cells = cells.where(cells.notna(), None)
    told = {(row["one"], row["column"], row["measure"]): row["value"] for _, row in cells.iterrows()}
    for one, two, total, mean in duckdb.sql(
        "SELECT one, two, sum(amount), avg(amount) FROM frame GROUP BY GROUPING SETS ((1, 2), (2))"
    ).fetchall():
        assert told[one, two, "sum(amount)"] == pytest.approx(total, abs=1e-9)
        assert told[one, two, "avg(amount)"] == pytest.approx(mean, abs=1e-9)


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"rows": ["region", "town", "item"]}, "one or two"),
        ({"rows": "regio"}, "regio"),
        ({"rows": "region", "columns": ["2024-Q1", "2024-Q1"]}, "different"),
        ({"rows": "region", "cells": "stars"}, "heat or bars"),
        ({"rows": "region", "order": "change"}, "no two spans"),
        ({"rows": "year", "columns": "month"}, "months or quarters"),
        ({"rows": "region", "columns": "day"}, "24 at most"),
    ],
)
def test_wrong_requests_are_refused_in_a_sentence(asked: dict[str, object], said: str) -> None:
    many = pd.concat([TRADE.assign(day=TRADE["day"] + pd.Timedelta(days=place)) for place in range(12)])
    with pytest.raises(ga.AlmanacError, match=said):
        ga.table_of(many, **asked)  # type: ignore[arg-type]


def test_small_groups_are_not_printed() -> None:
    table = ga.read(pd.concat([TRADE] * 3), minimum_group=4)
    with pytest.raises(ga.AlmanacError, match="ask for fewer columns"):
        ga.table_of(table, "region", "item", "sum(sales)")


def test_the_command(sailings: Path, tmp_path: Path) -> None:
    asked = ("table", sailings, "--rows", "route", "--columns", "2024-Q3", "--columns", "2025-Q3", "-m", "revenue")
    done = run(*asked, "-o", tmp_path / "t.xlsx", "-o", tmp_path / "t.html")
    assert done.returncode == 0, done.stderr
    wanted = duckdb.sql(
        f"SELECT sum(revenue) FROM '{sailings}' "
        "WHERE route = 'Outer Bar' AND date BETWEEN '2025-07-01' AND '2025-09-30'"
    ).fetchall()[0]
    assert f"{wanted[0]:,.0f}" in done.stdout
    assert json.loads(run(*asked, "--json").stdout)["format"] == "golden-almanac/table/1"
    for cells in ("heat", "bars"):
        assert run(*asked, "--cells", cells, "-o", tmp_path / f"{cells}.png").returncode == 0
