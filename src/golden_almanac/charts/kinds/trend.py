"""A trend: the series with its fitted line, or beside its siblings."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ..chart import Chart
from ..figure_sources import Cell, Source, change
from ..line_chart import FITTED
from ..moving_series import moving_chart


def draw(finding: Finding, survey: Survey) -> Chart:
    chart = moving_chart(finding, survey)
    data = chart.data
    if FITTED not in data:
        return chart
    known = np.flatnonzero(np.isfinite(data[FITTED].to_numpy(dtype=float)))
    start, end = (Cell(FITTED, int(known[place])) for place in (0, -1))
    sources = {
        "start": Source(start),
        "end": Source(end),
        "change": change(end, start, data, percent=False),
        "change_pct": change(end, start, data),
    }
    return replace(chart, sources=sources)
