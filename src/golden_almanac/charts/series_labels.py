"""What charts of a series over time say of themselves."""

from __future__ import annotations

from ..aggregation.measures import Measure
from ..findings import Finding
from ..tables import Timeline
from ..text import names
from ..text.languages import say
from .chart import described, measured


def line_alternative(finding: Finding) -> str:
    return described("Line chart", f"{finding.headline} {finding.detail}")


def per_grain(line_of: Timeline, measure: Measure) -> str:
    """What a line over time measures: "Revenue (EUR) per month"."""
    return say("{measure} per {grain}", measure=measured(measure), grain=names.grain_noun(line_of.grain.value))
