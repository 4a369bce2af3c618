"""Rows that stay on PostgreSQL and on Spark: the same contract, the same findings, the same rows in a sample."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest
from pyarrow import parquet

import golden_almanac as ga
from golden_almanac.engine.remote import postgresql, spark
from golden_almanac.engine.store import Store
from golden_almanac.export.kept_cells import FolderShelf
from golden_almanac.tables import table as tables
from golden_almanac.tables.half_days import stops_early
from golden_almanac.tables.io import large_files, server_tables

from ..analysis.detectors.tables import planted
from ..commands import run
from .servers import Cluster, postgres_cluster, spark_session

ENGINES = ("postgresql", "spark")
#: What a person would not call a column: a word of SQL, capitals, spaces, a quote, signs.
ODD = pd.DataFrame(
    {
        "Order Date": pd.to_datetime(
            ["2024-01-05 10:30", "2024-01-05", "2024-02-01", None, "2024-03-09 23:59:59"] * 40, format="mixed"
        ),
        "select": ["Ash", "Birch", None, "Ash", "Elm d'Or"] * 40,
        "Größe €": ["klein", "groß", "groß", "klein", 'a "b"'] * 40,
        "amount": [1.25, 2.5, None, -4.0, 1e6] * 40,
        "paid": [True, False, None, True, True] * 40,
        "n": [1, 2, 3, 4, 2**40] * 40,
    }
)


@pytest.fixture(scope="module")
def cluster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Cluster]:
    pytest.importorskip("psycopg")
    with postgres_cluster(tmp_path_factory.mktemp("pg")) as made:
        yield made


@pytest.fixture(scope="module")
def session() -> Iterator[Any]:
    with spark_session(compiled=False) as made:
        yield made


@pytest.fixture
def left_there(monkeypatch: pytest.MonkeyPatch) -> None:
    """Short tables stay on their engine too."""
    monkeypatch.setattr(server_tables, "LONG", 0)


Opener = Callable[[str, pd.DataFrame], ga.Table]


@pytest.fixture(params=ENGINES)
def opened(request: pytest.FixtureRequest, tmp_path: Path) -> Opener:
    """What puts rows on an engine and reads them from there."""
    if request.param == "postgresql":
        cluster: Cluster = request.getfixturevalue("cluster")

        def of_postgres(name: str, frame: pd.DataFrame) -> ga.Table:
            cluster.load(name, frame)
            return ga.read(cluster.address, table=name)

        return of_postgres
    session = request.getfixturevalue("session")

    def of_spark(name: str, frame: pd.DataFrame) -> ga.Table:
        path = tmp_path / f"{name}.parquet"
        frame.to_parquet(path, index=False, coerce_timestamps="us", allow_truncated_timestamps=True)
        return ga.read(session.read.parquet(str(path)), name=name)

    return of_spark


def _statements(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    told: list[str] = []
    for adapter in (postgresql.PostgreSQL, spark.Spark):
        plain = adapter.run

        def run(self: Any, sql: str, plain: Any = plain) -> Any:
            told.append(sql)
            return plain(self, sql)

        monkeypatch.setattr(adapter, "run", run)
    return told


@pytest.mark.usefixtures("left_there")
def test_an_engine_keeps_the_contract(opened: Opener) -> None:
    table = opened("odd", ODD)
    store: Store = table.store
    assert not store.abilities.in_order
    assert store.rows == 200
    counted = store.label_counts(["select", "Größe €", "paid"])
    assert counted["select"][0] == ("Ash", "Birch", "Elm d'Or", None)
    assert counted["select"][1].tolist() == [80, 40, 40, 40]
    assert counted["Größe €"][0] == ('a "b"', "groß", "klein")
    assert counted["paid"][0] == ("no", "yes", None)
    days, rows = store.day_counts("Order Date")
    assert [str(day) for day in days] == ["2024-01-05", "2024-02-01", "2024-03-09"]
    assert rows.tolist() == [80, 40, 40]
    assert store.extents(["amount", "n"]) == {"amount": (-4.0, 1e6), "n": (1, 2**40)}
    assert store.total("amount") == pytest.approx(40 * (1.25 + 2.5 - 4 + 1e6), rel=1e-11)
    first, second = store.pairs([("select", "Größe €")])["select", "Größe €"]
    assert len({(int(a), int(b)) for a, b in zip(first, second, strict=True)}) == 4
    kept, which = store.kept("\"select\" = 'Ash'")
    assert which is None
    assert kept.rows == 80
    assert kept.kept("amount < 0")[0].rows == 40
    held, numbers = store.held("\"select\" = 'Elm d''Or'", None, 1)
    assert held.abilities.in_order
    assert held.rows == numbers.size == 40
    assert store.at([int(numbers[0])], lambda: numbers)[0].rows == 1
    assert store.first(5).num_rows == 5
    assert "select" not in store.dropped(["select"]).schema().names
    assert kept.dropped(["select"]).rows == 80
    recast = store.recast({"select": "CASE WHEN \"select\" = 'Ash' THEN 'Oak' ELSE \"select\" END"})
    assert recast.label_counts(["select"])["select"][0] == ("Birch", "Elm d'Or", "Oak", None)
    assert store.foreign('SELECT max("amount") AS a FROM source').column("a")[0].as_py() == 1e6
    assert table.sql('SELECT "select", sum(n) AS s FROM source GROUP BY 1 ORDER BY 1').shape[0] == 4
    hours = pd.date_range("2024-03-01 00:10", "2024-03-20 09:10", freq="h")
    assert stops_early(opened("calls", pd.DataFrame({"called": hours, "waited": 1.5})), "called")
    assert not stops_early(opened("rings", pd.DataFrame({"called": hours[:-10], "waited": 1.5})), "called")


def _told(found: Any, *, rows: bool = True) -> list[Any]:
    """Findings as data; a row without a number of its own is known by one that only its engine gives."""
    made = []
    for one in found.to_dict()["findings"]:
        if one["kind"] == "outlier":
            if not rows:
                continue
            one["figures"]["row"] = one["headline"] = None
        one.pop("related")
        made.append(one)
    return made


def _same(one: Any, other: Any) -> bool:
    if isinstance(one, dict):
        return (
            isinstance(other, dict) and one.keys() == other.keys() and all(_same(one[key], other[key]) for key in one)
        )
    if isinstance(one, list):
        return isinstance(other, list) and len(one) == len(other) and all(map(_same, one, other))
    if isinstance(one, float) or isinstance(other, float):
        return one == pytest.approx(other, rel=1e-9, abs=1e-9, nan_ok=True)
    return bool(one == other)


@pytest.mark.usefixtures("left_there")
def test_findings_are_those_of_the_rows_in_memory(opened: Opener) -> None:
    frame = planted()
    table = opened("planted", frame)
    assert not table.store.abilities.in_order
    kinds = ["trend", "shift", "seasonality", "difference", "ranking", "concentration", "mix"]
    here, there = ga.scan(ga.read(frame), kinds=kinds), ga.scan(table, kinds=kinds)
    assert len(here.findings) > 3
    wanted, came = _told(here), _told(there)
    assert [one["headline"] for one in came] == [one["headline"] for one in wanted]
    assert all(map(_same, came, wanted))
    for one in there.findings[:3]:
        assert one.check().agrees
    measure = here.result.survey.measures[0].name
    assert _same(
        ga.explain_change(table, measure).to_dict()["explanation"],
        ga.explain_change(ga.read(frame), measure).to_dict()["explanation"],
    )
    totals = ga.total(
        table, [measure], by=["shop" if "shop" in frame else table.with_role(tables.Role.DIMENSION)[0].name]
    )
    again = ga.total(ga.read(frame), [measure], by=[totals.to_frame().columns[0]])
    pd.testing.assert_frame_equal(totals.to_frame(), again.to_frame(), rtol=1e-9)


def _sales(rows: int = 9_000) -> pd.DataFrame:
    random = np.random.default_rng(3)
    days = pd.to_datetime("2023-01-01") + pd.to_timedelta(random.integers(0, 900, rows), "D")
    frame = pd.DataFrame({"key": [f"K{one:06d}" for one in range(rows)], "day": days})
    for column, size in (("region", 4), ("shop", 12), ("kind", 5), ("channel", 3), ("shift", 2), ("band", 6)):
        frame[column] = np.array([f"{column} {place}" for place in range(size)])[random.integers(0, size, rows)]
    frame["amount"] = (random.gamma(3, 40, rows) * np.where(frame["shop"] == "shop 3", 1.6, 1)).round(2)
    frame["cost"] = (frame["amount"] * random.uniform(0.4, 0.8, rows)).round(3)
    frame["items"] = random.poisson(4, rows) + 1
    frame["late"] = random.gamma(2, 5, rows)
    return frame


@pytest.mark.usefixtures("left_there")
def test_a_long_table_is_asked_in_twenty_statements_and_sends_a_sample(
    opened: Opener, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(tables, "MOST_SAMPLED", 2_000)
    frame = _sales()
    table = opened("sales", frame)
    told = _statements(monkeypatch)
    found = ga.scan(table)
    assert len(found.result.survey.dimensions) == 6
    assert len(found.result.survey.measures) == 4
    reading = 5
    assert len(told) + reading <= 20
    # Rows travel for the sample only.
    sample = table.sample()
    assert sample is not None
    assert 1_500 < sample.rows < 2_500
    # A file that is left where it is gives the same rows, and the same findings.
    monkeypatch.setattr(large_files, "LONG", 0)
    path = tmp_path / "sales_file.parquet"
    frame.assign(day=frame["day"].dt.date).to_parquet(path, index=False)
    filed = ga.read(path)
    assert not filed.store.abilities.in_order
    own = filed.sample()
    assert own is not None
    assert own.arrow.column("key").to_pylist() == sample.arrow.column("key").to_pylist()
    wanted, came = _told(ga.scan(filed)), _told(found)
    assert [one["kind"] for one in came] == [one["kind"] for one in wanted]
    assert all(map(_same, came, wanted))


@pytest.mark.usefixtures("left_there")
@pytest.mark.parametrize("engine", ENGINES)
def test_closed_months_and_what_is_beside_make_the_same_cells(
    engine: str, request: pytest.FixtureRequest, tmp_path: Path
) -> None:
    frame = planted()
    options: dict[str, Any] = {}
    if engine == "postgresql":
        cluster: Cluster = request.getfixturevalue("cluster")
        cluster.load("in_parts", frame)
        source, options = cluster.address, {"table": "in_parts"}
    else:
        path = tmp_path / "in_parts.parquet"
        frame.to_parquet(path, index=False, coerce_timestamps="us", allow_truncated_timestamps=True)
        source, options = request.getfixturevalue("session").read.parquet(str(path)), {"name": "in_parts"}
    kinds = ["trend", "shift", "seasonality", "difference", "ranking"]
    wanted = _told(ga.scan(ga.read(source, **options), kinds=kinds))
    assert wanted
    for _ in range(2):
        # The second time what was kept is put together with what is beside it.
        shelf = FolderShelf(tmp_path / "kept")
        came = _told(ga.scan(ga.read(server_tables.KeptSource(source, shelf), **options), kinds=kinds))
        shelf.settle()
        assert [one["headline"] for one in came] == [one["headline"] for one in wanted]
        assert all(map(_same, came, wanted))
    assert len(list((tmp_path / "kept").glob("*.parquet"))) > 3


def test_a_short_table_is_fetched_and_reported_on_as_from_a_file(opened: Opener, tmp_path: Path) -> None:
    frame = _sales(4_000)
    table = opened("sales_short", frame)
    assert table.store.abilities.in_order
    path = tmp_path / "f" / "sales_short.parquet"
    path.parent.mkdir()
    frame.assign(day=frame["day"].dt.date).to_parquet(path, index=False)
    assert parquet.read_metadata(path).num_rows == table.rows
    pages = []
    for source in (table, ga.read(path, name="sales_short")):
        page = ga.report(source).made("html").decode()
        # What stands for the source itself: how it is named in commands that are suggested.
        pages.append(re.sub(r"(postgresql://\S+ --table )?sales_short(\.parquet)?", "SOURCE", page))
    assert pages[0] == pages[1]


# --- PostgreSQL ---------------------------------------------------------------------------------------------


@pytest.mark.usefixtures("left_there")
def test_decimals_zones_and_odd_types_are_read_as_what_they_are(cluster: Cluster) -> None:
    cluster.run(
        "CREATE TYPE mood AS ENUM ('sad', 'glad')",
        "CREATE TABLE kinds (at timestamptz, plain timestamp, cost numeric(12, 2), weight real, tags text[], "
        "mood mood, doc jsonb, id uuid, big numeric, odd double precision)",
        "INSERT INTO kinds SELECT '2024-01-31 23:30:00+02'::timestamptz + n * interval '1 day', "
        "'2024-01-01'::timestamp + n * interval '1 day', n * 0.1, n / 4.0, ARRAY['a'], "
        "CASE WHEN n % 3 = 0 THEN 'sad' ELSE 'glad' END::mood, '{}'::jsonb, "
        "('00000000-0000-0000-0000-' || lpad(n::text, 12, '0'))::uuid, n * 1e20, "
        "CASE WHEN n = 5 THEN 'infinity'::float8 WHEN n = 6 THEN 'nan'::float8 ELSE n END "
        "FROM generate_series(1, 100) AS n",
    )
    table = ga.read(cluster.address, table="kinds")
    told = {column.name: column.type for column in table.columns}
    assert told == {
        "at": "datetime", "plain": "date", "cost": "number", "weight": "number", "tags": "text", "mood": "text",
        "doc": "text", "id": "text", "big": "number", "odd": "number",
    }  # fmt: skip
    assert str(table.day_counts("at")[0][0]) == "2024-02-01"
    assert table.total("cost") == pytest.approx(505.0, rel=1e-12)
    assert table.column("odd").missing == 2
    # Sums of decimals are exact, to the last cent.
    total = ga.total(table, ["sum(cost)"]).to_frame().iloc[0, 0]
    assert total == 505.0


@pytest.mark.usefixtures("left_there")
def test_what_is_not_to_be_shown_is_not_there(opened: Opener, monkeypatch: pytest.MonkeyPatch) -> None:
    frame = _sales(3_000)
    frame.loc[:2, "shop"] = "tiny one"
    plain = ga.read(frame, private=["key"], minimum_group=20)
    table = ga.read(opened("hidden", frame), private=["key"], minimum_group=20)
    assert "key" not in table.names
    assert "tiny one" not in table.labels("shop")
    query = "SELECT shop, sum(items) AS n, count(*) AS c FROM source GROUP BY shop ORDER BY n DESC LIMIT 4"
    told, wanted = (one.sql(query).astype({"n": float, "c": float}) for one in (table, plain))
    pd.testing.assert_frame_equal(told, wanted, check_dtype=False)
    for refused in ("SELECT key FROM source", "SELECT max(key) AS m FROM source", "SELECT * FROM source GROUP BY ALL"):
        with pytest.raises(ga.AlmanacError):
            table.sql(refused)
    assert "tiny one" not in str(ga.scan(table, kinds=["difference", "ranking"]).to_dict())


@pytest.mark.usefixtures("left_there")
def test_what_a_person_asks_can_only_read(cluster: Cluster) -> None:
    cluster.load("guarded", _sales(2_000))
    table = ga.read(cluster.address, table="guarded")
    for query in (
        "SELECT pg_read_file('/etc/passwd') AS x FROM source", "SELECT * FROM pg_shadow", "DELETE FROM source",
        "SELECT pg_sleep(60) FROM source", "SELECT golden_almanac_base_relation FROM source",
    ):  # fmt: skip
        with pytest.raises(ga.AlmanacError):
            table.sql(query)
    assert cluster.run("SELECT count(*) FROM guarded") == [(2_000,)]
    with pytest.raises(ga.ExpressionError):
        ga.scan(table, where="pg_sleep(9) IS NULL")


@pytest.mark.usefixtures("left_there")
def test_rows_that_arrive_meanwhile_are_not_seen(cluster: Cluster) -> None:
    cluster.load("growing", _sales(3_000))
    table = ga.read(cluster.address, table="growing")
    cluster.run("INSERT INTO growing SELECT * FROM growing")
    assert table.sql("SELECT count(*) AS n FROM source")["n"][0] == 3_000
    # A connection that was lost sees what is there now: other rows than those that were begun with.
    table.store.adapter.close()  # type: ignore[attr-defined]
    with pytest.raises(ga.SourceError, match=r"its rows changed while they were read \(3,000 before, 6,000 now\)"):
        table.sql("SELECT sum(amount) AS n FROM source")


@pytest.mark.usefixtures("left_there")
def test_a_server_that_restarts_meanwhile_is_asked_again(cluster: Cluster) -> None:
    frame = _sales(3_000)
    cluster.load("steady", frame)
    table = ga.read(cluster.address, table="steady")
    cluster.stop()
    cluster.start()
    assert int(table.sql("SELECT sum(items) AS n FROM source")["n"][0]) == int(frame["items"].sum())
    cluster.stop()
    try:
        with pytest.raises(ga.SourceError, match="cannot be reached, or ended the connection"):
            table.sql("SELECT max(items) AS n FROM source")
    finally:
        cluster.start()


@pytest.mark.usefixtures("left_there")
def test_what_may_not_be_read_or_is_gone_is_said(cluster: Cluster) -> None:
    cluster.load("closed", _sales(500))
    cluster.run("DROP ROLE IF EXISTS guest", "CREATE ROLE guest LOGIN")
    with pytest.raises(ga.SourceError, match=r"you may not read this table.*GRANT SELECT"):
        ga.read(cluster.address.replace("postgres@", "guest@"), table="closed")
    cluster.run("CREATE TABLE bare (a int)")
    with pytest.raises(ga.SourceError, match="no rows"):
        ga.read(cluster.address, table="bare")
    table = ga.read(cluster.address, table="closed")
    with pytest.raises(ga.ExpressionError, match="refused by the database"):
        table.sql("SELECT list_sort([items]) AS n FROM source")
    table.store.adapter.close()  # type: ignore[attr-defined]
    cluster.run("ALTER TABLE closed DROP COLUMN amount")
    with pytest.raises(ga.SourceError, match=r"its table is not what it was.*amount"):
        table.sql("SELECT sum(amount) AS n FROM source")


def test_ctrl_c_reaches_the_server(cluster: Cluster) -> None:
    cluster.run("CREATE TABLE heavy AS SELECT n AS a, n % 7 AS b FROM generate_series(1, 40000) AS n")
    query = "SELECT x.b AS b, sum(x.a * y.a) AS s FROM heavy x, heavy y GROUP BY x.b"
    child = subprocess.Popen(
        [sys.executable, "-m", "golden_almanac", "scan", cluster.address, "--query", query],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    running = (
        "SELECT count(*) FROM pg_stat_activity "
        "WHERE state = 'active' AND query LIKE '%heavy x%' AND pid <> pg_backend_pid()"
    )
    for _ in range(200):
        if cluster.run(running)[0][0]:
            break
        time.sleep(0.1)
    else:
        child.kill()
        pytest.fail("the query did not begin: " + child.communicate()[1])
    child.send_signal(signal.SIGINT)
    _, told = child.communicate(timeout=30)
    assert child.returncode == 130
    assert "Traceback" not in told
    for _ in range(50):
        if not cluster.run(running)[0][0]:
            break
        time.sleep(0.1)
    assert cluster.run(running) == [(0,)]


def test_schemas_and_views_are_named_with_a_dot(cluster: Cluster) -> None:
    cluster.load("viewed", _sales(400))
    cluster.run("CREATE SCHEMA shop", 'CREATE VIEW shop."Big Sales" AS SELECT * FROM viewed WHERE amount > 100')
    table = ga.read(cluster.address, table="shop.Big Sales")
    assert table.rows == int((_sales(400)["amount"] > 100).sum())


def test_a_dry_run_says_what_would_be_asked(cluster: Cluster, tmp_path: Path) -> None:
    cluster.load("measured", _sales(5_000))
    cluster.run("ANALYZE measured")
    done = run("scan", cluster.address, "--table", "measured", "--dry-run")
    assert done.returncode == 0, done.stderr
    assert "about 5,000 rows" in done.stdout
    assert "few enough to be fetched" in done.stdout
    cluster.run("CREATE TABLE long_one AS SELECT n AS a FROM generate_series(1, 600000) AS n", "ANALYZE long_one")
    told = run("scan", cluster.address, "--table", "long_one", "--dry-run").stdout
    rows = int(re.search(r"about ([\d,]+) rows", told)[1].replace(",", ""))  # type: ignore[index]
    assert abs(rows - 600_000) < 6_000
    assert "stay where they are" in told
    path = tmp_path / "small.csv"
    _sales(300).to_csv(path, index=False)
    assert "read into memory once" in run("scan", path, "--dry-run").stdout


# --- Spark --------------------------------------------------------------------------------------------------


def test_a_worker_killed_meanwhile_costs_no_answer(
    session: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(server_tables, "LONG", 0)
    frame = _sales(3_000)
    path = tmp_path / "lost.parquet"
    frame.to_parquet(path, index=False, coerce_timestamps="us", allow_truncated_timestamps=True)
    table = ga.read(session.read.parquet(str(path)), name="lost")
    # Those of this session only: others may run beside it.
    own = f"CoarseGrainedExecutorBackend.*{session.sparkContext.applicationId}"
    listed = subprocess.run(["pgrep", "-f", own], capture_output=True, text=True, check=True)
    workers = [int(pid) for pid in listed.stdout.split() if int(pid) != os.getpid()]
    os.kill(workers[0], signal.SIGKILL)
    assert int(table.sql("SELECT sum(items) AS n FROM source")["n"][0]) == int(frame["items"].sum())
    assert ga.total(table, ["sum(amount)"]).to_frame().iloc[0, 0] == pytest.approx(frame["amount"].sum(), rel=1e-12)


def test_a_table_of_spark_that_is_not_there_is_said(session: Any) -> None:
    adapter = spark.Spark(session=session, relation=spark.Relation(sql="`nowhere`"), shown="spark://test")
    with pytest.raises(ga.SourceError, match="not what was asked for"):
        adapter.columns()
    with pytest.raises(ga.ExpressionError, match="refused by Spark"):
        adapter.run("SELECT no_such_function(1)")
    with pytest.raises(ga.SourceError, match=r"no table is named.*--table"):
        spark.of_address("local[1]", None, None)
