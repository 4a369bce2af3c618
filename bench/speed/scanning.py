"""python -m bench.speed.scanning: the whole scan against a plain pandas script and one DuckDB statement.

Tables of 5 dimensions, a date and 3 measures, made by DuckDB as Parquet. For each size: (a) a pandas script that groups
by each dimension and month and by each pair of dimensions (sum, mean, standard deviation, count), (b) one DuckDB
statement with the same grouping sets, (c) `golden-almanac scan`, (d) reading all columns. Whole processes, in turn;
seconds are printed to judge the ratios by, which are what counts. `--plot FILE` draws them. From 30 million rows on
the scan has a memory budget (`--memory`) that is smaller than the table, and pandas is left out: it would not fit.
`--widths` measures the scan against the number of dimensions, and `--warm` a small table in a running session.
"""

from __future__ import annotations

import argparse
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from itertools import combinations
from pathlib import Path

_DIMENSIONS = ("region", "route", "vessel", "fare_class", "channel")
_LARGE = 30_000_000
_MEASURES = ("revenue", "passengers", "delay_min")
_TABLE = """
COPY (SELECT DATE '2021-01-01' + CAST(hash(i * 3) % 1400 AS INT) AS day,
  'Region ' || (hash(i * 5) % 4) AS region, 'Route ' || (hash(i * 7) % 12) AS route,
  'Vessel ' || (hash(i * 11) % 9) AS vessel, 'Class ' || (hash(i * 13) % 5) AS fare_class,
  'Channel ' || (hash(i * 17) % 3) AS channel, round(20 + (hash(i * 19) % 100000) / 100.0, 2) AS revenue,
  CAST(hash(i * 23) % 60 AS INT) AS passengers, round((hash(i * 29) % 9000) / 100.0, 2) AS delay_min
  FROM range({rows}) t(i)) TO '{path}' (FORMAT parquet)
"""
_PANDAS = """
import itertools, pandas as pd
table = pd.read_parquet({path!r})
table["month"] = pd.to_datetime(table["day"]).dt.to_period("M")
for one in {dimensions}:
    table.groupby([one, "month"])[{measures}].agg(["sum", "mean", "std", "count"])
for pair in itertools.combinations({dimensions}, 2):
    table.groupby(list(pair))[{measures}].agg(["sum", "mean", "std", "count"])
"""
_DUCKDB = """
import duckdb
connection = duckdb.connect()
connection.execute("SET enable_progress_bar=false")
connection.execute({sql!r}).fetchall()
"""
_READ = "import pyarrow.parquet as parquet\nparquet.read_table({path!r})\n"


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--rows", type=int, nargs="+", default=[10_000, 1_000_000, 10_000_000])
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--plot", type=Path)
    parser.add_argument("--memory", default="2GB")
    parser.add_argument("--widths", type=int, nargs="*", default=[])
    parser.add_argument("--warm", action="store_true")
    asked = parser.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="almanac-bench-"))
    found: dict[int, dict[str, tuple[float, float]]] = {}
    for rows in asked.rows:
        path = str(folder / f"{rows}.parquet")
        subprocess.run(
            [sys.executable, "-c", f"import duckdb; duckdb.connect().execute({_TABLE.format(rows=rows, path=path)!r})"],
            check=True,
            stdout=subprocess.DEVNULL,
        )
        found[rows] = _measured(path, asked.runs, asked.memory if rows >= _LARGE else None)
        os.unlink(path)
        _tell(rows, found[rows])
    if asked.plot is not None:
        _draw(found, asked.plot)
    if asked.widths:
        _tell_widths(folder, asked.widths, asked.runs)
    if asked.warm:
        _tell_warm()


def _tell_widths(folder: Path, widths: list[int], runs: int) -> None:
    """A million rows with more and more dimensions of five labels each."""
    base: tuple[int, float] | None = None
    for width in widths:
        path = str(folder / f"width{width}.parquet")
        columns = ", ".join(f"'L' || (hash(i * {2 * k + 41}) % 5) AS d{k}" for k in range(width))
        sql = (
            f"COPY (SELECT DATE '2021-01-01' + CAST(hash(i * 3) % 1400 AS INT) AS day, {columns}, "
            "round(20 + (hash(i * 19) % 100000) / 100.0, 2) AS revenue, CAST(hash(i * 23) % 60 AS INT) AS passengers, "
            "round((hash(i * 29) % 9000) / 100.0, 2) AS delay_min "
            f"FROM range(1000000) t(i)) TO '{path}' (FORMAT parquet)"
        )
        code = f"import duckdb; duckdb.connect().execute({sql!r})"
        subprocess.run([sys.executable, "-c", code], check=True, stdout=subprocess.DEVNULL)
        command = [sys.executable, "-m", "golden_almanac", "scan", path]
        took = statistics.median(_run(command)[0] for _ in range(runs))
        base = base or (width, took)
        grown, allowed = took / base[1], (width / base[0]) ** 2
        print(f"{width:>3} dimensions: scan {took:.2f} s, {grown:.2f} times the first (its square: {allowed:.1f})")
        os.unlink(path)


def _tell_warm() -> None:
    """A table of 1,600 rows and 10 columns, scanned again and again in one session."""
    import golden_almanac as ga

    from .shapes import small

    frame = small()
    took = []
    for _ in range(12):
        began = time.perf_counter()
        ga.scan(frame).summary()
        took.append(time.perf_counter() - began)
    print(f"1,600 rows, 10 columns, warm: {statistics.median(took[2:]):.2f} s (fastest {min(took):.2f})")


def _measured(path: str, runs: int, memory: str | None) -> dict[str, tuple[float, float]]:
    """Median seconds and largest peak memory in MB of each contender, run in turn."""
    sets = [f"({one}, month)" for one in _DIMENSIONS] + [f"({a}, {b})" for a, b in combinations(_DIMENSIONS, 2)]
    asked = ", ".join(f"sum({m}), avg({m}), stddev({m}), count({m})" for m in _MEASURES)
    sql = (
        f"SELECT {', '.join(_DIMENSIONS)}, month, {asked} FROM (SELECT *, date_trunc('month', day) AS month "
        f"FROM '{path}') GROUP BY GROUPING SETS ({', '.join(sets)})"
    )
    code = {
        "pandas": _PANDAS.format(path=path, dimensions=list(_DIMENSIONS), measures=list(_MEASURES)),
        "duckdb": _DUCKDB.format(sql=sql),
        "read": _READ.format(path=path),
    }
    commands = {name: [sys.executable, "-c", text] for name, text in code.items()}
    commands["scan"] = [sys.executable, "-m", "golden_almanac", "scan", path]
    if memory is not None:
        del commands["pandas"]
        commands["scan"] += ["--memory", memory]
    seconds: dict[str, list[float]] = {name: [] for name in commands}
    memory = dict.fromkeys(commands, 0.0)
    for _ in range(runs):
        for name, command in commands.items():
            took, peak = _run(command)
            seconds[name].append(took)
            memory[name] = max(memory[name], peak)
    return {name: (statistics.median(took), memory[name]) for name, took in seconds.items()}


def _run(command: list[str]) -> tuple[float, float]:
    began = time.perf_counter()
    child = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, status, usage = os.wait4(child.pid, 0)
    assert os.waitstatus_to_exitcode(status) == 0, command
    assert isinstance(usage, resource.struct_rusage)
    return time.perf_counter() - began, usage.ru_maxrss / 1024


def _tell(rows: int, found: dict[str, tuple[float, float]]) -> None:
    scan, peak = found["scan"]
    pandas = f"{scan / found['pandas'][0]:.2f} of pandas, " if "pandas" in found else ""
    print(
        f"{rows:>12,} rows: scan {scan:.2f} s = {pandas}"
        f"{scan / found['duckdb'][0]:.2f} of DuckDB, {scan / found['read'][0]:.1f} of reading; "
        f"peak {peak:,.0f} MB = {peak / found['read'][1]:.1f} of reading",
        flush=True,
    )


def _draw(found: dict[int, dict[str, tuple[float, float]]], path: Path) -> None:
    from matplotlib.figure import Figure

    said = {
        "pandas": "pandas, the same groups",
        "duckdb": "DuckDB, the same groups",
        "scan": "golden-almanac scan",
        "read": "reading all columns",
    }
    marks = {"pandas": "s", "duckdb": "^", "scan": "o", "read": "v"}
    figure = Figure(figsize=(8, 5), dpi=110, layout="constrained")
    axes = figure.subplots()
    for name, label in said.items():
        sizes = [rows for rows in found if name in found[rows]]
        took = [found[rows][name][0] for rows in sizes]
        colour, width = ("#A86A00", 2.4) if name == "scan" else ("#5C646E", 1.2)
        axes.loglog(sizes, took, marker=marks[name], color=colour, linewidth=width, label=label)
    axes.set_xlabel("rows")
    axes.set_ylabel("seconds, whole process (median)")
    axes.set_title("A whole scan beside the bare groupings, by size of the table", loc="left", fontsize=11)
    axes.grid(True, which="major", color="#DDD8CC", linewidth=0.6)
    axes.legend(frameon=False)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    figure.savefig(path, metadata={"Software": None})


if __name__ == "__main__":
    main()
