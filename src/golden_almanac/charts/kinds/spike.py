"""A series with the period marked that is far off."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import dates, names
from ..chart import Chart, source_of
from ..figure_sources import Cell, Source
from ..line_chart import line
from ..series_labels import line_alternative, per_grain


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    line_of = facts["timeline"]
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    chart = line(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{per_grain(line_of, measure)} · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=measure,
        offset=int(facts["offset"]),
        series=[(names.capital(names.measure_name(measure)), np.asarray(facts["own"]))],
        mark=int(facts["place"]),
        alternative=line_alternative(finding),
    )
    value = Cell(str(chart.data.columns[1]), int(facts["place"]))
    return replace(chart, sources={"value": Source(value)})
