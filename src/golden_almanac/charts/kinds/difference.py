"""A group beside its siblings, with ranges."""

from __future__ import annotations

from dataclasses import replace

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, measured, source_of
from ..figure_sources import Cell, Source, row_of


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    two = set(facts["labels"]) == {"yes", "no"}
    said = names.answer if two else names.label
    labels, own_label = [said(label) for label in facts["labels"]], said(finding.where.conditions[-1][1])
    chart = bars(
        name=finding.id,
        title=finding.headline,
        source=source_of(survey),
        labels=labels,
        values=facts["values"],
        subtitle=say("{measure} by {part}", measure=measured(measure), part=names.dimension(finding.by)),
        notes=(say("whiskers: 95% range of the gap to the others"),),
        highlight=own_label,
        measure=measure,
        by=finding.by or "group",
        adds_up=False,
        errors=[1.96 * error for error in facts["errors"]],
        reference=(say("the others"), float(facts["rest"])),
    )
    row = row_of(chart.data, own_label)
    if row is None:
        return chart
    own = Cell("value", row)
    # Of two groups the other one is all the others.
    others = {} if len(chart.data) != 2 else {"rest": Source(Cell("value", 1 - row))}
    return replace(chart, sources={"value": Source(own), **others})
