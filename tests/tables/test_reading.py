"""Reading: what comes in is what stood in the file, or one clear sentence says why not."""

from __future__ import annotations

import os
from pathlib import Path

import duckdb
import numpy as np
import pandas as pd
import polars as pl
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyarrow import parquet

import golden_almanac as ga


def write(tmp_path: Path, text: str | bytes, name: str = "t.csv") -> Path:
    path = tmp_path / name
    path.write_bytes(text if isinstance(text, bytes) else text.encode("utf-8"))
    return path


def types(table: ga.Table) -> dict[str, str]:
    return {column.name: column.type for column in table.columns}


def test_types_of_a_plain_file(shop: Path) -> None:
    table = ga.read(shop)
    assert types(table) == {"date": "date", "item": "text", "price": "number", "units": "number", "sold": "boolean"}
    assert table.rows == 6
    assert table.numbers("units").tolist()[:5] == [4, 6, 5, 10, 2]
    assert np.isnan(table.numbers("units")[5])
    assert table.codes("item")[1] == ("cake", "tea", None)
    assert str(table.days("date")[3]) == "2025-02-01"


@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_any_delimiter(tmp_path: Path, delimiter: str) -> None:
    text = "\n".join(delimiter.join(row) for row in [["name", "a", "b"], ["x y", "1", "2"], ["z", "3", "4"]])
    table = ga.read(write(tmp_path, text))
    assert table.numbers("b").tolist() == [2, 4]


@pytest.mark.parametrize(("encoding", "note"), [("utf-8", False), ("utf-8-sig", False), ("cp1252", True)])
def test_encodings(tmp_path: Path, encoding: str, note: bool) -> None:
    table = ga.read(write(tmp_path, "café,n\nMünster,1\nKøge,2\n".encode(encoding)))
    assert table.names == ["café", "n"]
    assert table.codes("café")[1] == ("Køge", "Münster")
    assert bool(table.problems) is note


def test_quoted_separators_and_line_breaks_are_data(tmp_path: Path) -> None:
    table = ga.read(write(tmp_path, 'name,n\n"a, b",1\n"two\nlines",2\n'))
    assert table.to_frame()["name"].tolist() == ["a, b", "two\nlines"]


def test_noughts_long_numbers_and_none_survive(tmp_path: Path) -> None:
    table = ga.read(
        write(tmp_path, "code,card,name,v\n007,1234567890123456789,None,1\n012,1234567890123456780,nan,2\n")
    )
    frame = table.to_frame()
    assert frame["code"].tolist() == ["007", "012"]
    assert frame["card"].tolist() == ["1234567890123456789", "1234567890123456780"]
    assert frame["name"].tolist() == ["None", "nan"]


def test_blank_and_double_headings(tmp_path: Path) -> None:
    assert ga.read(write(tmp_path, "Amount,Amount,,x\n1,2,3,4\n5,6,7,8\n")).names == [
        "Amount",
        "Amount 2",
        "column 3",
        "x",
    ]


@pytest.mark.parametrize(
    ("dates", "order", "first"),
    [
        (["13/02/2024", "01/03/2024"], "day first", "2024-02-13"),
        (["02/13/2024", "03/01/2024"], "month first", "2024-02-13"),
        (["13.02.2024", "01.03.2024"], "day first", "2024-02-13"),
        (["2024/2/13", "2024/3/1"], "", "2024-02-13"),
    ],
)
def test_order_of_dates_is_read_from_the_whole_column(tmp_path: Path, dates: list[str], order: str, first: str) -> None:
    table = ga.read(write(tmp_path, "d;v\n" + "".join(f"{date};{i}\n" for i, date in enumerate(dates))))
    assert str(table.days("d")[0]) == first
    assert not order or order in table.problems[0].message


def test_ambiguous_dates_are_a_question_not_a_guess(tmp_path: Path) -> None:
    table = ga.read(write(tmp_path, "d,v\n01/02/2024,1\n03/04/2024,2\n"))
    assert types(table)["d"] == "text"
    assert table.problems[0].severity == "question"


def test_moments_count_as_their_day(tmp_path: Path) -> None:
    table = ga.read(write(tmp_path, "at,v\n2024-02-13T23:59:59,1\n2024-02-14 00:00:00,2\n"))
    assert [str(day) for day in table.days("at")] == ["2024-02-13", "2024-02-14"]


def test_an_impossible_date_keeps_the_column_text(tmp_path: Path) -> None:
    table = ga.read(write(tmp_path, "d,v\n2025-02-30,1\n2025-02-20,2\n"))
    assert types(table)["d"] == "text"
    assert table.to_frame()["d"].tolist() == ["2025-02-30", "2025-02-20"]


def test_all_doors_give_the_same_table(tmp_path: Path, shop: Path) -> None:
    frame = ga.read(shop).to_frame()
    parquet.write_table(pa.Table.from_pandas(frame), tmp_path / "t.parquet")
    doors = [
        tmp_path / "t.parquet",
        frame,
        pa.Table.from_pandas(frame),
        pl.from_pandas(frame),
        duckdb.from_df(frame),
        frame.astype({"item": "category"}),
    ]
    for source in doors:
        table = ga.read(source)
        assert table.rows == 6
        assert table.codes("item")[1] == ("cake", "tea", None), type(source)
        assert table.numbers("price").tolist() == [2.5, 2.5, 4, 4, 3, 1]
        assert str(table.days("date")[5]) == "2025-02-03"


def test_the_frame_handed_in_is_not_changed(shop: Path) -> None:
    frame = ga.read(shop).to_frame()
    before = frame.copy(deep=True)
    ga.scan(frame, measures=["sum(price)"])
    pd.testing.assert_frame_equal(frame, before)


@given(
    st.lists(
        st.tuples(
            st.text(alphabet="abcXYZ ,;'\"é\n", min_size=1, max_size=8).filter(lambda t: t.strip()),
            st.integers(-(10**9), 10**9),
            st.decimals(-(10**6), 10**6, places=2),
        ),
        min_size=2,
        max_size=30,
    )
)
def test_what_is_written_is_what_is_read(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, int, object]]
) -> None:
    frame = pd.DataFrame(rows, columns=["label", "whole", "money"])
    path = tmp_path_factory.mktemp("round") / "t.csv"
    path.write_bytes(frame.to_csv(index=False, lineterminator="\n").encode("utf-8"))
    back = ga.read(path)
    assert back.rows == len(rows)
    assert back.to_frame()["label"].tolist() == [row[0] for row in rows]
    assert back.numbers("whole").tolist() == [row[1] for row in rows]
    assert np.allclose(back.numbers("money"), [float(str(row[2])) for row in rows], rtol=1e-15)


def fails(source: object, *parts: str) -> None:
    with pytest.raises(ga.SourceError) as caught:
        ga.read(source)
    for part in parts:
        assert part in str(caught.value)


def test_bad_sources_say_what_is_wrong(tmp_path: Path) -> None:
    write(tmp_path, "a,b\n1,2\n", "sales.csv")
    fails(tmp_path / "sale.csv", "no such file", "Did you mean 'sales.csv'?")
    fails(tmp_path, "this is a folder")
    fails(write(tmp_path, "", "empty.csv"), "the file is empty")
    fails(write(tmp_path, "a,b\n", "head.csv"), "no rows")
    fails(write(tmp_path, "\n\n\n", "blank.csv"), "no header line")
    fails(write(tmp_path, "a,b\n1,2\n1,2,3\n4,5\n", "ragged.csv"), "line 3 has 3 fields where the header has 2")
    fails(write(tmp_path, b"PK\x03\x04....", "book.csv"), "not a text file")
    fails(write(tmp_path, "x", "t.docx"), "'.docx' cannot be read")
    fails(write(tmp_path, b"PAR1 broken", "t.parquet"), "cannot be read as Parquet")
    fails(pd.DataFrame({"a": []}), "no rows")
    fails(object(), "cannot be read")


@pytest.mark.skipif(not hasattr(os, "mkfifo"), reason="this system has no named pipes")
def test_a_pipe_is_refused_and_not_waited_for(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.csv")
    fails(tmp_path / "pipe.csv", "a device or a pipe")


@pytest.mark.parametrize("end", ["\n", "\r\n"])
@pytest.mark.parametrize("quoted", [False, True])
def test_rows_keep_the_number_they_have_in_a_file_with_blank_lines(tmp_path: Path, end: str, quoted: bool) -> None:
    note = '"two\nlines"' if quoted else "one line"
    lines = ["date,shop,amount,note", *(f"2024-01-{day:02d},Ash,{day},{note}" for day in range(1, 26))]
    lines.insert(6, "")
    lines.insert(14, "")
    path = tmp_path / "gaps.csv"
    path.write_bytes((end.join(lines) + end).encode())
    table = ga.read(path)
    amounts = table.to_frame()["amount"].tolist()
    numbers = dict(zip(amounts, table.row_numbers().tolist(), strict=True))
    # The place among the lines of the file, each record counted once, blank ones too.
    assert numbers == {day: next(n for n, line in enumerate(lines, 1) if line[8:10] == f"{day:02d}") for day in amounts}
    assert len(numbers) == 25
