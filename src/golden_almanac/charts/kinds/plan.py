"""What was beside its plan, over time."""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ..chart import Chart
from ..period_line import period_line


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure, line_of = finding.candidate.series, finding.measure, survey.timeline
    assert measure is not None
    assert line_of is not None
    label = names.where_label(finding.where) or names.capital(names.measure_name(measure))
    both = [(label, np.asarray(facts["own"])), (names.label(finding.figures["plan"]), np.asarray(facts["plan"]))]
    step = (int(facts["place"]), 0.0, 0.0) if facts["place"] else None
    return period_line(finding, survey, line_of, both, step=step)
