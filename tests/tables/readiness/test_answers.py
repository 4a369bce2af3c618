"""Questions, the answers to them, and the log that makes the same repairs again."""

from __future__ import annotations

import csv
import io
from datetime import date, datetime
from pathlib import Path

import openpyxl
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.export.data_files import aside_bytes

AMBIGUOUS = "Date,n\n05/03/2025,1\n01/02/2025,2\n11/10/2025,3\n"


def put(path: Path, text: str) -> Path:
    path.write_text(text, encoding="utf-8")
    return path


def question(table: ga.Table, check: str) -> ga.Table:
    (found,) = [one for one in table.problems if one.check == check]
    assert found.severity == "question"
    assert found.question is not None
    assert found.repair is None
    return found.question


@pytest.mark.parametrize(("answer", "first"), [("day first", date(2025, 3, 5)), ("month first", date(2025, 5, 3))])
def test_date_order(tmp_path: Path, answer: str, first: date) -> None:
    path = put(tmp_path / "a.csv", AMBIGUOUS)
    asked = question(ga.read(path), "date order")
    assert asked.key == "date order/Date"
    assert asked.option == "--answer 'date order/Date=day first'"
    assert asked.choices == ("day first", "month first")
    for key in ("date order/Date", "date order"):
        table = ga.read(path, answers={key: answer})
        assert table.arrow.column("Date")[0].as_py() == first
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)


def test_mixed_units_become_a_column(tmp_path: Path) -> None:
    path = put(tmp_path / "a.csv", "name,price\na,€2.40\nb,£1.90\nc,€3.10\n")
    asked = question(ga.read(path), "mixed units")
    table = ga.read(path, answers={asked.key: asked.choices[0]})
    assert table.arrow.to_pydict() == {
        "name": ["a", "b", "c"],
        "price": [2.4, 1.9, 3.1],
        "price unit": ["EUR", "GBP", "EUR"],
    }
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)


def test_percent_among_numbers(tmp_path: Path) -> None:
    path = put(tmp_path / "a.csv", "name,share\na,12%\nb,0.4\n")
    asked = question(ga.read(path), "mixed units")
    assert ga.read(path, answers={asked.key: asked.choices[0]}).arrow.column("share").to_pylist() == [0.12, 0.4]


def test_words_among_numbers(tmp_path: Path) -> None:
    path = put(tmp_path / "a.csv", "name,n\n" + "".join(f"x{i},{i}.5\n" for i in range(30)) + "y,closed\n")
    asked = question(ga.read(path), "mixed types")
    table = ga.read(path, answers={asked.key: "count as missing"})
    assert table.arrow.column("n").to_pylist() == [i + 0.5 for i in range(30)] + [None]
    (told,) = [one for one in table.problems if one.check == "missing values"]
    assert told.examples == ((32, "closed"),)
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)


def test_moments_with_and_without_a_zone(tmp_path: Path) -> None:
    path = put(tmp_path / "a.csv", "at,n\n2025-07-01T10:00:00+02:00,1\n2025-07-01T10:00:00,2\n")
    asked = question(ga.read(path), "time zones")
    table = ga.read(path, answers={asked.key: asked.choices[0]}, calendar=ga.Calendar(zone="America/New_York"))
    assert table.arrow.column("at").to_pylist() == [datetime(2025, 7, 1, 4), datetime(2025, 7, 1, 6)]
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)


def labelled(tmp_path: Path) -> Path:
    rows = [f"{i},Outer Bar,{i * 7 % 97}\n" for i in range(40)] + ["40,outer  bar,5\n", "41,Outr Bar,6\n"]
    return put(tmp_path / "a.csv", "trip,route,n\n" + "".join(rows) + "".join(f"{i},South,3\n" for i in range(50, 70)))


def test_labels_are_merged_when_told(tmp_path: Path) -> None:
    path = labelled(tmp_path)
    asked = question(ga.read(path), "labels alike")
    table = ga.read(path, answers={asked.key: "merge"})
    assert set(table.arrow.column("route").to_pylist()) == {"Outer Bar", "South"}
    assert table.sql("SELECT count(*) AS n FROM source WHERE route = 'Outer Bar'")["n"][0] == 42
    apart = ga.read(path, answers={asked.key: "keep apart"})
    assert not [one for one in apart.problems if one.severity == "question"]
    log = table.repair_log()
    assert log["steps"][-1]["labels"] == {"outer  bar": "Outer Bar", "Outr Bar": "Outer Bar"}
    assert ga.read(path, repairs=log).arrow.equals(table.arrow)


def test_rows_are_taken_out_when_told_and_can_be_written(tmp_path: Path) -> None:
    lines = [f"2025-01-{i:02},Outer Bar,{i * 13.5}\n" for i in range(1, 29)]
    path = put(tmp_path / "a.csv", "day,route,fee\n" + "".join(lines) + lines[4])
    asked = question(ga.read(path), "repeated rows")
    table = ga.read(path, answers={asked.key: "take out"})
    assert (table.rows, table.rows_read) == (28, 29)
    rows = list(csv.DictReader(io.StringIO(aside_bytes(table).decode())))
    assert rows == [
        {"row": "30", "part": "", "why": "repeats an earlier row in every column", "day": "2025-01-05",
         "route": "Outer Bar", "fee": "67.5", "text": ""}
    ]  # fmt: skip
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)


@pytest.mark.parametrize(
    ("again", "said"),
    [("T999,2025-01-05,Outer Bar,67.5,34", "but 'ticket'"), ("T104,2025-01-05,OUTER BAR ,67.5,34", "spelling")],
)
def test_near_repeats(tmp_path: Path, again: str, said: str) -> None:
    lines = [f"T{100 + i},2025-01-{i + 1:02},Outer Bar,{(i + 1) * 13.5},{30 + i}\n" for i in range(28)]
    path = put(tmp_path / "a.csv", "ticket,day,route,fee,guests\n" + "".join(lines) + again + "\n")
    (told,) = [one for one in ga.read(path).problems if one.check == "near repeats"]
    assert said in told.message
    assert told.examples == ((30, "nearly the same as row 6"),)
    assert ga.read(path, answers={"near repeats": "take out"}).rows == 28


def test_stray_dates(tmp_path: Path) -> None:
    lines = [f"2025-{1 + i // 28:02}-{1 + i % 28:02},{i}\n" for i in range(200)]
    path = put(tmp_path / "a.csv", "day,n\n" + "".join(lines) + "2052-03-01,7\n")
    asked = question(ga.read(path), "stray dates")
    table = ga.read(path, answers={asked.key: "take out"})
    assert table.rows == 200
    assert table.aside[0].why == "a stray date"


def test_hidden_rows_and_error_cells(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    for row in [("day", "n"), *((date(2025, 1, i), i) for i in range(1, 12))]:
        sheet.append(row)
    sheet["B4"] = "#DIV/0!"
    sheet["B4"].data_type = "e"
    sheet.row_dimensions[6].hidden = True
    book.save(tmp_path / "b.xlsx")
    table = ga.read(tmp_path / "b.xlsx")
    asked = question(table, "hidden rows")
    (errors,) = [one for one in table.problems if one.check == "error cells"]
    assert errors.examples == ((4, "B4: #DIV/0!"),)
    assert table.arrow.column("n").to_pylist() == [1, 2, None, *range(4, 12)]
    taken = ga.read(tmp_path / "b.xlsx", answers={asked.key: "take out"})
    assert taken.arrow.column("n").to_pylist() == [1, 2, None, 4, *range(6, 12)]
    assert [one.row for one in taken.aside] == [6]
    assert ga.read(tmp_path / "b.xlsx", repairs=taken.repair_log()).arrow.equals(taken.arrow)


def test_wrong_answers_and_logs_are_refused(tmp_path: Path) -> None:
    path = put(tmp_path / "a.csv", AMBIGUOUS)
    with pytest.raises(ga.RequestError, match="'day first', 'month first'"):
        ga.read(path, answers={"date order/Date": "dayfirst"})
    with pytest.raises(ga.RequestError, match="Did you mean 'date order/Date'"):
        ga.read(path, answers={"date ordre/Date": "day first"})
    log = ga.read(labelled(tmp_path / "..")).repair_log()
    with pytest.raises(ga.RequestError, match="repair log"):
        ga.read(path, repairs=log)
    with pytest.raises(ga.RequestError, match="golden-almanac/repairs/1"):
        ga.read(path, repairs={"format": "other"})
    with pytest.raises(ga.SourceError, match="no such file"):
        ga.read(path, repairs=tmp_path / "none.json")


@pytest.mark.parametrize(
    ("name", "values", "wanted"),
    [
        ("Date", [45658, 45659, 45690], [date(2025, 1, 1), date(2025, 1, 2), date(2025, 2, 2)]),
        ("Invoice date", [45658.5, 45659.25], [datetime(2025, 1, 1, 12), datetime(2025, 1, 2, 6)]),
        ("Posted", [20250101, 20250102, 20250228], [date(2025, 1, 1), date(2025, 1, 2), date(2025, 2, 28)]),
        ("Revenue", [45658, 45659, 45690], [45658, 45659, 45690]),
        ("Posted", [20250101, 20250102, 20250230], [20250101, 20250102, 20250230]),
    ],
)  # fmt: skip
def test_dates_kept_as_numbers(tmp_path: Path, name: str, values: list[float], wanted: list[object]) -> None:
    path = put(tmp_path / "a.csv", f"{name},n\n" + "".join(f"{value},1\n" for value in values))
    table = ga.read(path)
    assert table.arrow.column(name).to_pylist() == wanted
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)


def test_gaps_holidays_and_dates_to_come() -> None:
    days = [day for day in pd.date_range("2025-01-06", "2025-05-30", freq="B") if str(day)[:10] != "2025-03-12"]
    days = [day for day in days if str(day)[:10] not in ("2025-04-18", "2025-04-21", "2025-05-01", "2025-05-29")]
    frame = pd.DataFrame({"day": days * 3, "n": range(3 * len(days))})
    told = {one.check: one for one in ga.read(frame).problems}
    assert told["gaps in the dates"].rows == 5  # one day, four holidays
    told = {one.check: one for one in ga.read(frame, calendar=ga.Calendar(holidays="DE", as_of="2025-05-27")).problems}
    assert told["gaps in the dates"].rows == 1
    assert "2025-03-12" in told["gaps in the dates"].message
    assert "4 public holidays" in told["gaps in the dates"].message
    assert told["dates to come"].rows == 6  # 28 and 30 May, three rows each
