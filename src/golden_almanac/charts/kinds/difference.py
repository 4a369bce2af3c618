"""A group beside its siblings, with ranges."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, measured, source_of


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    labels = [names.label(label) for label in facts["labels"]]
    return bars(
        name=finding.id,
        title=finding.headline,
        source=source_of(survey),
        labels=labels,
        values=facts["values"],
        subtitle=say("{measure} by {part}", measure=measured(measure), part=names.dimension(finding.by))
        + say(" · whiskers: 95% range"),
        highlight=names.where_label(finding.where),
        measure=measure,
        by=finding.by or "group",
        adds_up=False,
        errors=[1.96 * error for error in facts["errors"]],
        reference=(say("the others"), float(facts["rest"])),
    )
