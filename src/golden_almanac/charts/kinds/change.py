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
    one: Explanation = finding.candidate.series["explanation"]
    chart = draw_change(one, finding.headline)
    if chart is not None:
        return chart
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(names.measure_name(one.measure)),
        source=source_of(survey),
        labels=[dates.period(one.baseline), dates.period(one.period)],
        values=[one.before, one.value],
        highlight=dates.period(one.period),
        measure=one.measure,
        by="period",
        adds_up=False,
        order=False,
    )
