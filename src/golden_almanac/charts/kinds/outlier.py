"""One row beside the next and the usual."""

from __future__ import annotations

from dataclasses import replace

from ...aggregation import Survey
from ...findings import Finding
from ...text import names, numbers
from ...text.languages import mark, qualified, say
from ..bars import bars
from ..chart import Chart, source_of
from ..figure_sources import Cell, Source


def draw(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    value, following, typical = f["value"], f["next_value"], f["typical"]
    nearest = say("next largest") if value >= typical else say("next smallest")
    name = names.column(f["column"])
    if finding.where.conditions:
        name = qualified(name, mark("{noun} of {label}"), label=names.where_label(finding.where))
    row = say("row {row}", row=numbers.whole(f["row"]))
    chart = bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(name),
        source=source_of(survey),
        labels=[row, nearest, say("usual (median)")],
        values=[value, following, typical],
        highlight=row,
        measure=finding.measure if finding.measure and not finding.measure.share else None,
        by="what",
        adds_up=False,
        order=False,
    )
    own, nearest_cell, usual = (Cell("value", place) for place in range(3))
    sources = {
        "value": Source(own),
        "next_value": Source(nearest_cell),
        "typical": Source(usual),
        "times_typical": Source(own / usual),
    }
    return replace(chart, sources=sources)
