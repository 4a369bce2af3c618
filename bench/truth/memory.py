"""The table of `stats/series_memory.py`: what autocorrelation is left beside the best shape, by length and memory.

`python -m bench.truth.memory` prints, for each length and memory, the median and standard deviation of the first-order
autocorrelation of what is left of an autoregression once its best line, bend or step is taken out.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from golden_almanac.stats import segmented_paths as paths
from golden_almanac.stats.autocorrelated_fits import Floats, bic, left_over, ols

MEMORIES = (0.0, 0.2, 0.4, 0.6, 0.7, 0.8, 0.9, 0.95, 0.98)
LENGTHS = (10, 12, 16, 20, 24, 30, 36, 48, 60, 84, 120, 200, 400, 1000)
#: Values before the first one that is looked at.
_BEFORE = 200


def autoregression(rng: np.random.Generator, n: int, memory: float) -> Floats:
    shocks, values = rng.normal(size=n + _BEFORE), np.zeros(n + _BEFORE)
    for place in range(1, n + _BEFORE):
        values[place] = memory * values[place - 1] + shocks[place]
    return values[_BEFORE:]


def left(y: Floats) -> float:
    """The autocorrelation of a series beside its best shape, by BIC as `choose_path` takes it."""
    n = y.size
    time = np.arange(n, dtype=np.float64)
    line = np.column_stack([np.ones(n), time - (n - 1) / 2])
    calm, flat, column = paths._drawn_in(y, line), np.ones((n, 1)), time[:, None]
    designs = {"line": line}
    if n >= 16:
        tried = np.arange(paths.LEAST_LEG, n - paths.LEAST_LEG)
        best = paths._best(line, np.maximum(column - tried, 0.0), calm)
        designs["bend"] = paths._hinge(line, int(tried[best]))
    tried = np.arange(paths.LEAST_SIDE, n - paths.LEAST_SIDE + 1)
    best = paths._best(flat, (column >= tried).astype(np.float64), calm)
    designs["step"] = paths._jump(flat, int(tried[best]))
    own = min(designs, key=lambda name: bic(*left_over(designs[name], calm), designs[name].shape[1] + (name != "line")))
    residual = ols(designs[own], calm).residual
    return float(residual[1:] @ residual[:-1]) / float(residual @ residual)


def cell(task: tuple[int, float]) -> tuple[int, float, float, float]:
    n, memory = task
    rng = np.random.default_rng([n, int(100 * memory)])
    times = 600 if n <= 120 else 200 if n <= 400 else 80
    values = [left(autoregression(rng, n, memory)) for _ in range(times)]
    return n, memory, float(np.median(values)), float(np.std(values))


if __name__ == "__main__":
    with ProcessPoolExecutor(2) as pool:
        for found in pool.map(cell, [(n, memory) for n in LENGTHS for memory in MEMORIES]):
            sys.stdout.write("{:5d} {:.2f} {:7.3f} {:6.3f}\n".format(*found))
