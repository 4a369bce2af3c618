"""The rows, or filled values, over time."""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...aggregation.measures import ROWS
from ...findings import Finding
from ...tables import Timeline
from ...text import dates, names
from ...text.languages import mark, qualified, say
from ..chart import Chart, source_of
from ..line_chart import line
from ..series_labels import line_alternative


def draw(finding: Finding, survey: Survey) -> Chart:
    facts = finding.candidate.series
    line_of: Timeline = facts.get("timeline", survey.timeline)
    column = finding.figures.get("column")
    rows = names.noun("rows")
    if column:
        rows = qualified(rows, mark("{noun} with {name}"), name=names.column(column))
    elif finding.where.conditions:
        rows = qualified(rows, mark("{noun} of {label}"), label=names.where_label(finding.where))
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=say("{measure} per {grain}", measure=names.capital(rows), grain=names.grain_noun(line_of.grain.value))
        + f" · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=ROWS,
        offset=int(facts["offset"]),
        series=[(names.where_label(finding.where) or names.column(column or "rows"), np.asarray(facts["own"]))],
        alternative=line_alternative(finding),
    )
