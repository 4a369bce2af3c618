"""Tables of shapes that strangers bring, made up: `shapes()` names them, `write(name, folder)` makes one.

A year of departures by day with over a hundred destinations, three thousand articles by month, bookings with rates of
many agents, a survey of 161 columns, ten years of days with ten columns of labels, two million rows of forty columns.
All the same on every run.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pandas as pd


def departures(rows: int = 336_000) -> pd.DataFrame:
    """A year of departures by day: 16 lines, 105 ports, 3 piers, no measure; weekdays and seasons of their own, some
    lines that grow."""
    rng = np.random.default_rng(1)
    day = np.arange(365)
    made = []
    for line in range(16):
        share = np.exp(-line / 4) * (1 + 0.3 * np.sin(2 * np.pi * (day - 20 * line) / 365)) * _weekly(rng, day)
        share = share * np.where(day > 200, 1.3 if line == 3 else 1.0, 1.0) * np.exp(0.001 * (line % 5 - 2) * day)
        ports = rng.gamma(0.5, 1, 105)
        made.append((share, ports / ports.sum()))
    weight = np.array([share for share, _ in made])
    cells = rng.choice(weight.size, rows, p=(weight / weight.sum()).ravel())
    line, at = np.divmod(cells, day.size)
    port = np.empty(rows, dtype=int)
    for code, (_, shares) in enumerate(made):
        port[line == code] = rng.choice(105, int((line == code).sum()), p=shares)
    pier = np.where(port % 3 == 0, port % 3, rng.integers(0, 3, rows))
    names = [
        np.array([f"{name} {k:03d}" for k in range(count)])
        for name, count in (("Line", 16), ("Port", 105), ("Pier", 3))
    ]
    order = np.argsort(at, kind="stable")
    return pd.DataFrame(
        {
            "day": (np.datetime64("2023-01-01") + at.astype("timedelta64[D]"))[order],
            "line": names[0][line][order],
            "port": names[1][port][order],
            "pier": names[2][pier][order],
        }
    )


def departures_wide(rows: int = 336_000) -> pd.DataFrame:
    """The same rows with 19 columns, four measures among them."""
    rng = np.random.default_rng(2)
    late = np.round(rng.gamma(1.2, 18, rows) - 12)
    made = {
        "vessel": _labels(rng, "Vessel", 60, rows),
        "class": _labels(rng, "Class", 6, rows),
        "crew": _labels(rng, "Crew", 24, rows),
        "weather": _labels(rng, "Weather", 9, rows, skew=1.5),
        "cause": _labels(rng, "Cause", 12, rows, skew=2.0),
        "booked_by": _labels(rng, "Agent", 40, rows),
        "zone": _labels(rng, "Zone", 8, rows),
        "gate": _labels(rng, "Gate", 30, rows),
        "shift": _labels(rng, "Shift", 4, rows),
        "fuel": _labels(rng, "Fuel", 3, rows),
        "status": _labels(rng, "Status", 3, rows, skew=3.0),
        "delay_minutes": late,
        "arrival_delay_minutes": late + np.round(rng.normal(0, 9, rows)),
        "distance_nm": np.round(rng.gamma(3, 12, rows), 1),
        "time_under_way_minutes": np.round(rng.gamma(4, 20, rows)),
    }
    return departures(rows).assign(**made)


def survey(rows: int = 3000, columns: int = 161) -> pd.DataFrame:
    """A survey: one date, 40 questions with labels, 120 numbers."""
    rng = np.random.default_rng(3)
    made: dict[str, object] = {"day": _days(rng, rows, "2021-01-01", 1000)}
    for k in range(40):
        made[f"answer_{k:02d}"] = _labels(rng, f"Q{k}", int(rng.integers(2, 12)), rows)
    common = rng.normal(0, 1, rows)
    for k in range(columns - 41):
        made[f"amount_{k:03d}"] = np.round(100 + 20 * (0.3 * common + rng.normal(0, 1, rows)) + k, 2)
    return pd.DataFrame(made)


def decade(rows: int = 19_300) -> pd.DataFrame:
    """Ten years of days: ten columns of labels, up to hundreds, six measures."""
    rng = np.random.default_rng(4)
    made: dict[str, object] = {"day": _days(rng, rows, "2014-01-01", 3650)}
    for k, count in enumerate((4, 6, 8, 12, 20, 35, 60, 120, 250, 400)):
        made[f"group_{k}"] = _labels(rng, f"G{k}", count, rows, skew=1.5)
    for k in range(6):
        made[f"amount_{k}"] = np.round(rng.gamma(2, 60, rows), 2)
    return pd.DataFrame(made)


def articles(labels: int = 3000, months: int = 36) -> pd.DataFrame:
    """Three thousand articles over 36 months, some eight sales a month each."""
    rng = np.random.default_rng(5)
    month = pd.date_range("2022-01-01", periods=months, freq="MS").to_numpy()
    rows = rng.poisson(rng.gamma(4, 2, labels)[:, None], (labels, months))
    article, at = (one.ravel() for one in np.indices((labels, months)))
    article, at = np.repeat(article, rows.ravel()), np.repeat(at, rows.ravel())
    days = month[at].astype("datetime64[D]") + rng.integers(0, 28, at.size).astype("timedelta64[D]")
    names = np.array([f"Article {k:04d}" for k in range(labels)])
    return pd.DataFrame(
        {"day": days, "article": names[article], "sales": np.round(rng.gamma(3, 12, at.size), 2)}
    ).sort_values("day", ignore_index=True)


def forty(rows: int = 2_000_000) -> pd.DataFrame:
    """Two million rows of forty columns: a date, 15 columns of labels, 24 measures."""
    rng = np.random.default_rng(6)
    made: dict[str, object] = {"day": _days(rng, rows, "2021-01-01", 1400)}
    for k in range(15):
        made[f"group_{k}"] = _labels(rng, f"G{k}", 3 + 2 * k, rows)
    for k in range(24):
        made[f"amount_{k}"] = np.round(rng.gamma(2, 60, rows), 2)
    return pd.DataFrame(made)


def bookings(rows: int = 15_000) -> pd.DataFrame:
    """Fourteen months of bookings: nothing but averages and small counts, ten columns of up to 160 labels, of which
    agents and countries have rates of their own."""
    rng = np.random.default_rng(8)
    counts = {"country": 110, "agent": 160, "firm": 130, "cabin": 9, "meal": 4, "channel": 5, "market": 7, "kind": 4}
    made = {name: rng.choice(count, rows, p=_shares(count)) for name, count in counts.items()}
    base = (
        90 + 20 * rng.normal(size=160)[made["agent"]] + 15 * made["cabin"] + 8 * rng.normal(size=110)[made["country"]]
    )
    day = np.sort(rng.integers(0, 425, rows))
    return pd.DataFrame(
        {
            "price_per_cabin": np.round(base * (1 + 0.3 * np.sin(day / 58)) * rng.gamma(20, 0.05, rows), 2),
            "lead_time": np.round(rng.gamma(1.2, 60, rows) + made["market"]),
            "nights": 1 + rng.poisson(2 + 0.3 * made["meal"]),
            "children": rng.poisson(0.1, rows),
            "changes": rng.poisson(0.2, rows),
            "requests": rng.poisson(0.6, rows),
            "returning": (rng.random(rows) < 0.04 + 0.02 * (made["channel"] == 2)).astype(int),
            **{
                name: np.array([f"{name} {at:03d}" for at in range(count)])[made[name]]
                for name, count in counts.items()
            },
            "day": np.datetime64("2023-07-01") + day.astype("timedelta64[D]"),
        }
    )


def _shares(count: int) -> np.ndarray:
    weights = 1 / np.arange(1, count + 1)
    return weights / weights.sum()


def small(rows: int = 1600) -> pd.DataFrame:
    """1,600 rows and ten columns."""
    rng = np.random.default_rng(7)
    made: dict[str, object] = {"day": _days(rng, rows, "2023-01-01", 900)}
    for k in range(5):
        made[f"d{k}"] = rng.choice(list("abcdef"), rows)
    for k in range(4):
        made[f"m{k}"] = np.round(rng.gamma(2, 50, rows), 2)
    return pd.DataFrame(made)


def shapes() -> dict[str, Callable[[], pd.DataFrame]]:
    """Each shape by its name, the small ones first."""
    return {
        "small": small,
        "survey": survey,
        "decade": decade,
        "articles": articles,
        "bookings": bookings,
        "departures": departures,
        "departures wide": departures_wide,
        "forty columns": forty,
    }


def write(name: str, folder: Path) -> Path:
    """The table as a file: CSV, or Parquet from a million rows on."""
    frame = shapes()[name]()
    path = folder / f"{name.replace(' ', '_')}.{'parquet' if len(frame) >= 1_000_000 else 'csv'}"
    frame.to_parquet(path) if path.suffix == ".parquet" else frame.to_csv(path, index=False)
    return path


def _days(rng: np.random.Generator, rows: int, first: str, days: int) -> np.ndarray:
    return np.sort(np.datetime64(first) + rng.integers(0, days, rows).astype("timedelta64[D]"))


def _weekly(rng: np.random.Generator, day: np.ndarray) -> np.ndarray:
    return rng.uniform(0.8, 1.2, 7)[day % 7]


def _labels(rng: np.random.Generator, name: str, count: int, rows: int, skew: float = 1.0) -> np.ndarray:
    """Labels, the first of them the more frequent the higher the skew."""
    codes = np.floor(count * rng.random(rows) ** skew).astype(int)
    return np.array([f"{name} {k:03d}" for k in range(count)])[codes]
