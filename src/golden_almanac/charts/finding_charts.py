"""From a finding, or an explained change, to its chart."""

from __future__ import annotations

from dataclasses import replace
from importlib import import_module
from typing import Any

import numpy as np

from ..aggregation import Survey
from ..findings import Finding
from ..text.languages import leaves
from .chart import Chart
from .figure_sources import that_give


def draw(finding: Finding, survey: Survey) -> Chart:
    """The chart that shows what the finding's headline says."""
    survey = finding.candidate.survey or survey
    chart: Chart = import_module(f".kinds.{finding.kind}", __package__).draw(finding, survey)
    figures = leaves(finding.figures)
    return replace(
        chart, figures=tuple(_figures(dict(finding.figures))), sources=that_give(chart.sources, chart.data, figures.get)
    )


def _figures(figure: Any) -> list[float]:
    """Every number among the figures of a finding, and how many there are of a list."""
    if isinstance(figure, bool) or figure is None:
        return []
    if isinstance(figure, dict):
        return [number for inner in figure.values() for number in _figures(inner)]
    if isinstance(figure, list | tuple):
        return [float(len(figure)), *(number for inner in figure for number in _figures(inner))]
    return [float(figure)] if isinstance(figure, int | float) and np.isfinite(figure) else []
