"""One row beside the next and the usual."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ...text import names, numbers
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of


def draw(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    value, following, typical = f["value"], f["next_value"], f["typical"]
    nearest = say("next largest") if value >= typical else say("next smallest")
    inside = say(" of {label}", label=names.where_label(finding.where)) if finding.where.conditions else ""
    row = say("row {row}", row=numbers.whole(f["row"]))
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(names.column(f["column"])) + inside,
        source=source_of(survey),
        labels=[row, nearest, say("usual (median)")],
        values=[value, following, typical],
        highlight=row,
        measure=finding.measure if finding.measure and not finding.measure.share else None,
        by="what",
        adds_up=False,
        order=False,
    )
