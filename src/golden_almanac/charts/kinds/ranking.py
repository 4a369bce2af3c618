"""A ranking: the labels in order."""

from __future__ import annotations

from dataclasses import replace

from ...aggregation import Survey
from ...findings import Finding
from ...text import dates, names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of
from ..figure_sources import Cell, Source, largest, row_of, total
from ..marks import with_notes


def draw(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    labels = [names.label(label) for label in f["order"]]
    measure = finding.measure
    assert measure is not None
    chart = bars(
        name=finding.id,
        title=finding.headline,
        subtitle=with_notes(
            names.capital(names.measure_name(measure)),
            say("whole table") if finding.period is None else dates.span_of(finding.period),
        ),
        source=source_of(survey),
        labels=labels,
        values=f["values"],
        highlight=_own(finding),
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
    )
    return replace(chart, sources=_sources(finding, chart))


def _own(finding: Finding) -> str:
    """The label that is told of, as the bars have it: without its column."""
    return names.label(finding.where.conditions[-1][1] if finding.where.conditions else finding.figures["order"][0])


def _sources(finding: Finding, chart: Chart) -> dict[str, Source]:
    """Shares and leads from the bars of the labels."""
    f, data = finding.figures, chart.data
    every = total("value", 0, len(data))
    rows = [row_of(data, names.label(label)) for label in f["order"]]
    sources: dict[str, Source] = {}
    for place, row in enumerate(rows):
        if row is not None:
            cell, most = Cell("value", row), largest("value", 0, len(data))
            first = ((cell, most),) if place == 0 and f["what"] == "first" else ()
            sources |= {f"values[{place}]": Source(cell), f"shares[{place}]": Source(cell / every, first)}
    if f["what"] == "climbed" or not f.get("other"):
        return sources
    own = row_of(data, _own(finding))
    other = row_of(data, names.label(f["other"]))
    if own is not None and other is not None:
        last, above = Cell("value", own), Cell("value", other)
        sources |= {"share": Source(last / every), "lead_pct": Source(100 * ((above - last) / above), ((above, last),))}
    return sources
