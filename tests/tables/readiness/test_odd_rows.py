"""What is told of rows: returns, wrong signs, swapped values, ends before starts, values beyond what there is, tables
loaded twice."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.tables.problems import Problem


def visits(rows: int = 400, seed: int = 1) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    return pd.DataFrame(
        {
            "day": pd.date_range("2024-01-01", periods=rows),
            "desk": rng.choice(["A", "B", "C"], rows),
            "customer": rng.integers(1000, 1100, rows),
            "amount": np.round(rng.gamma(4, 20, rows), 2),
            "height_cm": np.round(rng.normal(172, 8, rows)),
            "weight_kg": np.round(rng.normal(70, 9, rows)),
            "gust": np.round(rng.gamma(3, 5, rows)),
            "shipped": pd.date_range("2024-01-04", periods=rows),
        }
    )


def told(frame: pd.DataFrame, check: str, **options: object) -> list[Problem]:
    return [one for one in ga.read(frame, **options).readiness if one.check == check]  # type: ignore[arg-type]


CHECKS = ("returns", "signs", "swapped values", "ends before starts", "implausible values", "repeated rows")


def test_a_clean_table_is_told_nothing() -> None:
    assert [one for check in CHECKS for one in told(visits(), check)] == []


def test_returns_are_told_gross_and_net() -> None:
    frame = visits()
    back = frame.iloc[10:40].copy()
    back["amount"], back["day"] = -back["amount"], back["day"] + pd.Timedelta(days=2)
    (one,) = told(pd.concat([frame, back]), "returns")
    assert one.rows == 30
    gross, net = frame["amount"].sum(), frame["amount"].sum() - frame["amount"][10:40].sum()
    assert f"{gross:,.2f} gross" in str(one.message)
    assert f"{net:,.2f} net" in str(one.message)
    german = str(ga.check(pd.concat([frame, back])).in_language("de").lines())
    assert f"{gross:,.2f}".replace(",", " ").replace(".", ",").replace(" ", ".") in german


def test_a_lone_wrong_sign_is_asked_about_and_turned_as_answered() -> None:
    frame = visits()
    frame.loc[7, "amount"] *= -1
    (one,) = told(frame, "signs")
    assert (one.severity, one.rows) == ("question", 1)
    answers = {"signs/amount": "turn positive"}
    table = ga.read(frame, answers=answers)
    assert table.numbers("amount").min() > 0
    assert ga.read(frame, repairs=table.repair_log()).numbers("amount").min() > 0


def test_a_result_that_is_often_below_nought_is_no_error() -> None:
    frame = visits().assign(profit=lambda one: one["amount"] - one["amount"].median())
    assert told(frame, "signs") == told(frame, "returns") == []


def test_swapped_values_are_told_with_their_rows() -> None:
    frame = visits()
    frame.loc[5, ["height_cm", "weight_kg"]] = [66, 171]
    (one,) = told(frame, "swapped values")
    assert one.examples == ((6, "66, 171"),)


def test_columns_that_overlap_are_not_swapped() -> None:
    rng = np.random.default_rng(8)
    frame = visits().assign(tide=rng.normal(60, 12, 400).round(1), delay=rng.gamma(2, 3, 400).round(1))
    frame.loc[[3, 90], ["tide", "delay"]] = [[24.2, 31.0], [25.2, 32.0]]
    assert told(frame, "swapped values") == []


def test_an_end_before_its_start_is_told() -> None:
    frame = visits()
    frame.loc[20, "shipped"] = pd.Timestamp("2024-01-02")
    (one,) = told(frame, "ends before starts")
    assert (one.column, one.rows) == ("shipped", 1)


@pytest.mark.parametrize(("column", "value"), [("gust", 1048.0), ("age", 199), ("humidity", 130.0)])
def test_what_nothing_of_its_kind_reaches_is_told(column: str, value: float) -> None:
    rng = np.random.default_rng(3)
    frame = visits().assign(age=rng.integers(18, 90, 400), humidity=rng.uniform(20, 99, 400).round(1))
    frame.loc[9, column] = value
    (one,) = told(frame, "implausible values")
    assert (one.column, one.rows) == (column, 1)


@pytest.mark.parametrize("again", [slice(None), slice(100, 180)])
def test_a_table_loaded_twice_is_told_with_its_share(again: slice) -> None:
    frame = visits()
    both = pd.concat([frame, frame.iloc[again]], ignore_index=True)
    (one,) = told(both, "repeated rows")
    share = round(100 * (len(both) - len(frame)) / len(both))
    assert one.rows == len(both) - len(frame)
    assert f"{share}% of all" in str(one.message)
    assert ga.read(both, answers={"repeated rows": "take out"}).rows == len(frame)


def test_answers_on_few_steps_repeat_by_nature() -> None:
    rng = np.random.default_rng(5)
    frame = pd.DataFrame(rng.integers(1, 4, (300, 4)), columns=["q1", "q2", "q3", "q4"])
    assert told(frame, "repeated rows") == []
