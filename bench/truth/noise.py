"""Tables in which nothing is to be found, one function a family: `make(rng) -> DataFrame`."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

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


def many_groups(rng: np.random.Generator) -> pd.DataFrame:
    """Sixty clerks in six shops in two areas, none of them different; a second column only renames the shops."""
    frame = _frame(rng, 6000)
    clerk = rng.integers(0, 60, len(frame))
    frame["desk"] = np.array([f"Clerk {i:02d}" for i in range(60)])[clerk]
    frame["shop"] = np.array([f"Shop {i}" for i in range(6)])[clerk % 6]
    frame["area"] = np.where(clerk % 2 == 0, "North", "South")
    frame["code"] = "S-" + frame["shop"].str[-1]
    return frame.assign(
        amount=np.round(rng.lognormal(4, 0.7, len(frame)), 2), score=rng.normal(50, 10, len(frame)).round(1)
    )


def holes(rng: np.random.Generator) -> pd.DataFrame:
    """A fifth of the values is missing, at random, and a tenth of the labels."""
    frame = skewed(rng)
    for column in ("amount", "score"):
        frame[column] = frame[column].where(rng.random(len(frame)) > 0.2)
    frame["desk"] = frame["desk"].where(rng.random(len(frame)) > 0.1)
    return frame


def short(rng: np.random.Generator) -> pd.DataFrame:
    """Three hundred rows over fourteen months."""
    frame = _frame(rng, 300, 426)
    return frame.assign(amount=np.round(rng.lognormal(4, 0.8, 300), 2), score=rng.normal(50, 10, 300).round(1))


def unequal_sizes(rng: np.random.Generator) -> pd.DataFrame:
    """Shops differ in size and level, and stay as they are: who leads and who differs is true, all movement is not."""
    frame = _frame(rng)
    frame["shop"] = rng.choice([f"Shop {i}" for i in range(6)], len(frame), p=[0.35, 0.25, 0.15, 0.1, 0.1, 0.05])
    level = frame["shop"].str[-1].astype(int).to_numpy()
    return frame.assign(
        amount=np.round((60 + 20 * level) * rng.lognormal(0, 0.5, len(frame)), 2),
        score=np.round(40 + 4 * level + rng.normal(0, 8, len(frame)), 1),
    )


def busy_days(rng: np.random.Generator) -> pd.DataFrame:
    """Days differ in how many rows they have (over-dispersed), the same for all groups."""
    busy = rng.gamma(2.0, 0.5, 1096)
    day = np.sort(rng.choice(1096, 4000, p=busy / busy.sum()))
    frame = _frame(rng).assign(date=np.datetime64("2022-01-01") + day.astype("timedelta64[D]"))
    return frame.assign(amount=np.round(rng.gamma(3, 30, 4000), 2), score=rng.normal(50, 10, 4000).round(1))


def _nothing(finding: Any) -> bool:
    """Nothing is claimed that could be wrong: that a column is skewed is seen, not inferred."""
    return bool(finding.kind == "distribution")


def _seasonal(finding: Any) -> bool:
    return finding.kind in ("seasonality", "distribution")


def _growing(finding: Any) -> bool:
    return not finding.where.conditions and finding.kind in ("trend", "shift", "change")


def _levels(finding: Any) -> bool:
    """Sizes and levels of the shops are true, and with them what the whole's rows look like."""
    of_shops = finding.kind in ("difference", "ranking", "concentration") and finding.by == "shop"
    return of_shops or finding.kind == "distribution"


#: family → (maker, claims that are true there: predicate on a finding)
FAMILIES: dict[str, tuple[Make, Callable[[Any], bool]]] = {
    "normal": (normal, _nothing),
    "skewed": (skewed, _nothing),
    "heavy-tailed": (heavy_tailed, _nothing),
    "autocorrelated": (autocorrelated, _nothing),
    "group drift": (group_drift, _nothing),
    "counts": (counts, _nothing),
    "calendar": (calendar, _seasonal),
    "unequal groups": (unequal_groups, _nothing),
    "no dates": (no_dates, _nothing),
    "growing company": (growing_company, _growing),
    "many groups": (many_groups, _nothing),
    "holes": (holes, _nothing),
    "short": (short, _nothing),
    "unequal sizes": (unequal_sizes, _levels),
    "busy days": (busy_days, _nothing),
}
