"""Totals by labels, periods and spans, against what an independent statement gives."""

from __future__ import annotations

import pandas as pd
import pytest

import golden_almanac as ga


@pytest.fixture
def stock() -> ga.Table:
    """What lies in two stores at the end of each month, with what was sold in it."""
    months = pd.date_range("2023-01-31", "2024-12-31", freq="ME")
    rows = [
        {"day": day, "store": store, "stock_level": 100 * place + 10 * k, "units_sold": 5 + k + place}
        for k, day in enumerate(months)
        for place, store in enumerate(("Marl", "Eddis"), start=1)
    ]
    return ga.read(pd.DataFrame(rows), natures={"stock_level": "stock"}, name="stores")


def test_a_level_is_that_of_the_last_moment_in_each_span(stock: ga.Table) -> None:
    """Nor is the year before, or a month, the sum of its days."""
    year = ga.total(stock, "stock_level", period="2024")
    assert year.value == 300 + 2 * 10 * 23
    assert year.result.year_before is not None
    assert year.result.year_before[1] == 300 + 2 * 10 * 11
    months = ga.total(stock, "stock_level", grain="quarter", period="2024")
    assert months.result.values == [300 + 20 * k for k in (14, 17, 20, 23)]
    assert ga.total(stock, "stock_level").value == 300 + 2 * 10 * 23
    against = ga.total(stock, "stock_level", by="store", period="2024", baseline="2023")
    assert against.to_frame()["change"].tolist() == [120, 120]


def test_each_month_stands_against_its_own_of_the_year_before(stock: ga.Table) -> None:
    found = ga.total(stock, "units_sold", grain="month", period="2024", baseline="year-ago").to_frame()
    assert found["baseline"].tolist() == [13 + 2 * k for k in range(12)]
    assert found["change"].tolist() == [24] * 12


def test_a_drawn_change_says_that_it_is_one(stock: ga.Table) -> None:
    found = ga.total(stock, "units_sold", by="store", period="2024", baseline="2023")
    assert found.result.counted == 48
    assert found.chart().subtitle == "Units sold · change · 2023 → 2024"
    assert found.chart().data.iloc[:, 1].tolist() == [144, 144]


def test_levels_have_no_running_total_and_averages_no_share(stock: ga.Table) -> None:
    with pytest.raises(ga.RequestError):
        ga.total(stock, "stock_level", grain="month", running=True)
    with pytest.raises(ga.RequestError):
        ga.total(stock, "avg(units_sold)", by="store", share=True)
    with pytest.raises(ga.PeriodError):
        ga.total(stock, "units_sold", period="2019")


def test_the_order_of_the_rows_changes_nothing(stock: ga.Table) -> None:
    turned = ga.read(stock.to_frame().iloc[::-1], natures={"stock_level": "stock"}, name="stores")
    for wish in ({"by": "store"}, {"grain": "quarter"}, {"by": "store", "order": "descending", "top": 1}):
        assert (
            ga.total(turned, "units_sold", **wish)
            .to_frame()
            .equals(  # type: ignore[arg-type]
                ga.total(stock, "units_sold", **wish).to_frame()  # type: ignore[arg-type]
            )
        )


def test_a_year_of_firsts_of_months_is_over() -> None:
    """December's row stands on its first day: nothing more is to come, and it is compared as a whole year."""
    days = pd.date_range("2023-01-01", "2024-12-01", freq="MS")
    table = ga.read(pd.DataFrame({"month": days, "place": ["A", "B"] * 12, "sold": range(24)}), name="shops")
    year = ga.total(table, "sold", period="2024", baseline="2023")
    assert year.to_frame()["change"].tolist() == [144]
    assert "in 2023" in year.headline
    assert "in 2024" in year.headline
    assert "is not over" not in str(ga.total(table, "sold", period="2024").summary())
    cut = ga.total(table, "sold", period="2024", where="month < DATE '2024-10-15'")
    assert "is not over" in str(cut.summary())
