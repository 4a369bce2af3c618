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

#: Periods around an outlier, and on both sides of a step, that a part is set against.
_AROUND, _YEAR = 3, 12


def without_disturbances(past: Past, events: Sequence[Note]) -> tuple[Past, tuple[Disturbance, ...]]:
    """The past without its outliers, carried over its steps; and what they were. What a known event made is none."""
    found = [one for one in _told(past) if one.kind != "spike" or not _is_known(one, events)]
    if not found:
        return past, ()
    factor = np.ones_like(past.tops)
    moved: list[Disturbance] = []
    for finding in found:
        span = finding.period
        place = None if span is None else _place(span, past)
        if span is None or place is None:
            continue
        made = _of(finding, span, place, past)
        if made is None:
            continue
        told, times = made
        moved.append(told)
        places = slice(place, place + 1) if told.kind == "outlier" else slice(0, place)
        for row in range(factor.shape[0]):
            # What moved the whole need not have moved each part.
            if row == 0 or _is_nearer(past.values[row], place, times, told.kind):
                factor[row, places] *= times
    return replace(past, tops=past.tops * factor), tuple(moved)


def _is_nearer(values: Floats, place: int, times: float, kind: str) -> bool:
    """Whether a part comes nearer to what it is around it, or after it, where it is moved as the whole is."""
    if kind == "outlier":
        own = values[place]
        beside = np.median(np.delete(values[max(0, place - _AROUND) : place + _AROUND + 1], min(place, _AROUND)))
    else:
        own, beside = np.median(values[max(0, place - _YEAR) : place]), np.median(values[place : place + _YEAR])
    return bool(abs(times * own - beside) < abs(own - beside))


def _is_known(finding: Finding, events: Sequence[Note]) -> bool:
    span = finding.period
    return span is not None and any(event.start <= span.end and span.start <= event.end for event in events)


def _place(span: Period, past: Past) -> int | None:
    """The place of the period in which a span begins."""
    return next((place for place, one in enumerate(past.periods) if one.start <= span.start <= one.end), None)


def _of(finding: Finding, span: Period, place: int, past: Past) -> tuple[Disturbance, float] | None:
    """What a finding tells, and by how much the past is to be moved for it; None where it cannot be."""
    figures, whole = finding.figures, past.values[0]
    if finding.kind == "spike":
        value, expected = float(figures["value"]), float(figures["expected"])
        shorter = span.days < past.periods[place].days
        if shorter and past.measure.kind != "additive":
            return None
        # A week that was out of line, within a month: the month would have been more by as much.
        usual = whole[place] + (expected - value) if shorter else expected
        if whole[place] == 0 or usual / whole[place] <= 0:
            return None
        told = Disturbance(kind="outlier", period=span, value=value, expected=expected)
        return told, float(usual / whole[place])
    before, after = float(figures["before"]), float(figures["after"])
    if before == 0 or after / before <= 0 or place == 0:
        return None
    return Disturbance(kind="step", period=past.periods[place], value=after, expected=before), after / before


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
