"""A finding's series over time, period by period, as spikes, recurrences and plans are drawn."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..aggregation import Survey
from ..findings import Finding
from ..tables import Timeline
from ..text import dates
from .chart import Chart, source_of
from .line_chart import line
from .series_labels import line_alternative, per_grain


def period_line(
    finding: Finding, survey: Survey, timeline: Timeline, series: Sequence[tuple[str, Any]], **more: Any
) -> Chart:
    """A finding's series over the complete periods of a timeline; `more` are the marks that `line` takes."""
    measure = finding.measure
    assert measure is not None
    span = dates.span_of(timeline.span(timeline.complete.start, timeline.complete.stop - 1))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{per_grain(timeline, measure)} · {span}",
        source=source_of(survey),
        timeline=timeline,
        measure=measure,
        offset=int(finding.candidate.series["offset"]),
        series=series,
        alternative=line_alternative(finding),
        **more,
    )
