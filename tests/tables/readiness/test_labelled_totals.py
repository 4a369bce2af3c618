"""Labels that are totals of the others, beside regions that are totals, too; years across the columns."""

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
    assert table.rows == len(frame) - 12
    assert any("totals of the other labels" in str(one.message) for one in table.problems)
    assert label.strip() not in str(ga.scan(table).summary())


@pytest.mark.parametrize(("label", "whole"), [("All lands", 0.6), ("Total", 0.05), ("Total Ltd", 0.7)])
def test_a_label_that_only_sounds_like_one_stays(label: str, whole: float) -> None:
    """ "All lands" that is no sum may be a product; a firm called Total is smaller than others somewhere."""
    frame = countries(label, whole=whole)
    assert ga.read(frame).rows == len(frame)


def test_years_across_the_columns_however_they_are_called() -> None:
    rng = np.random.default_rng(12)
    for form in ("year_{}", "{}", "FY {}", "X{}"):
        frame = pd.DataFrame({"port": [f"P{at}" for at in range(9)]})
        for year in range(2001, 2013):
            frame[form.format(year)] = rng.integers(100, 900, 9)
        table = ga.read(frame)
        assert {"period", "value"} <= {one.name for one in table.columns}, form
        assert table.rows == 108
