"""Steps and outliers that a scan tells of a measure, taken out of its past before it is carried on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ...aggregation import Survey
from ...findings import Finding, Note
from ...tables import Period
from ..scan_pipeline import scan
from .outlook import Disturbance, Floats
from .past import Past


def without_disturbances(past: Past, events: Sequence[Note]) -> tuple[Past, tuple[Disturbance, ...]]:
    """The past without its outliers, carried over its steps; and what they were. What a known event made is none."""
    found = [one for one in _told(past) if one.kind != "spike" or not _is_known(one, events)]
    if not found:
        return past, ()
    whole = past.values[0]
    factor = np.ones(past.size)
    moved: list[Disturbance] = []
    for finding in found:
        span = finding.period
        place = None if span is None else _place(span, past)
        if span is None or place is None:
            continue
        made = _of(finding, span, place, whole, factor, past)
        if made is not None:
            moved.append(made)
    tops = past.tops * factor
    return replace(past, tops=tops), tuple(moved)


def _is_known(finding: Finding, events: Sequence[Note]) -> bool:
    span = finding.period
    return span is not None and any(event.start <= span.end and span.start <= event.end for event in events)


def _place(span: Period, past: Past) -> int | None:
    """The place of the period in which a span begins."""
    return next((place for place, one in enumerate(past.periods) if one.start <= span.start <= one.end), None)


def _of(finding: Finding, span: Period, place: int, whole: Floats, factor: Floats, past: Past) -> Disturbance | None:
    figures = finding.figures
    if finding.kind == "spike":
        value, expected = float(figures["value"]), float(figures["expected"])
        shorter = span.days < past.periods[place].days
        if shorter and past.measure.kind != "additive":
            return None
        # A week that was out of line, within a month: the month would have been more by as much.
        usual = whole[place] + (expected - value) if shorter else expected
        if whole[place] == 0 or usual / whole[place] <= 0:
            return None
        factor[place] *= usual / whole[place]
        return Disturbance(kind="outlier", period=span, value=value, expected=expected)
    before, after = float(figures["before"]), float(figures["after"])
    if before == 0 or after / before <= 0 or place == 0:
        return None
    factor[:place] *= after / before
    return Disturbance(kind="step", period=past.periods[place], value=after, expected=before)


def _told(past: Past) -> Sequence[Finding]:
    """Findings of the whole, the earliest first."""
    survey = past.survey
    alone = Survey(
        table=survey.table,
        measures=(past.measure,),
        dimensions=(),
        timeline=survey.timeline,
        notes=survey.notes,
        source=survey.source,
        least_rows=survey.least_rows,
    )
    told = scan(alone, kinds=("shift", "spike")).findings
    return sorted(
        (one for one in told if one.period is not None and not one.where.conditions),
        key=lambda one: "" if one.period is None else str(one.period.start),
    )
