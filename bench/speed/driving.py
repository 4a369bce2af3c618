"""python -m bench.speed.driving [--rows N] [--factors K] [--runs R]: drivers and segments against one least-squares
fit.

The fit is NumPy's on the same matrix (an intercept and the factors, all numbers). One process, in turn; ratios count.
"""

from __future__ import annotations

import argparse
import statistics
import time

import numpy as np
import pandas as pd

import golden_almanac as ga


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--factors", type=int, default=20)
    parser.add_argument("--runs", type=int, default=3)
    asked = parser.parse_args()
    rng = np.random.default_rng(1)
    x = np.round(rng.normal(0, 1, (asked.rows, asked.factors)), 4)
    y = 3 + 0.3 * x[:, 0] + 0.5 * (x[:, 1] > 0.4) + rng.gamma(2, 1, asked.rows)
    frame = pd.DataFrame(x, columns=[f"f{i}" for i in range(asked.factors)]).assign(y=np.round(y, 4))
    table = ga.read(frame)
    design = np.column_stack([np.ones(asked.rows), x])
    ratios = []
    for _ in range(asked.runs):
        began = time.perf_counter()
        np.linalg.lstsq(design, y, rcond=None)
        fit = time.perf_counter() - began
        began = time.perf_counter()
        found = ga.find_drivers(table, "y")
        own = time.perf_counter() - began
        ratios.append(own / fit)
        told = ", ".join(one.factor.name for one in found.drivers)
        print(f"fit {fit:.2f} s, drivers and segments {own:.2f} s, {own / fit:.1f} times; told: {told}", flush=True)
    print(
        f"median of {asked.runs}: {statistics.median(ratios):.1f} times one fit ({table.rows:,} rows, "
        f"{asked.factors} factors)"
    )


if __name__ == "__main__":
    main()
