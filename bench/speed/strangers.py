"""python -m bench.speed.strangers [NAME …]: the scan of tables of the shapes that strangers bring, and how it grows.

Each table of `bench/speed/shapes.py` is written to a file and scanned by a process of its own, in turn with a plain
pandas script and with one statement of the embedded engine that make the same groups (each column of labels by
period, each pair of them); medians, and the ratio pair by pair, are printed. `--growth` doubles rows, columns, labels
and periods of a middling table one at a time: the time must grow no faster than they do.
"""

from __future__ import annotations

import argparse
import statistics
import sys
import tempfile
from itertools import combinations
from pathlib import Path

import numpy as np
import pandas as pd

from .shapes import shapes, write
from .timing import seconds

_PANDAS = """
import itertools, pandas as pd
table = pd.read_{kind}({path!r})
table[{time!r}] = pd.to_datetime(table[{time!r}])
table["period"] = table[{time!r}].dt.to_period({grain!r})
asked = {measures} or ["one"]
table["one"] = 1
for label in {dimensions}:
    table.groupby([label, "period"])[asked].agg(["sum", "mean", "std", "count"])
for pair in itertools.combinations({dimensions}, 2):
    table.groupby(list(pair))[asked].agg(["sum", "mean", "std", "count"])
"""
_ENGINE = """
import duckdb
connection = duckdb.connect()
connection.execute("SET enable_progress_bar=false")
connection.execute({sql!r}).fetchall()
"""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*", default=[], metavar="NAME", help=", ".join(shapes()))
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--growth", action="store_true")
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="almanac-bench-") as folder:
        for name in asked.names or ([] if asked.growth else list(shapes())):
            _tell(name, write(name, Path(folder)), asked.runs)
        if asked.growth:
            _tell_growth(Path(folder), asked.runs)


def _tell(name: str, path: Path, runs: int) -> None:
    commands = _commands(path)
    took: dict[str, list[float]] = {each: [] for each in commands}
    for _ in range(runs):
        for each, command in commands.items():
            took[each].append(seconds(command))
    scan = statistics.median(took["scan"])
    ratios = ", ".join(
        f"{statistics.median(a / b for a, b in zip(took['scan'], took[each], strict=True)):.2f} of {each}"
        for each in ("pandas", "engine")
    )
    print(f"{name:<18}{scan:7.2f} s = {ratios}", flush=True)


def _commands(path: Path) -> dict[str, list[str]]:
    kind = "parquet" if path.suffix == ".parquet" else "csv"
    frame = pd.read_parquet(path) if kind == "parquet" else pd.read_csv(path)
    when = str(frame.columns[0])
    dimensions = [name for name in frame.columns[1:] if not pd.api.types.is_numeric_dtype(frame[name])]
    measures = [name for name in frame.columns[1:] if name not in dimensions]
    days = pd.to_datetime(frame[when])
    grain = "D" if days.nunique() <= 400 else "M"
    sets = [f"({name}, period)" for name in dimensions] + [f"({a}, {b})" for a, b in combinations(dimensions, 2)]
    sums = ", ".join(f"sum({m}), avg({m}), stddev({m}), count({m})" for m in measures) or "count(*)"
    period = f"date_trunc('{'day' if grain == 'D' else 'month'}', CAST({when} AS DATE)) AS period"
    sql = (
        f"SELECT {', '.join([*dimensions, 'period'])}, {sums} FROM (SELECT *, {period} FROM '{path}') "
        f"GROUP BY GROUPING SETS ({', '.join(sets)})"
    )
    script = _PANDAS.format(kind=kind, path=str(path), time=when, grain=grain, measures=measures, dimensions=dimensions)
    return {
        "pandas": [sys.executable, "-W", "ignore", "-c", script],
        "engine": [sys.executable, "-c", _ENGINE.format(sql=sql)],
        "scan": [sys.executable, "-m", "golden_almanac", "scan", str(path)],
    }


def _middling(rows: int, columns: int, labels: int, periods: int) -> pd.DataFrame:
    rng = np.random.default_rng(11)
    made: dict[str, object] = {
        "day": np.datetime64("2015-01-01") + rng.integers(0, 30 * periods, rows).astype("timedelta64[D]")
    }
    for k in range(columns):
        made[f"group_{k}"] = np.array([f"G{code:04d}" for code in range(labels)])[rng.integers(0, labels, rows)]
    for k in range(3):
        made[f"amount_{k}"] = np.round(rng.gamma(2, 50, rows), 2)
    return pd.DataFrame(made)


def _tell_growth(folder: Path, runs: int) -> None:
    base = {"rows": 100_000, "columns": 4, "labels": 25, "periods": 36}
    for what in base:
        took = []
        for times in (1, 2, 4):
            path = folder / "growth.csv"
            _middling(**{**base, what: base[what] * times}).to_csv(path, index=False)
            command = [sys.executable, "-m", "golden_almanac", "scan", str(path)]
            took.append(statistics.median(seconds(command) for _ in range(runs)))
        print(
            f"{what:<8} ×1 {took[0]:.2f} s, ×2 {took[1] / took[0]:.2f} times, ×4 {took[2] / took[0]:.2f} times",
            flush=True,
        )


if __name__ == "__main__":
    main()
