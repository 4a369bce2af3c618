"""Grains, periods and partial edges, against the calendar module and dates known by heart."""

from __future__ import annotations

from datetime import date, timedelta

import duckdb
import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.tables import Calendar, Grain
from golden_almanac.tables.calendar import STANDARD, parse_period
from golden_almanac.tables.timeline import choose_grain, day_counts, timeline
from golden_almanac.text.dates import period as said_period

WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
dates = st.dates(date(1950, 1, 1), date(2100, 12, 31))


def days(first: str, last: str, step: int = 1) -> np.ndarray:
    return np.arange(np.datetime64(first), np.datetime64(last) + np.timedelta64(1, "D"), np.timedelta64(step, "D"))


@given(dates)
def test_every_day_lies_in_its_own_period(day: date) -> None:
    one = np.datetime64(day)
    for grain in Grain:
        span = STANDARD.period(grain, int(STANDARD.number(grain, np.array([one]))[0]))
        assert span.start <= one <= span.end
        assert span.is_whole()


@given(dates)
def test_weeks_are_iso_weeks(day: date) -> None:
    year, week, _ = day.isocalendar()
    span = parse_period(f"{year}-W{week:02d}")
    assert span.start <= np.datetime64(day) <= span.end
    assert str(span.start) == (day - timedelta(days=day.weekday())).isoformat()


@pytest.mark.parametrize(
    ("text", "start", "end"),
    [
        ("2025", "2025-01-01", "2025-12-31"),
        ("2024-02", "2024-02-01", "2024-02-29"),
        ("2025-08-14", "2025-08-14", "2025-08-14"),
        ("2025-Q3", "2025-07-01", "2025-09-30"),
        ("2025-07-01/2025-09-30", "2025-07-01", "2025-09-30"),
        ("2020-W53", "2020-12-28", "2021-01-03"),
        ("2023/2024", "2023-01-01", "2024-12-31"),
    ],
)
def test_periods_are_read(text: str, start: str, end: str) -> None:
    span = parse_period(text)
    assert (str(span.start), str(span.end)) == (start, end)


@pytest.mark.parametrize(
    "text", ["", "last year", "2025-13", "2025-02-30", "2021-W53", "2025-Q5", "2025-09/2025-07", "25-01"]
)
def test_other_periods_are_refused_with_the_forms_allowed(text: str) -> None:
    with pytest.raises(ga.PeriodError):
        parse_period(text)


@pytest.mark.parametrize(
    ("text", "before", "year_before"),
    [
        ("2025-03", "2025-02-01/2025-02-28", "2024-03-01/2024-03-31"),
        ("2024-02", "2024-01-01/2024-01-31", "2023-02-01/2023-02-28"),
        ("2025-Q1", "2024-10-01/2024-12-31", "2024-01-01/2024-03-31"),
        ("2025", "2024-01-01/2024-12-31", "2024-01-01/2024-12-31"),
        ("2025-01/2025-09", "2024-04-01/2024-12-31", "2024-01-01/2024-09-30"),
        ("2025-W10", "2025-02-24/2025-03-02", "2024-03-04/2024-03-10"),
        ("2025-03-05/2025-03-09", "2025-02-28/2025-03-04", "2024-03-05/2024-03-09"),
    ],
)
def test_the_period_before_and_a_year_ago(text: str, before: str, year_before: str) -> None:
    span = parse_period(text)
    assert f"{span.previous().start}/{span.previous().end}" == before
    assert f"{span.year_ago().start}/{span.year_ago().end}" == year_before


@pytest.mark.parametrize(("last", "partial"), [("2025-10-19", True), ("2025-10-31", False), ("2025-10-30", True)])
def test_a_daily_month_is_partial_when_a_day_is_missing(last: str, partial: bool) -> None:
    line = timeline("d", np.repeat(days("2023-01-01", last), 6), Grain.MONTH)
    assert line is not None
    assert line.partial_last is partial


def test_a_month_whose_last_working_day_is_a_friday_is_complete() -> None:
    every = days("2022-01-01", "2024-03-29")  # 29 March 2024 was a Friday
    working = every[(every.astype(int) + 3) % 7 < 5]
    line = timeline("d", np.repeat(working, 6), Grain.MONTH)
    assert line is not None
    assert not line.partial_last
    shorter = timeline("d", np.repeat(working[:-1], 6), Grain.MONTH)
    assert shorter is not None
    assert shorter.partial_last


def test_months_dated_on_their_first_day_are_complete() -> None:
    firsts = np.arange(np.datetime64("2022-01"), np.datetime64("2025-10")).astype("datetime64[D]")
    line = timeline("d", np.repeat(firsts, 8), Grain.MONTH)
    assert line is not None
    assert not line.partial_last
    assert not line.partial_first
    assert line.count == 45


@pytest.mark.parametrize(
    ("first", "last", "step", "grain"),
    [
        ("2023-01-01", "2025-12-31", 1, "month"),
        ("2025-01-01", "2025-03-31", 1, "day"),
        ("2024-01-01", "2024-12-31", 7, "week"),
        ("2000-01-01", "2025-01-01", 30, "month"),
        ("1960-01-01", "2020-01-01", 365, "year"),
    ],
)
def test_the_grain_fits_the_data(first: str, last: str, step: int, grain: str) -> None:
    assert choose_grain(*day_counts(np.repeat(days(first, last, step), 8))) == grain


def test_missing_dates_are_left_out_and_no_dates_give_no_timeline() -> None:
    nothing = np.array(["NaT"], dtype="datetime64[D]")
    assert timeline("d", nothing) is None
    line = timeline("d", np.append(days("2024-01-01", "2024-06-30"), nothing), Grain.MONTH)
    assert line is not None
    assert line.count == 6


@given(st.dates(date(1950, 1, 1), date(2080, 12, 31)), st.integers(1, 12), st.sampled_from(WEEKDAYS))
def test_every_day_lies_in_its_own_period_by_any_calendar(day: date, fiscal_start: int, week_start: str) -> None:
    calendar = Calendar(fiscal_start=fiscal_start, week_start=week_start)
    one = np.datetime64(day, "D")
    for grain in Grain:
        number = int(calendar.number(grain, np.array([one]))[0])
        span = calendar.period(grain, number)
        assert span.start <= one <= span.end
        assert calendar.end(grain, number) + np.timedelta64(1, "D") == calendar.start(grain, number + 1)
        assert span.is_whole()
        assert span.previous() == calendar.period(grain, number - 1)
    week = calendar.period(Grain.WEEK, int(calendar.number(Grain.WEEK, np.array([one]))[0]))
    assert WEEKDAYS[week.start.item().weekday()] == week_start
    year = calendar.period(Grain.YEAR, int(calendar.number(Grain.YEAR, np.array([one]))[0]))
    assert (year.start.item().month, year.start.item().day) == (fiscal_start, 1)
    assert parse_period(str(calendar.year_name(one)), calendar) == year


@given(st.dates(date(1970, 1, 1), date(2060, 12, 31)), st.integers(1, 12), st.sampled_from(WEEKDAYS))
@settings(max_examples=40, deadline=None)
def test_the_sql_of_a_calendar_says_the_same(day: date, fiscal_start: int, week_start: str) -> None:
    calendar = Calendar(fiscal_start=fiscal_start, week_start=week_start)
    for grain in Grain:
        number = int(calendar.number(grain, np.array([np.datetime64(day, "D")]))[0])
        sql = f"SELECT CAST({calendar.sql(grain, f'DATE {str(day)!r}')} AS DATE)"
        assert duckdb.sql(sql).fetchall()[0][0] == calendar.start(grain, number).item()


@pytest.mark.parametrize(
    ("text", "start", "end", "said"),
    [
        ("2025", "2024-04-01", "2025-03-31", "fiscal 2025"),
        ("2025-Q1", "2024-04-01", "2024-06-30", "the first quarter of fiscal 2025"),
        ("2025-Q4", "2025-01-01", "2025-03-31", "the fourth quarter of fiscal 2025"),
        ("2025-03", "2025-03-01", "2025-03-31", "March 2025"),
        ("2025-W01", "2024-12-29", "2025-01-04", "the week of 29 December 2024"),
    ],
)
def test_fiscal_periods(text: str, start: str, end: str, said: str) -> None:
    span = parse_period(text, Calendar(fiscal_start=4, week_start="Sunday"))
    assert (str(span.start), str(span.end)) == (start, end)
    assert said_period(span) == said


def test_a_scan_and_a_change_by_the_fiscal_year() -> None:
    days = pd.date_range("2021-04-01", "2025-03-31", freq="D")
    chance = np.random.default_rng(3)
    frame = pd.DataFrame(
        {"day": days, "shop": chance.choice(["a", "b"], len(days)), "n": chance.poisson(90, len(days))}
    )
    frame.loc[(days >= "2024-04-01") & (frame["shop"] == "a"), "n"] *= 2
    table = ga.read(frame, calendar=ga.Calendar(fiscal_start=4))
    change = ga.explain_change(table, "sum(n)", period="2025", baseline="previous")
    years = (days >= "2024-04-01", (days >= "2023-04-01") & (days < "2024-04-01"))
    figures = change.to_dict()["findings"][0]["figures"]
    assert figures["value"] == frame["n"][years[0]].sum()
    assert figures["baseline"] == frame["n"][years[1]].sum()
    assert "fiscal 2025" in change.summary().text + change.summary().headline
    scan = ga.scan(table, grain="quarter")
    assert "Fiscal 2025 is April 2024 to March 2025; other fiscal years accordingly." in scan.caveats()
    assert scan.findings
    for one in scan.findings:
        answer = table.sql(one.evidence.sql).iloc[0]
        for name, value in one.evidence.expect.items():
            assert answer[name] == pytest.approx(value, rel=1e-6, abs=1e-6)


def test_settings_of_a_calendar_are_checked() -> None:
    for wrong, words in [
        ({"fiscal_start": 13}, "1 to 12"),
        ({"week_start": "mon"}, "one of monday"),
        ({"zone": "Europe/Lisbom"}, "did you mean 'Europe/Lisbon'"),
        ({"holidays": "XX"}, "two-letter code"),
        ({"holidays": "DE-XX"}, "one of"),
        ({"as_of": "tomorrow"}, "a date such as"),
    ]:
        with pytest.raises(ga.RequestError, match=words):
            ga.Calendar(**wrong)
    christmas = np.datetime64("2025-12-25")
    assert christmas in ga.Calendar(holidays="ES").holiday_names(christmas, christmas)


def test_moments_are_turned_to_the_zone_of_the_report() -> None:
    utc = pd.to_datetime(["2025-07-01T23:30:00Z", "2025-01-01T10:00:00Z"])
    table = ga.read(pd.DataFrame({"at": utc, "n": [1, 2]}), calendar=ga.Calendar(zone="Europe/Berlin"))
    assert [str(value) for value in table.arrow.column("at").to_pylist()] == [
        "2025-07-02 01:30:00",
        "2025-01-01 11:00:00",
    ]


def test_the_season_of_fiscal_quarters_begins_with_the_first() -> None:
    days = pd.date_range("2019-02-01", "2025-01-31", freq="D")
    chance = np.random.default_rng(4)
    lively = (days.month - 2) % 12 // 3 == 2  # the third quarter of a year from February
    frame = pd.DataFrame({"day": days, "n": chance.poisson(np.where(lively, 200, 100))})
    scan = ga.scan(ga.read(frame, calendar=ga.Calendar(fiscal_start=2)), grain="quarter", kinds=["seasonality"])
    (found,) = scan.findings
    assert found.figures["peak"] == "the third fiscal quarter"
    assert np.argmax(found.figures["profile"]) == 2
    assert found.check().agrees
