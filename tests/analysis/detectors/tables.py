"""Tables for the detectors: one that is noise, one with a story for each of them."""

from __future__ import annotations

import numpy as np
import pandas as pd


def plain(rows: int = 1500, seed: int = 7) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    day = np.sort(rng.integers(0, 1096, rows))
    return pd.DataFrame(
        {
            "date": np.datetime64("2022-01-01") + day.astype("timedelta64[D]"),
            "shop": rng.choice(["Ash", "Birch", "Cedar", "Elm"], rows),
            "area": rng.choice(["North", "South"], rows),
            "amount": np.round(rng.gamma(9, 10, rows), 2),
            "rate": np.round(rng.normal(50, 8, rows), 1),
        }
    )


def planted(seed: int = 7) -> pd.DataFrame:
    """Ash grows, Birch steps up, Cedar's rate is low, August is high, one amount is a hundredfold."""
    frame = plain(6000, seed)
    t = (frame["date"] - frame["date"].min()).dt.days.to_numpy() / 1096
    shop = frame["shop"].to_numpy()
    season = 1 + 0.3 * np.cos(2 * np.pi * (frame["date"].dt.month.to_numpy() - 8) / 12)
    factor = season * np.where(shop == "Ash", np.exp(0.9 * t), 1.0) * np.where((shop == "Birch") & (t > 0.6), 1.6, 1.0)
    frame["amount"] = np.round(frame["amount"] * factor, 2)
    frame["rate"] = np.round(frame["rate"] - 4 * (shop == "Cedar"), 1)
    frame.loc[3210, "amount"] = round(100 * frame.loc[3210, "amount"], 2)
    return frame
