"""A season: each part of the cycle against its average."""

from __future__ import annotations

from dataclasses import replace
from functools import reduce
from operator import add

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...text import dates, names
from ...text.languages import say
from ..bars import bars
from ..chart import Chart, source_of
from ..figure_sources import Cell, Source, Term, largest, row_of


def draw(finding: Finding, survey: Survey) -> Chart:
    facts = finding.candidate.series
    peak = finding.figures["peak"]
    profile, labels = (np.asarray(facts["profile"]), [_cycle_label(str(name)) for name in facts["names"]])
    chart = bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say("Against the average of the {cycle}, percent", cycle=names.grain_noun(finding.figures["cycle"]))
        + (f" · {dates.span_of(finding.period)}" if finding.period else ""),
        source=source_of(survey),
        labels=labels,
        values=[100 * (value - 1) for value in profile],
        highlight=[_cycle_label(name) for name in ([peak] if peak else finding.figures["peak_span"])] or None,
        measure=None,
        by=say("part of the {cycle}", cycle=names.grain_noun(finding.figures["cycle"])),
        adds_up=False,
        order=False,
        signed=True,
        most=12,
        percent=True,
    )
    sources = {}
    for name in ("peak", "trough"):
        led = finding.figures.get(name)
        together = finding.figures[f"{name}_span"] if led is None else [led]
        rows = [row_of(chart.data, _cycle_label(one)) for one in together]
        cells: list[Term] = [Cell("value", row) for row in rows if row is not None]
        if cells and len(cells) == len(rows):
            most = largest("value", 0, len(chart.data))
            holds = ((cells[0], most),) if name == "peak" and led is not None else ()
            sources[f"{name}_pct"] = Source(1 / len(cells) * reduce(add, cells), holds)
    return replace(chart, sources=sources)


def _cycle_label(name: str) -> str:
    """A part of a cycle as a label: "July", "First quarter", "Second week"."""
    said = dates.calendar_name(name)
    return names.capital(said.removeprefix("the ").removesuffix(" of the month"))
