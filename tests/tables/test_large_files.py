"""Tables left in their file: the same findings as in memory, locked down, within a budget that says what would do."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import duckdb
import numpy as np
import pandas as pd
import pytest
from pandas.testing import assert_frame_equal

import golden_almanac as ga
from golden_almanac.aggregation import PERIOD
from golden_almanac.analysis.scan_pipeline import survey_of
from golden_almanac.engine import filed_store
from golden_almanac.engine.filed_store import Filed
from golden_almanac.export.data_files import table_bytes
from golden_almanac.tables.io import large_files


@pytest.fixture
def left(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every Parquet table is left in its file, every text is larger than the budget."""
    monkeypatch.setattr(large_files, "LONG", 0)
    monkeypatch.setattr(large_files, "_LINES", 1e12)


@pytest.fixture(scope="module")
def parquet_of_demo(sailings: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("filed") / "sailings.parquet"
    path.write_bytes(table_bytes(ga.read(sailings), ".parquet"))
    return path


def test_a_table_in_its_file_gives_the_findings_it_gives_in_memory(
    parquet_of_demo: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    held = ga.scan(parquet_of_demo)
    monkeypatch.setattr(large_files, "LONG", 0)
    table = ga.read(parquet_of_demo)
    assert not table.store.abilities.in_order
    there = ga.scan(table)
    assert held.result.survey.table.store.abilities.in_order
    assert [(one.kind, one.headline, one.detail) for one in there.findings] == [
        (one.kind, one.headline, one.detail) for one in held.findings
    ]
    assert there.summary() == held.summary()
    assert there.tests == held.tests
    for one, other in zip(there.findings, held.findings, strict=True):
        assert one.id == other.id
        assert one.check().agrees, one.headline
        assert_frame_equal(*(rows.astype(object) for rows in (one.rows(), other.rows())), obj=one.headline)
    outlier = next(one for one in (*there.findings, *there.folded) if one.kind == "outlier")
    assert len(outlier.rows()) == 1


def test_a_scan_and_a_change_ask_few_questions_of_the_file(
    parquet_of_demo: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[str] = []
    query = Filed.query

    def counted(store: Filed, sql: str, beside: Any = None) -> Any:
        asked.append(sql)
        return query(store, sql, beside)

    monkeypatch.setattr(large_files, "LONG", 0)
    table = ga.read(parquet_of_demo)
    monkeypatch.setattr(Filed, "query", counted)
    assert ga.scan(table).findings
    assert ga.explain_change(table, "sum(revenue)").findings
    assert len(asked) <= 40


def test_a_change_of_a_table_in_its_file(parquet_of_demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[dict[str, Any]] = [
        {"measure": "revenue", "period": "2025-Q3", "baseline": "year-ago"},
        {"measure": "avg(delay_min)", "period": "2025-08-05/2025-08-19", "baseline": "2025-07-03/2025-07-17"},
        {"measure": "count(distinct vessel)", "where": "region = 'Outer Isles'"},
    ]
    held = [ga.explain_change(parquet_of_demo, **one).to_dict() for one in asked]
    monkeypatch.setattr(large_files, "LONG", 0)
    assert [ga.explain_change(parquet_of_demo, **one).to_dict() for one in asked] == held


def test_text_larger_than_the_budget(left: None, tmp_path: Path) -> None:
    path = tmp_path / "kasse.csv"
    lines = [
        f'{day:02d}.03.2025;"Süd; {day % 3}";{day},5;{"ja" if day % 2 else "nein"};{day:05d}' for day in range(1, 32)
    ]
    lines.insert(20, "21.03.2025;Süd; ;ja;00099")  # a cell that is no number
    path.write_text("Datum;Laden;Betrag;bar;Nr\n" + "\n".join(lines) + "\n", encoding="utf-8")
    table = ga.read(path)
    assert not table.store.abilities.in_order
    assert {column.name: column.type for column in table.columns} == {
        "Datum": "date", "Laden": "text", "Betrag": "number", "bar": "boolean", "Nr": "text",
    }  # fmt: skip
    assert table.labels("Laden") == ("Süd", "Süd; 0", "Süd; 1", "Süd; 2")
    assert table.sql("SELECT sum(Betrag) AS s, count(*) AS n FROM source").iloc[0].to_list() == [
        sum(day + 0.5 for day in range(1, 32)), 32,
    ]  # fmt: skip
    assert [(one.check, one.column, one.rows) for one in table.readiness if one.severity == "repair"] == [
        ("cells that do not fit", "Betrag", 1)
    ]
    assert table.at([22]).arrow.to_pylist()[0]["Nr"] == "00099"  # row 22: as the file's lines are counted
    assert ga.check(table).to_dict()["columns"][2]["missing"] == 1


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("a,b\n" + "1,2\n" * 50 + "3\n" + "1,2\n" * 50, "line 52 has 1 fields where the header has 2"),
        ("Report of today\n\na,b\n" + "1,2\n" * 50, "has titles above its headings"),
    ],
)
def test_text_that_cannot_be_left(left: None, tmp_path: Path, text: str, words: str) -> None:
    path = tmp_path / "bad.csv"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(ga.SourceError, match=words):
        ga.read(path)


def test_nothing_but_the_named_file_can_be_reached(left: None, parquet_of_demo: Path, tmp_path: Path) -> None:
    table = ga.read(parquet_of_demo)
    other = tmp_path / "other.csv"
    other.write_text("a\n1\n")
    for query in (
        f"SELECT * FROM '{other}'",
        f"SELECT * FROM read_csv('{other}')",
        "SELECT * FROM read_text('/etc/hosts')",
    ):
        with pytest.raises(ga.ExpressionError):
            table.sql(query)
    connection = table.store._made["connection"]  # type: ignore[attr-defined]
    for statement in (
        "SET threads=1",
        f"ATTACH '{tmp_path}/x.db'",
        "INSTALL httpfs",
        f"COPY (SELECT 1) TO '{tmp_path}/y'",
    ):
        with pytest.raises(duckdb.Error):
            connection.execute(statement)
    assert sorted(one.name for one in tmp_path.iterdir()) == ["other.csv"]


def test_several_files_are_one_table(left: None, tmp_path: Path) -> None:
    for month in (1, 2):
        pd.DataFrame(
            {"day": pd.to_datetime([f"2025-0{month}-0{d}" for d in (1, 2, 3)]), "v": [month, 2.5, 3]}
        ).to_parquet(tmp_path / f"{month}.parquet")
    table = ga.read(str(tmp_path / "*.parquet"))
    assert not table.store.abilities.in_order
    assert table.rows == 6
    assert table.labels("file") == ("1.parquet", "2.parquet")
    assert table.column("day").type == "date"
    assert table.row_numbers().tolist() == [1, 1, 2, 2, 3, 3]
    assert table.filter("file = '2.parquet'").sql("SELECT sum(v) AS s FROM source")["s"][0] == 7.5


def test_what_is_amiss_is_looked_into_with_all_rows_in_memory(left: None, tmp_path: Path) -> None:
    path = tmp_path / "t.parquet"
    frame = pd.DataFrame({"shop": ["Outer Bar"] * 30 + ["outer bar"], "v": range(31)})
    frame.to_parquet(path)
    table = ga.read(path)
    assert table.store.abilities.in_order
    assert [one.check for one in table.readiness if one.severity == "question"] == ["labels alike"]
    assert table.readiness[0].examples
    frame.iloc[:30].to_parquet(path)
    assert not ga.read(path).store.abilities.in_order
    assert ga.read(path, hold=True).store.abilities.in_order


@pytest.mark.parametrize(
    ("column", "check"),
    [
        (["2025-01-0" + str(d % 9 + 1) for d in range(40)], "texts that hold numbers or dates"),
        (["North"] * 39 + ["Grand total"], "totals among the rows"),
    ],
)
def test_what_would_be_mended_is_told_where_memory_is_too_small(
    left: None, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, column: list[str], check: str
) -> None:
    monkeypatch.setattr(large_files, "_CELL", 10**12)
    path = tmp_path / "t.parquet"
    pd.DataFrame({"x": column, "v": np.arange(40) / 4}).to_parquet(path)
    table = ga.read(path)
    assert not table.store.abilities.in_order
    assert [one.check for one in table.readiness if one.severity == "note"] == [check]


def test_not_a_number_and_infinity_count_as_missing(left: None, tmp_path: Path) -> None:
    path = tmp_path / "t.parquet"
    pd.DataFrame({"k": list("ab") * 3, "v": [1.0, float("nan"), float("inf"), 4.0, float("-inf"), 6.0]}).to_parquet(
        path
    )
    table = ga.read(path)
    assert (table.column("v").missing, table.extent("v")) == (3, (1.0, 6.0))


def test_a_budget_too_small_names_one_that_does(tmp_path: Path) -> None:
    path = tmp_path / "t.parquet"
    duckdb.sql(
        "COPY (SELECT DATE '2023-01-01' + CAST(hash(i) % 900 AS INT) AS day, 'c' || (hash(i * 5) % 2500) AS customer, "
        f"(hash(i * 3) % 1000) / 4 AS v FROM range(300000) t(i)) TO '{path}'"
    )
    large = ga.read(path, memory="600MB")
    assert large.store.abilities.in_order  # it fits
    with pytest.raises(ga.RequestError, match="a size such as"):
        ga.read(path, memory="lots")
    with pytest.raises(ga.BudgetError, match="the smallest that would do is 530MB"):
        ga.read(path, memory="3MB")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(large_files, "_CELL", 10**12)
        small = ga.read(path, memory="530MB")
        with pytest.raises(ga.BudgetError, match=r"75,000|groups by") as told:
            ga.scan(small, measures=["v"], by=["customer"], grain="month")
        named = str(told.value).split("would do is ")[1].split(". ")[0]
        enough = ga.read(path, memory=named)
        assert not enough.store.abilities.in_order
        asked = survey_of(enough, measures=["v"], by=["customer"], time="day", grain="month")
        assert asked.cells("customer", PERIOD).rows.sum() == 300_000
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(large_files, "_CELL", 10**12)
        with pytest.raises(ga.BudgetError, match="answers and repair logs"):
            ga.read(path, memory="530MB", answers={"labels alike": "merge"})


def test_what_cannot_be_added_up_or_held(left: None, parquet_of_demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    there = ga.read(parquet_of_demo)
    for table in (there, ga.read(parquet_of_demo, hold=True)):
        for measure, words in (
            ("sum(revenue * 1e303)", "beyond the largest number"),
            ("sum(capacity / vehicles)", "divides by nought"),
        ):
            with pytest.raises(ga.ExpressionError, match=words):
                ga.scan(table, measures=[measure], by=["route"])
        with pytest.raises(ga.SourceError, match="no row meets the condition"):
            ga.scan(table, where="revenue > 1e12")
        with monkeypatch.context() as patch:
            patch.setattr("golden_almanac.aggregation.survey.MOST_CELLS", 100)
            with pytest.raises(ga.BudgetError, match="more than can be held"):
                ga.scan(table, measures=["revenue"], by=["vessel"])
    monkeypatch.setattr(filed_store, "CELL", 10_000)
    small = ga.read(parquet_of_demo, memory="600MB")
    with pytest.raises(ga.BudgetError, match="Keep fewer with a condition"):
        small.to_frame()
    assert 700 < small.sample().rows < 1000  # type: ignore[union-attr]
    assert "sample" in str(
        ga.scan(small, measures=["delay_min"], by=["route"], kinds=["difference"]).findings[0].test.name
    )


def test_progress_says_what_how_far_and_how_long(
    left: None, parquet_of_demo: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(filed_store, "_SLAB", 5_000)
    said: list[str] = []
    table = ga.read(parquet_of_demo, progress=said.append)
    ga.scan(table, measures=["sum(revenue)", "avg(delay_min)"], by=["route", "vessel"], progress=said.append)
    assert any(text.startswith("looking through 25,") for text in said)
    far = [text for text in said if text.startswith("grouping") and "% done" in text]
    assert far
    assert all(text.endswith(" left") for text in far)


def _scan(path: Path, *options: str, **more: Any) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "golden_almanac", "scan", str(path), *options]
    return subprocess.run(command, capture_output=True, text=True, **more)


@pytest.mark.skipif(os.name != "posix", reason="limits on files are set another way there")
def test_a_full_disk_leaves_nothing_behind(tmp_path: Path) -> None:
    import resource

    path, folder = tmp_path / "t.csv", tmp_path / "scratch"
    folder.mkdir()
    duckdb.sql(
        "COPY (SELECT DATE '2023-01-01' + CAST(hash(i) % 900 AS INT) AS day, 'a' || (hash(i * 5) % 9) AS k, "
        f"hash(i) / 7 AS v FROM range(6000000) t(i)) TO '{path}' (HEADER)"
    )

    def small_files() -> None:
        resource.setrlimit(resource.RLIMIT_FSIZE, (1 << 20, 1 << 20))

    done = _scan(path, "--memory", "530MB", env={**os.environ, "TMPDIR": str(folder)}, preexec_fn=small_files)
    assert done.returncode == 2
    assert done.stderr.startswith("The disk is full")
    assert not done.stdout
    assert not list(folder.iterdir())


@pytest.mark.skipif(os.name != "posix", reason="the signal is sent another way there")
def test_a_long_scan_is_stopped_at_once(tmp_path: Path) -> None:
    path, folder = tmp_path / "t.parquet", tmp_path / "scratch"
    folder.mkdir()
    duckdb.sql(
        "COPY (SELECT DATE '2021-01-01' + CAST(hash(i) % 1400 AS INT) AS day, 'a' || (hash(i * 5) % 40) AS k, "
        "'b' || (hash(i * 7) % 50) AS l, 'c' || (hash(i * 11) % 30) AS m, (hash(i * 3) % 100000) / 7 AS v "
        f"FROM range(12000000) t(i)) TO '{path}'"
    )
    run = subprocess.Popen(
        [sys.executable, "-m", "golden_almanac", "scan", str(path)],
        env={**os.environ, "TMPDIR": str(folder)},
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.default_int_handler),
    )
    while not list(folder.iterdir()):  # it is at work once it has its folder
        assert run.poll() is None
        time.sleep(0.02)
    time.sleep(0.5)
    began = time.monotonic()
    run.send_signal(signal.SIGINT)
    out, _ = run.communicate(timeout=60)
    assert run.returncode == 130
    assert time.monotonic() - began < 10  # moments on a quiet machine
    assert not out
    assert not list(folder.iterdir())


def test_rows_of_a_sample_keep_the_numbers_that_a_person_sees(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("golden_almanac.tables.table.MOST_SAMPLED", 200)
    path = tmp_path / "log.csv"
    frame = pd.DataFrame({"key": [f"K{one:04d}" for one in range(2_000)], "size": np.arange(2_000) * 1.25})
    frame.to_csv(path, index=False)
    table = ga.read(path)
    monkeypatch.setattr(type(table.store), "most_held", lambda self: 200)
    sample = table.sample()
    assert sample is not None
    assert 120 < sample.rows < 300
    keys = sample.arrow.column("key").to_pylist()
    # The first row of data stands in line 2.
    assert [int(key[1:]) + 2 for key in keys] == sample.row_numbers().tolist()
    kept = table.filter("size > 500").sample()
    assert kept is not None
    assert [int(key[1:]) + 2 for key in kept.arrow.column("key").to_pylist()] == kept.row_numbers().tolist()
