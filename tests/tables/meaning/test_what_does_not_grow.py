"""What a place has per head does not grow with its population; what is on both sides of nought is no amount; what a
file is called is not always what its rows are."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _states(years: int = 8, states: int = 20) -> pd.DataFrame:
    rng = np.random.default_rng(1)
    people = np.exp(rng.normal(14, 1, states))
    frame = pd.DataFrame(
        {
            "state": np.repeat([f"S{n:02d}" for n in range(states)], years),
            "year": np.tile(np.arange(2001, 2001 + years), states),
            "pop": np.repeat(people, years).round() + np.tile(np.arange(years), states) * 1000,
        }
    )
    heads = frame["pop"].to_numpy()
    frame["outlay"] = (heads * rng.uniform(0.8, 1.3, len(frame))).round()
    frame["wealth"] = rng.normal(14_000, 2_500, len(frame)).round(1)
    frame["drinkage"] = np.repeat(rng.choice([18, 19, 21], states), years)
    frame["federal"] = frame["year"] % 7 + 0.5
    return frame


def test_what_does_not_grow_with_the_population_is_averaged() -> None:
    table = ga.read(_states())
    assert table.column("outlay").adds_up is True
    assert [table.column(name).adds_up for name in ("wealth", "drinkage", "federal")] == [False, False, False]


@pytest.mark.parametrize("change", ["no population", "several rows", "alike"])
def test_without_such_a_population_nothing_is_known(change: str) -> None:
    frame = _states()
    if change == "no population":
        frame = frame.rename(columns={"pop": "heads"})
    elif change == "several rows":
        frame = pd.concat([frame, frame], ignore_index=True)
    else:
        frame["pop"] = 1_000_000 + frame["year"]
    assert ga.read(frame).column("wealth").adds_up is True


def test_numbers_on_both_sides_of_nought_are_readings_of_events() -> None:
    rng = np.random.default_rng(2)
    days = pd.Timestamp("2024-01-01") + pd.to_timedelta(rng.integers(0, 200, 3000), unit="D")
    off = rng.normal(0.2, 3, 3000).round(2)
    frame = pd.DataFrame({"day": days, "hdev": off, "profit": off, "value": off, "moved": off.round()})
    table = ga.read(frame)
    assert table.column("hdev").adds_up is False
    assert [table.column(name).adds_up for name in ("profit", "value", "moved")] == [True, True, True]


@pytest.mark.parametrize(
    ("name", "noun"),
    [("orders", "orders"), ("support tickets", "support tickets"), ("fatalities", ""), ("nass_cds", "")],
)
def test_rows_are_called_by_the_file_only_if_it_names_what_rows_often_are(name: str, noun: str) -> None:
    from golden_almanac.tables.meaning.row_nouns import row_noun

    rng = np.random.default_rng(3)
    frame = pd.DataFrame({"place": rng.choice(list("ABC"), 300), "wait_min": rng.gamma(3, 2, 300)})
    assert row_noun(ga.read(frame, name=f"{name}.csv")) == noun


def test_a_flag_of_the_year_is_no_rate_be_the_years_ever_so_few() -> None:
    rng = np.random.default_rng(4)
    frame = pd.DataFrame({"year": rng.choice([1998, 2000, 2002, 2004, 2006], 3000), "age": rng.integers(18, 90, 3000)})
    frame["y06"] = (frame["year"] == 2006).astype(int)
    frame["female"] = rng.integers(0, 2, 3000)
    table = ga.read(frame)
    assert table.column("y06").role.value == "part of a date"
    assert table.column("female").role.value == "measure"


def test_two_surveys_years_apart_have_nothing_missing_between_them() -> None:
    rng = np.random.default_rng(5)
    frame = pd.DataFrame({"year": rng.choice([1992, 2004], 4000), "score": rng.normal(50, 9, 4000).round(1)})
    summary = str(ga.scan(ga.read(frame)).summary())
    assert "no rows from" not in summary
    assert "unfinished" not in summary
