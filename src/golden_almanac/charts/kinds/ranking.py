"""A ranking: the labels in order."""

from __future__ import annotations

from dataclasses import replace

from ...aggregation import Survey
from ...findings import Finding
from ...text import dates, names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of
from ..figure_sources import Cell, Source, change, largest, row_of, total
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
        highlight=names.where_label(finding.where) or labels[0],
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
    )
    return replace(chart, sources=_sources(finding, chart))


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
    own = row_of(data, names.where_label(finding.where) or names.label(f["order"][0]))
    other = row_of(data, names.label(f["other"]))
    if own is not None and other is not None:
        leader, follower = Cell("value", own), Cell("value", other)
        sources |= {"share": Source(leader / every), "lead_pct": change(leader, follower, data)}
    return sources
