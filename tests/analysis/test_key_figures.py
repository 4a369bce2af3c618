"""Key figures against an independent query and Shewhart's limits; quiet on noise, a jump told first."""

from __future__ import annotations

from pathlib import Path

import duckdb
import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

from ..commands import run


def _shop(seed: int = 1, jump: float = 1.0, months: int = 30) -> pd.DataFrame:
    """Days with sales, orders and complaints; the sales of the last whole month are `jump` times what they would be."""
    random = np.random.default_rng(seed)
    days = pd.date_range("2023-01-01", periods=int(months * 30.4), freq="D")
    frames = []
    for area in ("North", "South"):
        sales = random.gamma(40, 5, days.size)
        last = days.to_period("M") == days[-1].to_period("M")
        frames.append(
            pd.DataFrame(
                {
                    "day": days,
                    "area": area,
                    "sales": (sales * np.where(last, jump, 1)).round(2),
                    "orders": random.poisson(30, days.size),
                    "wait_min": random.gamma(9, 1, days.size).round(1),
                }
            )
        )
    return pd.concat(frames)


def test_values_are_those_of_an_independent_query() -> None:
    log = _shop()
    found = ga.key_figures(log, ["sum(sales)", "avg(wait_min)", "sum(sales) / sum(orders)"], steps=False)
    span = found.result.period
    where = f"day BETWEEN DATE '{span.start}' AND DATE '{span.end}'"
    row = duckdb.sql(
        f"SELECT sum(sales) a, avg(wait_min) b, sum(sales) / sum(orders) c FROM log WHERE {where}"
    ).fetchall()[0]

    told = found.to_frame().set_index("measure")["value"]
    assert told.loc[["sum(sales)", "avg(wait_min)", "sum(sales) / sum(orders)"]].tolist() == pytest.approx(list(row))
    again = ga.read(log).sql(found.sql)
    assert again.iloc[0].tolist() == pytest.approx(found.to_frame()["value"].tolist())


def test_the_last_thirty_days_end_where_the_data_do() -> None:
    log = _shop()
    found = ga.key_figures(log, ["sum(sales)"], period="last 30 days", steps=False)
    end = log["day"].max()
    kept = log[log["day"] > end - pd.Timedelta(30, "D")]
    earlier = log[(log["day"] <= end - pd.Timedelta(30, "D")) & (log["day"] > end - pd.Timedelta(60, "D"))]
    row = found.to_frame().iloc[0]
    assert row["value"] == pytest.approx(kept["sales"].sum())
    assert row["before"] == pytest.approx(earlier["sales"].sum())
    assert len(found.result.figures[0].series) == 30


def test_limits_are_those_of_moving_ranges() -> None:
    """Without trend and season, over many spans, near three standard deviations around the mean."""
    days = pd.date_range("2024-01-01", periods=36 * 7, freq="D")
    weekly = np.random.default_rng(5).normal(100, 4, 36)
    log = pd.DataFrame({"day": days, "score_pct": np.repeat(weekly, 7)})
    found = ga.key_figures(log, ["avg(score_pct)"], period="last 7 days", steps=False).to_frame().iloc[0]
    past = weekly[:-1]
    moving = np.median(np.abs(np.diff(past))) / 0.954
    assert found["high"] - found["low"] == pytest.approx(2 * 3 * moving * np.sqrt(7 / 6), rel=0.12)
    assert (found["high"] + found["low"]) / 2 == pytest.approx(past[-6:].mean(), abs=2.5)


def test_a_jump_is_told_first_and_noise_is_not() -> None:
    jumped = ga.key_figures(_shop(2, jump=1.35), steps=False)
    first = jumped.result.figures[0]
    assert first.outside == 1
    assert "worth a look" in jumped.headline
    assert "above what is usual" in str(jumped.summary("long"))
    quiet = [ga.key_figures(_shop(20 + seed), ["sum(sales)", "avg(wait_min)"], steps=False) for seed in range(15)]
    assert sum(one.outside != 0 for found in quiet for one in found.result.figures) <= 2


def test_measures_are_chosen_and_what_to_do_is_told() -> None:
    found = ga.key_figures(_shop(3, jump=1.4), targets={"sum(sales)": 20_000})
    names = [one.measure.name for one in found.result.figures]
    assert "sum(sales)" in names
    assert any("/" in name for name in names)
    assert len(names) <= 12
    assert found.to_frame().set_index("measure").loc["sum(sales)", "target"] == 20_000
    data = found.to_dict()
    assert data["format"] == "golden-almanac/key-figures/1"
    assert all(one["reckoned"] for one in data["to_do"])


def test_the_command_writes_a_page_and_refuses_in_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "shop.csv"
    _shop(4).to_csv(path, index=False)
    done = run("figures", path, "-m", "sales", "--period", "last 30 days", "-o", tmp_path / "figures.html")
    assert done.returncode == 0, done.stderr
    assert "Sales" in done.stdout
    assert (tmp_path / "figures.html").is_file()
    for words, message in (
        (("--period", "last 900 days"), "too few"),
        (("--period", "2022-01"), "no complete month"),
        (("-m", "nothing"), "nothing"),
    ):
        refused = run("figures", path, *words)
        assert refused.returncode == 2, words
        assert message in " ".join(refused.stderr.split())
    nodates = tmp_path / "plain.csv"
    pd.DataFrame({"a": range(50), "b": list("xy") * 25}).to_csv(nodates, index=False)
    assert "has no dates" in " ".join(run("figures", nodates).stderr.split())


def test_a_short_past_is_said() -> None:
    found = ga.key_figures(_shop(5, months=4), ["sum(sales)"], grain="month", steps=False)
    assert found.to_frame()["low"].isna().all()
    assert "too short to say what is usual" in found.headline


def test_spans_of_few_rows_are_not_told_where_small_groups_are_not_shown() -> None:
    log = _shop(6)
    table = ga.read(log, minimum_group=20)
    daily = ga.key_figures(table, ["sum(sales)"], period="last 30 days", steps=False)
    assert daily.result.figures[0].value == pytest.approx(
        ga.key_figures(log, ["sum(sales)"], period="last 30 days", steps=False).result.figures[0].value
    )
    with pytest.raises(ga.PeriodError, match="no rows in the span"):
        ga.key_figures(table, ["sum(sales)"], period="last 7 days", steps=False)
