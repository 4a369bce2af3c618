"""What was beside its plan, over time."""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import dates, names
from ..chart import Chart, source_of
from ..line_chart import line
from ..series_labels import line_alternative, per_grain


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure, line_of = finding.candidate.series, finding.measure, survey.timeline
    assert measure is not None
    assert line_of is not None
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    label = names.where_label(finding.where) or names.capital(names.measure_name(measure))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{per_grain(line_of, measure)} · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=measure,
        offset=int(facts["offset"]),
        series=[(label, np.asarray(facts["own"])), (str(finding.figures["plan"]), np.asarray(facts["plan"]))],
        step=(int(facts["place"]), 0.0, 0.0) if facts["place"] else None,
        alternative=line_alternative(finding),
    )
