"""A week that stands out every year: the series by weeks, those weeks shaded."""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import dates, names
from ...text.languages import say
from ..chart import Chart, source_of
from ..line_chart import line
from ..series_labels import line_alternative, per_grain


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    line_of, offset = facts["timeline"], int(facts["offset"])
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{per_grain(line_of, measure)} · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=measure,
        offset=offset,
        series=[(names.capital(names.measure_name(measure)), np.asarray(facts["own"]))],
        spans=[(offset + place, offset + place + 1) for place in facts["places"]],
        notes=(say("shaded: these weeks"),),
        alternative=line_alternative(finding),
    )
