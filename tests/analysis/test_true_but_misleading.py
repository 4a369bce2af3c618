"""Sentences that were true of a stranger's table and told a false story, each as the rule behind it."""

from __future__ import annotations

import numpy as np
import pandas as pd

import golden_almanac as ga
from golden_almanac.analysis.change.past_steps import tamed
from golden_almanac.tables.calendar import Calendar


def told(scan: ga.Scan, kind: str) -> list[str]:
    return [one.headline for one in (*scan.findings, *scan.folded) if one.kind == kind]


def staff(n: int = 1500) -> pd.DataFrame:
    rng = np.random.default_rng(1)
    frame = pd.DataFrame({"marriage": rng.choice(["married", "single", "widowed"], n, p=[0.75, 0.2, 0.05])})
    return frame.assign(spending=rng.gamma(3, 700, n).round())


def test_who_leads_by_having_most_rows_is_said_to() -> None:
    scan = ga.scan(staff())
    lead = next(one for one in scan.findings if one.kind == "ranking" and one.figures["what"] == "first")
    assert lead.figures["by_rows"] is True
    share = float((staff()["marriage"] == "married").mean())
    assert abs(lead.figures["row_share"] - share) < 1e-9
    assert f"with {round(100 * share)}% of the rows" in lead.headline
    found = lead.check()
    assert found.agrees
    assert abs(found.found["row_share"] - share) < 1e-9


def test_who_leads_by_more_in_each_row_is_said_to() -> None:
    frame = staff()
    frame["spending"] *= np.where(frame["marriage"] == "single", 12, 1)
    lead = next(one for one in ga.scan(frame).findings if one.kind == "ranking" and one.figures["what"] == "first")
    single, married = (frame.loc[frame["marriage"] == who, "spending"].mean() for who in ("single", "married"))
    assert lead.figures["by_rows"] is False
    assert abs(lead.figures["per_row_pct"] - 100 * (single / married - 1)) < 1e-6
    assert "of the rows" not in lead.headline
    assert lead.check().agrees
    assert abs(lead.check().found["per_row_pct"] - lead.figures["per_row_pct"]) < 1e-6
    assert "of the rows, and" in lead.detail


def yearly(last: int, first: int = 1996) -> pd.DataFrame:
    rng = np.random.default_rng(2)
    counts = [*rng.integers(900, 1000, 2016 - first), last]
    frame = pd.DataFrame({"year": np.repeat(np.arange(first, 2017), counts)})
    return frame.assign(genre=rng.choice(list("ABC"), len(frame)), length=rng.normal(90, 9, len(frame)).round())


def test_a_last_year_hardly_begun_is_no_collapse() -> None:
    scan = ga.scan(yearly(130))
    summary = str(scan.summary())
    least = yearly(130)["year"].value_counts().sort_index().iloc[-6:-1].min()
    assert f"2016 has 130 rows, each of the 5 before it at least {least}" in summary
    assert not told(scan, "change")
    assert not [line for line in told(scan, "spike") + told(scan, "shift") + told(scan, "trend") if "2016" in line]


def test_a_sunday_is_no_day_half_over() -> None:
    rng = np.random.default_rng(21)
    days = pd.date_range("2024-01-01", "2024-03-31")
    counts = np.where(days.day_of_week == 6, 20, rng.integers(90, 110, days.size))
    frame = pd.DataFrame({"day": np.repeat(days, counts)})
    summary = str(ga.scan(frame.assign(amount=rng.gamma(4, 5, len(frame))), grain="day").summary())
    assert "looks unfinished" not in summary


def test_a_year_that_is_over_fell() -> None:
    """Who says that the report is of later says that the year is all there."""
    table = ga.read(yearly(130), calendar=Calendar(as_of=np.datetime64("2017-02-01")))
    assert "looks unfinished" not in str(ga.scan(table).summary())
    assert "looks unfinished" not in str(ga.scan(yearly(700)).summary())


def census() -> pd.DataFrame:
    rng = np.random.default_rng(3)
    rows = [
        (year, f"P{place}", float(1000 * (1 + place) * (1.02 ** (year - 1960)) * rng.uniform(0.98, 1.02)))
        for year in range(1960, 2021, 5)
        for place in range(30)
    ]
    return pd.DataFrame(rows, columns=["year", "place", "houses"])


def test_years_between_two_counts_are_no_noughts() -> None:
    scan = ga.scan(census())
    summary = str(scan.summary())
    assert "Only 13 of the 61 years hold rows" in summary
    assert "2015" in summary, "the last count is set against the one before it"
    assert not told(scan, "gap")
    assert not told(scan, "trend")
    figures = next(one for one in ga.explain_change(census()).findings if one.kind == "change").figures
    frame = census().groupby("year")["houses"].sum()
    assert abs(figures["change_pct"] - 100 * (frame[2020] / frame[2015] - 1)) < 1e-6
    assert figures["expected_low"] is None or figures["expected_low"] > -0.5 * frame[2015]


def test_what_grew_over_the_years_has_no_two_usual_sizes() -> None:
    rng = np.random.default_rng(4)
    days = pd.date_range("1990-01-01", periods=6000)
    level = np.where(np.arange(6000) < 3600, 100, 900) * np.exp(rng.normal(0, 0.1, 6000))
    frame = pd.DataFrame({"day": days, "level": level.round(1), "volume": (level * 1e5 * rng.uniform(0.5, 2, 6000))})
    scan = ga.scan(frame)
    assert not [line for line in told(scan, "distribution") if "more than one usual size" in line]
    assert not told(scan, "relationship") or all("volume" not in line for line in told(scan, "relationship"))


def test_one_row_makes_no_average_far_off() -> None:
    rng = np.random.default_rng(5)
    years = np.concatenate([np.repeat(np.arange(1980, 2010), 40), [2010], np.repeat(np.arange(2011, 2020), 40)])
    engines = np.where(years == 2010, 4, rng.choice([1, 2], years.size, p=[0.1, 0.9]))
    scan = ga.scan(pd.DataFrame({"year": years, "engines on wing": engines, "speed": rng.normal(400, 30, years.size)}))
    assert not [line for line in told(scan, "spike") if "verage" in line and "2010" in line]


def test_nothing_lies_more_than_all_of_it_below() -> None:
    """What may be below nought is told by how much, not in percent."""
    rng = np.random.default_rng(6)
    days = pd.date_range("2024-01-01", periods=364)
    frame = pd.DataFrame({"day": days.repeat(30)})
    frame["delay_min"] = rng.normal(np.where(frame["day"].dt.day_of_week == 5, -6, 7), 9).round(1)
    lines = told(ga.scan(frame), "seasonality")
    assert lines
    assert "%" not in " ".join(lines)


def test_a_handful_of_rows_in_sparse_years_expects_nobody() -> None:
    rng = np.random.default_rng(7)
    years = np.concatenate([np.arange(1970, 1978), rng.integers(1978, 2014, 3000)])
    model = np.concatenate([["DC"] * 6, ["AX"] * 2, rng.choice(["AX", "BO", "CE"], 3000)])
    built = pd.to_datetime(years.astype(str), format="%Y")
    scan = ga.scan(pd.DataFrame({"built": built, "model": model, "seats": 100.0}))
    assert not [line for line in told(scan, "gap") if line.startswith("DC")]


def test_marks_that_are_behind_spare_nothing() -> None:
    rng = np.random.default_rng(8)
    land = rng.choice(["North", "South", "East"], 2000)
    frame = pd.DataFrame({"land": land, "satisfaction": rng.binomial(10, np.where(land == "South", 0.4, 0.8))})
    hints = " ".join(one.text for one in ga.scan(frame).suggestions())
    assert "spare" not in hints
    assert "behind" in hints


def test_many_wild_moves_are_the_rule() -> None:
    """Winsorised are the few (Huber 1981), not the rainy days among the dry ones."""
    rng = np.random.default_rng(9)
    calm = np.append(rng.normal(0, 1, 60), 40.0)
    assert tamed(calm).max() < 10
    rain = np.where(rng.uniform(size=300) < 0.3, rng.normal(0, 20, 300), rng.normal(0, 0.1, 300))
    assert np.array_equal(tamed(rain), rain)


def _readings(days: int) -> pd.DataFrame:
    rng = np.random.default_rng(31)
    day = pd.date_range("2023-01-01", periods=days)
    values = 50 + 0.05 * np.arange(days) + rng.normal(0, 1, days)
    return pd.DataFrame({"day": day, "temperature": values.round(1)})


def test_what_moves_in_one_year_may_be_the_season() -> None:
    said = "less than two years, so what moves may be the season"
    one_year = ga.scan(ga.read(_readings(330)))
    assert any(one.definition.movement == "path" for one in one_year.findings)
    assert said in str(one_year.summary())
    years = ga.scan(ga.read(_readings(1500)))
    assert any(one.definition.movement == "path" for one in years.findings)
    assert said not in str(years.summary())


def test_numbers_nearly_all_of_one_step_are_not_rounded() -> None:
    rng = np.random.default_rng(32)
    values = rng.integers(60, 500, 2000).astype(float)
    values[:20] += 0.5
    frame = pd.DataFrame({"displacement": values, "kind": rng.choice(list("abc"), 2000)})
    assert not any(one.kind == "distribution" for one in ga.scan(ga.read(frame)).findings)
