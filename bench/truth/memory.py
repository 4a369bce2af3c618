"""The table of `stats/series_memory.py`: what autocorrelation is left beside the best shape, by length and memory.

`python -m bench.truth.memory` prints, for each length and memory, the median and standard deviation of the first-order
autocorrelation of what is left of an autoregression once its best line, bend or step is taken out.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from golden_almanac.stats.autocorrelated_fits import Floats
from golden_almanac.stats.segmented_paths import beside_best_shape
from golden_almanac.stats.series_batch import drawn_in, line_beside

MEMORIES = (0.0, 0.2, 0.4, 0.6, 0.7, 0.8, 0.9, 0.95, 0.98)
LENGTHS = (10, 12, 16, 20, 24, 30, 36, 48, 60, 84, 120, 200, 400, 1000)
#: Values before the first one that is looked at.
_BEFORE = 200


def autoregression(rng: np.random.Generator, n: int, memory: float) -> Floats:
    shocks, values = rng.normal(size=n + _BEFORE), np.zeros(n + _BEFORE)
    for place in range(1, n + _BEFORE):
        values[place] = memory * values[place - 1] + shocks[place]
    return values[_BEFORE:]


def left(y: Floats) -> Floats:
    """The autocorrelation of series, shape (series, n), beside their best shape, by BIC as `choose_paths` takes it."""
    season = np.empty((y.shape[1], 0))
    residual, _ = beside_best_shape(drawn_in(y, line_beside(season)), season)
    return np.asarray(
        np.einsum("ij,ij->i", residual[:, 1:], residual[:, :-1]) / np.einsum("ij,ij->i", residual, residual)
    )


def cell(task: tuple[int, float]) -> tuple[int, float, float, float]:
    n, memory = task
    rng = np.random.default_rng([n, int(100 * memory)])
    times = 600 if n <= 120 else 200 if n <= 400 else 80
    values = left(np.stack([autoregression(rng, n, memory) for _ in range(times)]))
    return n, memory, float(np.median(values)), float(np.std(values))


if __name__ == "__main__":
    with ProcessPoolExecutor(2) as pool:
        for found in pool.map(cell, [(n, memory) for n in LENGTHS for memory in MEMORIES]):
            sys.stdout.write("{:5d} {:.2f} {:7.3f} {:6.3f}\n".format(*found))
