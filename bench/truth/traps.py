"""Tables that lure into a wrong claim: `make(rng) -> (table, sprung)`, `sprung(finding)` is the wrong claim."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pandas as pd

from .noise import growing_company
from .planted import amounts, reversal

Made = tuple[pd.DataFrame, Callable[[Any], bool]]


def tiny_group(rng: np.random.Generator) -> Made:
    """A shop of eight rows has the highest average by far, by chance."""
    frame = amounts(rng)
    rows = rng.choice(len(frame), 8, replace=False)
    frame.loc[rows, "shop"] = "Kiosk"
    frame.loc[rows, "score"] = np.round(rng.gamma(6, 8, 8) + 15, 1)
    return frame, lambda f: f.where.label == "Kiosk"


def partial_month(rng: np.random.Generator) -> Made:
    """The data end on the ninth: the last month is no collapse."""
    frame = amounts(rng)
    frame = frame[frame["date"] <= np.datetime64("2024-12-09")].reset_index(drop=True)
    return (
        frame,
        lambda f: (
            f.direction == "down"
            and not f.where.conditions
            and f.measure is not None
            and f.measure.additive
            and f.kind in ("change", "trend", "shift", "spike")
        ),
    )


def identities(rng: np.random.Generator) -> Made:
    """Cost and profit make up the amount; tax is a fifth of it; the flag only says that the score is high."""
    frame = amounts(rng)
    frame["cost"] = np.round(rng.lognormal(3, 0.4, len(frame)), 2)
    frame["profit"] = np.round(frame["amount"] - frame["cost"], 2)
    frame["tax"] = np.round(0.2 * frame["amount"], 2)
    frame["high"] = frame["score"] >= 60

    def sprung(f: Any) -> bool:
        pair = set(f.figures.get("columns", ()))
        return f.kind == "relationship" and (
            pair <= {"amount", "cost", "profit"} or pair <= {"amount", "tax"} or pair <= {"score", "high"}
        )

    return frame, sprung


def company_grows(rng: np.random.Generator) -> Made:
    """The whole doubles; no part of it is a growing part."""
    return growing_company(rng), lambda f: bool(f.where.conditions)


def reversed_parts(rng: np.random.Generator) -> Made:
    """The average falls while it rises in every area: no area's average has fallen."""
    frame = reversal(rng, 1.0).frame
    return (
        frame,
        lambda f: (
            f.by == "area" and f.direction == "down" and f.kind in ("trend", "shift") and f.figures.get("change", 0) < 0
        ),
    )


def alias(rng: np.random.Generator) -> Made:
    """A column only renames the shops: nothing is told twice."""
    frame = amounts(rng)
    frame["score"] = np.round(frame["score"] + 9 * (frame["shop"] == "Shop 3"), 1)
    frame["shop_code"] = "C" + frame["shop"].str[-1]
    return frame, lambda f: f.by == "shop_code"


def totals_of_small_numbers(rng: np.random.Generator) -> Made:
    """Sixty clerks with a dozen rows each: the best and the worst of them are luck."""
    frame = amounts(rng, 800)
    frame["clerk"] = rng.choice([f"Clerk {i:02d}" for i in range(60)], len(frame))
    return frame, lambda f: f.by == "clerk"


def shared_season(rng: np.random.Generator) -> Made:
    """Two columns share a season and a growth, and nothing else: they do not go together."""
    frame = amounts(rng)
    wave = 1 + 0.4 * np.cos(2 * np.pi * frame["date"].dt.dayofyear / 365.25)
    time = (frame["date"] - frame["date"].min()).dt.days / 1096
    frame["amount"] = np.round(frame["amount"] * wave * (1 + time), 2)
    frame["score"] = np.round(frame["score"] * wave * (1 + time), 1)
    return frame, lambda f: f.kind == "relationship"


FAMILIES: dict[str, Callable[[np.random.Generator], Made]] = {
    "tiny extreme group": tiny_group,
    "partial last month": partial_month,
    "identity columns": identities,
    "growing company": company_grows,
    "reversal": reversed_parts,
    "alias columns": alias,
    "small numbers": totals_of_small_numbers,
    "shared season": shared_season,
}
