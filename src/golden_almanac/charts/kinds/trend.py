"""A trend: the series with its fitted line, or beside its siblings."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ..chart import Chart
from ..moving_series import between_windows, moving_chart


def draw(finding: Finding, survey: Survey) -> Chart:
    return between_windows(moving_chart(finding, survey), finding, ("observed_start", "observed_end"))
