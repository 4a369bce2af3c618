"""Outcomes with known drivers: `make(rng) -> Planted`, and whether they are found, in their order, with their cut
point.

3,000 rows, six or seven columns (thirty for noise). Effects explain some 5 to 30% of the outcome's variance.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pandas as pd

ROWS = 3_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Planted:
    """A table with the outcome `y`; `wanted` its drivers in order; `cut` the place of a cut or bend and its column's
    range; `truth` the outcome's expectation of each row, for the coverage of segments."""

    frame: pd.DataFrame
    wanted: tuple[str, ...]
    cut: tuple[str, float, float] | None = None
    left_out: tuple[str, ...] = ()
    truth: Any = None
    noise: tuple[str, ...] = field(default=())


def _base(rng: np.random.Generator) -> pd.DataFrame:
    return pd.DataFrame(
        {
            "load": np.round(rng.uniform(0, 100, ROWS), 1),
            "age": np.round(rng.gamma(4, 5, ROWS), 1),
            "crew": rng.integers(4, 12, ROWS) * 10 + 1,
            "vessel": rng.choice(["Tern", "Gannet", "Puffin", "Petrel", "Curlew"], ROWS),
            "channel": rng.choice(["Web", "Counter", "Agents"], ROWS, p=[0.6, 0.3, 0.1]),
            "temp": np.round(rng.normal(12, 6, ROWS), 1),
        }
    )


def _finished(rng: np.random.Generator, frame: pd.DataFrame, mean: np.ndarray, **more: Any) -> Planted:
    y = mean + rng.gamma(4, 1.0, ROWS) - 4.0
    return Planted(frame=frame.assign(y=np.round(y, 3)), truth=mean, **more)


def threshold(rng: np.random.Generator) -> Planted:
    frame = _base(rng)
    cut = float(rng.uniform(30, 70))
    mean = 10 + 1.6 * (frame["load"] > cut) + 0.8 * (frame["vessel"] == "Petrel")
    return _finished(rng, frame, mean.to_numpy(), wanted=("load", "vessel"), cut=("load", cut, 100.0))


def linear(rng: np.random.Generator) -> Planted:
    frame = _base(rng)
    mean = 10 + 0.025 * frame["load"] - 0.03 * frame["age"]
    return _finished(rng, frame, mean.to_numpy(), wanted=("load", "age"))


def saturating(rng: np.random.Generator) -> Planted:
    frame = _base(rng)
    mean = 10 + 0.05 * np.minimum(frame["load"], 45) + 0.9 * (frame["channel"] == "Agents")
    return _finished(rng, frame, mean.to_numpy(), wanted=("load", "channel"), cut=("load", 45.0, 100.0))


def interaction(rng: np.random.Generator) -> Planted:
    """Only Petrel is late, and only when full."""
    frame = _base(rng)
    mean = 10 + 4.0 * ((frame["vessel"] == "Petrel") & (frame["load"] > 60))
    return _finished(rng, frame, mean.to_numpy(), wanted=("vessel", "load"))


def confounded(rng: np.random.Generator) -> Planted:
    """Temperature goes with load and with nothing else."""
    frame = _base(rng)
    frame["temp"] = np.round(0.2 * frame["load"] + rng.normal(0, 3.5, ROWS), 1)
    mean = 10 + 0.03 * frame["load"]
    return _finished(rng, frame, mean.to_numpy(), wanted=("load",), noise=("temp",))


def leak(rng: np.random.Generator) -> Planted:
    """A column made from the outcome must be named and left out."""
    frame = _base(rng)
    made = _finished(rng, frame, (10 + 0.03 * frame["load"]).to_numpy(), wanted=("load",), left_out=("cost",))
    frame = made.frame.assign(cost=np.round(3.5 * made.frame["y"] + 20 + rng.normal(0, 0.4, ROWS), 2))
    return Planted(frame=frame, wanted=made.wanted, left_out=("cost",), truth=made.truth)


def yes_no(rng: np.random.Generator) -> Planted:
    frame = _base(rng)
    margin = -2.0 + 0.022 * frame["load"] + 1.1 * (frame["vessel"] == "Petrel")
    p = (1 / (1 + np.exp(-margin))).to_numpy()
    return Planted(
        frame=frame.assign(y=np.where(rng.random(ROWS) < p, "yes", "no")), wanted=("load", "vessel"), truth=p
    )


def noise(rng: np.random.Generator) -> Planted:
    """Thirty columns that tell nothing, of five kinds, with a skewed outcome."""
    made: dict[str, Any] = {}
    for place in range(6):
        made[f"normal {place}"] = np.round(rng.normal(0, 1, ROWS), 3)
        made[f"skewed {place}"] = np.round(rng.lognormal(0, 1.2, ROWS), 3)
        made[f"whole {place}"] = rng.poisson(3, ROWS)
        made[f"label {place}"] = rng.choice([f"L{i}" for i in range(4 + 3 * place)], ROWS)
        made[f"flag {place}"] = rng.choice(["yes", "no"], ROWS, p=[0.1 + 0.1 * place, 0.9 - 0.1 * place])
    return Planted(frame=pd.DataFrame(made).assign(y=np.round(rng.lognormal(2, 0.8, ROWS), 3)), wanted=())


def noise_by_day(rng: np.random.Generator) -> Planted:
    """Days that lean on themselves, and columns that are the same all day: rows are far fewer than they look."""
    days = np.sort(rng.integers(0, 400, ROWS))
    frame = _base(rng)
    frame["date"] = np.datetime64("2024-01-01") + days.astype("timedelta64[D]")
    frame["wind"] = np.round(rng.gamma(2, 5, 400), 1)[days]
    frame["tide"] = np.round(rng.normal(0, 1, 400), 2)[days]
    frame["rota"] = np.array(["Amber", "Blue", "Coral"])[rng.integers(0, 3, 400)][days]
    y = 10 + rng.normal(0, 1, 400)[days] + rng.normal(0, 1, ROWS)
    return Planted(frame=frame.assign(y=np.round(y, 3)), wanted=())


FAMILIES: dict[str, Callable[[np.random.Generator], Planted]] = {
    "threshold": threshold,
    "linear": linear,
    "saturating": saturating,
    "interaction of two": interaction,
    "confounded": confounded,
    "leak": leak,
    "yes or no": yes_no,
    "thirty of noise": noise,
    "noise, days that lean": noise_by_day,
}
