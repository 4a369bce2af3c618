"""The kind "outlier": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import golden_almanac as ga


def test_outlier(planted_scan: ga.Scan) -> None:
    row = next(f for f in planted_scan.findings if f.kind == "outlier")
    assert row.figures["row"] == 3211  # the rows of a frame count from 1
    assert (row.figures["fault"], row.figures["fault_factor"]) == ("factor", 100)
    assert row.rows()["amount"].iloc[0] == row.figures["value"]
