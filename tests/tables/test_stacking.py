"""Several files and sheets with the same columns, put one below the other."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import openpyxl
import pytest

import golden_almanac as ga


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "jan.csv").write_text("Day,Route,Guests\n03/01/2025,North,10\n04/01/2025,South,20\n")
    (tmp_path / "feb.csv").write_text("route;guests;day\nNorth;30;25/02/2025\n")
    return tmp_path


def test_a_pattern_of_files_has_a_column_for_the_file(folder: Path) -> None:
    table = ga.read(str(folder / "*.csv"))
    assert table.name == "2 files"
    assert table.arrow.to_pylist() == [
        {"route": "North", "guests": 30, "day": date(2025, 2, 25), "file": "feb.csv"},
        # Day and month are told from all files together: alone, January's could be either.
        {"route": "North", "guests": 10, "day": date(2025, 1, 3), "file": "jan.csv"},
        {"route": "South", "guests": 20, "day": date(2025, 1, 4), "file": "jan.csv"},
    ]
    assert table.row_numbers().tolist() == [2, 2, 3]
    dates = next(one for one in table.problems if one.check == "dates as text")
    assert dates.examples[1] == (2, "03/01/2025 [jan.csv]")
    assert ga.read([folder / "jan.csv", folder / "feb.csv"]).arrow.column("file").to_pylist()[0] == "jan.csv"


def test_a_part_without_a_column_is_told_and_other_tables_are_refused(folder: Path) -> None:
    (folder / "mar.csv").write_text("Day,Route\n05/03/2025,North\n")
    table = ga.read(str(folder / "*.csv"))
    assert table.arrow.column("guests").to_pylist()[-1] is None
    assert any("mar.csv has no column 'guests'" in one.message for one in table.problems)
    (folder / "other.csv").write_text("quay,depth\nA,3\n")
    with pytest.raises(ga.SourceError, match=r"other.csv: its columns \(quay, depth\) are others"):
        ga.read(str(folder / "*.csv"))
    with pytest.raises(ga.SourceError, match="no file matches"):
        ga.read(str(folder / "*.parquet"))


def test_sheets_with_the_same_columns_are_stacked(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    for place, name in enumerate(("Jan", "Feb", "Notes")):
        sheet = book.active if place == 0 else book.create_sheet()
        sheet.title = name
        rows = [("a", "b", "c"), (1, 2, 3)] if name == "Notes" else [("Route", "Guests"), (name, 10), ("South", 20)]
        for row in rows:
            sheet.append(row)
    book.save(tmp_path / "b.xlsx")
    table = ga.read(tmp_path / "b.xlsx")
    assert table.arrow.to_pydict() == {
        "Route": ["Jan", "South", "Feb", "South"],
        "Guests": [10, 20, 10, 20],
        "sheet": ["Jan", "Jan", "Feb", "Feb"],
    }
    assert {"sheets stacked", "several sheets"} <= {one.check for one in table.problems}
    assert ga.read(tmp_path / "b.xlsx", sheet="Feb").rows == 2
    assert ga.read(tmp_path / "b.xlsx", repairs=table.repair_log()).arrow.equals(table.arrow)


@pytest.mark.parametrize("extra", [[], [("West", 7)]])
def test_a_sheet_of_the_year_is_not_counted_beside_its_months(tmp_path: Path, extra: list[tuple[str, int]]) -> None:
    months = {"Jan": [("North", 1), ("South", 2)], "Feb": [("North", 3), ("East", 4)]}
    year = [row for rows in months.values() for row in rows] + extra
    book = openpyxl.Workbook()
    for place, (name, rows) in enumerate({"Year": year, **months}.items()):
        sheet = book.active if place == 0 else book.create_sheet()
        sheet.title = name
        for row in [("Route", "Guests"), *rows]:
            sheet.append(row)
    book.save(tmp_path / "b.xlsx")
    table = ga.read(tmp_path / "b.xlsx")
    assert table.numbers("Guests").sum() == sum(guests for _, guests in year)
    assert any(one.check == "parts that repeat others" for one in table.problems)


def test_titles_of_different_height_are_found_again_in_each_file(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Report\n\nDay,Route,Guests\n2025-01-03, North ,10\n2025-01-04,South,20\n")
    (tmp_path / "b.csv").write_text(
        "Report\nOf February\n\n\nDay,Route,Guests\n2025-02-03,North,30\n2025-02-04,East,40\n"
    )
    table = ga.read(str(tmp_path / "*.csv"))
    assert table.arrow.column("Guests").to_pylist() == [10, 20, 30, 40]
    assert ga.read(str(tmp_path / "*.csv"), repairs=table.repair_log()).arrow.equals(table.arrow)
    (spaces,) = [one for one in table.problems if one.check == "spaces around texts"]
    assert spaces.message.startswith("a.csv: ")
    assert spaces.examples == ((4, "' North ' [a.csv]"),)
