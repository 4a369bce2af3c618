"""Days, months and periods in words: in English by hand, elsewhere as the CLDR writes them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from golden_almanac.tables import Calendar, Grain, Period
from golden_almanac.text import dates, numbers
from golden_almanac.text.languages import speaking, voice_of


def span(start: str, end: str, grain: Grain | None = None, **calendar: int) -> Period:
    return Period(start=np.datetime64(start), end=np.datetime64(end), grain=grain, calendar=Calendar(**calendar))


MONTH = span("2025-09-01", "2025-09-30", Grain.MONTH)
QUARTER = span("2025-07-01", "2025-09-30", Grain.QUARTER)
YEAR = span("2025-01-01", "2025-12-31", Grain.YEAR)
WEEK = span("2025-09-01", "2025-09-07", Grain.WEEK)
DAYS = span("2025-10-01", "2025-10-19")


@pytest.mark.parametrize(
    ("one", "itself", "inside"),
    [
        (MONTH, "September 2025", "in September 2025"),
        (QUARTER, "the third quarter of 2025", "in the third quarter of 2025"),
        (YEAR, "2025", "in 2025"),
        (WEEK, "the week of 1 September 2025", "in the week of 1 September 2025"),
        (DAYS, "1 to 19 October 2025", "from 1 to 19 October 2025"),
        (span("2022-09-01", "2025-09-30"), "September 2022 to September 2025", "from September 2022 to September 2025"),
        (span("2025-03-14", "2025-05-02"), "14 March 2025 to 2 May 2025", "from 14 March 2025 to 2 May 2025"),
    ],
)
def test_periods_in_english(one: Period, itself: str, inside: str) -> None:
    assert dates.period(one) == itself
    assert dates.within(one) == inside


@pytest.mark.parametrize(
    ("locale", "day", "month", "inside", "since"),
    [
        ("de", "1. September 2025", "September 2025", "im September 2025", "seit September 2025"),
        ("es", "1 de septiembre de 2025", "septiembre de 2025", "en septiembre de 2025", "desde septiembre de 2025"),
        ("fr", "1 septembre 2025", "septembre 2025", "en septembre 2025", "depuis septembre 2025"),
    ],
)
def test_days_and_months_elsewhere(locale: str, day: str, month: str, inside: str, since: str) -> None:
    with speaking(voice_of(locale)):
        assert dates.day(MONTH.start) == day
        assert dates.month(MONTH.start) == month
        assert dates.within(MONTH) == inside
        assert dates.since(MONTH) == since


@pytest.mark.parametrize(
    ("locale", "names"),
    [
        ("en", ["August", "Saturday", "the first quarter"]),
        ("de", ["August", "Samstag", "erstes Quartal"]),
        ("es", ["agosto", "sábado", "el primer trimestre"]),
        ("fr", ["août", "samedi", "le premier trimestre"]),
    ],
)
def test_parts_of_cycles(locale: str, names: list[str]) -> None:
    with speaking(voice_of(locale)):
        assert [dates.calendar_name(name) for name in ("August", "Saturday", "the first quarter")] == names
        assert dates.calendar_name("Outer Bar") == "Outer Bar"


def test_fiscal_years_are_said_to_be_fiscal() -> None:
    fiscal = span("2025-04-01", "2026-03-31", Grain.YEAR, fiscal_start=4)
    assert dates.year(fiscal).startswith("fiscal ")
    assert dates.period(span("2025-04-01", "2025-06-30", Grain.QUARTER, fiscal_start=4)).startswith("the first quarter")


@given(st.dates(min_value=np.datetime64("1950-01-01").item(), max_value=np.datetime64("2100-12-31").item()))
def test_every_day_keeps_its_numbers_in_every_language(day: object) -> None:
    one = np.datetime64(str(day))
    year, _, number = str(one).split("-")
    for locale in ("en", "de", "es", "fr", "de_AT", "fr_CA"):
        with speaking(voice_of(locale)):
            said = dates.day(one)
            assert year in said
            assert str(int(number)) in said.replace(year, "")
            assert dates.day_short(one)
            assert year in dates.month_short(one)


@pytest.mark.parametrize(
    ("value", "digits", "said"),
    [
        (0.0, 4, "0"),
        (5.105, 4, "5.105"),
        (-0.97628, 4, "−0.9763"),
        (1234567.891, 6, "1,234,570"),
        (0.000012345, 3, "0.0000123"),
        (1.5e-9, 3, "1.5 × 10^−9"),
        (6.02214076e23, 4, "6.022 × 10^23"),
        (float("nan"), 4, "–"),
        (100.0, 4, "100"),
    ],
)
def test_figures_to_reckon_on_with(value: float, digits: int, said: str) -> None:
    assert numbers.figure(value, digits) == said


@given(st.floats(1e-4, 1e9), st.integers(3, 8))
def test_a_figure_is_read_back_within_its_digits(value: float, digits: int) -> None:
    read = float(numbers.figure(value, digits).replace(",", ""))
    assert read == pytest.approx(value, rel=0.51 * 10.0 ** (1 - digits))
