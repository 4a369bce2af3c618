"""`python -m bench.forecast`: public series held out, against established implementations; ranges, time, planted kinds.

Needs the bench extra. `--quick` takes every sixth series, for a look.
"""

from __future__ import annotations

import argparse
import time
from collections import defaultdict

import numpy as np
import numpy.typing as npt

from golden_almanac.stats.forecasting.combination import combined
from golden_almanac.stats.forecasting.origins import Origins, scale_of
from golden_almanac.stats.forecasting.procedure import procedure
from golden_almanac.stats.forecasting.ranges import ranges
from golden_almanac.stats.forecasting.smoothing import fitted_forms

from .established import ESTABLISHED, Foretold, all_of
from .parts import parts_measured
from .public_series import PublicSeries, public_series

Floats = npt.NDArray[np.float64]
BANDS = {"1-3": (0, 3), "4-8": (3, 8), "9 and more": (8, 99)}
OURS = "golden almanac"


def ours(one: PublicSeries) -> Foretold:
    """Our forecast of a series with its ranges."""
    history = one.history[None]
    found = procedure(history, one.grain, one.horizon)
    spread = ranges(history, found.origins, found.origins.errors(history, found.path), found.model)
    mean = found.path[0, -1]
    told = (np.array([mean - spread.half[level][0], mean + spread.half[level][0]]) for level in (0.8, 0.95))
    return Foretold(mean, *told)


def measured(series: list[PublicSeries]) -> None:
    """Errors, pinball loss and coverage of each half, printed."""
    errors: dict[tuple[str, str], list[float]] = defaultdict(list)
    pinball: dict[tuple[str, str], list[float]] = defaultdict(list)
    cover: dict[tuple[str, str, str, str], list[bool]] = defaultdict(list)
    for one in series:
        half = "set aside" if one.set_aside else "open"
        scale = scale_of(one.history[None], one.season)[0]
        told = {OURS: ours(one), **all_of(one.history, one.season, one.horizon)}
        for name, forecast in told.items():
            missed = np.abs(one.held_out - forecast.mean).mean() / scale
            loss = _pinball(one.held_out, forecast) / scale
            for part in (half, "all"):
                errors[part, name].append(float(np.log(max(missed, 1e-3))))
                pinball[part, name].append(float(np.log(max(loss, 1e-4))))
                for level, reach in (("80%", forecast.range80), ("95%", forecast.range95)):
                    inside = (one.held_out >= reach[0]) & (one.held_out <= reach[1])
                    for band, (first, past) in BANDS.items():
                        cover[part, name, level, band] += inside[first:past].tolist()
    for part in ("open", "set aside", "all"):
        count = len(errors[part, OURS])
        print(f"\n{part}: {count} series; geometric means of MASE and of pinball loss, coverage by horizon")
        best = min(np.mean(errors[part, name]) for name in ESTABLISHED)
        for name in (OURS, *ESTABLISHED):
            told = [
                f"{level} {band}: {np.mean(cover[part, name, level, band]):.1%}"
                for level in ("80%", "95%")
                for band in BANDS
            ]
            mase, loss = np.exp(np.mean(errors[part, name])), np.exp(np.mean(pinball[part, name]))
            print(f"  {name:40} {mase:.3f}  {loss:.4f}  {'  '.join(told)}")
        print(f"  ours to the best single one: {np.exp(np.mean(errors[part, OURS]) - best):.3f}")


def _pinball(came: Floats, told: Foretold) -> float:
    quantiles = ((0.025, told.range95[0]), (0.1, told.range80[0]), (0.5, told.mean), (0.9, told.range80[1]),
                 (0.975, told.range95[1]))  # fmt: skip
    return float(np.mean([np.maximum(q * (came - at), (q - 1) * (came - at)).mean() for q, at in quantiles]))


def timed() -> None:
    """200 monthly series of 60 points with choice and ranges; one series."""
    random = np.random.default_rng(5)
    series = 100 + 20 * np.sin(np.arange(60) * np.pi / 6) + random.normal(0, 5, (200, 60))
    for some, name in ((series[:1], "one series"), (series, "200 series")):
        procedure(some[:1], "month", 12)
        begun = time.perf_counter()
        found = procedure(some, "month", 12)
        ranges(some, found.origins, found.origins.errors(some, found.path), found.model)
        print(f"{name}, 60 months, 12 ahead: {time.perf_counter() - begun:.2f} s")


def planted(turns: int = 40) -> None:
    """Series of known make: our error to that of the form of smoothing that made them, fitted alike."""
    random = np.random.default_rng(17)
    size, horizon = 84, 6
    season = 15 * np.sin(np.arange(size + horizon) * np.pi / 6)
    along = np.arange(size + horizon, dtype=float)
    kinds = {
        "level": (100 + 0 * along, ("none", "none")),
        "trend": (100 + 0.8 * along, ("linear", "none")),
        "damped trend": (100 + 60 * (1 - 0.95**along), ("damped", "none")),
        "season": (100 + season, ("none", "added")),
        "trend and season": (100 + 0.8 * along + season, ("linear", "added")),
    }
    for name, (truth, form) in kinds.items():
        made = truth + random.normal(0, 4, (turns, size + horizon))
        origins = Origins(size, 12, horizon)
        own = np.abs(made[:, size:] - combined(made[:, :size], origins).path[:, -1]).mean()
        true = np.abs(made[:, size:] - fitted_forms(made[:, :size], origins, [form])[0].paths[:, -1]).mean()
        print(f"planted {name:18} our error to that of its own form, fitted: {own / true:.3f}")


def main() -> None:
    told = argparse.ArgumentParser(description=__doc__)
    told.add_argument("--quick", action="store_true", help="every sixth series")
    told.add_argument("--only", choices=("series", "time", "planted", "parts"), help="one part")
    given = told.parse_args()
    if given.only in (None, "time"):
        timed()
    if given.only in (None, "planted"):
        planted()
    if given.only in (None, "parts"):
        parts_measured(public_series())
    if given.only in (None, "series"):
        series = public_series()
        measured(series[::6] if given.quick else series)


if __name__ == "__main__":
    main()
