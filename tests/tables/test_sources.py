"""Workbooks, JSON, databases, packed and messy files: the table that should come out, written by hand."""

from __future__ import annotations

import gzip
import io
import json
import sqlite3
import zipfile
from datetime import date
from pathlib import Path

import duckdb
import openpyxl
import pyarrow as pa
import pytest

import golden_almanac as ga
from golden_almanac.demo import harbour_workbook


@pytest.fixture(scope="module")
def book(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("harbour") / "harbour-office.xlsx"
    path.write_bytes(harbour_workbook.workbook())
    return path


def checks(table: ga.Table) -> dict[str, int]:
    return {problem.check: problem.rows for problem in table.problems}


def test_quay_dues(book: Path) -> None:
    table = ga.read(book, sheet="Quay dues")
    rows = [tuple(row.values()) for row in table.arrow.to_pylist()]
    assert table.names == ["Quay", "Month", "Dues paid", "Dues open", "Ships large", "Ships small"]
    assert rows == harbour_workbook.dues()
    assert checks(table) == {
        "merged cells": 26,
        "header rows": 2,
        "rows around the table": 3,
        "totals among the rows": 4,
        "dates as text": 27,
    }
    assert len(table.aside) == 7
    assert table.row_numbers()[0] == 6


def test_rows_in_are_rows_kept_and_rows_set_aside(book: Path) -> None:
    sheet = openpyxl.load_workbook(book)["Quay dues"]
    filled = sum(any(cell.value is not None for cell in row) for row in sheet.iter_rows())
    table = ga.read(book, sheet="Quay dues")
    assert filled == table.rows + len(table.aside) + 2  # two heading rows


def test_tonnage_is_turned_into_rows_without_its_total(book: Path) -> None:
    table = ga.read(book, sheet="Tonnage")
    wanted = [
        (goods, date(2025, month, 1), float(tons[month - 1]))
        for goods, tons in harbour_workbook.tonnage()
        for month in range(1, 10)
    ]
    assert [tuple(row.values()) for row in table.arrow.to_pylist()] == wanted
    assert {"periods across columns", "totals among the rows"} <= set(checks(table))


def test_moorings(book: Path) -> None:
    table = ga.read(book)  # the largest table
    assert table.origin.sheet == "Moorings"
    frame = table.to_frame()
    wanted = harbour_workbook.moorings()
    wanted.insert(100, wanted[99])
    assert table.arrow.column("Date").to_pylist() == [row[0] for row in wanted]
    assert table.arrow.column("Hours").to_pylist() == [row[3] for row in wanted]
    assert table.arrow.column("Fee").to_pylist() == [row[4] for row in wanted]
    assert table.arrow.column("Night").to_pylist() == [row[5] for row in wanted]
    assert set(frame["Quay"]) == {"North Quay", "South Quay", "Old Mole", "north quay", "North  Quay", "Sout Quay"}
    found = {problem.check: problem for problem in table.problems}
    assert found["labels alike"].severity == "question"
    assert "'Sout Quay' and 'South Quay'" in found["labels alike"].message
    assert found["repeated rows"].rows == 1
    assert found["repeated rows"].examples == ((102, "the same as row 101"),)
    assert found["spaces around texts"].rows == 1
    assert found["missing values"].rows == sum(row[3] is None for row in wanted)


def test_vessels(book: Path) -> None:
    table = ga.read(book, sheet="Vessels")
    assert table.arrow.column("Register").to_pylist() == [row[0] for row in harbour_workbook.vessels()]
    assert table.column("Price").type == "text"
    assert table.column("Built").role == "dimension"
    found = {(problem.check, problem.column) for problem in table.problems}
    assert {("mixed units", "Price"), ("constant column", "Flag")} <= found


def test_the_workbook_is_the_same_bytes_twice() -> None:
    assert harbour_workbook.workbook() == harbour_workbook.workbook()


def test_two_tables_on_a_sheet_and_a_hidden_one(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    for row in (
        ["a", "b", None, "x", "y", "z"],
        [1, 2, None, 1, 2, 3],
        [3, 4, None, 4, 5, 6],
        [None, None, None, 7, 8, 9],
    ):
        sheet.append(row)
    book.create_sheet("Secret").append(["p", "q"])
    book["Secret"].append([1, 2])
    book["Secret"].sheet_state = "hidden"
    book.save(tmp_path / "two.xlsx")
    table = ga.read(tmp_path / "two.xlsx")
    assert table.names == ["x", "y", "z"]
    assert table.rows == 3
    assert "'Secret'" in next(p.message for p in table.problems if p.check == "hidden sheets")


def test_csv_with_titles_footnotes_and_a_total(tmp_path: Path) -> None:
    path = tmp_path / "dues.csv"
    path.write_text(
        "Quay dues 2025;;;\nPrinted 4 Oct;;;\n\nQuay;Month;Dues;Ships\nNorth;2025-01;1.200,50;3\n"
        "North;2025-02;900,00;4\n"
        "South;2025-01;700,25;1\nTotal;;2.800,75;8\n\n* provisional\n",
        encoding="utf-8",
    )
    table = ga.read(path)
    assert [tuple(row.values()) for row in table.arrow.to_pylist()] == [
        ("North", date(2025, 1, 1), 1200.5, 3),
        ("North", date(2025, 2, 1), 900.0, 4),
        ("South", date(2025, 1, 1), 700.25, 1),
    ]
    assert [one.row for one in table.aside] == [1, 2, 10, 8]


def test_json_in_three_shapes(tmp_path: Path) -> None:
    records = [{"a": 1, "stop": {"name": "x"}}, {"a": 2, "stop": {"name": "y"}, "more": True}]
    (tmp_path / "list.json").write_text(json.dumps(records))
    (tmp_path / "inside.json").write_text(json.dumps({"page": 1, "rows": records}))
    (tmp_path / "lines.jsonl").write_text("\n".join(map(json.dumps, records)))
    for name in ("list.json", "inside.json", "lines.jsonl"):
        table = ga.read(tmp_path / name)
        assert table.names == ["a", "stop.name", "more"], name
        assert table.arrow.to_pylist() == [
            {"a": 1, "stop.name": "x", "more": None},
            {"a": 2, "stop.name": "y", "more": True},
        ]


def test_databases(tmp_path: Path) -> None:
    lite = sqlite3.connect(tmp_path / "one.db")
    lite.executescript(
        "create table t (a int, b text); create table u (c int);"
        "insert into t values (1, '2025-01-02'), (2, '2025-01-03')"
    )
    lite.close()
    with duckdb.connect(str(tmp_path / "two.duckdb")) as duck:
        duck.execute("create table t as select 1 as a, date '2025-01-02' as b union all select 2, date '2025-01-03'")
    for name, options in (("one.db", {"table": "t"}), ("one.db", {"query": "select a, b from t"}), ("two.duckdb", {})):
        table = ga.read(tmp_path / name, **options)
        assert table.arrow.to_pylist() == [{"a": 1, "b": date(2025, 1, 2)}, {"a": 2, "b": date(2025, 1, 3)}]
    with pytest.raises(ga.SourceError, match="several tables"):
        ga.read(tmp_path / "one.db")
    with pytest.raises(ga.SourceError, match="no table named 'tt'"):
        ga.read(tmp_path / "one.db", table="tt")
    with pytest.raises(ga.ExpressionError, match="not one query"):
        ga.read(tmp_path / "one.db", query="drop table t")


def test_packed(tmp_path: Path) -> None:
    text = b"name,n\nx,1\ny,2\n"
    (tmp_path / "t.csv.gz").write_bytes(gzip.compress(text))
    with pa.CompressedOutputStream(pa.OSFile(str(tmp_path / "t.csv.zst"), "wb"), "zstd") as out:
        out.write(text)
    with zipfile.ZipFile(tmp_path / "t.zip", "w") as pack:
        pack.writestr("inner.csv", text)
    for name in ("t.csv.gz", "t.csv.zst", "t.zip"):
        assert ga.read(tmp_path / name).numbers("n").tolist() == [1, 2]


def test_utf16(tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_bytes("name,n\nKøge,1\nMünster,2\n".encode("utf-16"))
    assert ga.read(tmp_path / "t.csv").codes("name")[1] == ("Køge", "Münster")


def bomb() -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as pack:
        pack.writestr("xl/workbook.xml", b"0" * 120_000_000)
    return buffer.getvalue()


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("cut.xlsx", b"PK\x03\x04cut off", "cannot be read as a workbook"),
        ("locked.xlsx", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600, "locked with a password"),
        ("text.xlsx", b"a,b\n1,2\n", "cannot be read as a workbook"),
        ("t.json", b'{"a": [1, 2', "no JSON"),
        ("t.json", b"[1, 2, 3]", "no list of records"),
        ("t.json", b"[" * 100_000, "no JSON"),
        ("t.csv.gz", b"\x1f\x8b cut", "cannot be unpacked"),
        ("t.zip", b"PK\x05\x06" + b"\0" * 18, "holds 0 files"),
        ("t.db", b"SQLite format 3\0broken", "cannot be read as a database"),
        ("bomb.xlsx", bomb(), "unpacks to far more"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_broken_and_hostile_files(tmp_path: Path, name: str, content: bytes, words: str) -> None:
    (tmp_path / name).write_bytes(content)
    with pytest.raises(ga.SourceError, match=words):
        ga.read(tmp_path / name)
    assert (tmp_path / name).read_bytes() == content


def test_a_packed_bomb_is_stopped(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from golden_almanac.tables.io import archives

    monkeypatch.setattr(archives, "MOST_UNPACKED", 10_000)
    (tmp_path / "b.csv.gz").write_bytes(gzip.compress(b"a,b\n" + b"1,2\n" * 100_000))
    with pytest.raises(ga.SourceError, match="far more than its size"):
        ga.read(tmp_path / "b.csv.gz")


def test_a_missing_sheet_names_the_nearest(book: Path) -> None:
    with pytest.raises(ga.SourceError, match=r"no sheet named 'Quay due'.*Did you mean 'Quay dues'"):
        ga.read(book, sheet="Quay due")


def test_wide_tables_are_borne(tmp_path: Path) -> None:
    wide = tmp_path / "wide.csv"
    wide.write_text(
        ",".join(f"c{i}" for i in range(2000))
        + "\n"
        + "\n".join(",".join(str(i * j) for i in range(2000)) for j in range(3))
    )
    assert len(ga.read(wide).columns) == 2000


def test_odd_values_are_borne(tmp_path: Path) -> None:
    odd = tmp_path / "odd.csv"
    odd.write_text("label,n,empty\n" + "".join(f"{'L' * (i % 9000)},{'inf' if i == 3 else i},\n" for i in range(1, 60)))
    table = ga.read(odd)
    assert table.column("empty").type == "empty"
    assert table.rows == 59
    many = tmp_path / "many.csv"
    many.write_text(
        "label,long,n\n" + "".join(f"label {i},{'x' * 10_000 if i == 7 else 'y'},{i}\n" for i in range(300_000))
    )
    table = ga.read(many)
    assert table.column("label").distinct == 300_000
    assert len(table.arrow.column("long")[7].as_py()) == 10_000
    assert table.numbers("n").sum() == 300_000 * 299_999 / 2


def test_a_ragged_file_names_the_line(tmp_path: Path) -> None:
    path = tmp_path / "ragged.csv"
    path.write_text("a,b,c\n" + "1,2,3\n" * 9 + "1,2,3,4\n" + "1,2,3\n")
    with pytest.raises(ga.SourceError, match="line 11 has 4 fields where the header has 3"):
        ga.read(path)


def test_entities_in_a_workbook_are_refused(tmp_path: Path) -> None:
    path = tmp_path / "entities.xlsx"
    with zipfile.ZipFile(path, "w") as pack:
        pack.writestr("xl/workbook.xml", '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa">]><workbook/>')
    with pytest.raises(ga.SourceError, match="declares XML entities"):
        ga.read(path)


def test_merged_and_hidden_cells_of_an_open_document(tmp_path: Path) -> None:
    """The ods is written by hand, so that no reader's own idea of the format is tested."""

    def row(*cells: str, more: str = "") -> str:
        return f"<table:table-row{more}>{''.join(cells)}</table:table-row>"

    def text(value: str, more: str = "") -> str:
        return f'<table:table-cell office:value-type="string"{more}><text:p>{value}</text:p></table:table-cell>'

    def number(value: int) -> str:
        kind = 'office:value-type="float"'
        return f'<table:table-cell {kind} office:value="{value}"><text:p>{value}</text:p></table:table-cell>'

    rows = [
        row(text("Quay"), text("Berth"), text("Ships")),
        row(text("North", ' table:number-rows-spanned="2"'), text("a"), number(4)),
        row("<table:covered-table-cell/>", text("b"), number(7)),
        row(text("South"), text("a"), number(9), more=' table:visibility="collapse"'),
    ]
    names = "office text table".split()
    spaces = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in names)
    content = (
        f'<?xml version="1.0"?><office:document-content {spaces} office:version="1.2"><office:body><office:spreadsheet>'
        f'<table:table table:name="Ships">{"".join(rows)}</table:table></office:spreadsheet></office:body>'
        "</office:document-content>"
    )
    path = tmp_path / "ships.ods"
    with zipfile.ZipFile(path, "w") as pack:
        pack.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        pack.writestr("META-INF/manifest.xml", "<manifest/>")
        pack.writestr("content.xml", content)
    table = ga.read(path)
    assert table.arrow.to_pydict() == {
        "Quay": ["North", "North", "South"],
        "Berth": ["a", "b", "a"],
        "Ships": [4, 7, 9],
    }
    assert {"merged cells", "hidden rows"} <= set(checks(table))
