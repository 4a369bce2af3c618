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
    """Groups from 1 in 2 to 1 in 200: that one has more rows than another is true, all else is chance."""
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


def _remembering(rng: np.random.Generator, memory: float, count: int) -> np.ndarray:
    """A series that leans on the period before, of standard deviation one; of memory one it wanders."""
    shocks = rng.normal(size=count + 300)
    values = np.zeros(count + 300)
    for place in range(1, count + 300):
        values[place] = memory * values[place - 1] + shocks[place]
    return np.asarray((values[300:] - values[300:].mean()) / values[300:].std())


def remembering_days(rng: np.random.Generator) -> pd.DataFrame:
    """A total a day that leans on the day before, by 0.6 to 0.9."""
    count = int(rng.choice([120, 400, 1096]))
    day = pd.date_range("2022-01-01", periods=count)
    own = np.exp(0.15 * _remembering(rng, float(rng.choice([0.6, 0.8, 0.9])), count))
    return pd.DataFrame({"date": day, "amount": np.round(1000 * own, 1)})


def remembering_weeks(rng: np.random.Generator) -> pd.DataFrame:
    """A total a week of each of six shops, each leaning on its week before, by 0.5 to 0.8."""
    count = int(rng.choice([104, 200]))
    week = pd.date_range("2021-01-04", periods=count, freq="W-MON")
    frames = [
        pd.DataFrame(
            {
                "date": week,
                "shop": f"Shop {shop}",
                "amount": np.round(900 * np.exp(0.1 * _remembering(rng, float(rng.uniform(0.5, 0.8)), count)), 1),
            }
        )
        for shop in range(6)
    ]
    return pd.concat(frames, ignore_index=True)


def wandering(rng: np.random.Generator) -> pd.DataFrame:
    """A total of a day, a week or a month that wanders: each begins where the last one ended."""
    freq, count = [("D", 400), ("W-MON", 156), ("MS", 60)][int(rng.integers(3))]
    day = pd.date_range("2020-01-06" if freq == "W-MON" else "2020-01-01", periods=count, freq=freq)
    return pd.DataFrame({"date": day, "amount": np.round(1000 * np.exp(0.2 * _remembering(rng, 1.0, count)), 1)})


def remembering_months(rng: np.random.Generator) -> pd.DataFrame:
    """A total a month that leans on the month before, by 0.4 to 0.8, over three to seven years."""
    count = int(rng.choice([36, 48, 84]))
    own = np.exp(0.1 * _remembering(rng, float(rng.choice([0.4, 0.6, 0.8])), count))
    return pd.DataFrame(
        {"date": pd.date_range("2018-01-01", periods=count, freq="MS"), "amount": np.round(5000 * own, 1)}
    )


def regular_customers(rng: np.random.Generator) -> pd.DataFrame:
    """Customers who come again and again, each with ways of their own, in areas that have none."""
    frame, customers = _frame(rng), 150
    who = rng.integers(0, customers, len(frame))
    own, other = rng.normal(0, 12, customers), rng.normal(0, 8, customers)
    area = rng.choice(["North", "South", "East"], customers)
    return frame.assign(
        customer_id=10_000 + who,
        area=area[who],
        waiting_minutes=np.round(60 + own[who] + rng.normal(0, 12, len(frame)), 1),
        score=np.round(50 + other[who] + rng.normal(0, 8, len(frame)), 1),
    )


def _nothing(finding: Any) -> bool:
    """Nothing is claimed that could be wrong: that a column is skewed is seen, not inferred."""
    return bool(finding.kind == "distribution")


def _sizes(finding: Any) -> bool:
    """How many rows the groups have is true; beside that nothing is claimed that could be wrong."""
    # The plain method counts nothing, and its measures have no names.
    counted = getattr(getattr(finding, "measure", None), "name", "") == "count(*)"
    return _nothing(finding) or (counted and finding.kind in ("ranking", "concentration"))


def _seasonal(finding: Any) -> bool:
    return finding.kind in ("seasonality", "distribution")


def _growing(finding: Any) -> bool:
    return not finding.where.conditions and finding.kind in ("trend", "shift", "change")


def _levels(finding: Any) -> bool:
    """Sizes and levels of the shops are true, and with them what the whole's rows look like."""
    of_shops = finding.kind in ("difference", "ranking", "concentration") and finding.by == "shop"
    return of_shops or finding.kind == "distribution"


def months_missing(rng: np.random.Generator) -> pd.DataFrame:
    """A clinic's visits; three to five months were never recorded, and of one only the first third: no movement."""
    rows = int(rng.integers(5000, 14000))
    day = np.sort(rng.integers(0, 1461, rows))
    frame = pd.DataFrame(
        {
            "seen on": np.datetime64("2020-01-01") + day.astype("timedelta64[D]"),
            "ward": rng.choice(["Elm", "Fir", "Oak", "Yew", "Ash"], rows, p=[0.35, 0.25, 0.2, 0.12, 0.08]),
            "cost": np.round(rng.gamma(2.5, 60, rows), 2),
            "stay_days": rng.poisson(3, rows),
        }
    )
    months = frame["seen on"].dt.to_period("M")
    known = rng.choice(months.unique()[2:-2], int(rng.integers(4, 7)), replace=False)
    lost = months.isin(known[1:]) | ((months == known[0]) & (frame["seen on"].dt.day > 10))
    return frame[~lost].reset_index(drop=True)


def uniform_prices(rng: np.random.Generator) -> pd.DataFrame:
    """A grocer's prices all rise by the same share, at once or little by little: one story of the whole."""
    goods = [f"Ware {letter}" for letter in "ABCDEFGHIJ"[: int(rng.integers(5, 11))]]
    level = dict(zip(goods, np.exp(rng.uniform(0, 4, len(goods))), strict=True))
    rows = int(rng.integers(5000, 9000))
    day = np.sort(rng.integers(0, 1096, rows))
    ware = rng.choice(goods, rows)
    rise = np.where(day > 550, 1.25, 1.0) if rng.random() < 0.5 else 1 + 0.35 * day / 1096
    return pd.DataFrame(
        {
            "sold": np.datetime64("2021-06-01") + day.astype("timedelta64[D]"),
            "ware": ware,
            "price": np.round(np.array([level[one] for one in ware]) * rise * rng.lognormal(0, 0.06, rows), 2),
        }
    )


def _one_rise(f: Any) -> bool:
    """That prices rise, and that wares differ."""
    return not f.where.conditions or f.kind not in ("trend", "shift", "divergence", "exception")


def made_up_of_others(rng: np.random.Generator) -> pd.DataFrame:
    """A garage's jobs: what is paid is hours at a rate, plus parts, less a discount. Hours, rate and parts go their own
    ways."""
    rows = int(rng.integers(2500, 6000))
    hours, rate = rng.integers(1, 12, rows), rng.choice([38.0, 45.0, 52.0, 61.0], rows)
    parts = np.round(rng.gamma(2, 45, rows), 2)
    off = rng.choice([1.0, 1.0, 1.0, 0.95, 0.9], rows)
    day = np.sort(rng.integers(0, 900, rows))
    return pd.DataFrame(
        {
            "finished": np.datetime64("2022-03-01") + day.astype("timedelta64[D]"),
            "bay": rng.choice(["One", "Two", "Three"], rows),
            "hours": hours,
            "hourly_rate": rate,
            "parts": parts,
            "labour": np.round(hours * rate * off, 2),
            "paid": np.round(hours * rate * off + parts, 2),
        }
    )


def _no_pairs(f: Any) -> bool:
    return f.kind == "distribution"


#: family → (maker, claims that are true there: predicate on a finding)
FAMILIES: dict[str, tuple[Make, Callable[[Any], bool]]] = {
    "normal": (normal, _nothing),
    "skewed": (skewed, _nothing),
    "heavy-tailed": (heavy_tailed, _nothing),
    "autocorrelated": (autocorrelated, _nothing),
    "group drift": (group_drift, _nothing),
    "counts": (counts, _nothing),
    "calendar": (calendar, _seasonal),
    "unequal groups": (unequal_groups, _sizes),
    "no dates": (no_dates, _nothing),
    "growing company": (growing_company, _growing),
    "many groups": (many_groups, _nothing),
    "holes": (holes, _nothing),
    "short": (short, _nothing),
    "unequal sizes": (unequal_sizes, _levels),
    "busy days": (busy_days, _nothing),
    "remembering days": (remembering_days, _nothing),
    "remembering weeks": (remembering_weeks, _nothing),
    "remembering months": (remembering_months, _nothing),
    "wandering": (wandering, _nothing),
    "regular customers": (regular_customers, _nothing),
    "months missing": (months_missing, lambda f: f.kind in ("gap", "ranking", "concentration")),
    "uniform prices": (uniform_prices, _one_rise),
    "made up of others": (made_up_of_others, _no_pairs),
}
