"""python -m bench.speed.reading: reading a large CSV and a long workbook, as ratios to the bare readers beneath.

Each run is a process of its own, started in turn with the run it is compared with; memory is the peak above what
the imports take, as a multiple of the loaded table.
"""

from __future__ import annotations

import argparse
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

_CSV = """
COPY (SELECT i AS id, DATE '2023-01-01' + CAST(i // 1500 AS INT) AS day,
  'Route ' || (hash(i) % 5) AS route, 'Vessel ' || (hash(i * 7) % 6) AS vessel,
  'Class ' || (hash(i * 3) % 4) AS fare_class, 'Channel ' || (hash(i * 11) % 3) AS channel,
  'P' || (hash(i * 13) % 40) AS port, 'R' || (hash(i * 17) % 3) AS region,
  hash(i * 19) % 400 AS passengers, hash(i * 23) % 60 AS vehicles, 400 AS capacity,
  round((hash(i * 29) % 1000000) / 100.0, 2) AS revenue, round((hash(i * 31) % 300000) / 100.0, 2) AS fuel,
  hash(i * 37) % 90 AS delay_min, CASE WHEN hash(i * 41) % 50 = 0 THEN 'yes' ELSE 'no' END AS cancelled,
  'note ' || (hash(i * 43) % 200000) AS remark FROM range({rows}) t(i)) TO '{path}' (HEADER)
"""

_TIMED = """
import resource, sys, time
began = time.perf_counter()
{body}
seconds = time.perf_counter() - began
print(seconds, {size}, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 - base)
"""
_BASE = """
import resource, pandas, pyarrow.compute, pyarrow.csv, duckdb, python_calamine
import golden_almanac, rapidfuzz, babel.dates
base = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--rows", type=int, default=1_600_000)
    parser.add_argument("--sheet-rows", type=int, default=100_000)
    parser.add_argument("--runs", type=int, default=5)
    asked = parser.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="almanac-bench-"))
    table, book = folder / "table.csv", folder / "book.xlsx"
    subprocess.run(
        [
            sys.executable,
            "-c",
            f"import duckdb; duckdb.connect().execute({_CSV.format(rows=asked.rows, path=table)!r})",
        ],
        check=True,
        stdout=subprocess.DEVNULL,
    )
    _write_book(book, asked.sheet_rows)
    _compare(
        f"CSV, {asked.rows:,} rows of 16 columns, against DuckDB loading it",
        f"import golden_almanac as ga\ntable = ga.read({str(table)!r})",
        f"import duckdb\nduckdb.connect().execute(\"CREATE TABLE t AS SELECT * FROM '{table}'\")",
        asked.runs,
    )
    _compare(
        f"xlsx, {asked.sheet_rows:,} rows of 10 columns, against calamine reading it",
        f"import golden_almanac as ga\ntable = ga.read({str(book)!r})",
        f"from python_calamine import CalamineWorkbook\n"
        f"CalamineWorkbook.from_path({str(book)!r}).get_sheet_by_index(0).to_python()",
        asked.runs,
    )


def _compare(said: str, ours: str, theirs: str, runs: int) -> None:
    ratios, sizes = [], []
    for _ in range(runs):
        own = _run(_BASE + _TIMED.format(body=ours, size="table.arrow.nbytes"))
        bare = _run(_BASE + _TIMED.format(body=theirs, size=0))
        ratios.append(own[0] / bare[0])
        sizes.append(own[2] / own[1])
    low, middle, high = min(ratios), statistics.median(ratios), max(ratios)
    print(f"{said}: {middle:.2f} times its time ({low:.2f} to {high:.2f}); peak {statistics.median(sizes):.1f} tables")


def _run(code: str) -> list[float]:
    done = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    # A long query of the engine draws a bar above our line.
    return [float(part) for part in (done.stdout.splitlines() or [""])[-1].split() if "%" not in part]


def _write_book(path: Path, rows: int) -> None:
    import numpy as np
    import xlsxwriter

    chance = np.random.default_rng(11)
    book = xlsxwriter.Workbook(path, {"constant_memory": True})
    sheet = book.add_worksheet("Data")
    dated = book.add_format({"num_format": "yyyy-mm-dd"})
    names = ["id", "day", "route", "vessel", "fare_class", "guests", "vehicles", "revenue", "fuel", "remark"]
    sheet.write_row(0, 0, names)
    for row, (a, b, c, d) in enumerate(chance.random((rows, 4)).tolist(), start=1):
        sheet.write_number(row, 0, row)
        sheet.write_number(row, 1, 44_000 + row // 50, dated)
        sheet.write_string(row, 2, f"Route {int(5 * a)}")
        sheet.write_string(row, 3, f"Vessel {int(7 * b)}")
        sheet.write_string(row, 4, f"Class {int(3 * c)}")
        sheet.write_number(row, 5, int(500 * d))
        sheet.write_number(row, 6, int(90 * a))
        sheet.write_number(row, 7, round(9000 * b, 2))
        sheet.write_number(row, 8, round(900 * c, 2))
        sheet.write_string(row, 9, f"note {int(9000 * d)}")
    book.close()


if __name__ == "__main__":
    main()
