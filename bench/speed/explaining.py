"""python -m bench.speed.explaining [--rows N]: the search for the smallest explanation against the whole scan.

One process, one table of six dimensions read once: the scan, the explanation of a year against the year before (half
of all rows), and of a quarter against a year ago; the search over up to three dimensions told apart. Ratios count.
"""

from __future__ import annotations

import argparse
import tempfile
import time
from pathlib import Path

import golden_almanac as ga
from golden_almanac.aggregation.measures import lead_measure
from golden_almanac.analysis.change import compared_periods, explaining_slices
from golden_almanac.analysis.scan_pipeline import survey_of

_TABLE = """
COPY (SELECT DATE '2021-01-01' + CAST(hash(i * 3) % 1461 AS INT) AS day,
  'Region ' || (hash(i * 5) % 4) AS region, 'Route ' || (hash(i * 7) % 12) AS route,
  'Vessel ' || (hash(i * 11) % 9) AS vessel, 'Class ' || (hash(i * 13) % 5) AS fare_class,
  'Channel ' || (hash(i * 17) % 3) AS channel, 'Crew ' || (hash(i * 31) % 6) AS crew,
  round((20 + (hash(i * 19) % 100000) / 100.0)
    * CASE WHEN hash(i * 3) % 1461 >= 1096 AND hash(i * 7) % 12 = 3 AND hash(i * 13) % 5 = 2 THEN 4 ELSE 1 END, 2)
    AS revenue,
  CAST(hash(i * 23) % 60 AS INT) AS passengers, round((hash(i * 29) % 9000) / 100.0, 2) AS delay_min
  FROM range({rows}) t(i)) TO '{path}' (FORMAT parquet)
"""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--rows", type=int, default=10_000_000)
    asked = parser.parse_args()
    path = Path(tempfile.mkdtemp(prefix="almanac-bench-")) / "table.parquet"
    import duckdb

    duckdb.connect().execute(_TABLE.format(rows=asked.rows, path=path))
    table = ga.read(str(path))
    began = time.perf_counter()
    ga.scan(table)
    scanned = time.perf_counter() - began
    print(f"{asked.rows:,} rows, six dimensions: scan {scanned:.1f} s")
    for period, baseline in (("2024", "2023"), ("2024-Q3", "2023-Q3")):
        survey = survey_of(table, measures=["sum(revenue)"], by=None, time=None, grain=None)
        measure = lead_measure(survey.measures)
        now, then, _ = compared_periods.resolve_periods(survey, period, baseline)
        began = time.perf_counter()
        found = explaining_slices.name_slices(survey, measure, explaining_slices.Slice(), now, then, 0.0, 1.0)
        searched = time.perf_counter() - began
        began = time.perf_counter()
        change = ga.explain_change(table, "sum(revenue)", period=period, baseline=baseline)
        explained = time.perf_counter() - began
        told = ", ".join(part.where.label for part in change.explanation.named) or change.explanation.verdict
        print(
            f"{period} against {baseline}: search {searched:.1f} s, {searched / scanned:.2f} of the scan; whole "
            f"explanation {explained:.1f} s, {explained / scanned:.2f}; told: {told} ({len(found.slices)} slices)"
        )
    path.unlink()


if __name__ == "__main__":
    main()
