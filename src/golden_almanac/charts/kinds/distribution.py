"""The values of a column as a histogram."""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import names, numbers
from ...text.languages import say
from ..chart import Chart, described, source_of
from ..histogram import histogram


def draw(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    marks = {"two humps": ["first_hump", "second_hump"], "long tail": ["median", "top_from"], "heaps": []}[f["shape"]]
    return histogram(
        name=finding.id,
        title=finding.headline,
        subtitle=say("Rows by {name}", name=names.column(f["column"])),
        source=source_of(survey),
        values=np.asarray(finding.candidate.series["values"]),
        measure=finding.measure,
        marks=[(float(f[name]), _mark(name, numbers.amount(f[name], finding.measure))) for name in marks],
        alternative=described("Histogram", f"{finding.headline} {finding.detail}"),
    )


def _mark(name: str, value: str) -> str:
    if name == "median":
        return say("median {value}", value=value)
    return say("top tenth from {value}", value=value) if name == "top_from" else value
