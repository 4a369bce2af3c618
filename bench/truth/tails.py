"""How often chance yields a p-value as small: for every kind of finding, down to what the number of tests can show."""

from __future__ import annotations

import time
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np
import pandas as pd

import golden_almanac as ga
from golden_almanac.analysis import detectors
from golden_almanac.analysis.scan_pipeline import survey_of

from . import noise

LEVELS = (0.1, 0.03, 0.01, 3e-3, 1e-3, 3e-4, 1e-4, 3e-5, 1e-5)
#: Noise without anything true in it, by turns; more columns on top, so that one table makes many tests.
_FAMILIES = ("normal", "skewed", "heavy-tailed", "counts", "busy days")
_MORE = 5


def tails(pool: ProcessPoolExecutor, first: int, seconds: int) -> dict[str, Any]:
    """For each kind the tests made, and for each level the ratio of the share at or below it to the level."""
    kinds = list(detectors.kinds())
    found: dict[str, Any] = {"levels": LEVELS, "kinds": {}}
    print(f"{'kind':<15}{'tests':>9}" + "".join(f"{level:>9g}" for level in LEVELS) + "   (observed / nominal)")
    for kind, counted in zip(kinds, pool.map(_of_kind, [(kind, first, seconds) for kind in kinds]), strict=True):
        tests, below = counted
        ratios = [b / (tests * level) if tests * level >= 0.5 else None for b, level in zip(below, LEVELS, strict=True)]
        found["kinds"][kind] = {"tests": tests, "below": below}
        shown = "".join(f"{'':>9}" if ratio is None else f"{ratio:>9.2f}" for ratio in ratios)
        print(f"{kind:<15}{tests:>9}{shown}", flush=True)
    return found


def _of_kind(task: tuple[str, int, int]) -> tuple[int, list[int]]:
    kind, seed, seconds = task
    began, tests, below = time.perf_counter(), 0, np.zeros(len(LEVELS), dtype=int)
    while time.perf_counter() - began < seconds:
        frame = _frame(seed)
        survey = survey_of(ga.read(frame), measures=None, by=None, time=None, grain=None)
        found = detectors.load(kind).detect(survey)
        p = np.array([one.p for one in found])
        tests += p.size
        below += np.array([int((p <= level).sum()) for level in LEVELS])
        seed += 1
    return tests, below.tolist()


def _frame(seed: int) -> pd.DataFrame:
    rng = np.random.default_rng([seed, 300])
    frame = noise.FAMILIES[_FAMILIES[seed % len(_FAMILIES)]][0](rng)
    for number in range(_MORE):
        values = rng.lognormal(3, 0.6, len(frame)) if number % 2 else rng.normal(50, 10, len(frame))
        frame[f"{'amount' if number % 2 else 'score'} {number}"] = np.round(values, 2)
    return frame
