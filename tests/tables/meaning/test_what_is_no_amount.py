"""Columns of numbers that are no amounts: dates once more, places, codes of few steps, kinds of days."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.support.name_parts import apart

ROWS = 600


def rides(**columns: object) -> pd.DataFrame:
    """Three rides or so a day over two hundred days, with a fare that is an average."""
    rng = np.random.default_rng(5)
    day = pd.Timestamp("2024-03-01") + pd.to_timedelta(np.sort(rng.integers(0, 200, ROWS)), unit="D")
    frame = pd.DataFrame(
        {"day": day, "quay": rng.choice(["North", "South", "East"], ROWS), "fare": rng.normal(9, 2, ROWS)}
    )
    return frame.assign(**columns)


def role(frame: pd.DataFrame, name: str) -> tuple[str, str]:
    column = ga.read(frame).column(name)
    return str(column.role), str(column.nature)


@pytest.mark.parametrize(
    ("name", "made"),
    [
        ("day_num", lambda day: day.dt.year + (day.dt.day_of_year - 1) / 365.25),
        ("time_index", lambda day: (day - day.min()).dt.days),
        ("date", lambda day: (day - pd.Timestamp("1960-01-01")).dt.days),
    ],
)
def test_a_number_that_runs_with_the_dates_is_the_date_once_more(name: str, made: object) -> None:
    frame = rides()
    assert role(frame.assign(**{name: made(frame["day"])}), name)[0] == "part of a date"  # type: ignore[operator]


def test_an_amount_that_grows_by_the_same_every_day_stays_one() -> None:
    frame = pd.DataFrame({"day": pd.date_range("2024-01-01", periods=60), "takings": 100.0 + 5 * np.arange(60)})
    assert role(frame, "takings")[0] == "measure"


def test_a_flag_of_the_day_is_no_share_of_rows() -> None:
    frame = rides()
    holiday = (frame["day"].dt.day_of_year % 9 == 0).astype(int)
    random = (np.random.default_rng(1).random(ROWS) < 0.11).astype(int)
    assert role(frame.assign(holiday=holiday), "holiday")[0] == "part of a date"
    assert role(frame.assign(late=random), "late") == ("measure", "share")


def test_latitude_beside_longitude_says_where_not_how_much() -> None:
    rng = np.random.default_rng(2)
    placed = rides(lat=rng.uniform(55, 58, ROWS), long=rng.uniform(-4, -2, ROWS))
    assert [role(placed, name)[0] for name in ("lat", "long")] == ["ignored", "ignored"]
    # Long by itself is a length.
    assert role(placed.drop(columns="lat"), "long") == ("measure", "reading")


def test_whole_numbers_from_one_to_a_few_are_codes_or_answers_never_sums() -> None:
    rng = np.random.default_rng(3)
    steps = rng.integers(1, 6, (ROWS, 3))
    assert role(rides(hull=steps[:, 0]), "hull") == ("dimension", "code")
    answers = rides(comfort=steps[:, 0], crew_kindness=steps[:, 1], food=steps[:, 2])
    assert [role(answers, name) for name in ("comfort", "food")] == [("measure", "score")] * 2
    assert role(rides(bikes=steps[:, 0]), "bikes") == ("measure", "flow")
    assert role(rides(quantity=steps[:, 0]), "quantity") == ("measure", "count")


@pytest.mark.parametrize(
    ("name", "values", "wanted"),
    [
        ("hour", "0..23", ("dimension", "reading")),
        ("policePrecinct", "1..5", ("dimension", "flow")),
        ("unitid", "100000..", ("key", "code")),
        ("paid", "100000..", ("measure", "flow")),
        ("high_dewpt", "0..23", ("measure", "reading")),
        ("max_draught", "0..23", ("measure", "reading")),
        ("high_risk_passengers", "0..23", ("measure", "count")),
        ("visits_per_day", "0..23", ("measure", "price")),
        ("state_population", "100000..", ("measure", "stock")),
    ],
)
def test_names_say_what_is_not_added_up(name: str, values: str, wanted: tuple[str, str]) -> None:
    rng = np.random.default_rng(4)
    low, high = {"0..23": (0, 24), "1..5": (1, 6), "100000..": (100_000, 480_000)}[values]
    assert role(rides(**{name: rng.integers(low, high, ROWS)}), name) == wanted


def test_day_counts_of_an_amount_are_no_dates() -> None:
    rng = np.random.default_rng(6)
    counts = rng.integers(20_000, 60_000, 80)
    read = ga.read(pd.DataFrame({"order date": counts, "visits_per_day": counts, "revenue to date": counts}))
    assert [column.type for column in read.columns] == ["date", "number", "number"]


def test_parts_of_a_date_go_with_their_own() -> None:
    """Of the year built and the year sold, that with a month and a day beside it is when something happened."""
    rng = np.random.default_rng(7)
    sold = pd.Timestamp("2020-01-01") + pd.to_timedelta(rng.integers(0, 900, ROWS), unit="D")
    parts = {"YearSold": sold.year, "MonthSold": sold.month, "DaySold": sold.day}
    frame = pd.DataFrame({"YearBuilt": rng.integers(1950, 2010, ROWS), **parts, "price": rng.normal(200, 20, ROWS)})
    table = ga.read(frame)
    (made,) = [column for column in table.columns if column.role == "time"]
    assert (table.days(made.name) == sold.to_numpy().astype("datetime64[D]")).all()
    assert table.column("YearBuilt").role == "dimension"


def test_what_programs_write_for_nothing_is_no_label(tmp_path: Path) -> None:
    lines = [
        "day,quay,fare",
        *(f"2024-01-{1 + at % 28:02},{(chr(92) + 'N', 'North', 'South')[at % 3]},9" for at in range(60)),
    ]
    (tmp_path / "rides.csv").write_text("\n".join(lines), encoding="utf-8")
    table = ga.read(tmp_path / "rides.csv")
    assert table.column("quay").missing == 20
    assert any(one.check == "missing values" and one.column == "quay" and one.rows == 20 for one in table.problems)


def test_numbers_with_traces_among_them_are_no_labels(tmp_path: Path) -> None:
    """Rain in inches, and T for a trace of it: a question, and no hundred labels that are numbers."""
    rng = np.random.default_rng(8)
    rain = [f"{value:.2f}" for value in rng.gamma(1, 0.7, ROWS)]
    lines = rng.choice([*(str(line) for line in range(1, 26)), "N1"], ROWS)
    rides(rain=["T" if at % 20 == 0 else text for at, text in enumerate(rain)], line=lines).to_csv(
        tmp_path / "rides.csv", index=False
    )
    table = ga.read(tmp_path / "rides.csv")
    assert [table.column(name).role for name in ("rain", "line")] == ["text", "dimension"]


def test_noughts_over_noughts_show_no_ratio() -> None:
    rng = np.random.default_rng(9)
    rare = {name: np.where(rng.random(ROWS) < 0.01, 1, 0) * rng.integers(1, 9, ROWS) for name in ("dogs", "cats")}
    table = ga.read(rides(**rare, waiting_days=np.where(np.arange(ROWS) % 97 == 0, 3, 0)))
    assert table.column("waiting_days").weighed is None


@pytest.mark.parametrize(
    ("name", "wanted"),
    [
        ("NumberofSeats", "Number_of_Seats"),
        ("Individuals.Affected", "Individuals_Affected"),
        ("closingBalance", "closing_Balance"),
        ("price.2", "price.2"),
        ("Waterproof", "Waterproof"),
    ],
)
def test_names_run_together_come_apart(name: str, wanted: str) -> None:
    assert apart(name) == wanted
