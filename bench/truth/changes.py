"""Changes with a known reason between two quarters (or months): `make(rng) -> Story`, and whether it is told first.

Three years of 60,000 rows, 5,000 a quarter. What is planted moves the whole by about five times its usual movement: a
change that is usual is told as that, and no slice is named.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pandas as pd

from .noise import _frame

ROWS, PER_DAY = 60_000, 55


@dataclass(frozen=True, slots=True, kw_only=True)
class Story:
    """A table, what is asked of it, and whether an explanation tells the reason first."""

    frame: pd.DataFrame
    told: Callable[[Any], bool]
    measure: str = "sum(amount)"
    asked: dict[str, str] = field(default_factory=lambda: {"period": "2024-Q4", "baseline": "year-ago"})
    #: Statements of absence that would be wrong: even, usual.
    wrong: tuple[str, ...] = ()


def _slices(*wanted: dict[str, str]) -> Callable[[Any], bool]:
    """Whether exactly these slices are named."""
    return lambda one: (
        sorted(sorted(dict(part.where.conditions).items()) for part in one.named)
        == sorted(sorted(slice_.items()) for slice_ in wanted)
    )


def _amounts(rng: np.random.Generator) -> pd.DataFrame:
    frame = _frame(rng, ROWS)
    return frame.assign(
        amount=np.round(rng.lognormal(4, 0.5, ROWS), 2), score=np.round(rng.gamma(6, 8, ROWS), 1)
    )  # fmt: skip


def _late(frame: pd.DataFrame) -> np.ndarray:
    return (frame["date"] >= np.datetime64("2024-10-01")).to_numpy()


def _times(frame: pd.DataFrame, which: np.ndarray, factor: float) -> pd.DataFrame:
    return frame.assign(amount=np.round(np.where(which, factor, 1.0) * frame["amount"], 2))


def one_slice(rng: np.random.Generator) -> Story:
    frame = _amounts(rng)
    own = (frame["shop"] == "Shop 2").to_numpy() & _late(frame)
    return Story(frame=_times(frame, own, 0.3), told=_slices({"shop": "Shop 2"}))


def two_dimensions(rng: np.random.Generator) -> Story:
    frame = _amounts(rng)
    own = ((frame["shop"] == "Shop 1") & (frame["area"] == "South")).to_numpy() & _late(frame)
    return Story(frame=_times(frame, own, 3.5), told=_slices({"shop": "Shop 1", "area": "South"}))


def three_slices(rng: np.random.Generator) -> Story:
    frame = _amounts(rng)
    own = frame["desk"].isin(["Desk 03", "Desk 08", "Desk 10"]).to_numpy() & _late(frame)
    return Story(
        frame=_times(frame, own, 0.5), told=_slices(*({"desk": name} for name in ("Desk 03", "Desk 08", "Desk 10")))
    )


def offsets(rng: np.random.Generator) -> Story:
    """One shop gains what another loses; the total does not move by it."""
    frame = _amounts(rng)
    late = _late(frame)
    up, down = ((frame["shop"] == name).to_numpy() & late for name in ("Shop 1", "Shop 4"))
    frame = _times(_times(frame, up, 1.65), down, 0.35)
    right = _slices({"shop": "Shop 1"}, {"shop": "Shop 4"})
    return Story(frame=frame, told=lambda one: one.verdict == "offset" and right(one))


def pure_mix(rng: np.random.Generator) -> Story:
    """A shop with high scores gets twice its share of the rows; no shop's score moves."""
    frame = _amounts(rng)
    moved = _late(frame) & (frame["shop"] != "Shop 0").to_numpy() & (rng.random(ROWS) < 0.2)
    frame["shop"] = np.where(moved, "Shop 0", frame["shop"])
    frame["score"] = np.round(rng.gamma(6, 8, ROWS) + 25 * (frame["shop"] == "Shop 0"), 1)
    right = _slices({"shop": "Shop 0"})
    return Story(
        frame=frame, measure="avg(score)", told=lambda one: right(one) and one.named[0].how == one.verdict == "mix"
    )


def pure_rate(rng: np.random.Generator) -> Story:
    frame = _amounts(rng)
    own = (frame["shop"] == "Shop 3").to_numpy() & _late(frame)
    frame["score"] = np.round(frame["score"] - 18 * own, 1)
    right = _slices({"shop": "Shop 3"})
    return Story(frame=frame, measure="avg(score)", told=lambda one: right(one) and one.named[0].how == "rate")


def _priced(rng: np.random.Generator) -> pd.DataFrame:
    """As many rows each day, units and prices; what is paid is their product."""
    days = np.repeat(np.arange(1096), PER_DAY)
    count = days.size
    price = np.array([4.0, 6.5, 9.0, 12.5, 20.0, 30.0])
    shop = rng.integers(0, 6, count)
    return pd.DataFrame(
        {
            "date": np.datetime64("2022-01-01") + days.astype("timedelta64[D]"),
            "shop": np.array([f"Shop {i}" for i in range(6)])[shop],
            "area": rng.choice(["North", "South", "East"], count),
            "units": rng.poisson(5, count) + 1,
            "price": np.round(price[shop] * rng.lognormal(0, 0.05, count), 2),
        }
    )


def _paid(frame: pd.DataFrame) -> pd.DataFrame:
    return frame.assign(amount=np.round(frame["units"] * frame["price"], 2))


def pure_price(rng: np.random.Generator) -> Story:
    frame = _priced(rng)
    frame["price"] = np.round(frame["price"] * np.where(_late(frame), 1.25, 1.0), 2)
    return Story(frame=_paid(frame), told=lambda one: one.through == "price" and not one.named)


def pure_volume(rng: np.random.Generator) -> Story:
    frame = _priced(rng)
    frame["units"] = frame["units"] + np.where(_late(frame), rng.poisson(2, len(frame)), 0)
    return Story(frame=_paid(frame), told=lambda one: one.through == "volume" and not one.named)


def even(rng: np.random.Generator) -> Story:
    frame = _amounts(rng)
    return Story(frame=_times(frame, _late(frame), 0.75), told=lambda one: one.verdict == "even")


def new_and_ended(rng: np.random.Generator) -> Story:
    """One shop closes, another opens with half its rows."""
    frame = _amounts(rng)
    late = _late(frame)
    own = (frame["shop"] == "Shop 5").to_numpy() & late
    opens = own & (rng.random(ROWS) < 0.5)
    frame["shop"] = np.where(opens, "Shop 9", frame["shop"])
    frame = frame[~(own & ~opens)].reset_index(drop=True)
    right = _slices({"shop": "Shop 5"}, {"shop": "Shop 9"})
    return Story(
        frame=frame, told=lambda one: right(one) and {part.status for part in one.named} == {"new", "ended"}
    )  # fmt: skip


def only_seasonal(rng: np.random.Generator) -> Story:
    """July against April, in a business with a summer; one shop has twice the summer of the others."""
    frame = _amounts(rng)
    wave = np.cos(2 * np.pi * (frame["date"].dt.month.to_numpy() - 7) / 12)
    height = np.where(frame["shop"] == "Shop 0", 0.5, 0.25)
    frame["amount"] = np.round(frame["amount"] * (1 + height * wave), 2)
    return Story(
        frame=frame,
        asked={"period": "2024-07", "baseline": "2024-04"},
        told=lambda one: one.verdict in ("season", "usual") and not one.named,
    )


FAMILIES: dict[str, Callable[[np.random.Generator], Story]] = {
    "one slice": one_slice,
    "a slice of two dimensions": two_dimensions,
    "three slices": three_slices,
    "offsets, flat total": offsets,
    "mix alone": pure_mix,
    "rate alone": pure_rate,
    "price alone": pure_price,
    "volume alone": pure_volume,
    "even across the board": even,
    "new and ended": new_and_ended,
    "only seasonal": only_seasonal,
}
