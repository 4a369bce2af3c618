"""What a plain script finds: an uncorrected test per group, and whatever is more than three deviations off.

For every measure and label: the mean against the rest (z), the slope of the monthly figures (t), the first half of the
months against the second (t), the last year's rank against the year before; months and rows with |z| > 3; p < 0.05.
"""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import numpy as np
import pandas as pd

_NAMES = ("shop", "area", "desk")
_Z, _P = 3.0, 0.05


def claims(frame: pd.DataFrame) -> list[Any]:
    """The claims of the script, with as much of a finding's face as the truth needs."""
    from scipy import stats

    found: list[Any] = []
    month = frame["date"].dt.to_period("M") if "date" in frame else None
    numbers = [
        name for name in frame.columns if pd.api.types.is_numeric_dtype(frame[name]) or frame[name].dtype == bool
    ]
    for name in numbers:
        values = frame[name].astype(float)
        flag = frame[name].dtype == bool
        if not flag and values.std() > 0:
            z = (values - values.mean()) / values.std()
            found += [_claim("outlier", name, figures={"row": int(row) + 1}) for row in np.flatnonzero(np.abs(z) > _Z)]
        for by in ("", *(column for column in _NAMES if column in frame)):
            labels = [""] if not by else sorted(frame[by].dropna().unique())
            for label in labels:
                own = np.ones(len(frame), dtype=bool) if not by else (frame[by] == label).to_numpy()
                if by:
                    p = stats.ttest_ind(values[own], values[~own], equal_var=False, nan_policy="omit").pvalue
                    if p < _P:
                        up = values[own].mean() > values[~own].mean()
                        found.append(_claim("difference", name, label, by, "up" if up else "down"))
                if month is None:
                    continue
                grouped = values[own].groupby(month[own])
                series = (grouped.mean() if flag or name == "score" else grouped.sum()).dropna().to_numpy()
                if series.size < 8:
                    continue
                line = stats.linregress(np.arange(series.size), series)
                if line.pvalue < _P:
                    found.append(_claim("trend", name, label, by, "up" if line.slope > 0 else "down"))
                half = series.size // 2
                p = stats.ttest_ind(series[:half], series[half:]).pvalue
                if p < _P:
                    up = series[half:].mean() > series[:half].mean()
                    found.append(_claim("shift", name, label, by, "up" if up else "down"))
                if not by:
                    last = (series[-1] - series.mean()) / series.std() if series.std() > 0 else 0.0
                    if abs(last) > _Z:
                        found.append(_claim("change", name, direction="up" if last > 0 else "down"))
                    weekly = values.groupby(frame["date"].dt.to_period("W-SUN"))
                    weeks = weekly.mean() if flag else weekly.sum()
                    z = (weeks - weeks.mean()) / weeks.std()
                    for span in weeks.index[np.abs(z) > _Z]:
                        start = np.datetime64(span.start_time.date())
                        found.append(_claim("spike", name, period=SimpleNamespace(start=start)))
    return found


def _claim(
    kind: str,
    column: str,
    label: str = "",
    by: str = "",
    direction: str | None = None,
    figures: dict[str, Any] | None = None,
    period: Any = None,
) -> Any:
    return SimpleNamespace(
        kind=kind,
        by=by or None,
        where=SimpleNamespace(label=label, conditions=((by, label),) if by else ()),
        direction=direction,
        figures=figures or {},
        period=period,
        measure=SimpleNamespace(additive=True, parts=(SimpleNamespace(column=column),)),
    )
