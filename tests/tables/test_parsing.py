"""Text in every dress, and the table that should come out."""

from __future__ import annotations

from datetime import date, datetime
from pathlib import Path
from typing import Any

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.tables.parsing import Typed, typed


def turn(texts: list[str | None]) -> Typed:
    return typed("c", pa.array(texts, pa.string()), lambda place, text: (place + 2, text))


def values(texts: list[str | None]) -> list[Any]:
    return list(turn(texts).values.to_pylist())


@pytest.mark.parametrize(
    ("texts", "wanted"),
    [
        (["1", "2"], [1, 2]),
        (["+4", "-5"], [4, -5]),
        (["1.5", "2"], [1.5, 2.0]),
        (["1e3", "2.5"], [1000.0, 2.5]),
        (["1,234.50", "12.00"], [1234.5, 12.0]),
        (["1.234,50", "12,00"], [1234.5, 12.0]),
        (["1 234,5", "12,25"], [1234.5, 12.25]),
        (["1'234.5", "8.1"], [1234.5, 8.1]),
        (["1\u00a0234", "56"], [1234, 56]),
        (["1,234", "1,234,567"], [1234, 1234567]),
        (["1,5", "2,25"], [1.5, 2.25]),
        (["(1,200)", "300"], [-1200, 300]),
        (["1,200-", "300"], [-1200, 300]),
        (["−7", "3"], [-7, 3]),
        (["$1,200.50", "$3"], [1200.5, 3.0]),
        (["€ 12,50", "€ 1.000,00"], [12.5, 1000.0]),
        (["12,50 €", "-3,10 €"], [12.5, -3.1]),
        (["CHF 1'000", "CHF 20"], [1000, 20]),
        (["12%", "7.5%"], [12.0, 7.5]),
        (["3 kg", "12 kg"], [3, 12]),
        (["-$5", "$6"], [-5, 6]),
        (["$-5", "$6"], [-5, 6]),
        (["0.125", "0,5"], None),
        (["12", "twelve"], None),
        (["007", "012"], None),
        (["1234567890123456", "2234567890123456"], None),
        (["1.2.3", "4"], None),
        (["12,34,56", "1"], None),
        (["nan", "1"], [None, 1]),
        (["inf", "1"], None),
    ],
)
def test_numbers(texts: list[str], wanted: list[Any] | None) -> None:
    assert values(list(texts)) == (texts if wanted is None else wanted)


@pytest.mark.parametrize(
    "word", ["n/a", "N/A", "na", "NULL", "none", "-", "--", "–", "?", "#N/A", "k.A.", "TBD", "unknown", "#DIV/0!"]
)
def test_spellings_of_missing_count_among_numbers_only(word: str) -> None:
    found = turn(["1,50", word, "2,25"])
    assert found.values.to_pylist() == [1.5, None, 2.25]
    assert any(p.check == "missing values" and p.rows == 1 and p.examples == ((3, word),) for p in found.problems)
    assert values(["Ada", word, "Bob"]) == ["Ada", word, "Bob"]


@pytest.mark.parametrize(
    ("texts", "wanted"),
    [
        (["2025-08-14", "2025-08-15"], [date(2025, 8, 14), date(2025, 8, 15)]),
        (["2025/8/14"], [date(2025, 8, 14)]),
        (["14.08.2025", "01.02.2025"], [date(2025, 8, 14), date(2025, 2, 1)]),
        (["14/08/25", "1/2/25"], [date(2025, 8, 14), date(2025, 2, 1)]),
        (["8/14/2025", "1/2/2025"], [date(2025, 8, 14), date(2025, 1, 2)]),
        (["14 Aug 2025"], [date(2025, 8, 14)]),
        (["Aug 14, 2025"], [date(2025, 8, 14)]),
        (["14. August 2025"], [date(2025, 8, 14)]),
        (["3. März 2024"], [date(2024, 3, 3)]),
        (["14 août 2025", "1 févr. 2025"], [date(2025, 8, 14), date(2025, 2, 1)]),
        (["14 de agosto de 2025"], [date(2025, 8, 14)]),
        (["Aug 2025", "Sept 2025"], [date(2025, 8, 1), date(2025, 9, 1)]),
        (["Aug-25"], [date(2025, 8, 1)]),
        (["Q3 2025"], [date(2025, 7, 1)]),
        (["2025-Q4"], [date(2025, 10, 1)]),
        (["2025-W07"], [date(2025, 2, 10)]),
        (["FY25 W07", "FY25 W08"], [date(2025, 2, 10), date(2025, 2, 17)]),
        (["Wk 7 FY2025"], [date(2025, 2, 10)]),
        (["FY25 P03", "FY25 P12"], [date(2025, 3, 1), date(2025, 12, 1)]),
        (["P3 2025", "P4 2025"], [date(2025, 3, 1), date(2025, 4, 1)]),
        (["2025 P12", "2025 P13"], None),
        (["2025-08"], [date(2025, 8, 1)]),
        (["08/2025"], [date(2025, 8, 1)]),
        (["31.12.69", "1.1.70"], [date(1969, 12, 31), date(1970, 1, 1)]),
        (["2025-08-14 09:30", "2025-08-15 10:00"], [datetime(2025, 8, 14, 9, 30), datetime(2025, 8, 15, 10)]),
        (["8/14/2025 1:05 PM"], [datetime(2025, 8, 14, 13, 5)]),
        (["2025-02-30", "2025-02-20"], None),
        (["01/02/2025", "03/04/2025"], None),
    ],
)
def test_dates(texts: list[str], wanted: list[Any] | None) -> None:
    assert values(list(texts)) == (texts if wanted is None else wanted)


def test_the_order_of_the_rows_can_tell_day_from_month() -> None:
    texts = [f"{day:02d}/01/2025" for day in range(1, 13)]  # as month first they would also rise; as day first too
    assert turn(texts).problems[0].severity == "question"
    crossing = [f"{day:02d}/{month:02d}/2025" for month in (1, 2) for day in range(1, 13)]
    assert values(crossing)[:2] == [date(2025, 1, 1), date(2025, 1, 2)]
    assert "day first" in turn(crossing).problems[0].message


def test_moments_of_several_time_zones_meet_in_utc() -> None:
    one = turn(["2025-08-14T01:30:00+02:00", "2025-08-14T09:00:00Z", "2025-08-14T09:00:00-0530"])
    assert one.values.to_pylist() == [
        datetime(2025, 8, 13, 23, 30),
        datetime(2025, 8, 14, 9),
        datetime(2025, 8, 14, 14, 30),
    ]
    assert "UTC" in one.problems[0].message
    half = turn(["2025-08-14T01:30:00+02:00", "2025-08-14T09:00:00"])
    assert half.problems[0].severity == "question"
    # One offset throughout is the clock of the place, and stays.
    same = turn(["2025-08-14T01:30:00+02:00", "2025-08-15T01:30:00+02:00"])
    assert same.values.to_pylist()[0] == datetime(2025, 8, 14, 1, 30)


def test_an_ambiguous_column_is_a_question() -> None:
    (problem,) = turn(["01/02/2025", "03/04/2025"]).problems
    assert problem.severity == "question"
    assert problem.question is not None
    assert problem.question.choices == ("day first", "month first")
    assert problem.repair is None


@pytest.mark.parametrize(
    ("yes", "no"), [("yes", "no"), ("Ja", "Nein"), ("TRUE", "FALSE"), ("y", "n"), ("oui", "non"), ("sí", "no")]
)
def test_yes_and_no(yes: str, no: str) -> None:
    assert values([yes, no, None, yes]) == [True, False, None, True]
    assert values([yes, yes]) == [yes, yes]


@pytest.mark.parametrize("texts", [["€5", "$6"], ["3 kg", "4 t"], ["12%", "13"]])
def test_mixed_units_are_a_question_and_nothing_is_added_up(texts: list[str]) -> None:
    found = turn(list(texts))
    assert found.values.to_pylist() == texts
    assert found.problems[0].severity == "question"


def test_a_few_cells_that_are_no_numbers_are_shown() -> None:
    found = turn([f"{i},5" for i in range(30)] + ["see note"])
    (problem,) = found.problems
    assert problem.check == "mixed types"
    assert problem.examples == ((32, "see note"),)
    assert found.values.to_pylist()[-1] == "see note"


def test_units_reach_the_column(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("d;fee\n2025-01-01;1.200,50 €\n2025-01-02;3,00 €\n", encoding="utf-8")
    assert ga.read(path).column("fee").unit == "EUR"


def american(number: float) -> str:
    return f"{number:,.2f}"


def german(number: float) -> str:
    return american(number).translate(str.maketrans(",.", ".,"))


DRESSES = [
    american,
    german,
    lambda n: german(n) + " €",
    lambda n: f"${american(n)}" if n >= 0 else f"-${american(-n)}",
    lambda n: american(n) if n >= 0 else f"({american(-n)})",
    lambda n: american(n) if n >= 0 else f"{american(-n)}-",
]


@given(st.lists(st.integers(-(10**8), 10**8), min_size=2, max_size=30), st.sampled_from(range(len(DRESSES))))
def test_any_amounts_in_any_dress_read_back_equal(cents: list[int], dress: int) -> None:
    numbers = [value / 100 for value in cents]
    assert values([DRESSES[dress](number) for number in numbers]) == numbers


@given(
    st.lists(st.dates(date(1970, 1, 1), date(2068, 12, 31)), min_size=2, max_size=30),
    st.sampled_from(["%d.%m.%Y", "%Y/%m/%d", "%d %b %Y", "%B %d, %Y", "%Y-%m-%d"]),
)
def test_any_dates_in_any_dress_read_back_equal(days: list[date], form: str) -> None:
    assert values([day.strftime(form) for day in days]) == days


@pytest.mark.parametrize(
    ("texts", "wanted"),
    [
        (["1.2k", "3k", "900"], [1200, 3000, 900]),
        (["€2.4 m", "€0.9 m"], [2_400_000, 900_000]),
        (["2 Mio", "3,5 Mio"], [2_000_000, 3_500_000]),
        (["5 m", "7 m"], [5, 7]),
        (["300 K", "310 K"], [300, 310]),
        (["+49 170 1234567", "+44 20 7946 0958"], ["+49 170 1234567", "+44 20 7946 0958"]),
        (["192.168.0.1", "10.0.0.12"], ["192.168.0.1", "10.0.0.12"]),
        (["1.2.3", "1.10.0"], ["1.2.3", "1.10.0"]),
        (["2024-01-03", "03.02.2024", "5 March 2024"], [date(2024, 1, 3), date(2024, 2, 3), date(2024, 3, 5)]),
        (["2024-01-03", "03/02/2024"], ["2024-01-03", "03/02/2024"]),
    ],
)
def test_what_looks_like_a_number_or_a_date_and_is_none_or_another(texts: list[str], wanted: list[Any]) -> None:
    assert values(texts) == wanted


@pytest.mark.parametrize(
    "texts",
    [["Fri 01 Mar 2024", "Sat 02 Mar 2024"], ["Fr. 01.03.2024", "Sa. 02.03.2024"],
     ["2024-03-01 (Fri)", "2024-03-02 (Sat)"],
     ["vendredi 1 mars 2024", "samedi 2 mars 2024"], ["Friday, March 1, 2024", "Saturday, March 2, 2024"]],
)  # fmt: skip
def test_a_weekday_beside_a_date_says_nothing_new(texts: list[str]) -> None:
    assert values(texts) == [date(2024, 3, 1), date(2024, 3, 2)]


def test_points_part_thousands_where_other_columns_have_a_decimal_comma(tmp_path: Path) -> None:
    """In a file of one hand 5.200 beside 3,4 is five thousand; months with points are months."""
    path = tmp_path / "loans.csv"
    path.write_text(
        "Monat;Ausleihen;Wochen\n01.2022;5.200;3,4\n02.2022;837;3,1\n03.2022;12.345;2,9\n", encoding="utf-8"
    )
    table = ga.read(path)
    assert table.numbers("Ausleihen").tolist() == [5200, 837, 12345]
    assert table.numbers("Wochen").tolist() == [3.4, 3.1, 2.9]
    assert table.column("Monat").role.value == "time"
    path.write_text("month;loans;weeks\n1;5.200;3.4\n2;837;3.1\n3;12.345;2.9\n", encoding="utf-8")
    assert ga.read(path).numbers("loans").tolist() == [5.2, 837, 12.345]
