"""Tables for the detectors: one that is noise, one with a story for each of them."""

from __future__ import annotations

import numpy as np
import pandas as pd

import golden_almanac as ga


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


def desks(rows: int = 6000, seed: int = 11) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    return plain(rows, seed).assign(desk=rng.choice([f"Desk {i:02d}" for i in range(12)], rows))


def told(frame: pd.DataFrame, kind: str, **options: object) -> list[ga.Finding]:
    """The findings of one kind, each with a check that agrees, a chart that is legible, rows and words."""
    found = ga.scan(frame, kinds=[kind], **options).findings  # type: ignore[arg-type]
    for one in found:
        assert one.check().agrees, one.headline
        assert one.chart().issues() == []
        assert one.chart().png()
        assert len(one.rows())
        assert one.headline
        assert set(one.figures) <= set(one.definition.figures)
        assert one.detail
    return list(found)


def finding_of(scan: ga.Scan, kind: str, label: str, measure: str) -> ga.Finding:
    """The finding of a kind about a label, told or folded."""
    hits = [
        f
        for f in (*scan.findings, *scan.folded)
        if f.kind == kind and f.where.label == label and f.measure and f.measure.name == measure
    ]
    assert hits, f"{kind} of {label} was not found"
    return hits[0]
