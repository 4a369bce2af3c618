"""Labels that are totals of the others, said or reckoned: regions among their countries, the lines of a statement;
years across the columns."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def countries(total: str = "Total", *, whole: float = 1.0) -> pd.DataFrame:
    rng = np.random.default_rng(11)
    rows = []
    for year in range(2010, 2022):
        parts = {f"Land {at}": float(round(rng.gamma(5, 900) * (1 + at))) for at in range(8)}
        rows += [(year, name, size) for name, size in parts.items()]
        rows.append((year, "North", sum(list(parts.values())[:4])))
        rows.append((year, total, round(whole * sum(parts.values()))))
    return pd.DataFrame(rows, columns=["year", "country", "visitors"])


@pytest.mark.parametrize("label", ["Total", "World", "Grand total", "TOTAL ", "Insgesamt"])
def test_a_label_that_says_total_and_is_as_large_as_any_is_set_aside(label: str) -> None:
    frame = countries(label)
    table = ga.read(frame.sample(frac=1, random_state=1))
    # The total, and the North, which is the sum of four of its lands.
    assert table.rows == len(frame) - 24
    assert any("totals of the other labels" in str(one.message) for one in table.problems)
    assert label.strip() not in str(ga.scan(table).summary())


@pytest.mark.parametrize(("label", "whole"), [("All lands", 0.6), ("Total", 0.05), ("Total Ltd", 0.7)])
def test_a_label_that_only_sounds_like_one_stays(label: str, whole: float) -> None:
    """ "All lands" that is no sum may be a product; a firm called Total is smaller than others somewhere."""
    frame = countries(label, whole=whole)
    table = ga.read(frame)
    assert label in table.labels("country")
    assert table.rows == len(frame) - 12


def test_years_across_the_columns_however_they_are_called() -> None:
    rng = np.random.default_rng(12)
    for form in ("year_{}", "{}", "FY {}", "X{}"):
        frame = pd.DataFrame({"port": [f"P{at}" for at in range(9)]})
        for year in range(2001, 2013):
            frame[form.format(year)] = rng.integers(100, 900, 9)
        table = ga.read(frame)
        assert {"period", "value"} <= {one.name for one in table.columns}, form
        assert table.rows == 108


def _statement(*, parents_first: bool) -> pd.DataFrame:
    """Lines of a statement in thousands with a decimal, months across, the year to date at the end."""
    rng = np.random.default_rng(8)
    revenue, cost, wages, rent = (rng.normal(size, 20, 10) for size in (500, -270, -90, -40))
    lines = {
        "Revenue": revenue,
        "Cost of goods sold": cost,
        "Gross profit": revenue + cost,
        "Wages": wages,
        "Rent": rent,
    }
    lines |= {"Overheads": wages + rent, "Result": revenue + cost + wages + rent}
    if parents_first:
        lines = dict(reversed(lines.items()))
    months = [f"{month}-25" for month in "Jan Feb Mar Apr May Jun Jul Aug Sep Oct".split()]
    rows = [[name, *values.round(1), round(values.sum(), 1)] for name, values in lines.items()]
    return pd.DataFrame(rows, columns=["Line", *months, "YTD"])


@pytest.mark.parametrize("parents_first", [False, True])
def test_lines_of_a_statement_that_add_up_to_others_are_counted_once(parents_first: bool) -> None:
    table = ga.read(_statement(parents_first=parents_first))
    left = {"Revenue", "Cost of goods sold", "Wages", "Rent"}
    assert set(table.labels("Line")) == left
    assert table.rows == 40
    assert "YTD" not in {column.name for column in table.columns}
    frame = _statement(parents_first=parents_first).set_index("Line")
    assert table.numbers("value").sum() == pytest.approx(frame.loc[sorted(left)].drop(columns="YTD").to_numpy().sum())


def test_labels_that_add_up_to_nothing_stay() -> None:
    """Noise, and small counts, in which sums meet by chance."""
    rng = np.random.default_rng(9)
    for seed in range(20):
        months = np.repeat(pd.date_range("2024-01-01", periods=5, freq="MS"), 9)
        small = rng.integers(0, 3, months.size) if seed % 2 else rng.gamma(3, 80, months.size).round()
        table = ga.read(pd.DataFrame({"month": months, "team": list("ABCDEFGHI") * 5, "calls": small}))
        assert table.rows == 45
