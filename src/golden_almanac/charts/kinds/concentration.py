"""The labels in order, those that make most lit."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure, f = finding.candidate.series, finding.measure, finding.figures
    assert measure is not None
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "{measure} by {part}", measure=names.capital(names.measure_name(measure)), part=names.dimension(finding.by)
        )
        + say(" · whole table"),
        source=source_of(survey),
        labels=[names.label(label) for label in facts["labels"]],
        values=facts["values"],
        highlight=[names.label(label) for label in f["top"]],
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
        most=12,
    )
