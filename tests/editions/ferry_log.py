"""A small log of crossings, and briefs of it, for the tests of editions."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pandas as pd

BRIEF = """title = "Crossings, monthly"
source = "crossings.csv"
measures = ["sum(fare)", "avg(wait_min)"]
by = ["quay"]
formats = ["html"]
"""


def crossings(last: str = "2025-06-30", step: float = 1.0) -> pd.DataFrame:
    """Two and a half years of days at two quays: South grows in 2024; `step` is that of its last month."""
    days = pd.date_range("2023-01-01", "2025-06-30")
    random = np.random.default_rng(7)
    frames = []
    for quay, level in (("North", 40.0), ("South", 60.0)):
        swing = 1 + 0.3 * np.sin(2 * np.pi * (days.day_of_year - 80) / 365)
        grown = np.where((quay == "South") & (days >= "2024-06-01"), 1.35, 1.0)
        fare = level * swing * grown * random.gamma(60, 1 / 60, days.size)
        fare = np.where((days >= "2025-06-01") & (quay == "South"), fare * step, fare)
        late = random.gamma(4, 1.5, days.size) + (2.0 if quay == "South" else 0.0)
        frames.append(pd.DataFrame({"date": days, "quay": quay, "fare": fare.round(2), "wait_min": late.round(1)}))
    whole = pd.concat(frames).sort_values("date", kind="stable")
    return whole[whole["date"] <= last]


def desk(folder: Path, brief: str = BRIEF, last: str = "2025-06-30", step: float = 1.0) -> Path:
    """The log and a brief in a folder; the brief's path."""
    folder.mkdir(parents=True, exist_ok=True)
    crossings(last, step).to_csv(folder / "crossings.csv", index=False)
    path = folder / "monthly.toml"
    path.write_text(brief, encoding="utf-8")
    return path


def tree(folder: Path) -> dict[str, bytes]:
    return {
        path.relative_to(folder).as_posix(): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()
    }
