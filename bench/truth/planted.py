"""Tables with one story each: `make(rng, strength) -> Planted`.

Strength 1 is moderate: the effect is about seven times its own standard error, were its place and time known
beforehand (at strength 0.5 half of that), and about nine times that of white noise for the whole, which has no
siblings to tell how far its months lean on each other. Where that has no sense (a row a hundredfold too large, a label
that ends) it is what a person would notice in a list of the figures.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import pandas as pd

from .noise import _frame

Truth = Callable[[Any], bool]
ROWS, DAYS = 6000, 1096
MOVES = ("trend", "shift", "divergence")


@dataclass(frozen=True, slots=True, kw_only=True)
class Planted:
    """A table, what tells its story, and what else is true because of it."""

    frame: pd.DataFrame
    tells: Truth
    follows: Truth


def _planted(frame: pd.DataFrame, tells: Truth, column: str = "amount", label: str = "", *more: str) -> Planted:
    """True besides the story: what is said of the planted column's whole, or of the planted labels."""

    def follows(f: Any) -> bool:
        about = column in (f.figures.get("column"), *f.figures.get("columns", ()))
        about = about or (f.measure is not None and any(part.column == column for part in f.measure.parts))
        labels = {own for _, own in f.where.conditions}
        return (about and (not labels or bool(labels & {label, *more}))) or (bool(labels) and labels <= {label, *more})

    return Planted(frame=frame, tells=tells, follows=follows)


def amounts(rng: np.random.Generator, rows: int = ROWS) -> pd.DataFrame:
    frame = _frame(rng, rows)
    return frame.assign(
        amount=np.round(rng.lognormal(4, 0.5, rows), 2),
        score=np.round(rng.gamma(6, 8, rows), 1),
        returned=rng.random(rows) < 0.2,
    )


def _time(frame: pd.DataFrame) -> np.ndarray:
    return (frame["date"] - frame["date"].min()).dt.days.to_numpy() / DAYS


def _times(frame: pd.DataFrame, factor: Any, column: str = "amount") -> pd.DataFrame:
    return frame.assign(**{column: np.round(frame[column] * factor, 2)})


def _is(kinds: tuple[str, ...], label: str = "", direction: str | None = None) -> Truth:
    return lambda f: (
        f.kind in kinds and f.where.label == label and (direction is None or f.direction == direction)
    )  # fmt: skip


# --- what was beside what was planned, and weeks that come again -----------------------------------


def missed_plan(rng: np.random.Generator, strength: float) -> Planted:
    """Since the middle of the second year what was lies below its plan."""
    frame = amounts(rng)
    plan = np.round(rng.lognormal(4.115, 0.1, len(frame)), 2)
    frame = _times(frame, np.where(_time(frame) > 0.5, 1 - 0.1 * strength, 1.0)).assign(amount_plan=plan)
    return _planted(frame, lambda f: f.kind == "plan" and not f.where.conditions and f.direction == "down")


def missed_plan_of_part(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    plan = np.round(rng.lognormal(4.115, 0.1, len(frame)), 2)
    low = (frame["area"] == "East") & (_time(frame) > 0.6)
    frame = _times(frame, np.where(low, 1 - 0.2 * strength, 1.0)).assign(amount_plan=plan)

    def tells(f: Any) -> bool:
        most = f.figures.get("most") or {}
        return f.kind == "plan" and (f.where.label == "East" or most.get("label") == "East")

    return _planted(frame, tells, "amount", "East")


def busy_week(rng: np.random.Generator, strength: float) -> Planted:
    """A week of the year that brings more than those around it, each year."""
    frame = amounts(rng)
    week = frame["date"].dt.isocalendar().week.to_numpy() == 47
    frame = _times(frame, np.where(week, 1 + 1.2 * strength, 1.0))
    return _planted(frame, lambda f: f.kind == "recurrence" and f.figures["week"] == 47)


# --- movements of a part and of the whole --------------------------------------------------------


def growing_part(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["shop"] == "Shop 2").to_numpy()
    frame = _times(frame, np.where(own, np.exp(0.95 * strength * _time(frame)), 1.0))
    return _planted(frame, _is(MOVES, "Shop 2", "up"), "amount", "Shop 2")


def shrinking_part(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["area"] == "North").to_numpy()
    frame = _times(frame, np.where(own, np.exp(-0.75 * strength * _time(frame)), 1.0))
    return _planted(frame, _is(MOVES, "North", "down"), "amount", "North")


def growing_whole(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame = _times(frame, np.exp(0.45 * strength * _time(frame)))
    return _planted(frame, _is(("trend", "shift", "change"), "", "up"))


def falling_whole(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame = _times(frame, np.exp(-0.45 * strength * _time(frame)))
    return _planted(frame, _is(("trend", "shift", "change"), "", "down"))


def rising_average(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame["score"] = np.round(frame["score"] + 7.5 * strength * _time(frame), 1)
    return _planted(frame, _is(("trend", "shift", "change"), "", "up"), "score")


def rising_average_of_part(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["area"] == "South").to_numpy()
    frame["score"] = np.round(frame["score"] + np.where(own, 13 * strength * _time(frame), 0.0), 1)
    return _planted(frame, _is(MOVES, "South", "up"), "score", "South")


def rising_rate_of_part(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["area"] == "East").to_numpy()
    more = own & (rng.random(len(frame)) < 0.38 * strength * _time(frame))
    frame["returned"] = frame["returned"] | more
    return _planted(frame, _is(MOVES, "East", "up"), "returned", "East")


def bent_whole(rng: np.random.Generator, strength: float) -> Planted:
    """Level for 55% of the time, then growing."""
    frame = amounts(rng)
    frame = _times(frame, np.exp(0.75 * strength * np.maximum(0.0, _time(frame) - 0.55) / 0.45))
    return _planted(frame, _is(("trend", "shift", "change"), "", "up"))


def bent_part(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["area"] == "East").to_numpy()
    growth = np.maximum(0.0, _time(frame) - 0.5) / 0.5
    frame = _times(frame, np.where(own, np.exp(1.0 * strength * growth), 1.0))
    return _planted(frame, _is(MOVES, "East", "up"), "amount", "East")


def growing_volume(rng: np.random.Generator, strength: float) -> Planted:
    """One shop has more and more rows; no row is worth more than before."""
    frame = amounts(rng, 9000)
    grown = np.exp(0.95 * strength * (_time(frame) - 1.0))
    keep = (frame["shop"] != "Shop 3") | (rng.random(len(frame)) < grown)
    return _planted(frame[keep].reset_index(drop=True), _is(MOVES, "Shop 3", "up"), "amount", "Shop 3")


def step(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["area"] == "East").to_numpy() & (_time(frame) > 0.66)
    frame = _times(frame, np.where(own, np.exp(0.46 * strength), 1.0))
    return _planted(frame, _is(MOVES, "East", "up"), "amount", "East")


def step_down(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["shop"] == "Shop 1").to_numpy() & (_time(frame) > 0.4)
    frame = _times(frame, np.where(own, np.exp(-0.56 * strength), 1.0))
    return _planted(frame, _is(MOVES, "Shop 1", "down"), "amount", "Shop 1")


def step_whole(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame = _times(frame, np.where(_time(frame) > 0.5, np.exp(0.27 * strength), 1.0))
    return _planted(frame, _is(("trend", "shift", "change"), "", "up"))


def step_average(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["shop"] == "Shop 4").to_numpy() & (_time(frame) > 0.5)
    frame["score"] = np.round(frame["score"] + np.where(own, 9.6 * strength, 0.0), 1)
    return _planted(frame, _is(MOVES, "Shop 4", "up"), "score", "Shop 4")


def step_rate(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    own = (frame["area"] == "South").to_numpy() & (_time(frame) > 0.6)
    frame["returned"] = frame["returned"] | (own & (rng.random(len(frame)) < 0.225 * strength))
    return _planted(frame, _is(MOVES, "South", "up"), "returned", "South")


def recent_drop(rng: np.random.Generator, strength: float) -> Planted:
    """One area loses in the last four months what it had."""
    frame = amounts(rng)
    own = (frame["area"] == "North").to_numpy() & (frame["date"] >= np.datetime64("2024-09-01")).to_numpy()
    frame = _times(frame, np.where(own, np.exp(-0.7 * strength), 1.0))
    return _planted(frame, _is(MOVES, "North", "down"), "amount", "North")


def bad_month(rng: np.random.Generator, strength: float) -> Planted:
    """The last month is far below what is usual."""
    frame = amounts(rng)
    frame = _times(frame, np.where(frame["date"] >= np.datetime64("2024-12-01"), 1 - 0.5 * strength, 1.0))
    tells = lambda f: f.kind in ("change", "spike") and not f.where.conditions and f.direction == "down"  # noqa: E731
    return _planted(frame, tells)


# --- differences ---------------------------------------------------------------------------------


def low_average(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame["score"] = np.round(frame["score"] - 6.4 * strength * (frame["desk"] == "Desk 03"), 1)
    return _planted(frame, _is(("difference",), "Desk 03", "down"), "score", "Desk 03")


def high_average(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame["score"] = np.round(frame["score"] + 4.7 * strength * (frame["shop"] == "Shop 0"), 1)
    return _planted(frame, _is(("difference",), "Shop 0", "up"), "score", "Shop 0")


def high_rate(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    more = (frame["shop"] == "Shop 5").to_numpy() & (rng.random(len(frame)) < 0.125 * strength)
    frame["returned"] = frame["returned"] | more
    return _planted(frame, _is(("difference",), "Shop 5", "up"), "returned", "Shop 5")


def two_differ(rng: np.random.Generator, strength: float) -> Planted:
    """Two desks of twelve are lower."""
    frame = amounts(rng)
    own = frame["desk"].isin(["Desk 03", "Desk 08"])
    frame["score"] = np.round(frame["score"] - 6.8 * strength * own, 1)
    both = ("Desk 03", "Desk 08")
    return _planted(
        frame, lambda f: f.kind == "difference" and f.where.label in both and f.direction == "down", "score", *both
    )


def nested(rng: np.random.Generator, strength: float) -> Planted:
    """A desk within a shop is higher; its shop only because of it."""
    frame = amounts(rng)
    frame["shop"] = "Shop " + (frame["desk"].str[-2:].astype(int) // 3).astype(str)
    frame["score"] = np.round(frame["score"] + 6.8 * strength * (frame["desk"] == "Desk 07"), 1)
    return _planted(frame, _is(("difference",), "Desk 07", "up"), "score", "Desk 07", "Shop 2")


# --- cycles --------------------------------------------------------------------------------------


def season(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    wave = np.cos(2 * np.pi * (frame["date"].dt.month.to_numpy() - 7) / 12)
    frame = _times(frame, 1 + 0.16 * strength * wave)
    return _planted(frame, lambda f: f.kind == "seasonality" and f.figures["cycle"] == "year")


def weekday(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame = _times(frame, np.where(frame["date"].dt.dayofweek == 5, np.exp(0.35 * strength), 1.0))
    return _planted(frame, lambda f: f.kind == "seasonality" and f.figures["cycle"] == "week")


def week_of_month(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame = _times(frame, np.where(frame["date"].dt.day <= 7, np.exp(0.28 * strength), 1.0))
    return _planted(frame, lambda f: f.kind == "seasonality" and f.figures["cycle"] == "month")


# --- rows ----------------------------------------------------------------------------------------


def _wrong(rng: np.random.Generator, turn: Callable[[float], float], count: int = 1) -> Planted:
    frame = amounts(rng)
    rows = np.sort(rng.choice(len(frame), count, replace=False))
    frame.loc[rows, "amount"] = [round(turn(float(frame.loc[row, "amount"])), 2) for row in rows]
    return _planted(frame, lambda f: f.kind == "outlier" and f.figures["row"] - 1 in set(rows.tolist()))


def hundredfold(rng: np.random.Generator, strength: float) -> Planted:
    return _wrong(rng, lambda value: (1 + 99 * strength) * value)


def hundredth(rng: np.random.Generator, strength: float) -> Planted:
    return _wrong(rng, lambda value: value / (1 + 99 * strength))


def two_wrong(rng: np.random.Generator, strength: float) -> Planted:
    return _wrong(rng, lambda value: (1 + 999 * strength) * value, 2)


# --- mix -----------------------------------------------------------------------------------------


def mix_alone(rng: np.random.Generator, strength: float) -> Planted:
    """The rate rises because the shop with many returns grows; no shop changes."""
    frame = amounts(rng, 9000)
    keep = (frame["shop"] != "Shop 0") | (rng.random(len(frame)) < 1 - 0.9 * strength * (1 - _time(frame)))
    frame = frame[keep].reset_index(drop=True)
    frame["returned"] = rng.random(len(frame)) < np.where(frame["shop"] == "Shop 0", 0.6, 0.1)
    return _planted(
        frame,
        lambda f: (
            (f.kind == "difference" and f.where.label == "Shop 0")
            or (f.kind in (*MOVES, "mix") and f.where.label in ("Shop 0", ""))
        ),
        "returned",
        "Shop 0",
    )


def reversal(rng: np.random.Generator, strength: float) -> Planted:
    """The average falls from one year to the next while it rises in every area: the low one has grown."""
    frame = amounts(rng, 9000)
    late = (frame["date"] >= np.datetime64("2024-01-01")).to_numpy()
    low = rng.random(len(frame)) < np.where(late, 0.4 + 0.35 * strength, 0.4)
    frame["area"] = np.where(low, "North", rng.choice(["South", "East"], len(frame)))
    frame["score"] = np.round(frame["score"] + np.where(low, 0.0, 40.0) + 4.0 * strength * late, 1)
    return _planted(
        frame, lambda f: f.kind == "mix" and f.figures["reversal"] and f.direction == "down", "score", "North"
    )


# --- gaps ----------------------------------------------------------------------------------------


def label_ends(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    gone = (frame["shop"] == "Shop 4") & (frame["date"] > np.datetime64("2024-12-31") - int(152 * strength))
    frame.loc[gone, "shop"] = rng.choice(["Shop 0", "Shop 1", "Shop 2"], int(gone.sum()))
    return _planted(
        frame, lambda f: f.kind == "gap" and f.where.label == "Shop 4" and f.figures["what"] == "ended",
        "amount", "Shop 4",
    )  # fmt: skip


def label_begins(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    late = (frame["shop"] == "Shop 4") & (frame["date"] < np.datetime64("2022-01-01") + int(152 * strength))
    frame.loc[late, "shop"] = rng.choice(["Shop 0", "Shop 1", "Shop 2"], int(late.sum()))
    return _planted(
        frame, lambda f: f.kind == "gap" and f.where.label == "Shop 4" and f.figures["what"] == "began",
        "amount", "Shop 4",
    )  # fmt: skip


def label_pauses(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    start = np.datetime64("2023-05-01")
    away = (frame["desk"] == "Desk 05") & (frame["date"] >= start) & (frame["date"] < start + int(122 * strength))
    frame.loc[away, "desk"] = "Desk 06"
    return _planted(frame, _is(("gap",), "Desk 05"), "amount", "Desk 05", "Desk 06")


def unfilled(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame.loc[frame["date"] > np.datetime64("2024-12-31") - int(122 * strength), "score"] = np.nan
    return _planted(frame, lambda f: f.kind == "gap" and f.figures.get("column") == "score", "score")


def no_rows(rng: np.random.Generator, strength: float) -> Planted:
    """Two months are not in the table."""
    frame = amounts(rng)
    start = np.datetime64("2023-03-01")
    kept = (frame["date"] < start) | (frame["date"] >= start + int(61 * strength))
    return _planted(frame[kept].reset_index(drop=True), lambda f: f.kind == "gap" and f.figures["what"] == "no rows")


# --- weeks ---------------------------------------------------------------------------------------


def _week(rng: np.random.Generator, frame: pd.DataFrame) -> tuple[np.datetime64, pd.Series]:
    start = np.datetime64("2022-02-07") + 7 * int(rng.integers(0, 140))
    return start, (frame["date"] >= start) & (frame["date"] < start + 7)


def _in_week(start: np.datetime64) -> Truth:
    return lambda f: f.kind == "spike" and f.period is not None and f.period.start == start


def bad_week(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    start, inside = _week(rng, frame)
    frame["returned"] = frame["returned"] | (inside & (rng.random(len(frame)) < 0.75 * strength))
    return _planted(frame, _in_week(start), "returned")


def few_rows(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    start, inside = _week(rng, frame)
    frame = frame[~(inside & (rng.random(len(frame)) < 0.95 * strength))].reset_index(drop=True)
    return _planted(frame, _in_week(start))


def dear_week(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    start, inside = _week(rng, frame)
    frame = _times(frame, np.where(inside, np.exp(0.75 * strength), 1.0))
    return _planted(frame, _in_week(start))


# --- pairs, ranks, shapes ------------------------------------------------------------------------


def odd_pair(rng: np.random.Generator, strength: float) -> Planted:
    """One shop has far more rows with one area than shop and area would lead one to expect."""
    frame = amounts(rng)
    own = frame[(frame["shop"] == "Shop 1") & (frame["area"] == "South")]
    more = own[rng.random(len(own)) < strength]
    frame = pd.concat([frame, more.assign(amount=rng.permutation(more["amount"]))]).sort_values("date", kind="stable")
    return _planted(
        frame.reset_index(drop=True),
        lambda f: f.kind == "exception" and set(f.where.label.split(", ")) == {"Shop 1", "South"},
        "amount",
        "Shop 1",
        "South",
    )


def missing_pair(rng: np.random.Generator, strength: float) -> Planted:
    """One desk sells little in one area, and elsewhere as others do."""
    frame = amounts(rng, 9000)
    gone = (frame["desk"] == "Desk 04") & (frame["area"] == "East") & (rng.random(len(frame)) < 0.75 * strength)
    return _planted(
        frame[~gone].reset_index(drop=True),
        lambda f: f.kind == "exception" and set(f.where.label.split(", ")) == {"Desk 04", "East"},
        "amount",
        "Desk 04",
        "East",
    )


def together(rng: np.random.Generator, strength: float) -> Planted:
    """Amount and score go together in every shop and week."""
    frame = amounts(rng)
    shared = rng.normal(size=len(frame))
    frame["score"] = np.round(50 + 15 * (0.4 * strength * shared + rng.normal(size=len(frame))), 1)
    frame = _times(frame, np.exp(0.35 * shared))
    return _planted(frame, lambda f: f.kind == "relationship" and f.direction == "up")


def opposite(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame["score"] = np.round(
        60 - 8.5 * strength * (np.log(frame["amount"]) - 4) + rng.normal(0, 15, len(frame)), 1
    )  # fmt: skip
    return _planted(frame, lambda f: f.kind == "relationship" and f.direction == "down")


def concentrated(rng: np.random.Generator, strength: float) -> Planted:
    """Two desks of twelve make about half of all."""
    frame = amounts(rng)
    top = frame["desk"].isin(["Desk 02", "Desk 09"])
    frame = _times(frame, np.where(top, 1 + 3.5 * strength, 1.0))
    return _planted(
        frame, lambda f: f.kind == "concentration" and set(f.figures["top"]) == {"Desk 02", "Desk 09"},
        "amount", "Desk 02", "Desk 09",
    )  # fmt: skip


def leader(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame = _times(frame, np.where(frame["area"] == "South", 1 + 0.3 * strength, 1.0))
    return _planted(
        frame, lambda f: f.kind == "ranking" and f.by == "area" and f.figures["order"][0] == "South", "amount", "South"
    )


def climber(rng: np.random.Generator, strength: float) -> Planted:
    """The last of three areas is the first a year later."""
    frame = amounts(rng)
    late = frame["date"] >= np.datetime64("2024-01-01")
    own = (frame["area"] == "East").to_numpy()
    frame = _times(frame, np.where(own, np.where(late, np.exp(0.55 * strength), np.exp(-0.55 * strength)), 1.0))
    return _planted(
        frame,
        lambda f: (
            (f.kind == "ranking" and f.figures["what"] == "climbed" and f.where.label == "East")
            or (f.kind in MOVES and f.where.label == "East" and f.direction == "up")
        ),
        "amount",
        "East",
    )


def heaps(rng: np.random.Generator, strength: float) -> Planted:
    """A part of the scores is given in tens."""
    frame = amounts(rng)
    rounded = rng.random(len(frame)) < 0.5 * strength
    frame["score"] = np.where(rounded, frame["score"].round(-1), frame["score"])
    return _planted(frame, lambda f: f.kind == "distribution" and f.figures["shape"] == "heaps", "score")


def two_humps(rng: np.random.Generator, strength: float) -> Planted:
    frame = amounts(rng)
    frame["score"] = np.round(
        np.where(rng.random(len(frame)) < 0.4, 40 + 45 * strength, 40) + rng.normal(0, 8, len(frame)), 1
    )
    return _planted(frame, lambda f: f.kind == "distribution" and f.figures["shape"] == "two humps", "score")


def rise_with_months_missing(rng: np.random.Generator, strength: float) -> Planted:
    """The whole grows, and four of its months were never recorded."""
    frame = amounts(rng)
    frame = _times(frame, np.exp(0.45 * strength * _time(frame)))
    months = frame["date"].dt.to_period("M")
    lost = rng.choice(months.unique()[2:-2], 4, replace=False)
    return _planted(frame[~months.isin(lost)].reset_index(drop=True), _is(("trend", "shift", "change"), "", "up"))


def step_with_months_missing(rng: np.random.Generator, strength: float) -> Planted:
    """One shop's step, and three months that nobody recorded."""
    planted = step(rng, strength)
    months = planted.frame["date"].dt.to_period("M")
    lost = rng.choice(months.unique()[2:-2], 3, replace=False)
    frame = planted.frame[~months.isin(lost)].reset_index(drop=True)
    return Planted(frame=frame, tells=planted.tells, follows=planted.follows)


def worse_beside_growth(rng: np.random.Generator, strength: float) -> Planted:
    """Amounts rise, and so do waits: the second story must not hide under the first."""
    frame = amounts(rng)
    frame = _times(frame, np.exp(0.6 * _time(frame)))
    frame["wait_min"] = np.round(rng.gamma(6, 4, len(frame)) + 5 * strength * _time(frame), 1)
    tells = _is(("trend", "shift", "change"), "", "up")
    waits = lambda f: any(part.column == "wait_min" for part in f.measure.parts)  # noqa: E731
    return _planted(frame, lambda f: tells(f) and f.measure is not None and waits(f), "amount")


FAMILIES: dict[str, Callable[[np.random.Generator, float], Planted]] = {
    "growing part": growing_part,
    "shrinking part": shrinking_part,
    "growing whole": growing_whole,
    "falling whole": falling_whole,
    "rising average": rising_average,
    "rising average of a part": rising_average_of_part,
    "rising rate of a part": rising_rate_of_part,
    "bent whole": bent_whole,
    "bent part": bent_part,
    "growing volume": growing_volume,
    "step": step,
    "step down": step_down,
    "step of the whole": step_whole,
    "step of an average": step_average,
    "step of a rate": step_rate,
    "recent drop": recent_drop,
    "bad month": bad_month,
    "low average": low_average,
    "high average": high_average,
    "high rate": high_rate,
    "two differ": two_differ,
    "nested": nested,
    "season": season,
    "weekday": weekday,
    "week of the month": week_of_month,
    "hundredfold": hundredfold,
    "hundredth": hundredth,
    "two wrong rows": two_wrong,
    "mix alone": mix_alone,
    "reversal": reversal,
    "label ends": label_ends,
    "label begins": label_begins,
    "label pauses": label_pauses,
    "unfilled": unfilled,
    "months without rows": no_rows,
    "bad week": bad_week,
    "few rows": few_rows,
    "dear week": dear_week,
    "odd pair": odd_pair,
    "missing pair": missing_pair,
    "going together": together,
    "going opposite": opposite,
    "concentrated": concentrated,
    "leader": leader,
    "climber": climber,
    "heaps": heaps,
    "two humps": two_humps,
    "missed plan": missed_plan,
    "missed plan of a part": missed_plan_of_part,
    "busy week": busy_week,
    "rise, months missing": rise_with_months_missing,
    "step, months missing": step_with_months_missing,
    "worse beside growth": worse_beside_growth,
}
