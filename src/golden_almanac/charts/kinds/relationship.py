"""Two columns: averages of groups of equally many rows."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ...text.languages import say
from ..binned_dots import dots
from ..chart import Chart, described, source_of


def draw(finding: Finding, survey: Survey) -> Chart:
    facts = finding.candidate.series
    first, second = finding.figures["columns"]
    return dots(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "Averages of {second} in {n} groups of equally many rows, by {first}",
            second=names.column(second),
            n=len(facts["x"]),
            first=names.column(first),
        ),
        source=source_of(survey),
        x=facts["x"],
        y=facts["y"],
        columns=(first, second),
        alternative=described("Dot chart", f"{finding.headline} {finding.detail}"),
    )
