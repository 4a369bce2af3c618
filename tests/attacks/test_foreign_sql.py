"""SQL from people: one SELECT that reads the tables there are, within bounds of time and memory."""

from __future__ import annotations

import sqlite3
import time
from pathlib import Path

import duckdb
import pytest

import golden_almanac as ga
from golden_almanac.engine import query_bounds
from golden_almanac.engine.engine_messages import translated

from .kit import done, refused

WRITING = [
    "VACUUM INTO 'stolen.db'",
    "ATTACH 'other.db' AS o",
    "CREATE TEMP TABLE t AS SELECT 1",
    "PRAGMA journal_mode = WAL",
    "PRAGMA database_list",
    "INSERT INTO fares VALUES (9, 9)",
    "DELETE FROM fares",
    "DROP TABLE fares",
    "UPDATE fares SET fare = 0",
    "SELECT 1; SELECT 2",
    "SELECT 1; VACUUM INTO 'stolen.db'",
    "WITH t AS (DELETE FROM fares RETURNING *) SELECT * FROM t",
    "SELECT load_extension('x')",
    "SELECT writefile('stolen.txt', 'x')",
    "SELECT readfile('/etc/passwd')",
    "SELECT * FROM pragma_database_list",
    "SELECT * FROM sqlite_master",
    "EXPLAIN SELECT * FROM fares",
    "COPY fares TO 'stolen.csv'",
    "EXPORT DATABASE 'stolen'",
    "INSTALL httpfs",
    "LOAD httpfs",
    "SET memory_limit = '1TB'",
    "SELECT * FROM read_csv('/etc/passwd')",
    "SELECT * FROM '/etc/passwd'",
    "SELECT * FROM glob('*')",
    "SELECT * FROM read_text('/etc/passwd')",
    "SELECT * FROM tables",
    "SELECT * FROM origin",
    "SELECT * FROM connection",
    "SELECT * FROM loaded",
    "SELECT * FROM information_schema.tables",
    "SELECT * FROM duckdb_settings()",
    "SELECT getenv('HOME')",
    "SELECT current_setting('memory_limit')",
    "SELECT * FROM query('SELECT 1')",
    "SELECT ?",
    "SELECT $1",
    "SELECT " + "(" * 3000 + "1" + ")" * 3000,
    "SELECT '" + "x" * 50_000 + "'",
    "",
    "nonsense",
    "SELECT nothing FROM fares",
    "SELECT * FROM nowhere",
    "SELECT no_such_function(1)",
    "SELECT * INTO stolen FROM fares",
]


@pytest.fixture
def databases(tmp_path: Path) -> list[Path]:
    made = [tmp_path / "fares.sqlite", tmp_path / "fares.duckdb"]
    rows = [(i % 5, i * 1.5) for i in range(60)]
    with sqlite3.connect(made[0]) as lite:
        lite.execute("CREATE TABLE fares (day INT, fare REAL)")
        lite.executemany("INSERT INTO fares VALUES (?, ?)", rows)
    lite.close()
    with duckdb.connect(str(made[1])) as other:
        other.execute("CREATE TABLE fares (day INT, fare DOUBLE)")
        other.executemany("INSERT INTO fares VALUES (?, ?)", rows)
    return made


@pytest.mark.parametrize("sql", WRITING)
def test_a_query_over_a_database_only_reads(
    databases: list[Path], sql: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    before = {path.name: path.read_bytes() for path in tmp_path.iterdir()}
    for path in databases:
        refused("check", path, "--query", sql)
    assert {path.name: path.read_bytes() for path in tmp_path.iterdir()} == before


@pytest.mark.parametrize("sql", [*WRITING, "SELECT * FROM staged.rows", "SELECT * FROM fares"])
def test_a_query_over_a_table_only_reads(sql: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "t.csv").write_text("day,fare\n" + "".join(f"{i},{i}\n" for i in range(50)), "utf-8")
    refused("check", "t.csv", "--sql", sql)
    assert [path.name for path in tmp_path.iterdir()] == ["t.csv"]


def test_reading_is_allowed(databases: list[Path]) -> None:
    for path in databases:
        told = done(
            "check", path, "--query", "WITH t AS (SELECT day, sum(fare) AS f FROM fares GROUP BY 1) SELECT * FROM t"
        )
        assert "5 rows" in told
        assert ga.read(path, query="SELECT fare FROM fares WHERE day = 2 ORDER BY fare").rows == 12


ENDLESS = [
    "WITH RECURSIVE t(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM t) SELECT count(*) AS n FROM t",
    "WITH RECURSIVE t(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM t) SELECT n FROM t",
    "SELECT count(*) AS n FROM {0} a, {0} b, {0} c, {0} d, {0} e, {0} f, {0} g",
    "SELECT a.fare AS x, b.fare AS y, c.fare AS z, d.fare AS u, e.fare AS v, f.fare AS w "
    "FROM {0} a, {0} b, {0} c, {0} d, {0} e, {0} f",
]
HUGE = {
    "sqlite": ["SELECT hex(zeroblob(1500000000)) AS x", "SELECT group_concat(hex(zeroblob(20000000))) AS x FROM fares"],
    "duckdb": ["SELECT repeat('x', 3000000000) AS x", "SELECT string_agg(repeat('x', 100000000), '') AS x FROM fares"],
}


@pytest.mark.parametrize("sql", ENDLESS)
def test_what_has_no_end_is_stopped(databases: list[Path], sql: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(query_bounds, "SECONDS", 1.5)
    for path in databases:
        began = time.monotonic()
        told = refused("check", path, "--query", sql.format("fares"))
        assert "seconds" in told or "memory" in told
        assert time.monotonic() - began < 20
    (databases[0].parent / "t.csv").write_text("day,fare\n" + "".join(f"{i},{i}\n" for i in range(60)), "utf-8")
    told = refused("check", databases[0].parent / "t.csv", "--sql", sql.format("source"))
    assert "seconds" in told or "memory" in told


@pytest.mark.parametrize("kind", ["sqlite", "duckdb"])
def test_huge_texts_end_within_bounds_of_memory(databases: list[Path], kind: str) -> None:
    path = next(one for one in databases if one.suffix == f".{kind}")
    for sql in HUGE[kind]:
        told = refused("check", path, "--query", sql)
        assert "memory" in told or "long" in told


@pytest.mark.parametrize(
    "condition",
    ["length(" + "replace(" * 6 + "'a'" + ", 'a', 'aaaaaaaaaa')" * 6 + ") > 1", "(" * 400 + "fare > 0" + ")" * 400,
     "fare > 0 AND " * 700 + "fare > 0"],
)  # fmt: skip
def test_conditions_that_grow_without_bound_are_refused(condition: str, tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("day,fare\n" + "".join(f"{i},{i}\n" for i in range(60)), "utf-8")
    refused("scan", tmp_path / "t.csv", "-w", condition)


def test_bounds_hold_for_the_query_alone(databases: list[Path]) -> None:
    import resource

    before = resource.getrlimit(resource.RLIMIT_AS)
    ga.read(databases[1], query="SELECT * FROM fares")
    assert resource.getrlimit(resource.RLIMIT_AS) == before


FAULTS = [
    "SELECT nope FROM source", "SELECT * FROM nope", "SELECT nofunc(1)", "SELECT sum(name) FROM source",
    "SELECT name, sum(fare) FROM source", "SELECT CAST(name AS INT) FROM source", "SELECT (SELECT fare FROM source)",
    "SELECT sum(sum(fare)) FROM source", "SELECT 9223372036854775807 + fare::BIGINT FROM source", "SELECT fare + 'x' FROM source",
    "SELECT * FROM source WHERE sum(fare) > 1", "SELECT t.x FROM source t", "SELECT fare FROM source a, source b",
    "SELECT DATE '2024-13-01'", "SELECT * FROM source WHERE row_number() OVER () = 1", "SELECT avg(name) FROM source",
    "SELECT upper(1.5 + DATE '2024-01-01')", "SELECT fare FROM source GROUP BY 1 HAVING nope > 1", "SELECT fare[1] FROM source",
    "SELECT strptime(name, '%Y') FROM source", "SELECT name::DATE FROM source", "SELECT 1 UNION SELECT 1, 2",
    "SELECT * FROM source ORDER BY 99", "SELECT unnest(fare) FROM source", "SELECT fare FROM source LIMIT -1",
    "SELECT * FROM source JOIN source USING (nope)", "SELECT regexp_matches(name, '(') FROM source", "SELECT fare IN (SELECT 1, 2) FROM source",
    "SELECT factorial(100)", "SELECT chr(-5)", "SELECT list_value(1)[0:'x']", "SELECT sum(DISTINCT) FROM source",
]  # fmt: skip


@pytest.mark.parametrize("sql", FAULTS)
def test_no_word_of_an_engine_reaches_the_reader(sql: str) -> None:
    told = ""
    source = duckdb.sql("SELECT 'x' AS name, 1.5::DOUBLE AS fare FROM range(3)")
    try:
        source.query("source", sql).fetchall()
    except duckdb.Error as problem:
        told = str(translated(problem, sql))
        first = str(problem).splitlines()[0].partition(":")[2].strip()
        assert first not in told
    if told:
        assert not any(
            word in told for word in ("Error:", "Binder", "Catalog", "Candidate", "LINE 1", "HINT", "explicit")
        )
        assert told.endswith((".", ")"))
