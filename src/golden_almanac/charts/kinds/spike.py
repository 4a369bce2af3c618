"""A series with the period marked that is far off."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import names
from ..chart import Chart
from ..figure_sources import Cell, Source
from ..period_line import period_line


def draw(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    who = names.where_label(finding.where) if finding.where.conditions else names.measure_name(measure)
    series = [(names.capital(who), np.asarray(facts["own"]))]
    chart = period_line(finding, survey, facts["timeline"], series, mark=int(facts["place"]))
    value = Cell(str(chart.data.columns[1]), int(facts["place"]))
    return replace(chart, sources={"value": Source(value)})
