"""Labels such as 2 or no are told with their column, wherever they stand in a sentence."""

from __future__ import annotations

import numpy as np
import pandas as pd

import golden_almanac as ga


def _bills() -> ga.Table:
    rng = np.random.default_rng(1)
    size = rng.choice([2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12], 3000, p=[0.5, 0.1, *[0.4 / 9] * 9])
    frame = pd.DataFrame({"table_no": size, "bill": (9 * rng.gamma(4, 2, 3000)).round(2)})
    return ga.read(frame, roles={"table_no": "dimension"})


def test_who_leads_and_how_few_make_most_is_told_with_the_column() -> None:
    found = ga.scan(_bills())
    lines = {one.kind: one for one in (*found.findings, *found.folded)}
    assert "table no 2 leads the table nos in bill" in lines["ranking"].headline.replace("Table no", "table no")
    assert "more than table no 3" in lines["ranking"].headline.replace("times as much as", "more than")
    assert "In order: table no 2: " in lines["ranking"].detail
    assert "table no 2 and table no 3 of 11 table nos" in lines["concentration"].headline.replace(
        "Table no", "table no"
    )


def test_the_bar_of_such_a_label_is_found() -> None:
    """Its bar is the one that is lit, and that the share in a workbook is reckoned from."""
    rng = np.random.default_rng(1)
    numbers = rng.choice([1, 2, 3, 4, 5, 6], 4000, p=[0.19, 0.19, 0.19, 0.19, 0.19, 0.05])
    days = pd.Timestamp("2023-01-01") + pd.to_timedelta(rng.integers(0, 700, 4000), "D")
    found = ga.scan(ga.read(pd.DataFrame({"day": days, "table_no": numbers, "bill": rng.gamma(9, 4, 4000).round(2)})))
    last = next(
        one for one in (*found.findings, *found.folded) if one.kind == "ranking" and one.figures["what"] == "last"
    )
    assert last.where.conditions == (("table_no", "6"),)
    assert {"share", "lead_pct"} <= set(last.chart().sources)


def test_labels_that_are_names_stand_alone() -> None:
    rng = np.random.default_rng(2)
    frame = pd.DataFrame({"deck": rng.choice(["Upper", "Lower"], 2000, p=[0.8, 0.2]), "bill": rng.gamma(4, 9, 2000)})
    found = ga.scan(ga.read(frame))
    assert any(one.headline.startswith("Upper leads the decks in bill") for one in found.findings)


def test_a_comparison_names_the_column_of_yes_and_no() -> None:
    rng = np.random.default_rng(3)
    plan = rng.random(2000) < 0.3
    frame = pd.DataFrame({"plan": np.where(plan, "yes", "no"), "churn": rng.random(2000) < 0.1 + 0.3 * plan})
    said = str(ga.compare(frame, "churn", by="plan").summary())
    assert "in plan no" in said
    assert "in plan yes" in said
