"""`python -m bench.scale`: a scan on PostgreSQL or Spark beside the plain grouping of the same cells, in the same run.

Rows have a date, five columns of labels and three amounts. `--cells` counts what would travel as labels grow.
"""

from __future__ import annotations

import argparse
import resource
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from tests.engine.servers import postgres_cluster, spark_session

import golden_almanac as ga
from golden_almanac.engine.remote import postgresql, spark

_MILLION = 1_000_000
#: Columns and their labels.
_LABELS = {"region": 5, "shop": 12, "kind": 4, "channel": 3, "band": 2}
_MEASURES = ("revenue", "cost", "items")
_MAKE = """SELECT DATE '2022-01-01' + CAST(h % 1095 AS INT) AS day,
{labels}, (h * 7919 % 100003) / 100.0 * (1 + (h % 1095) / 3000.0) AS revenue, (h * 104729 % 70001) / 100.0 AS cost,
h * 15485863 % 9 + 1 AS items FROM (SELECT CAST(n AS BIGINT) * 2654435761 % 1000000007 AS h FROM {numbers}) AS made"""


def _make(numbers: str, day: str) -> str:
    labels = ", ".join(
        f"'{name} ' || CAST(h % {prime} % {size} AS {'STRING' if day else 'TEXT'}) AS {name}"
        for prime, (name, size) in zip((1_009, 1_013, 1_019, 1_021, 1_031), _LABELS.items(), strict=True)
    )
    made = _MAKE.format(labels=labels, numbers=numbers)
    return made.replace("DATE '2022-01-01' + CAST(h % 1095 AS INT)", day) if day else made


def _plain(month: str, day: str) -> list[str]:
    """What a person would write for the same cells: by all columns and month, and by day and each column."""
    sums = ", ".join(f"sum({one}), sum({one} * {one}), count({one})" for one in _MEASURES)
    names = ", ".join(_LABELS)
    sets = ", ".join([f"({day})", *(f"({day}, {name})" for name in _LABELS)])
    return [
        f"SELECT {names}, {month}, count(*), {sums} FROM sales GROUP BY {names}, {month}",
        f"SELECT {day}, {names}, count(*), {sums} FROM sales GROUP BY GROUPING SETS ({sets})",
    ]


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    begun = time.perf_counter()
    made = work()
    return time.perf_counter() - begun, made


def _told(engine: str, rows: int, plain: float, source: Any, adapter: Any, **more: Any) -> None:
    counted: list[float] = []
    run = adapter.run

    def watched(self: Any, sql: str) -> Any:
        seconds, made = _timed(lambda: run(self, sql))
        counted.append(seconds)
        return made

    adapter.run = watched
    try:
        reading, table = _timed(lambda: ga.read(source, **more))
        scanning, found = _timed(lambda: ga.scan(table))
    finally:
        adapter.run = run
    asked, whole = sum(counted), reading + scanning
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(
        f"{engine} {rows / _MILLION:g} million rows: plain grouping {plain:.1f} s; reading {reading:.1f} s and scan "
        f"{scanning:.1f} s, {len(counted)} statements of {asked:.1f} s in all ({whole - asked:.1f} s here); the scan's "
        f"statements {asked / plain:.1f} times the plain ones, the whole {whole / plain:.1f} times; this process "
        f"{memory:.0f} MB; {len(found.findings)} findings",
        flush=True,
    )


def on_postgresql(rows: int) -> None:
    with tempfile.TemporaryDirectory(prefix="scale-", dir="/tmp") as folder, postgres_cluster(Path(folder)) as cluster:
        numbers = f"generate_series(1, {rows}) AS numbers(n)"
        cluster.run("CREATE UNLOGGED TABLE sales AS " + _make(numbers, ""), "VACUUM ANALYZE sales")
        plain, _ = _timed(lambda: [cluster.run(sql) for sql in _plain("CAST(date_trunc('month', day) AS DATE)", "day")])
        _told("PostgreSQL", rows, plain, cluster.address, postgresql.PostgreSQL, table="sales")


def on_spark(rows: int, workers: int) -> None:
    with tempfile.TemporaryDirectory(prefix="scale-") as folder, spark_session(workers) as session:
        path = f"{folder}/sales.parquet"
        numbers = f"(SELECT id + 1 AS n FROM range({rows})) AS numbers"
        made = _make(numbers, "date_add(DATE '2022-01-01', CAST(h % 1095 AS INT))")
        session.sql(made).write.parquet(path)
        frame = session.read.parquet(path)
        frame.createOrReplaceTempView("sales")
        month = "CAST(date_trunc('month', day) AS DATE)"
        plain, _ = _timed(lambda: [session.sql(sql).toArrow() for sql in _plain(month, "day")])
        _told(f"Spark, {workers} workers,", rows, plain, frame, spark.Spark, name="sales")


def cells() -> None:
    """Cells that travel of ten million and of a billion rows, by how many labels each of five columns has."""
    months, days, columns = 36, 1_095, 5
    print("labels of each of five columns | of 10 million rows, all columns × month | of a billion | column × day")
    for labels in (3, 5, 10, 20, 50, 100, 1_000):
        bins = float(labels) ** columns * months
        # Rows fall into bins evenly: so many are hit (an upper bound for columns that go together).
        hit = [bins * -np.expm1(-rows / bins) for rows in (1e7, 1e9)]
        print(f"{labels:6,} | {hit[0]:14,.0f} | {hit[1]:16,.0f} | {columns * labels * days:12,}")


def main() -> None:
    told = argparse.ArgumentParser(description=__doc__)
    told.add_argument("--rows", type=float, default=10, help="millions of rows")
    told.add_argument("--engine", choices=("postgresql", "spark"), default="postgresql")
    told.add_argument("--workers", type=int, default=2, choices=(1, 2), help="processes that work for Spark")
    told.add_argument("--cells", action="store_true", help="count cells as labels grow; no engine is started")
    given = told.parse_args()
    if given.cells:
        cells()
    elif given.engine == "spark":
        on_spark(int(given.rows * _MILLION), given.workers)
    else:
        on_postgresql(int(given.rows * _MILLION))


if __name__ == "__main__":
    main()
