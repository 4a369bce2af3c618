"""What the calendar makes of a change: days, weekdays and holidays, against the worth they were made with."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

_DAYS = pd.date_range("2021-01-01", "2025-12-31")


def takings(weekdays: list[float], seed: int = 1, noise: float = 0.03) -> pd.DataFrame:
    worth = np.array(weekdays)[_DAYS.weekday]
    amounts = np.round(1000 * worth * np.random.default_rng(seed).normal(1, noise, _DAYS.size), 2)
    return pd.DataFrame({"day": _DAYS, "sales": amounts})[worth > 0]


@pytest.mark.parametrize(
    ("weekdays", "period", "baseline", "days", "share"),
    [
        ([1] * 7, "2025-02", "2025-01", (28, 31), 28 / 31),
        ([1] * 7, "2024-03", "2024-02", (31, 29), 31 / 29),
        ([1, 1, 1, 1, 1, 1, 0], "2025-02", "2025-01", (24, 27), 24 / 27),
        # September 2025 has five Mondays and four Fridays, August four and five.
        ([3, 1, 1, 1, 1, 0.5, 0.5], "2025-09", "2025-08", (30, 31), (5 * 3 + 17 + 4) / (4 * 3 + 17 + 5)),
    ],
)
def test_the_calendar_s_part(
    weekdays: list[float], period: str, baseline: str, days: tuple[int, int], share: float
) -> None:
    change = ga.explain_change(takings(weekdays), period=period, baseline=baseline)
    found = change.explanation.calendar
    assert found is not None
    assert (found.days, found.days_before) == days
    assert found.change_pct == pytest.approx(100 * (share - 1), abs=0.6)
    whole = change.explanation.value / change.explanation.before
    assert (1 + found.change_pct / 100) * (1 + found.daily_pct / 100) == pytest.approx(whole)
    assert "The calendar alone" in change.summary().text


def test_what_days_are_worth_is_given_again_by_sql() -> None:
    frame = takings([3, 1, 1, 1, 1, 0.5, 0.5])
    change = ga.explain_change(frame, period="2025-09", baseline="2025-08")
    told = change.to_dict()["explanation"]["calendar"]
    amounts = ga.read(frame).sql(told["sql"])["amount"].to_numpy()
    assert amounts / amounts.mean() == pytest.approx(np.array(told["weekdays"]))


def test_a_leap_february_is_not_unusual() -> None:
    usual = ga.explain_change(takings([1] * 7, noise=0.01), period="2024-03", baseline="2024-02").explanation.usual
    assert usual is not None
    assert usual.usual
    assert usual.low < 100 * 1000 < usual.high or usual.change > 0


def test_short_months_are_no_season() -> None:
    for weekdays in ([1] * 7, [1, 1, 1, 1, 1, 1, 0]):
        found = ga.scan(takings(weekdays), kinds=["seasonality"], grain="month").findings
        assert [one for one in found if one.figures["cycle"] == "year"] == []


def test_a_weekend_is_a_season_of_the_week() -> None:
    (one,) = ga.scan(takings([1, 1, 1, 1, 1, 1.5, 1.5]), kinds=["seasonality"]).findings
    assert one.figures["peak"] is None
    assert one.figures["peak_span"] == ["Saturdays", "Sundays"]
    assert one.check().agrees
    assert "peak on Saturdays and Sundays" in one.headline


def test_amounts_that_come_once_a_month_are_left_as_they_are() -> None:
    """Invoices on the first, and little each day: a month is no sum of its days."""
    rng = np.random.default_rng(2)
    amounts = np.where(_DAYS.day == 1, 30_000.0, 5.0) * rng.normal(1, 0.03, _DAYS.size)
    frame = pd.DataFrame({"day": _DAYS, "sales": np.round(amounts, 2)})
    assert ga.explain_change(frame, period="2025-02", baseline="2025-01").explanation.calendar is None


def test_holidays_of_a_country_count_as_they_did() -> None:
    """Closed on public holidays: May 2025 has two more than March."""
    import holidays

    free = holidays.country_holidays("DE", years=range(2021, 2026))
    shut = np.isin(_DAYS.date, list(free))
    frame = takings([1] * 7)[~shut]
    table = ga.read(frame, calendar=ga.Calendar(holidays="DE"))
    found = ga.explain_change(table, period="2025-05", baseline="2025-03").explanation.calendar
    assert found is not None
    count = sum(1 for day in free if (day.year, day.month) == (2025, 5))
    assert found.change_pct == pytest.approx(-100 * count / 31, abs=0.8)
