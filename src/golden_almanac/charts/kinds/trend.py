"""A trend: the series with its fitted line, or beside its siblings."""

from __future__ import annotations

from dataclasses import replace

from ...aggregation import Survey
from ...findings import Finding
from ..chart import Chart
from ..figure_sources import Source, change, mean, rows_within
from ..moving_series import moving_chart


def draw(finding: Finding, survey: Survey) -> Chart:
    chart = moving_chart(finding, survey)
    data, windows = chart.data, finding.figures["windows"]
    sources: dict[str, Source] = {}
    for name, column in zip(("", "rest_"), data.columns[1:], strict=False):
        before, after = (mean(str(column), *rows_within(data, windows[side])) for side in ("before", "after"))
        sources |= {
            f"{name}observed_start": Source(before),
            f"{name}observed_end": Source(after),
            f"{name}change": change(after, before, data, percent=False),
            f"{name}change_pct": change(after, before, data),
        }
    return replace(chart, sources=sources)
