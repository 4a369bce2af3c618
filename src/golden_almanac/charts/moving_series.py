"""A series over time beside its siblings, as trends, steps and departures are drawn."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ..aggregation import PERIOD, Survey
from ..findings import Finding
from ..text import dates, names
from ..text.languages import say
from .chart import Chart, source_of
from .figure_sources import Source, change, mean, rows_within
from .line_chart import line
from .marks import with_notes
from .series_labels import line_alternative, per_grain

#: Letters that fit beside the end of a line.
_BESIDE_LINE = 19


def moving_chart(finding: Finding, survey: Survey, step: int | None = None) -> Chart:
    facts, measure, line_of = finding.candidate.series, finding.measure, survey.timeline
    assert line_of is not None
    assert measure is not None
    own, rest = np.asarray(facts["own"]), None if facts["rest"] is None else np.asarray(facts["rest"])
    label = names.where_label(finding.where) or names.capital(names.measure_name(measure))
    series: list[tuple[str, Any]] = [(label, own)]
    indexed = False
    unit = per_grain(line_of, measure)
    if rest is not None:
        others = names.the_others(finding.by, None, facts.get("besides", ()), finding.where)
        # There is room for so much beside the line; the headline says which others.
        beside = str(others) if len(others) <= _BESIDE_LINE else say("the others")
        if measure.additive:
            # Against a rest many times larger only the paths compare: both start at 100.
            base = min(12, max(1, own.size // 3))
            series = [(name, 100 * each / np.nanmean(each[:base])) for name, each in ((label, own), (beside, rest))]
            unit, indexed = say("{measure}, average of the first {n} = 100", measure=unit, n=base), True
        else:
            series.append((beside, rest))
    fit = None
    if rest is None and "fit" in facts:
        fit = facts["fit"]
    partial = None
    if rest is None and line_of.partial_last and measure.additive:
        partial = float(survey.cells(PERIOD).value(measure)[-1])
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    subtitle = with_notes(f"{unit} · {span}", say("dashed: fitted line") if fit is not None else "")
    unfinished = line_of.calendar.holding(line_of.grain, line_of.last_day)
    hollow = say("hollow: {month}, unfinished", month=dates.period(unfinished))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=subtitle,
        notes=() if partial is None else (hollow,),
        source=source_of(survey),
        timeline=line_of,
        measure=measure,
        offset=int(facts["offset"]),
        series=series,
        fit=fit,
        step=None if step is None else (step, 0.0, 0.0),
        partial=partial,
        indexed=indexed,
        alternative=line_alternative(finding),
    )


def between_windows(chart: Chart, finding: Finding, names_of: tuple[str, str]) -> Chart:
    """The chart with the cells that a movement's figures come from: the averages of the two windows, called by
    `names_of`, and what is between them, of the slice and of its siblings."""
    data, windows = chart.data, finding.figures["windows"]
    sources: dict[str, Source] = {}
    for whose, column in zip(("", "rest_"), data.columns[1:], strict=False):
        before, after = (mean(str(column), *rows_within(data, windows[side])) for side in ("before", "after"))
        sources |= {
            whose + names_of[0]: Source(before),
            whose + names_of[1]: Source(after),
            f"{whose}change": change(after, before, data, percent=False),
            f"{whose}change_pct": change(after, before, data),
        }
    return replace(chart, sources=sources)
