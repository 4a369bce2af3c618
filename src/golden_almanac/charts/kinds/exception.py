"""Labels of one column within a label of another, against what is expected."""

from __future__ import annotations

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ...text.languages import mark, qualified, say
from ..bars import bars
from ..chart import Chart, source_of


def draw(finding: Finding, survey: Survey) -> Chart:
    """How many times what is expected each label is, within the first of the two."""
    facts, f, measure = finding.candidate.series, finding.figures, finding.measure
    assert measure is not None
    (_, one), (_, other) = finding.where.conditions
    known = [
        (names.label(label), 100 * (value / usual - 1))
        for label, value, usual in zip(facts["labels"], facts["values"], facts["expected"], strict=True)
        if usual > 0
    ]
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "{measure} by {part} · percent above or below what both alone lead one to expect",
            measure=names.capital(
                qualified(names.measure_name(measure), mark("{noun} of {label}"), label=names.label(one))
            ),
            part=names.dimension(f["and_by"]),
        ),
        source=source_of(survey),
        labels=[label for label, _ in known],
        values=[value for _, value in known],
        highlight=names.label(other),
        measure=None,
        by=f["and_by"],
        adds_up=False,
        signed=True,
        percent=True,
    )
