"""Tables of several trades, names and sizes drawn at random: noise of awkward kinds, stories of single cells and
months, reasons of changes. Written after the code that they measure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import pandas as pd

from .changes import Story
from .planted import Planted

Rng = np.random.Generator


@dataclass(frozen=True, slots=True)
class Trade:
    """What a table of a trade is called: its date, two columns of labels with their labels, an amount, an average and a
    yes or no."""

    date: str
    first: str
    labels: tuple[str, ...]
    second: str
    others: tuple[str, ...]
    amount: str
    average: str
    flag: str


TRADES = (
    Trade("admitted", "ward", ("Acorn", "Beech", "Cedar", "Damson", "Elder"), "shift", ("early", "late", "night"),
          "cost", "stay_hours", "readmitted"),
    Trade("sold_on", "store", ("Mill Lane", "High Road", "Quayside", "Station", "Old Town", "Park"), "brand",
          ("Aura", "Brisk", "Calm", "Dawn"), "turnover", "basket_items", "member"),
    Trade("loaded", "depot", ("Nord", "Syd", "Vest", "Oest"), "truck", ("Kite", "Heron", "Rook", "Swift", "Wren"),
          "freight_charge", "load_min", "damaged"),
    Trade("claimed", "branch", ("Aster", "Briar", "Clover", "Dill", "Fennel"), "cover", ("home", "motor", "travel"),
          "paid_out", "handling_days", "disputed"),
    Trade("harvested", "field", ("Long Acre", "Nine Elms", "Far Meadow", "Brook", "Upper Ten", "Gorse", "Hill"), "crew",
          ("one", "two", "three", "four"), "crop_value", "moisture_g", "graded"),
)  # fmt: skip


def trade_of(rng: Rng) -> Trade:
    return TRADES[int(rng.integers(len(TRADES)))]


def rows_of(rng: Rng, trade: Trade, rows: int, days: int, *, start: str = "2021-04-01") -> pd.DataFrame:
    day = np.sort(rng.integers(0, days, rows))
    weights = rng.dirichlet(np.full(len(trade.labels), 6.0))
    return pd.DataFrame(
        {
            trade.date: np.datetime64(start) + day.astype("timedelta64[D]"),
            trade.first: rng.choice(trade.labels, rows, p=weights),
            trade.second: rng.choice(trade.others, rows),
            trade.amount: np.round(rng.lognormal(rng.uniform(3, 6), 0.5, rows), 2),
            trade.average: np.round(rng.gamma(5, rng.uniform(2, 9), rows), 1),
            trade.flag: rng.random(rows) < rng.uniform(0.05, 0.4),
        }
    )


# --- noise --------------------------------------------------------------------------------------------


def blanks(rng: Rng) -> pd.DataFrame:
    """Cells are missing at random, a tenth to a third of each column but the date."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, int(rng.integers(2500, 7000)), 1096)
    for name in frame.columns[1:]:
        frame[name] = frame[name].astype(object).where(rng.random(len(frame)) > rng.uniform(0.1, 0.33))
    return frame


def small_denominators(rng: Rng) -> pd.DataFrame:
    """Events of one in fifty over many small units of very different sizes."""
    trade = trade_of(rng)
    rows = int(rng.integers(900, 2500))
    frame = rows_of(rng, trade, rows, 730)[[trade.date, trade.second]]
    units = int(rng.integers(25, 55))
    sizes = rng.gamma(0.8, 1, units)
    names = np.array([f"U-{place:02d}" for place in range(units)])
    return frame.assign(unit=rng.choice(names, rows, p=sizes / sizes.sum()), event=rng.random(rows) < 0.02)


def intermittent(rng: Rng) -> pd.DataFrame:
    """Spare parts: most weeks of a part sell none, some a few."""
    parts = [f"PN {100 + place}" for place in range(int(rng.integers(6, 14)))]
    rows = [
        (np.datetime64("2022-01-03") + np.timedelta64(7 * week, "D"), part, int(amount))
        for part in parts
        for week in range(130)
        for amount in [rng.poisson(2.5) + 1 if rng.random() < 0.25 else 0]
    ]
    return pd.DataFrame(rows, columns=["week_of", "part", "sold"])


def working_days(rng: Rng) -> pd.DataFrame:
    """An office that works five days a week and rests over the turn of the year."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, int(rng.integers(4000, 9000)), 1200)
    date = pd.to_datetime(frame[trade.date])
    open_ = (date.dt.dayofweek < 5) & ~((date.dt.month == 12) & (date.dt.day > 23))
    return frame[open_.to_numpy()].reset_index(drop=True)


def _rests(f: Any) -> bool:
    """That offices rest is true: an empty week, a lower December, weekdays."""
    return f.kind in ("gap", "seasonality", "recurrence") or (f.kind == "spike" and f.direction == "down")


#: People and machines by name, and what is measured of them.
_BY_NAME = (("patient", "ward", "pain_score"), ("employee", "site", "rating"), ("machine", "hall", "temperature"),
            ("client", "region", "satisfaction"))  # fmt: skip


def people_by_name(rng: Rng) -> pd.DataFrame:
    """Fourteen to forty people or machines with ways of their own, each of one group, with rows of unlike number."""
    who, group, measured = _BY_NAME[int(rng.integers(len(_BY_NAME)))]
    count, rows = int(rng.integers(14, 41)), int(rng.integers(500, 2500))
    own = rng.choice(count, rows, p=rng.dirichlet(np.full(count, 3.0)))
    groups = np.array(["North", "South", *rng.choice(["North", "South", "East"], count - 2)])
    value = 50 + rng.normal(0, 6, count)[own] + rng.normal(0, 8, rows)
    frame = pd.DataFrame({who: np.array([f"N{place:02d}" for place in range(count)])[own], group: groups[own]})
    if rng.random() < 0.6:
        day = np.sort(rng.integers(0, 730, rows))
        frame.insert(0, "date", np.datetime64("2022-02-01") + day.astype("timedelta64[D]"))
    return frame.assign(**{measured: np.round(value, 1)})


#: Events of chances, as trades count them.
_EVENTS = (("complaints", "orders"), ("misses", "stops"), ("scrapped", "pieces"), ("errors", "lines"))


def _events(rng: Rng) -> tuple[pd.DataFrame, str, str]:
    """Two columns of counts by units of unequal sizes, with dates or without, the events single or in clusters."""
    trade = trade_of(rng)
    events, chances = _EVENTS[int(rng.integers(len(_EVENTS)))]
    rows = int(rng.integers(500, 3000))
    frame = rows_of(rng, trade, rows, 730)[[trade.date, trade.second]]
    if rng.random() < 0.4:
        frame = frame.drop(columns=trade.date)
    units = int(rng.integers(6, 35))
    names = np.array([f"Unit {place + 1}" for place in range(units)])
    sizes = rng.gamma(0.8, 1, units)
    frame = frame.assign(unit=rng.choice(names, rows, p=sizes / sizes.sum()))
    frame[chances] = rng.poisson(rng.uniform(2, 25), rows) + 1
    clusters = rng.gamma(1.2, 1 / 1.2, rows) if rng.random() < 0.5 else 1.0
    frame[events] = rng.poisson(frame[chances] * clusters * rng.uniform(0.005, 0.04))
    frame.attrs["measures"] = [f"sum({events}) / sum({chances})"]
    return frame, events, chances


def ratios_of_counts(rng: Rng) -> pd.DataFrame:
    """Complaints per order, of many units, some tiny."""
    return _events(rng)[0]


def numbers_that_repeat(rng: Rng) -> pd.DataFrame:
    """A rate and a score of each contract, the same in each of its months; branches differ by who signed there."""
    contracts, months = (
        int(rng.integers(60, 250)),
        pd.date_range("2023-01-31", periods=int(rng.integers(8, 30)), freq="ME"),
    )
    branch = rng.choice(["Harbour", "Hill", "Centre", "Moor"], contracts)
    every = months.size
    return pd.DataFrame(
        {
            "month": np.repeat(months, contracts),
            "contract": np.tile([f"K{one:04d}" for one in range(contracts)], every),
            "branch": np.tile(branch, every),
            "interest_rate": np.tile(rng.uniform(2, 8, contracts).round(2), every),
            "risk_score": np.tile(rng.gamma(6, 9, contracts).round(1), every),
        }
    )


def lumpy_deliveries(rng: Rng) -> pd.DataFrame:
    """A delivery of a pack now and then, of many articles at two depots."""
    days, articles = pd.date_range("2025-01-01", periods=int(rng.integers(120, 300))), int(rng.integers(20, 60))
    rows = days.size * articles
    came = rng.random(rows) < 1 / rng.integers(25, 90)
    return pd.DataFrame(
        {
            "day": np.repeat(days, articles),
            "depot": np.tile(rng.choice(["North", "South"], articles), days.size),
            "article": np.tile([f"A{one:02d}" for one in range(articles)], days.size),
            "received": np.where(came, int(rng.choice([24, 100, 500])), 0),
        }
    )


def first_two_summers(rng: Rng) -> pd.DataFrame:
    """Takings a day with a wave of a year, of which less than two years are known."""
    days = pd.date_range("2024-01-01", periods=int(rng.integers(330, 720))) + pd.Timedelta(
        days=int(rng.integers(0, 365))
    )
    wave = 1 + rng.uniform(0.1, 0.45) * np.sin(2 * np.pi * (days.day_of_year - rng.integers(1, 365)) / 365)
    house = ["Quay House", "Mill Inn", "Park View"]
    level = np.tile(rng.uniform(900, 9_000, 3), days.size)
    takings = np.repeat(wave, 3) * level * rng.normal(1, rng.uniform(0.05, 0.2), 3 * days.size)
    return pd.DataFrame({"date": np.repeat(days, 3), "house": np.tile(house, days.size), "takings": takings.round(2)})


NOISE: dict[str, tuple[Callable[[Rng], pd.DataFrame], Callable[[Any], bool]]] = {
    "blanks": (blanks, lambda f: f.kind in ("ranking", "concentration", "distribution")),
    "small denominators": (small_denominators, lambda f: f.kind in ("ranking", "concentration")),
    "intermittent": (intermittent, lambda f: f.kind in ("distribution",)),
    "working days": (working_days, lambda f: _rests(f) or f.kind in ("ranking", "concentration", "distribution")),
    "ratios of counts": (ratios_of_counts, lambda f: f.kind in ("ranking", "concentration", "distribution")),
    "people by name": (
        people_by_name,
        lambda f: f.kind in ("ranking", "concentration", "distribution") or f.by in [who for who, *_ in _BY_NAME],
    ),
    "numbers that repeat": (numbers_that_repeat, lambda f: f.kind in ("ranking", "concentration")),
    "lumpy deliveries": (lumpy_deliveries, lambda f: f.kind in ("ranking", "concentration")),
    "first two summers": (
        first_two_summers,
        lambda f: f.kind in ("ranking", "concentration", "distribution", "seasonality", "change") or f.by == "house",
    ),
}

# --- stories of one cell, one month, two dates ----------------------------------------------------------


def _about(frame: pd.DataFrame, tells: Callable[[Any], bool], follows: Callable[[Any], bool]) -> Planted:
    calm = lambda f: f.kind in ("ranking", "concentration", "distribution")  # noqa: E731
    return Planted(frame=frame, tells=tells, follows=lambda f: calm(f) or follows(f))


def month_of_a_part(rng: Rng, strength: float) -> Planted:
    """One label has far more rows in one month."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 9000, 1096)
    label = str(rng.choice(trade.labels))
    months = pd.to_datetime(frame[trade.date]).dt.to_period("M")
    month = rng.choice(months.unique()[3:-3])
    own = frame[(months == month).to_numpy() & (frame[trade.first] == label).to_numpy()]
    more = own.sample(round(1.6 * strength * len(own)), replace=True, random_state=int(rng.integers(1 << 30)))
    frame = pd.concat([frame, more]).sort_values(trade.date, kind="stable").reset_index(drop=True)
    here = lambda f: f.kind in ("spike", "change") and f.where.label in ("", label)  # noqa: E731
    return _about(frame, lambda f: f.kind == "spike" and f.where.label == label, here)


def day_of_a_part(rng: Rng, strength: float) -> Planted:
    """One label's average is far higher on one day."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 18000, 365)
    label = str(rng.choice(trade.labels))
    day = np.datetime64("2021-04-01") + np.timedelta64(int(rng.integers(30, 330)), "D")
    hit = (frame[trade.date] == day) & (frame[trade.first] == label)
    frame[trade.average] = np.round(frame[trade.average] * np.where(hit, 1 + 2.5 * strength, 1.0), 1)
    here = lambda f: f.kind in ("spike", "outlier", "change", "difference")  # noqa: E731
    return _about(frame, lambda f: f.kind == "spike" and f.where.label in ("", label), here)


def two_stories(rng: Rng, strength: float) -> Planted:
    """One label steps up, and a year and a half later down again."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 9000, 1461)
    label = str(rng.choice(trade.labels))
    t = (pd.to_datetime(frame[trade.date]) - pd.Timestamp("2021-04-01")).dt.days.to_numpy() / 1461
    own = (frame[trade.first] == label).to_numpy()
    factor = np.where(t > 0.3, 1 + 0.7 * strength, 1.0) * np.where(t > 0.7, 1 / (1 + 0.8 * strength), 1.0)
    frame[trade.amount] = np.round(frame[trade.amount] * np.where(own, factor, 1.0), 2)
    tells = lambda f: f.kind in ("shift", "trend") and f.where.label == label  # noqa: E731
    here = lambda f: f.kind in ("shift", "trend", "change", "divergence") and f.where.label in ("", label)  # noqa: E731
    return _about(frame, tells, here)


def peak_as_span(rng: Rng, strength: float) -> Planted:
    """Two neighbouring months are alike and the highest of each year."""
    trade = trade_of(rng)
    first = int(rng.integers(1, 12))
    months = pd.date_range("2017-01-01", periods=84, freq="MS")
    high = months.month.isin([first, first + 1])
    values = 5000 * np.where(high, 1 + 0.35 * strength, 1.0) * rng.normal(1, 0.05, 84)
    frame = pd.DataFrame({"month": months, trade.amount: np.round(values, 1)})
    return _about(frame, lambda f: f.kind == "seasonality" and len(f.figures["peak_span"] or ()) == 2,
                  lambda f: f.kind == "seasonality")  # fmt: skip


def season_often_nought(rng: Rng, strength: float) -> Planted:
    """Events that hardly come but in three months of the year."""
    first = int(rng.integers(1, 10))
    months = pd.date_range("2016-01-01", periods=96, freq="MS")
    rate = np.where(months.month.isin([first, first + 1, first + 2]), 4 * strength, 0.3)
    frame = pd.DataFrame({"month": months, "call_outs": rng.poisson(rate)})
    return _about(frame, lambda f: f.kind == "seasonality", lambda f: f.kind == "change")


def rise_beside_a_greater(rng: Rng, strength: float) -> Planted:
    """All grow, one label far more: both are to be told."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 7000, 1096)
    label = str(rng.choice(trade.labels))
    t = (pd.to_datetime(frame[trade.date]) - pd.Timestamp("2021-04-01")).dt.days.to_numpy() / 1096
    grown = np.exp(strength * (0.4 + 0.9 * (frame[trade.first] == label).to_numpy()) * t)
    frame[trade.amount] = np.round(frame[trade.amount] * grown, 2)
    of_amount = lambda f: f.measure is not None and any(part.column == trade.amount for part in f.measure.parts)  # noqa: E731
    tells = lambda f: f.kind in ("trend", "shift") and not f.where.conditions and of_amount(f)  # noqa: E731
    return _about(frame, tells, lambda f: of_amount(f) and f.where.label in ("", label))


def small_one_grows(rng: Rng, strength: float) -> Planted:
    """Of three sources the smallest grows many times over and the largest slips: the growth is the story."""
    months = pd.date_range("2023-01-01", periods=int(rng.integers(24, 37)), freq="MS")
    start = int(len(months) * rng.uniform(0.5, 0.8))
    late = np.arange(len(months)) >= start
    paths = {
        "organic": 5000 * np.where(late, 0.9, 1.0),
        "mailing": np.full(len(months), 900.0),
        "partner": 60 * np.where(late, 1 + 13 * strength, 1.0),
    }
    rows = [
        (month, source, round(value * rng.normal(1, 0.04)))
        for source, path in paths.items()
        for month, value in zip(months, path, strict=True)
    ]
    frame = pd.DataFrame(rows, columns=["month", "source", "visits"])
    tells = lambda f: f.where.label == "partner" and f.kind in ("shift", "trend", "divergence")  # noqa: E731
    return _about(frame, tells, lambda f: f.where.label in ("", "organic", "partner"))


def unit_with_more_events(rng: Rng, strength: float) -> Planted:
    """One unit, neither the largest nor a tiny one, has more events than its chances give: at strength one by seven
    standard errors."""
    frame, events, chances = _events(rng)
    sizes = frame.groupby("unit")[chances].sum().sort_values()
    unit = str(sizes.index[max(0, len(sizes) - 3)])
    own = (frame["unit"] == unit).to_numpy()
    expected = frame[events].sum() / frame[chances].sum() * frame.loc[own, chances].sum()
    spread = max(1.0, float(frame[events].var() / max(frame[events].mean(), 1e-9)))
    more = round(7 * strength * np.sqrt(spread * (expected + 1)))
    places = rng.choice(np.flatnonzero(own), more)
    frame[events] += np.bincount(places, minlength=len(frame))
    return _about(frame, lambda f: f.kind == "difference" and f.where.label == unit, lambda f: f.where.label == unit)


def fall_within(rng: Rng, strength: float) -> Planted:
    """Levels that wander from month to month, several of them; one loses much within two to four years, and no more."""
    trade = trade_of(rng)
    months = pd.date_range("2003-01-31", periods=int(rng.integers(132, 217)), freq="ME")
    fallen = str(rng.choice(trade.labels))
    start = int(rng.integers(30, months.size - 80))
    length = int(rng.integers(24, 46))
    frames = []
    for label in trade.labels:
        moves = rng.normal(rng.uniform(0, 0.0015), 0.002, months.size)
        if label == fallen:
            moves[start : start + length] -= 0.006 * strength
        path = rng.uniform(500, 9000) * np.exp(np.cumsum(moves))
        frames.append(pd.DataFrame({"month_end": months, trade.first: label, "balance": path.round(1)}))
    frame = pd.concat(frames, ignore_index=True)
    tells = lambda f: f.kind in ("trend", "shift") and f.where.label == fallen and f.direction == "down"  # noqa: E731
    return _about(frame, tells, lambda f: f.where.label in ("", fallen) or f.kind in ("trend", "divergence"))


def wrong_signs(rng: Rng, strength: float) -> Planted:
    """Two rows have a wrong sign: said in the summary."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 4000, 700)
    places = rng.choice(len(frame), 2, replace=False)
    frame.loc[places, trade.amount] *= -1
    return _about(frame, lambda f: f.kind == "outlier", lambda f: False)


PLANTED: dict[str, Callable[[Rng, float], Planted]] = {
    "month of a part": month_of_a_part,
    "day of a part": day_of_a_part,
    "two stories": two_stories,
    "peak as a span": peak_as_span,
    "season often nought": season_often_nought,
    "rise beside a greater": rise_beside_a_greater,
    "small one grows": small_one_grows,
    "unit with more events": unit_with_more_events,
    "fall within": fall_within,
}

# --- reasons of changes ---------------------------------------------------------------------------------


def _named(one: Any, *labels: str) -> bool:
    return {part.where.label for part in one.named} == set(labels)


def offset_within_usual(rng: Rng) -> Story:
    """One label gains a third, another loses as much: the whole is as it was."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 30000, 1096, start="2022-01-01")
    up, down = (str(one) for one in rng.choice(trade.labels, 2, replace=False))
    late = frame[trade.date] >= np.datetime64("2024-10-01")
    own = [(frame[trade.first] == one) & late for one in (up, down)]
    sizes = [frame.loc[one, trade.amount].sum() for one in own]
    gain = 0.55
    loss = min(0.9, gain * sizes[0] / sizes[1])
    factor = np.where(own[0], 1 + loss * sizes[1] / sizes[0], np.where(own[1], 1 - loss, 1.0))
    frame[trade.amount] = np.round(frame[trade.amount] * factor, 2)
    return Story(frame=frame, measure=f"sum({trade.amount})", told=lambda one: _named(one, up, down), wrong=("even",))


def few_periods(rng: Rng) -> Story:
    """Four or six quarters of totals; one of three branches loses two fifths in the last."""
    names = rng.choice(["Aster", "Briar", "Clover", "Dill", "Fennel"], 3, replace=False)
    quarters = int(rng.choice([4, 6]))
    fallen = str(names[int(rng.integers(3))])
    rows = [
        (np.datetime64("2024-01-15") + np.timedelta64(91 * quarter, "D"), str(name),
         round(level * (0.6 if name == fallen and quarter == quarters - 1 else 1.0) * rng.normal(1, 0.02)))
        for name, level in zip(names, rng.uniform(2e5, 5e5, 3), strict=True)
        for quarter in range(quarters)
    ]  # fmt: skip
    frame = pd.DataFrame(rows, columns=["quarter_end", "branch", "income"])
    return Story(frame=frame, measure="sum(income)", asked={}, told=lambda one: _named(one, fallen),
                 wrong=("even", "usual"))  # fmt: skip


def entry(rng: Rng) -> Story:
    """A label opens whose rate is far from the others': the whole's rate moves by that alone."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 20000, 1096, start="2022-01-01")
    frame[trade.flag] = rng.random(len(frame)) < 0.1
    late = (frame[trade.date] >= np.datetime64("2024-07-01")).to_numpy() & (rng.random(len(frame)) < 0.25)
    frame.loc[late, trade.first] = "Newcomer"
    frame[trade.flag] = np.where(late, rng.random(len(frame)) < 0.4, frame[trade.flag])
    return Story(
        frame=frame,
        measure=f"avg({trade.flag})",
        told=lambda one: any(part.where.label == "Newcomer" for part in one.named),
        wrong=("even",),
    )


def one_departs(rng: Rng) -> Story:
    """Of three labels one loses two fifths; the larger two go on alike: the one that went is named, not its mirror."""
    frame = rows_of(rng, TRADES[3], 30000, 1096, start="2022-01-01")
    late = frame["claimed"] >= np.datetime64("2024-10-01")
    fallen = str(rng.choice(["home", "motor", "travel"]))
    factor = np.where((frame["cover"] == fallen) & late, 0.6, 1.0)
    frame["paid_out"] = np.round(frame["paid_out"] * factor, 2)
    return Story(frame=frame, measure="sum(paid_out)", told=lambda one: _named(one, fallen), wrong=("even",))


def unfinished_year(rng: Rng) -> Story:
    """Eleven months against twelve: compared like with like, or told to be unfinished."""
    trade = trade_of(rng)
    frame = rows_of(rng, trade, 20000, 1064, start="2022-01-01")
    frame = frame[frame[trade.date] < np.datetime64("2024-11-30")].reset_index(drop=True)
    return Story(
        frame=frame,
        measure=f"sum({trade.amount})",
        asked={"period": "2024", "baseline": "2023"},
        told=lambda one: one.cut_days is not None and abs(one.change) < 0.15 * one.before,
    )


CHANGES: dict[str, Callable[[Rng], Story]] = {
    "offset within usual": offset_within_usual,
    "few periods": few_periods,
    "entry of another rate": entry,
    "one of three departs": one_departs,
    "unfinished year": unfinished_year,
}
