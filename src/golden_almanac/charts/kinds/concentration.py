"""The labels in order, those that make most lit."""

from __future__ import annotations

from dataclasses import replace
from functools import reduce

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of
from ..figure_sources import Cell, Source, Term, row_of, total
from ..marks import with_notes


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure, f = finding.candidate.series, finding.measure, finding.figures
    assert measure is not None
    chart = bars(
        name=finding.id,
        title=finding.headline,
        subtitle=with_notes(
            say(
                "{measure} by {part}",
                measure=names.capital(names.measure_name(measure)),
                part=names.dimension(finding.by),
            ),
            say("whole table"),
        ),
        source=source_of(survey),
        labels=[names.label(label) for label in facts["labels"]],
        values=facts["values"],
        highlight=[names.label(label) for label in f["top"]],
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
        most=12,
    )
    data = chart.data
    rows = [row_of(data, names.label(label)) for label in f["top"]]
    every = total("value", 0, len(data))
    together: list[Term] = [Cell("value", row) for row in rows if row is not None]
    if len(together) < len(rows):
        return chart
    own = reduce(Term.__add__, together)
    return replace(chart, sources={"share": Source(own / every), "top_value": Source(own), "total": Source(every)})
