"""A ranking: the labels in order."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ...text import dates, names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of


def draw(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    labels = [names.label(label) for label in f["order"]]
    measure = finding.measure
    assert measure is not None
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(names.measure_name(measure))
        + (say(" · whole table") if finding.period is None else f" · {dates.span_of(finding.period)}"),
        source=source_of(survey),
        labels=labels,
        values=f["values"],
        highlight=names.where_label(finding.where) or labels[0],
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
    )
