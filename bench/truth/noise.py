"""Tables in which nothing is to be found, one function a family: `make(rng) -> DataFrame`."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pandas as pd

Make = Callable[[np.random.Generator], pd.DataFrame]


def _frame(rng: np.random.Generator, rows: int = 4000, days: int = 1096) -> pd.DataFrame:
    day = np.sort(rng.integers(0, days, rows))
    return pd.DataFrame(
        {
            "date": np.datetime64("2022-01-01") + day.astype("timedelta64[D]"),
            "shop": rng.choice([f"Shop {i}" for i in range(6)], rows),
            "area": rng.choice(["North", "South", "East"], rows),
            "desk": rng.choice([f"Desk {i:02d}" for i in range(12)], rows),
        }
    )


def normal(rng: np.random.Generator) -> pd.DataFrame:
    frame = _frame(rng)
    return frame.assign(
        amount=np.round(rng.normal(100, 15, len(frame)), 2), score=rng.normal(50, 10, len(frame)).round(1)
    )


def skewed(rng: np.random.Generator) -> pd.DataFrame:
    frame = _frame(rng)
    return frame.assign(
        amount=np.round(rng.lognormal(4, 1, len(frame)), 2), score=np.round(rng.gamma(0.7, 10, len(frame)), 1)
    )


def heavy_tailed(rng: np.random.Generator) -> pd.DataFrame:
    frame = _frame(rng)
    return frame.assign(
        amount=np.round(20 * (rng.pareto(1.6, len(frame)) + 1), 2),
        score=np.round(50 + 5 * rng.standard_t(2.2, len(frame)), 1),
    )


def autocorrelated(rng: np.random.Generator) -> pd.DataFrame:
    """A common level that drifts from week to week (first order, 0.9), the same for all groups."""
    frame = _frame(rng)
    week = ((frame["date"] - frame["date"].min()).dt.days // 7).to_numpy()
    level = np.zeros(int(week.max()) + 60)
    for i in range(1, level.size):
        level[i] = 0.9 * level[i - 1] + rng.normal(0, 0.12)
    factor = np.exp(level[50:][week])
    return frame.assign(
        amount=np.round(100 * factor * rng.lognormal(0, 0.4, len(frame)), 2),
        score=np.round(50 + 8 * np.log(factor) + rng.normal(0, 5, len(frame)), 1),
    )


def group_drift(rng: np.random.Generator) -> pd.DataFrame:
    """Each shop's level drifts by itself, month by month (first order, 0.5)."""
    frame = _frame(rng)
    month = frame["date"].dt.year * 12 + frame["date"].dt.month
    month = (month - month.min()).to_numpy()
    shop = frame["shop"].str[-1].astype(int).to_numpy()
    level = np.zeros((6, 60))
    for i in range(1, 60):
        level[:, i] = 0.5 * level[:, i - 1] + rng.normal(0, 0.15, 6)
    factor = np.exp(level[shop, 20 + month])
    return frame.assign(
        amount=np.round(100 * factor * rng.lognormal(0, 0.4, len(frame)), 2),
        score=np.round(50 + rng.normal(0, 5, len(frame)), 1),
    )


def counts(rng: np.random.Generator) -> pd.DataFrame:
    frame = _frame(rng)
    return frame.assign(visits=rng.negative_binomial(1.2, 0.08, len(frame)), returned=rng.random(len(frame)) < 0.07)


def calendar(rng: np.random.Generator) -> pd.DataFrame:
    """Weekday and month effects that all groups share; a season is true here, all else is chance."""
    frame = _frame(rng)
    season = 1 + 0.3 * np.cos(2 * np.pi * (frame["date"].dt.dayofyear - 200) / 365.25)
    factor = season * np.where(frame["date"].dt.dayofweek >= 5, 1.4, 0.9)
    return frame.assign(
        amount=np.round(80 * factor * rng.lognormal(0, 0.5, len(frame)), 2),
        score=np.round(50 + 10 * factor + rng.normal(0, 8, len(frame)), 1),
    )


def unequal_groups(rng: np.random.Generator) -> pd.DataFrame:
    """Groups from 1 in 2 to 1 in 200; only averages and rates are measured, sizes truly differ."""
    frame = _frame(rng)
    share = np.array([0.5, 0.25, 0.12, 0.08, 0.045, 0.005])
    frame["shop"] = rng.choice([f"Shop {i}" for i in range(6)], len(frame), p=share / share.sum())
    return frame.assign(score=np.round(rng.lognormal(3, 0.8, len(frame)), 1), returned=rng.random(len(frame)) < 0.3)


def no_dates(rng: np.random.Generator) -> pd.DataFrame:
    return skewed(rng).drop(columns="date")


def growing_company(rng: np.random.Generator) -> pd.DataFrame:
    """The whole doubles; no part moves against the rest. Growth of the whole is true, all else chance."""
    frame = _frame(rng)
    day = (frame["date"] - frame["date"].min()).dt.days.to_numpy()
    return frame.assign(amount=np.round(100 * 2 ** (day / 1096) * rng.lognormal(0, 0.4, len(frame)), 2))


#: family → (maker, claims that are true there: predicate on a finding)
FAMILIES: dict[str, tuple[Make, Callable[[object], bool]]] = {
    "normal": (normal, lambda finding: False),
    "skewed": (skewed, lambda finding: False),
    "heavy-tailed": (heavy_tailed, lambda finding: False),
    "autocorrelated": (autocorrelated, lambda finding: False),
    "group drift": (group_drift, lambda finding: False),
    "counts": (counts, lambda finding: False),
    "calendar": (calendar, lambda finding: finding.kind == "seasonality"),  # type: ignore[attr-defined]
    "unequal groups": (unequal_groups, lambda finding: False),
    "no dates": (no_dates, lambda finding: False),
    "growing company": (
        growing_company,
        lambda finding: (
            not finding.where.conditions  # type: ignore[attr-defined]
            and finding.kind in ("trend", "shift", "change")
        ),
    ),
}
