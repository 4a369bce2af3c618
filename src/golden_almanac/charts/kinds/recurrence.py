"""A week that stands out every year: the series by weeks, those weeks shaded."""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ...text.languages import say
from ..chart import Chart
from ..period_line import period_line


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    places = [int(facts["offset"]) + place for place in facts["places"]]
    return period_line(
        finding,
        survey,
        facts["timeline"],
        [(names.capital(names.measure_name(measure)), np.asarray(facts["own"]))],
        spans=[(place, place + 1) for place in places],
        notes=(say("shaded: these weeks"),),
    )
