"""Tables with one story each: `make(rng, strength) -> (DataFrame, tells)`, `tells(finding)` is the truth."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pandas as pd

from .noise import _frame

Made = tuple[pd.DataFrame, Callable[[Any], bool]]


def _amounts(rng: np.random.Generator, rows: int = 6000) -> pd.DataFrame:
    frame = _frame(rng, rows)
    return frame.assign(
        amount=np.round(rng.lognormal(4, 0.5, rows), 2),
        score=np.round(rng.gamma(6, 8, rows), 1),
        returned=rng.random(rows) < 0.2,
    )


def _time(frame: pd.DataFrame) -> np.ndarray:
    return (frame["date"] - frame["date"].min()).dt.days.to_numpy() / 1096


def growing_part(rng: np.random.Generator, strength: float) -> Made:
    """One shop's amounts grow against the others, by 120% at strength 1 over three years."""
    frame = _amounts(rng)
    own = (frame["shop"] == "Shop 2").to_numpy()
    frame["amount"] = np.round(frame["amount"] * np.where(own, np.exp(np.log(2.2) * strength * _time(frame)), 1.0), 2)
    return frame, lambda f: f.kind in ("trend", "shift") and f.where.label == "Shop 2" and f.direction == "up"


def growing_whole(rng: np.random.Generator, strength: float) -> Made:
    """All grow alike, by 45% at strength 1."""
    frame = _amounts(rng)
    frame["amount"] = np.round(frame["amount"] * np.exp(np.log(1.45) * strength * _time(frame)), 2)
    return frame, lambda f: f.kind in ("trend", "shift", "change") and not f.where.conditions and f.direction == "up"


def step(rng: np.random.Generator, strength: float) -> Made:
    """One area steps up by `strength` × 50% at two thirds."""
    frame = _amounts(rng)
    own = (frame["area"] == "East").to_numpy() & (_time(frame) > 0.66)
    frame["amount"] = np.round(frame["amount"] * np.where(own, 1 + 0.5 * strength, 1.0), 2)
    return frame, lambda f: f.kind in ("trend", "shift") and f.where.label == "East" and f.direction == "up"


def low_average(rng: np.random.Generator, strength: float) -> Made:
    """One desk's score is lower, by `strength` × 0.35 standard deviations."""
    frame = _amounts(rng)
    frame["score"] = np.round(frame["score"] - 7 * strength * (frame["desk"] == "Desk 03"), 1)
    return frame, lambda f: f.kind == "difference" and f.where.label == "Desk 03" and f.direction == "down"


def high_rate(rng: np.random.Generator, strength: float) -> Made:
    """One shop has more returns: 20% + `strength` × 8 points."""
    frame = _amounts(rng)
    more = (frame["shop"] == "Shop 5").to_numpy() & (rng.random(len(frame)) < 0.1 * strength)
    frame["returned"] = frame["returned"] | more
    return frame, lambda f: f.kind == "difference" and f.where.label == "Shop 5" and f.direction == "up"


def season(rng: np.random.Generator, strength: float) -> Made:
    """A yearly wave of `strength` × 15%."""
    frame = _amounts(rng)
    wave = np.cos(2 * np.pi * (frame["date"].dt.month.to_numpy() - 7) / 12)
    frame["amount"] = np.round(frame["amount"] * (1 + 0.15 * strength * wave), 2)
    return frame, lambda f: f.kind == "seasonality"


def hundredfold(rng: np.random.Generator, strength: float) -> Made:
    """One amount is a hundred times too large (`strength` has no part in it)."""
    frame = _amounts(rng)
    row = int(rng.integers(len(frame)))
    frame.loc[row, "amount"] = round(100 * float(frame.loc[row, "amount"]), 2)
    return frame, lambda f: f.kind == "outlier" and f.figures["row"] == row + 1


def mix_alone(rng: np.random.Generator, strength: float) -> Made:
    """The rate falls because the shop with many returns grows; no shop changes."""
    frame = _amounts(rng, 9000)
    keep = (frame["shop"] != "Shop 0") | (rng.random(len(frame)) < 0.15 + 0.85 * strength * _time(frame))
    frame = frame[keep].reset_index(drop=True)
    frame["returned"] = rng.random(len(frame)) < np.where(frame["shop"] == "Shop 0", 0.6, 0.1)
    return (
        frame,
        lambda f: (
            (f.kind == "difference" and f.where.label == "Shop 0")
            or (f.kind in ("trend", "shift") and f.where.label in ("Shop 0", ""))
        ),
    )


def label_ends(rng: np.random.Generator, strength: float) -> Made:
    """One shop has no rows in the last `strength` × 5 months; its customers go elsewhere."""
    frame = _amounts(rng)
    gone = (frame["shop"] == "Shop 4") & (frame["date"] > np.datetime64("2024-12-31") - int(152 * strength))
    frame.loc[gone, "shop"] = rng.choice(["Shop 0", "Shop 1", "Shop 2"], int(gone.sum()))
    return frame, lambda f: f.kind == "gap" and f.where.label == "Shop 4" and f.figures["what"] == "ended"


def unfilled(rng: np.random.Generator, strength: float) -> Made:
    """No score is given in the last `strength` × 4 months."""
    frame = _amounts(rng)
    frame.loc[frame["date"] > np.datetime64("2024-12-31") - int(122 * strength), "score"] = np.nan
    return frame, lambda f: f.kind == "gap" and f.figures.get("column") == "score"


def bad_week(rng: np.random.Generator, strength: float) -> Made:
    """One week in which `strength` × 75% more of the rows are returned."""
    frame = _amounts(rng)
    start = np.datetime64("2022-02-07") + 7 * int(rng.integers(0, 140))
    inside = (frame["date"] >= start) & (frame["date"] < start + 7)
    frame["returned"] = frame["returned"] | (inside & (rng.random(len(frame)) < 0.75 * strength))
    return frame, lambda f: f.kind == "spike" and f.period is not None and f.period.start == start


def few_rows(rng: np.random.Generator, strength: float) -> Made:
    """One week in which `strength` × 95% of the rows are missing."""
    frame = _amounts(rng)
    start = np.datetime64("2022-02-07") + 7 * int(rng.integers(0, 140))
    inside = (frame["date"] >= start) & (frame["date"] < start + 7)
    frame = frame[~(inside & (rng.random(len(frame)) < 0.95 * strength))].reset_index(drop=True)
    return frame, lambda f: f.kind == "spike" and f.period is not None and f.period.start == start


def odd_pair(rng: np.random.Generator, strength: float) -> Made:
    """One shop has `strength` × 100% more rows with one area than shop and area would lead one to expect."""
    frame = _amounts(rng)
    own = frame[(frame["shop"] == "Shop 1") & (frame["area"] == "South")]
    more = own[rng.random(len(own)) < strength]
    frame = pd.concat([frame, more.assign(amount=rng.permutation(more["amount"]))]).sort_values("date", kind="stable")
    frame = frame.reset_index(drop=True)
    return frame, lambda f: f.kind == "exception" and set(f.where.label.split(", ")) == {"Shop 1", "South"}


FAMILIES: dict[str, Callable[[np.random.Generator, float], Made]] = {
    "growing part": growing_part,
    "growing whole": growing_whole,
    "step": step,
    "low average": low_average,
    "high rate": high_rate,
    "season": season,
    "hundredfold": hundredfold,
    "mix alone": mix_alone,
    "label ends": label_ends,
    "unfilled": unfilled,
    "bad week": bad_week,
    "few rows": few_rows,
    "odd pair": odd_pair,
}
