"""The last change: by slice, factor or, where neither tells, the two periods."""

from __future__ import annotations

from ...aggregation import Survey
from ...analysis.change import Explanation
from ...findings import Finding
from ...text import dates, names
from ..bars import bars
from ..change_charts import draw_change
from ..chart import Chart, source_of


def draw(finding: Finding, survey: Survey) -> Chart:
    explanation: Explanation = finding.candidate.series["explanation"]
    chart = draw_change(explanation, finding.headline)
    if chart is not None:
        return chart
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(names.measure_name(explanation.measure)),
        source=source_of(survey),
        labels=[dates.period(explanation.baseline), dates.period(explanation.period)],
        values=[explanation.before, explanation.value],
        highlight=dates.period(explanation.period),
        measure=explanation.measure,
        by="period",
        adds_up=False,
        order=False,
    )
