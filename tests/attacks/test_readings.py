"""Files of strangers: what would change a figure is told or asked, and what can be read is read."""

from __future__ import annotations

import json
import sqlite3
import zipfile
from pathlib import Path
from typing import Any

import duckdb
import numpy as np
import openpyxl
import pandas as pd
import pytest

import golden_almanac as ga

from .kit import attack, done, refused

DAYS = [f"2024-{month:02d}-{day:02d}" for month in range(1, 7) for day in (3, 11, 19, 27)]


def written(folder: Path, text: str | bytes, name: str = "t.csv") -> Path:
    path = folder / name
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return path


def rows(values: Any, head: str = "date,fare", mark: str = ",") -> str:
    return head + "\n" + "".join(f"{day}{mark}{value}\n" for day, value in zip(DAYS, values, strict=False))


def checks(table: ga.Table) -> set[str]:
    return {one.check for one in table.readiness}


def asked(table: ga.Table, check: str) -> str:
    """The key of the question that the table puts."""
    return next(str(one.question.key) for one in table.readiness if one.check == check and one.question)


def test_thousands_with_points_are_asked_about_and_read_by_their_company(tmp_path: Path) -> None:
    path = written(tmp_path, rows(["1.234", "2.345", "950", "12.500"] * 6))
    table = ga.read(path)
    assert table.numbers("fare")[:3].tolist() == [1.234, 2.345, 950]
    key = asked(table, "decimal mark")
    assert ga.read(path, answers={key: "thousands"}).numbers("fare")[:4].tolist() == [1234, 2345, 950, 12500]
    assert "decimal mark" not in checks(ga.read(path, answers={key: "decimals"}))
    mixed = ga.read(written(tmp_path, rows(["1.234", "1.234,50", "987,10"] * 8, "date;fare", ";")))
    assert mixed.numbers("fare")[:3].tolist() == [1234, 1234.5, 987.1]
    assert "numbers as text" in checks(mixed)
    # Decimals that could be nothing else are not asked about.
    for plain in (["0.234", "1.345"] * 12, ["1.5", "1.345"] * 12, ["1234.567", "2.345"] * 12):
        assert "decimal mark" not in checks(ga.read(written(tmp_path, rows(plain))))


def test_codes_in_scientific_form_stay_codes_until_someone_says_otherwise(tmp_path: Path) -> None:
    path = written(tmp_path, rows(["1E5", "12E3", "7E2", "44"] * 6, "date,code"))
    table = ga.read(path)
    assert table.column("code").type == "text"
    key = asked(table, "codes or powers")
    assert ga.read(path, answers={key: "numbers"}).numbers("code")[:2].tolist() == [1e5, 12e3]
    kept = ga.read(path, answers={key: "codes"})
    assert (kept.column("code").type, kept.readiness[0].check if kept.readiness else "") != (
        "number",
        "codes or powers",
    )
    assert ga.read(written(tmp_path, rows(["1.5e+05", "2e-3"] * 12))).column("fare").type == "number"


def test_a_unit_before_some_and_behind_others_is_told(tmp_path: Path) -> None:
    table = ga.read(written(tmp_path, rows(["€5.10", "7.30 €"] * 12)))
    assert table.numbers("fare")[:2].tolist() == [5.1, 7.3]
    assert any("before some and behind others" in one.message for one in table.readiness)


def test_bytes_that_are_no_text_are_told(tmp_path: Path) -> None:
    lines = b"".join(
        f"{day},".encode() + (b"M\xc3\xb6le" if n % 3 else b"bad\xff") + f",{n}\n".encode()
        for n, day in enumerate(DAYS)
    )
    table = ga.read(written(tmp_path, b"date,quay,fare\n" + lines))
    assert set(table.labels("quay")) == {"Möle", "bad�"}
    told = next(one for one in table.readiness if one.check == "undecodable bytes")
    assert told.rows == 8
    assert told.examples[0][0] == 2
    old = b"date,quay,fare\n" + b"".join(f"{day},".encode() + b"M\xf6le\x81,1\n" for day in DAYS)
    table = ga.read(written(tmp_path, old))
    assert set(table.labels("quay")) == {"Möle�"}
    assert {"encoding", "undecodable bytes"} <= checks(table)


def test_rows_that_end_early_are_read_and_told_and_longer_ones_refused(tmp_path: Path) -> None:
    text = "date,quay,fare,late\n" + "".join(
        f"{day},Ness,{n},3\n" if n % 7 else f"{day},Ness\n" for n, day in enumerate(DAYS)
    )
    table = ga.read(written(tmp_path, text))
    assert table.rows == len(DAYS)
    told = next(one for one in table.readiness if one.check == "rows that end early")
    assert (told.rows, told.examples[0][0]) == (4, 2)
    assert table.total("fare") == sum(n for n in range(len(DAYS)) if n % 7)
    longer = "date,fare\n" + "".join(f"{day},{n}\n" for n, day in enumerate(DAYS)) + "2024-07-01,Ness, east,5\n"
    assert "4 fields where the header has 2" in refused("check", written(tmp_path, longer))
    # Blank cells behind the last column are nothing.
    blank = "date,fare\n" + "".join(f"{day},{n}{',' * (n % 3)}\n" for n, day in enumerate(DAYS))
    assert ga.read(written(tmp_path, blank)).total("fare") == sum(range(len(DAYS)))


def test_another_table_below_is_told_with_and_without_a_blank_line(tmp_path: Path) -> None:
    upper, lower = rows(range(24)), "port,tons\n" + "".join(f"P{n},{n * 7}\n" for n in range(12))
    table = ga.read(written(tmp_path, upper + "\n" + lower))
    assert "several blocks" in checks(table)
    assert table.total("fare") == sum(range(24))
    path = written(tmp_path, upper + lower)
    key = asked(ga.read(path), "two tables in one")
    answered = ga.read(path, answers={key: "read the first"})
    assert (answered.rows, answered.total("fare"), len(answered.aside)) == (24, sum(range(24)), 13)
    book = openpyxl.Workbook()
    for line in (upper + lower).splitlines():
        book.active.append([int(cell) if cell.isdigit() else cell for cell in line.split(",")])
    book.save(tmp_path / "t.xlsx")
    assert ga.read(tmp_path / "t.xlsx", answers={key: "read the first"}).total("fare") == sum(range(24))


@pytest.mark.parametrize("beside", [True, False])
def test_sub_headings_are_asked_about(tmp_path: Path, beside: bool) -> None:
    made = ["account,date,amount"]
    for account in ("Dues", "Fuel", "Wages"):
        made += [f"{account},,"] + [f"{'' if beside else 'x'},{day},{n}" for n, day in enumerate(DAYS[:8])]
    path = written(tmp_path, "\n".join(made) + "\n")
    table = ga.read(path)
    key = asked(table, "sub-headings")
    filled = ga.read(path, answers={key: "fill down"})
    column = "account" if beside else "section"
    assert filled.rows == 24
    assert set(filled.labels(column)) == {"Dues", "Fuel", "Wages"}
    assert filled.column("amount").type == "number"
    assert ga.read(path, answers={key: "set aside"}).rows == 24
    assert "sub-headings" not in checks(ga.read(path, answers={key: "keep"}))
    log = filled.repair_log()
    assert ga.read(path, repairs=log).arrow.equals(filled.arrow)


def test_headings_that_are_repeated_are_set_aside(tmp_path: Path) -> None:
    text = "date,fare\n" + "".join(f"{day},{n}\n" + ("date,fare\n" if n % 8 == 7 else "") for n, day in enumerate(DAYS))
    table = ga.read(written(tmp_path, text))
    assert (table.rows, table.total("fare"), len(table.aside)) == (24, sum(range(24)), 3)
    assert "repeated headings" in checks(table)
    assert table.row_numbers()[:10].tolist() == [2, 3, 4, 5, 6, 7, 8, 9, 11, 12]


def test_shapes_that_are_read(tmp_path: Path) -> None:
    total = sum(range(24))
    plain = rows(range(24))
    assert ga.read(written(tmp_path, plain.replace("\n", "\r"))).total("fare") == total
    assert ga.read(written(tmp_path, plain.replace("\n", "\r\n"))).total("fare") == total
    assert ga.read(written(tmp_path, "# by the office\n# in July\n" + plain)).total("fare") == total
    quoted = "date,quay,fare\n" + "".join(f'{day},"the \\"Ness\\", east",{n}\n' for n, day in enumerate(DAYS))
    table = ga.read(written(tmp_path, quoted))
    assert (table.total("fare"), table.labels("quay")) == (total, ('the "Ness", east',))
    two = ",fares,,late\ndate,sum,rows,mean\n" + "".join(f"{day},{n},{n + 1},{n % 4}\n" for n, day in enumerate(DAYS))
    assert ga.read(written(tmp_path, two)).names == ["date", "fares sum", "fares rows", "late mean"]
    printed = "              fares           late\ndate          sum    rows     mean\n"
    printed += "".join(f"{day}   {n * 10:>6}  {n:>6}   {n % 4:>6}\n" for n, day in enumerate(DAYS))
    table = ga.read(written(tmp_path, "Harbour office, list of fares\n\n" + printed, "p.txt"))
    assert table.names == ["date", "fares sum", "fares rows", "late mean"]
    assert table.total("fares sum") == 10 * total
    notes = "date,fare,,\n" + "".join(f"{day},{n},,{'see the log' if n == 4 else ''}\n" for n, day in enumerate(DAYS))
    assert ga.read(written(tmp_path, notes)).total("fare") == total
    assert ga.read(written(tmp_path, rows(f"{n % 5 + 3} kg" for n in range(24)))).column("fare").unit == "kg"
    months = [
        "janvier",
        "février",
        "mars",
        "avril",
        "mai",
        "juin",
        "juillet",
        "août",
        "septembre",
        "octobre",
        "novembre",
        "décembre",
    ]
    french = "date;fare\n" + "".join(f"{n + 1} {name} 2024;{n}\n" for n, name in enumerate(months))
    assert ga.read(written(tmp_path, french)).days("date")[1] == np.datetime64("2024-02-02")
    nested = [{"date": day, "stop": {"name": "Ness", "at": {"x": n}}, "fare": n} for n, day in enumerate(DAYS)]
    assert ga.read(written(tmp_path, json.dumps(nested), "t.json")).names == ["date", "stop.name", "stop.at.x", "fare"]
    blank = "quay,date,fare\n" + "".join(
        f"{'' if n < 60 else 'Ness'},2024-01-{n % 28 + 1:02d},{n}\n" for n in range(90)
    )
    path = written(tmp_path, blank)
    for command in (
        ["check"],
        ["scan"],
        ["change", "-m", "fare", "--period", "2024-01-20/2024-01-28", "--baseline", "2024-01-01/2024-01-09"],
    ):
        done(command[0], path, *command[1:])
    for size in (200_000, 3_000_000):
        long = "date,text,fare\n" + "".join(
            f"{day},{'y' * (size if n == 3 else 4)},{n}\n" for n, day in enumerate(DAYS)
        )
        assert ga.read(written(tmp_path, long)).total("fare") == total


def test_decimals_that_databases_keep_as_text(tmp_path: Path) -> None:
    with sqlite3.connect(tmp_path / "t.sqlite") as lite:
        lite.execute("CREATE TABLE t (day TEXT, fare TEXT, code TEXT)")
        lite.executemany("INSERT INTO t VALUES (?, ?, ?)", [(day, f"{n}.50", f"{n:05d}") for n, day in enumerate(DAYS)])
    lite.close()
    with duckdb.connect(str(tmp_path / "t.duckdb")) as other:
        other.execute("CREATE TABLE t AS SELECT DATE '2024-01-01' + i::INT AS day, i || '.50' AS fare, lpad(i::TEXT, 5, '0') AS code, "
                      "i::HUGEINT * 1000000000000000000000 AS big FROM range(24) t(i)")  # fmt: skip
    for name in ("t.sqlite", "t.duckdb"):
        table = ga.read(tmp_path / name)
        assert table.total("fare") == sum(n + 0.5 for n in range(24))
        assert table.column("code").type == "text"
    assert ga.read(tmp_path / "t.duckdb").total("big") == pytest.approx(276e21)
    done("scan", tmp_path / "t.duckdb")


def test_frames_of_every_kind(tmp_path: Path) -> None:
    periods = pd.DataFrame({"when": pd.period_range("2022-01", periods=36, freq="M").repeat(4), "fare": range(144)})
    assert ga.read(periods).column("when").type == "date"
    series = pd.Series(range(400), index=pd.date_range("2023-01-01", periods=400), name="fare")
    assert ga.scan(series).result.survey.timeline is not None
    assert ga.read(pd.Series([1.0, 2.0, 4.0])).names == ["value"]
    odd = pd.DataFrame(
        {
            "a": pd.interval_range(0, 5),
            "b": pd.Categorical(pd.period_range("2022", periods=5, freq="Y")),
            "c": [1, "x", None, 2.5, b"y"],
        }
    )
    odd["d"], odd["e"] = [{"k": 1}] * 5, pd.Series(["x\ud800y"] * 5, dtype=object)
    odd["f"] = [np.nan, np.inf, -np.inf, 1.0, 2.0]
    assert ga.read(odd).rows == 5
    polars = pytest.importorskip("polars")
    assert ga.read(polars.Series("fare", [1, 2, 3])).names == ["fare"]


def test_json_with_halves_of_letters_and_numbers_that_are_none(tmp_path: Path) -> None:
    path = written(
        tmp_path,
        '[{"a\\ud800": "x\\ud800y", "b": NaN}, {"a\\ud800": "z", "b": -Infinity}, {"a\\ud800": "z", "b": 3}]',
        "t.json",
    )
    found = json.loads(done("check", path, "--json"))
    assert "infinite values" in {one["check"] for one in found["readiness"]}
    told = json.loads(done("check", path, "--sql", "SELECT b, 1/0.0 AS i FROM source", "--json"))
    assert told["rows"] == [{"b": None, "i": None}, {"b": None, "i": None}, {"b": 3.0, "i": None}]


def workbook(folder: Path, cell: str) -> Path:
    """A small workbook with one cell moved far away."""
    book = openpyxl.Workbook()
    for line in rows(range(24)).splitlines():
        book.active.append(line.split(","))
    book.save(folder / "plain.xlsx")
    with zipfile.ZipFile(folder / "plain.xlsx") as pack, zipfile.ZipFile(folder / "far.xlsx", "w") as out:
        for name in pack.namelist():
            data = pack.read(name)
            if name.endswith("sheet1.xml"):
                data = data.replace(
                    b"</sheetData>",
                    f'<row r="{"".join(filter(str.isdigit, cell))}"><c r="{cell}"><v>1</v></c></row></sheetData>'.encode(),
                )
            out.writestr(name, data)
    return folder / "far.xlsx"


@pytest.mark.parametrize("cell", ["XFD1048576", "XFD1048577", "ZZZZ99", "A99999999999", "AAA1048576", "XFE5"])
def test_a_workbook_that_reaches_far_away_is_refused_before_it_is_read(tmp_path: Path, cell: str) -> None:
    assert "far beyond any table" in refused("check", workbook(tmp_path, cell))


def test_a_workbook_with_entities_is_refused(tmp_path: Path) -> None:
    path = workbook(tmp_path, "C30")
    done("check", path)
    with zipfile.ZipFile(path) as pack, zipfile.ZipFile(tmp_path / "e.xlsx", "w") as out:
        for name in pack.namelist():
            data = pack.read(name)
            if name.endswith("workbook.xml"):
                data = b"<?xml version='1.0'?>" + b" " * 3000 + b"<!DOCTYPE x [<!ENTITY a 'aaaa'>]>" + data
            out.writestr(name, data)
    assert "entities" in refused("check", tmp_path / "e.xlsx")


@pytest.mark.parametrize(
    "options",
    [["--sheet", "x"], ["--table", "x"], ["--query", "SELECT 1"], ["--length", "huge"], ["--switch", "quay"], ["--pages", "quay"], ["--plan", "--json"],
     ["--minimum-group", "-2"], ["-n", "0"], ["--least-rows", "-1"], ["--floor", "trend=x"], ["--fiscal-start", "0"], ["--memory", "lots"]],
)  # fmt: skip
def test_an_option_that_cannot_apply_is_refused(tmp_path: Path, options: list[str]) -> None:
    refused("scan", written(tmp_path, rows(range(24))), *options)


@pytest.mark.parametrize(
    "command",
    [["check", "--sql", "SELECT 1 FROM source", "--fix", "x.csv"], ["check", "--links", "--questions"], ["check", "--links", "--fix", "x.csv"],
     ["change", "-m", "fare", "--every-measure"], ["drivers", "--outcome", "fare", "--metric", "auc"], ["drivers", "--score", "m.json", "--outcome", "fare"]],
)  # fmt: skip
def test_options_that_do_not_go_together_are_refused(tmp_path: Path, command: list[str]) -> None:
    refused(command[0], written(tmp_path, rows(range(24))), *command[1:])


@pytest.mark.parametrize(
    "measure", ["avg(quay)", "sum(quay)", "max(date)", "sum(quay || 'x')", "avg(CAST(quay AS DOUBLE))", "quay"]
)
def test_measures_of_texts_are_refused(tmp_path: Path, measure: str) -> None:
    text = "date,quay,fare\n" + "".join(f"{day},{'AB'[n % 2]},{n}\n" for n, day in enumerate(DAYS))
    refused("scan", written(tmp_path, text), "-m", measure)
    assert attack("scan", tmp_path / "t.csv", "-m", "count(distinct quay)").returncode == 0


def test_a_file_that_may_not_be_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = written(tmp_path, rows(range(24)))
    opened = Path.open

    def denied(self: Path, *arguments: Any, **more: Any) -> Any:
        if self == path:
            raise PermissionError(13, "Permission denied", str(path))
        return opened(self, *arguments, **more)

    monkeypatch.setattr(Path, "open", denied)
    assert "cannot be opened" in refused("check", path)


def fares_of_strangers(folder: Path, odd: str) -> Path:
    """Fares in two currencies, one of which is written as `odd`."""
    frame = pd.DataFrame({"date": DAYS, "currency": ["EUR", "USD"] * 12, "fare": np.linspace(10.5, 80.25, 24)})
    path = folder / "fares.csv"
    frame.to_csv(path, index=False)
    pd.DataFrame({"currency": ["EUR", odd], "rate": [1.0, 0.9]}).to_csv(folder / "rates.csv", index=False)
    return path


@pytest.mark.parametrize("odd", ["USD\x1b[2J", "=cmd|' /C calc'!A0", "'; DROP TABLE source; --", "<script>1</script>"])
def test_labels_of_a_table_of_rates_are_data(tmp_path: Path, odd: str) -> None:
    path = fares_of_strangers(tmp_path, odd)
    done = refused("check", path, "--rates", tmp_path / "rates.csv")
    assert "a rate for USD" in done
    assert "\x1b" not in done


def test_rates_do_not_name_what_is_private(tmp_path: Path) -> None:
    path = fares_of_strangers(tmp_path, "USD")
    done = refused("check", path, "--rates", tmp_path / "rates.csv", "--private", "currency")
    assert "USD" not in done
    assert "left out" in done


def test_a_table_of_rates_is_read_within_its_bounds(tmp_path: Path) -> None:
    path = fares_of_strangers(tmp_path, "USD")
    for source in (tmp_path, tmp_path / "none.csv", Path("/dev/zero")):
        refused("check", path, "--rates", source)
