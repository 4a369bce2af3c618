"""A trend: the series with its fitted line, or beside its siblings."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ..chart import Chart
from ..moving_series import moving_chart


def draw(finding: Finding, survey: Survey) -> Chart:
    return moving_chart(finding, survey)
