"""Logarithms and squares of other columns say what those say."""

from __future__ import annotations

import numpy as np
import pandas as pd

import golden_almanac as ga


def _houses() -> pd.DataFrame:
    rng = np.random.default_rng(1)
    price, age = rng.gamma(9, 9_000, 300).round(), rng.integers(0, 60, 300)
    frame = pd.DataFrame(
        {
            "price": price, "lprice": np.log(price), "age": age, "agesq": age.astype(float) ** 2,
            "age2": age.astype(float) ** 2, "lage": np.log(np.where(age > 0, age, np.nan)),
            "near": rng.choice(["yes", "no"], 300), "land": rng.gamma(3, 900, 300).round(),
            "lland": rng.normal(8, 1, 300), "rooms2": rng.integers(1, 9, 300), "rooms": rng.integers(1, 9, 300),
        }
    )  # fmt: skip
    return frame.assign(log_land=np.log(frame["land"]), ln_rooms=np.log(frame["rooms"]), land_sq=frame["land"] ** 2)


def test_what_is_made_from_another_column_is_no_measure() -> None:
    table = ga.read(_houses())
    ignored = {column.name: str(column.because) for column in table.columns if column.role.value == "ignored"}
    assert set(ignored) == {"lprice", "agesq", "age2", "lage", "log_land", "ln_rooms", "land_sq"}
    assert "logarithm of 'price'" in ignored["lprice"]
    assert "square of 'age'" in ignored["agesq"]


def test_who_names_it_gets_it() -> None:
    found = ga.scan(ga.read(_houses()), measures=["avg(lprice)"])
    assert found.to_dict()["request"]["measures"] == ["avg(lprice)"]
    assert ga.read(_houses(), natures={"lprice": "reading"}).column("lprice").role.value == "measure"
