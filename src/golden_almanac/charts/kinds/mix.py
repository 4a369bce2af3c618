"""How the average moved within each part, beside how the whole moved."""

from __future__ import annotations

from dataclasses import replace

from ...aggregation import Survey
from ...findings import Finding
from ...text import consistent_rounding, dates, names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of
from ..figure_sources import Cell, Source


def draw(finding: Finding, survey: Survey) -> Chart:
    """How the average moved within each part, beside how the whole moved."""
    f, measure = finding.figures, finding.measure
    assert measure is not None
    assert finding.period is not None
    assert finding.baseline is not None
    known = [one for one in f["parts"] if one["change"] is not None][:8]
    whole = say("all together")
    # Weights add up to all of it, those that are not drawn among them.
    before, after = (
        consistent_rounding.shares([one[side] for one in f["parts"]]) for side in ("share_before", "share")
    )
    weights = dict(zip((one["label"] for one in f["parts"]), zip(before, after, strict=True), strict=True))
    shares = [f"{names.label(one['label'])} ({' → '.join(weights[one['label']])})" for one in known]
    chart = bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "Change of {measure} by {part} (share of all before → after) · {span}, on a year before",
            measure=names.measure_name(measure),
            part=names.dimension(finding.by),
            span=dates.span_of(finding.period),
        ),
        source=source_of(survey),
        labels=[whole, *shares],
        values=[f["change"], *(one["change"] for one in known)],
        highlight=whole,
        measure=measure,
        by=finding.by or "group",
        adds_up=False,
        order=False,
        signed=True,
    )
    return replace(chart, sources={"change": Source(Cell("value", 0))})
