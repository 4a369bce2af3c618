"""Cells of closed months that are kept for the next edition: put together they are those of all rows, on DuckDB and on
a real PostgreSQL; a past that was restated is read again; what may not lie about does not."""

from __future__ import annotations

import json
import stat
import time
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from typing import Any

import duckdb
import numpy as np
import pandas as pd
import pyarrow as pa
import pyarrow.parquet
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.api.brief_report import brief_table
from golden_almanac.engine.remote import postgresql
from golden_almanac.engine.remote.closed_periods import plan_of, put_together
from golden_almanac.export.kept_cells import FOLDER, FolderShelf
from golden_almanac.support.progress import told_to
from golden_almanac.tables.io import server_tables

from .servers import Cluster, postgres_cluster

#: Statements as the house asks them, and whether their answers can be put together.
TOGETHER = [
    "SELECT count(*) AS n, count(v) AS c, sum(v) AS s, min(v) AS l, max(day) AS h FROM source",
    "SELECT a, b, grouping(a, b) AS g, count(*) AS n FROM source GROUP BY GROUPING SETS ((a), (b), (a, b))",
    "SELECT CAST(day AS DATE) AS d, count(*) AS n FROM source WHERE day IS NOT NULL GROUP BY 1 ORDER BY 1",
    """SELECT k0, sum(v) AS s, sum(v * v) AS q, min(v) FILTER (v <> 0) AS l, bool_and(v = trunc(v)) AS w
    FROM (SELECT a AS k0, TRY_CAST((v) AS DOUBLE) AS v FROM source WHERE (TRUE) AND b IS NOT NULL) GROUP BY k0""",
    "SELECT count(v0) AS n0, 0.0 AS l0, max(abs(v0)) AS h0 FROM (SELECT v AS v0 FROM numbered)",
]
APART = [
    "SELECT * FROM source",
    "SELECT a FROM source WHERE v > 1",
    "SELECT count(DISTINCT a) AS n FROM source",
    "SELECT median(v) AS m FROM source",
    "SELECT a, sum(v) / count(*) AS r FROM source GROUP BY a",
    "SELECT a, sum(v) AS s FROM source GROUP BY a HAVING sum(v) > 1",
    "SELECT a, sum(v) AS s FROM source GROUP BY a ORDER BY 2",
    "SELECT a, sum(v) AS s FROM source GROUP BY a LIMIT 3",
    "SELECT a, sum(v) OVER (PARTITION BY a) AS s FROM source",
    "SELECT sum(s) AS s FROM (SELECT a, max(v) AS s FROM source GROUP BY a)",
    "SELECT (SELECT sum(v) FROM source) AS s",
    "SELECT sum(v) AS s FROM source WHERE v > (SELECT avg(v) FROM source)",
    "SELECT sum(x.v) AS s FROM source AS x JOIN source AS y ON x.a = y.a",
    "no statement",
]


@pytest.mark.parametrize("sql", APART)
def test_what_cannot_be_put_together_is_asked_as_a_whole(sql: str) -> None:
    assert plan_of(sql) is None


ROWS = st.lists(
    st.tuples(
        st.sampled_from(["x", "y", None]), st.sampled_from(["p", "q", None]),
        st.one_of(st.none(), st.integers(-50, 50)), st.one_of(st.none(), st.integers(0, 400)),
    ),
    min_size=1, max_size=40,
)  # fmt: skip


@settings(max_examples=25)
@given(rows=ROWS, cuts=st.lists(st.integers(0, 400), min_size=1, max_size=2))
@pytest.mark.parametrize("sql", TOGETHER)
def test_parts_put_together_are_the_whole(sql: str, rows: list[Any], cuts: list[int]) -> None:
    """Against DuckDB over all rows at once."""
    frame = pd.DataFrame(rows, columns=["a", "b", "v", "days"])
    frame["day"] = pd.to_datetime("2024-01-01") + pd.to_timedelta(frame.pop("days"), "D")
    frame["v"] = frame["v"].astype(float)

    def asked(part: pd.DataFrame) -> pa.Table:
        with duckdb.connect() as base:
            base.register("given", part)
            view = "SELECT a::VARCHAR AS a, b::VARCHAR AS b, v::DOUBLE AS v, day::TIMESTAMP AS day FROM given"
            base.execute(f"CREATE VIEW source AS {view}; CREATE VIEW numbered AS {view}")
            return base.sql(sql).to_arrow_table()

    plan = plan_of(sql)
    assert plan is not None
    ends = sorted(pd.Timestamp("2024-01-01") + pd.Timedelta(cut, "D") for cut in cuts)
    place = np.searchsorted(np.array(ends, dtype="datetime64[ns]"), frame["day"].to_numpy("datetime64[ns]"), "right")
    place = np.where(frame["day"].isna(), len(ends), place)
    made = put_together([asked(frame[place == part]) for part in range(len(ends) + 1)], plan)
    whole = asked(frame)
    assert made.schema == whole.schema
    if plan.order:
        assert made.to_pylist() == whole.to_pylist()
    assert sorted(map(repr, made.to_pylist())) == sorted(map(repr, whole.to_pylist()))


def test_a_shelf_counts_from_the_end_of_a_run(tmp_path: Path) -> None:
    answer, first, second = pa.table({"n": [1]}), date(2024, 3, 1), date(2024, 4, 1)
    shelf = FolderShelf(tmp_path / FOLDER)
    assert shelf.state() is None
    shelf.begin("sales", first, {"2024-02": (3, 14)})
    shelf.put("key", first, answer)
    # Stopped here, nothing is known of it.
    assert FolderShelf(tmp_path / FOLDER).state() is None
    shelf.settle()
    after = FolderShelf(tmp_path / FOLDER)
    assert after.state() == ("sales", first, {"2024-02": (3, 14)})
    assert after.get("key", first) == answer
    assert after.get("key", second) is None
    assert stat.S_IMODE((tmp_path / FOLDER).stat().st_mode) == 0o700
    after.begin("sales", second, {})
    after.put("key", second, answer)
    after.settle()
    assert [path.name for path in sorted((tmp_path / FOLDER).iterdir())] == ["kept.json", "key.2024-04-01.parquet"]
    for text in ("", "[]", '{"format": "golden-almanac/kept/1"}', '{"format": 1, "months": 2}'):
        (tmp_path / FOLDER / "kept.json").write_text(text)
        assert FolderShelf(tmp_path / FOLDER).state() is None
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (tmp_path / "link").symlink_to(elsewhere)
    with pytest.raises(ga.OutputError, match="link"):
        FolderShelf(tmp_path / "link").put("key", first, answer)
    assert list(elsewhere.iterdir()) == []
    (tmp_path / FOLDER / "key.2024-04-01.parquet").write_bytes(b"no Parquet")
    assert after.get("key", second) is None


# --- on a server --------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def cluster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Cluster]:
    pytest.importorskip("psycopg")
    with postgres_cluster(tmp_path_factory.mktemp("kept")) as made:
        yield made


@pytest.fixture
def told(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The statements that reach the server; short tables stay there too."""
    monkeypatch.setattr(server_tables, "LONG", 0)
    found: list[str] = []
    plain = postgresql.PostgreSQL.run

    def run(self: Any, sql: str) -> Any:
        found.append(sql)
        return plain(self, sql)

    monkeypatch.setattr(postgresql.PostgreSQL, "run", run)
    return found


def _sales(rows: int = 6_000) -> pd.DataFrame:
    random = np.random.default_rng(5)
    days = pd.to_datetime("2023-01-01") + pd.to_timedelta(np.sort(random.integers(0, 820, rows)), "D")
    shop = np.array(["Ash", "Birch", "Cedar", "Elm"])[random.integers(0, 4, rows)]
    amount = (random.gamma(3, 40, rows) * np.where((shop == "Elm") & (days >= "2024-06-01"), 1.7, 1)).round(2)
    clerk = np.array(["Vermilion 1", "Vermilion 2"])[random.integers(0, 2, rows)]
    frame = pd.DataFrame({"day": days, "shop": shop, "amount": amount, "clerk": clerk})
    # One row without a day belongs to no month, and is read each time.
    frame.loc[rows, ["shop", "amount", "clerk"]] = ["Ash", 12.5, "Vermilion 1"]
    return frame


def _brief(cluster: Cluster, folder: Path, more: str = "") -> Path:
    folder.mkdir(exist_ok=True)
    brief = folder / "shops.toml"
    brief.write_text(
        f'title = "Shops"\nsource = "{cluster.address}"\ntable = "kept_sales"\nprivate = ["clerk"]\ntime = "day"\n'
        f'formats = ["json"]\n{more}',
        encoding="utf-8",
    )
    return brief


def _findings(edition: ga.Edition) -> Any:
    return json.loads((edition.folder / "findings.json").read_text("utf-8"))["findings"]


def _groups(statements: list[str]) -> list[str]:
    return [sql for sql in statements if "GROUP BY GROUPING SETS" in sql or "GROUP BY k0" in sql]


def _past(statements: list[str]) -> list[str]:
    """Statements over parts of the rows that go back to the beginning."""
    return [sql for sql in statements if "some_rows" in sql and '"day" >= ' not in sql]


def test_the_next_edition_reads_what_is_new_and_says_the_same(
    cluster: Cluster, told: list[str], tmp_path: Path
) -> None:
    sales = _sales()
    cluster.load("kept_sales", sales[~(sales["day"] >= "2025-02-01")])
    brief = _brief(cluster, tmp_path / "kept")
    assert ga.publish_brief(brief).name == "2025-01-31"
    shelf = tmp_path / "kept" / "editions" / FOLDER
    assert len(_past(told)) >= 4
    # The months are over: beside them only the row without a day was read.
    assert len(list(shelf.glob("*.parquet"))) >= 4
    told.clear()
    cluster.load("kept_sales", sales)
    second = ga.publish_brief(brief)
    assert second.name > "2025-01-31"
    assert _groups(told)
    assert not _past(told)
    # What looks at every row: the months' counts and sums; what no parts tell stays within a few.
    first, *others = [sql for sql in told if "some_rows" not in sql]
    assert "DATE_TRUNC('MONTH'" in first
    assert not _groups(others)
    # As if nothing had been kept.
    told.clear()
    plain = ga.publish_brief(_brief(cluster, tmp_path / "plain", "keep_cells = false\n"))
    assert not [sql for sql in told if "some_rows" in sql]
    assert not (tmp_path / "plain" / "editions" / FOLDER).exists()
    assert _findings(second) == _findings(plain)
    assert len(_findings(second)) > 1
    assert ga.verify(second).agrees
    # Nobody waits for a transaction that publishing or verifying left open, nor for that of a brief that asks too much.
    with pytest.raises(ga.AlmanacError):
        ga.publish_brief(_brief(cluster, tmp_path / "asking", '[[alert]]\nname = "x"\nwhen = "sum(nothing) > 1"\n'))
    # A server takes a moment to see that somebody has left.
    for _ in range(50):
        waiting = cluster.run("SELECT query FROM pg_stat_activity WHERE state LIKE 'idle in transaction%'")
        if not waiting:
            break
        time.sleep(0.1)
    assert waiting == []
    # What is private is in nothing that is kept.
    for path in shelf.glob("*.parquet"):
        assert b"Vermilion" not in path.read_bytes()
        assert "clerk" not in pa.parquet.read_schema(path).names


def _read(brief: Path) -> list[str]:
    """What is said of reading as an edition reads, which settles what it kept."""
    said: list[str] = []
    shelf = FolderShelf(brief.parent / FOLDER)
    with told_to(said.append):
        table = brief_table(ga.read_brief(brief), said.append, shelf=shelf)
    shelf.settle()
    table.store.release()
    return said


def test_a_past_that_was_restated_is_read_again(cluster: Cluster, told: list[str], tmp_path: Path) -> None:
    sales = _sales(4_000)
    brief = _brief(cluster, tmp_path / "restated")
    cluster.load("kept_sales", sales)
    # How far reading is, is told by the statements that are done.
    assert any("statement 3 of about 20, 10% done" in text for text in _read(brief))
    first = sales.index[:80]
    for change in ("a value", "a thousandth", "a sign", "a label", "a row more", "a row less"):
        again = sales.copy()
        if change == "a value":
            again.loc[first[50], "amount"] += 0.01
        elif change == "a thousandth":
            again.loc[first[51], "amount"] += 0.001
        elif change == "a sign":
            again.loc[first[52], "amount"] *= -1
        elif change == "a label":
            again.loc[first[50], "shop"] = "Cedar" if again.loc[first[50], "shop"] != "Cedar" else "Ash"
        elif change == "a row more":
            again = pd.concat([again, again.loc[[first[60]]]], ignore_index=True)
        else:
            again = again.drop(index=first[70])
        cluster.load("kept_sales", again)
        told.clear()
        said = _read(brief)
        assert any("2023-01: other rows than before" in text for text in said), (change, said)
        assert _past(told), change
        sales = again
    # The same rows in another order are the same rows.
    cluster.load("kept_sales", sales.sample(frac=1.0, random_state=1))
    told.clear()
    assert not any("other rows" in text for text in _read(brief))
    assert not _past(told)


def test_where_no_cell_may_lie_about_none_does(cluster: Cluster, told: list[str], tmp_path: Path) -> None:
    cluster.load("kept_sales", _sales(3_000))
    for name, more in (("groups", "minimum_group = 5\n"), ("rows", "row_samples = false\n")):
        edition = ga.publish_brief(_brief(cluster, tmp_path / name, more))
        assert not (edition.folder.parent / FOLDER).exists()
