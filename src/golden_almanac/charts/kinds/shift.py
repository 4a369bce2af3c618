"""A step: the series with the step marked, or beside its siblings."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ..chart import Chart
from ..moving_series import between_windows, moving_chart


def draw(finding: Finding, survey: Survey) -> Chart:
    chart = moving_chart(finding, survey, step=int(finding.candidate.series["place"]))
    return between_windows(chart, finding, ("before", "after"))
