"""A parent that moves only because a part of it does."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.hierarchies import parent_codes
from ...findings import Finding
from ...stats.series_batch import Pooled
from ...support.phrasing import phrased
from ..detectors.difference import weighted_without
from ..detectors.peer_series import all_series
from ..detectors.tested_series import MIRROR
from ..known_series import known_series
from .remainders import Deciding, Remainder, decided, goes_on, label, moving, put_together

#: A slice makes most of what a whole is off by when it makes so much of it.
_MOST_OF_IT = 0.6


def rests_on_a_part(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Pairs (parent, child): the parent's claim is gone once the child's rows are left out of it."""
    asked: list[tuple[Finding, Finding]] = []
    jobs: list[Deciding[bool]] = []
    for child in findings:
        if child.by is None or child.measure is None or child.candidate.implied_by is not None:
            continue
        for whole in findings:
            same = whole.by is None and whole.measure == child.measure and whole.direction == child.direction
            if same:
                asked.append((whole, child))
                jobs.append(_whole_rests_on(survey, whole, child))
        above = survey.parents.get(child.by)
        while above is not None:
            for parent in findings:
                same = parent.by == above and parent.measure == child.measure and parent.direction == child.direction
                if same and (moving(parent, child) or parent.kind == child.kind == "difference"):
                    asked.append((parent, child))
                    jobs.append(_rests_on(survey, parent, child))
            above = survey.parents.get(above)
    rests = decided(survey, jobs)
    return [
        (parent.id, child.id, phrased("follows from a part of it"))
        for (parent, child), resting in zip(asked, rests, strict=True)
        if resting
    ]


def _spike_rests_on(whole: Finding, child: Finding) -> bool:
    """True when most of what the whole was off by in a period is what a slice was off by then."""
    if not (whole.kind == child.kind == "spike") or whole.period != child.period or child.measure is None:
        return False
    off, own = float(whole.figures["change"]), float(child.figures["change"])
    if not child.measure.additive:
        own *= child.figures["n"] / max(1, whole.figures["n"])
    return own >= _MOST_OF_IT * off if off > 0 else own <= _MOST_OF_IT * off


def _whole_rests_on(survey: Survey, whole: Finding, child: Finding) -> Deciding[bool]:
    """True when the whole no longer moves once the rows of a slice are left out of it."""
    if not moving(whole, child):
        return _spike_rests_on(whole, child)
    assert child.by is not None
    assert child.measure is not None
    cells = survey.cells(child.by, PERIOD)
    code = cells.labels[0].index(label(child.where))
    others = [c for c in range(len(cells.labels[0])) if c != code]
    span = known_series(survey).span
    each = cells.linear(child.measure.top)[others][:, span]
    top = each.sum(axis=0)
    if child.measure.bottom:
        bottom = cells.linear(child.measure.bottom)[others][:, span].sum(axis=0)
        if (bottom == 0).any():
            return False
        y = top / bottom
    else:
        y = np.log(top) if top.min() > 0 else top
    if not np.ptp(y) > 0:
        return True
    sign = 1.0 if whole.direction == "up" else -1.0
    # The rest remembers as the whole does.
    memory = [one.path.phi for one in all_series(survey) if one.by is None and one.measure == child.measure]
    shared = Pooled(phi=memory[0], belief=0.0) if memory else None
    if (yield [Remainder(y, memory=shared)]) == [sign]:
        return False
    if not child.measure.additive:
        return True
    # The rest may only look calm because one part of it falls while another rises.
    return -sign not in (yield [Remainder(np.log(own), memory=shared) for own in each if own.min() > 0])


def _rests_on(survey: Survey, parent: Finding, child: Finding) -> Deciding[bool]:
    assert child.by is not None
    assert parent.by is not None
    assert child.measure is not None
    up = parent_codes(survey.table, child.by, parent.by)
    code = survey.labels(parent.by).index(label(parent.where))
    inside = survey.labels(child.by).index(label(child.where))
    if up[inside] != code:
        return False
    if child.kind == "difference":
        return weighted_without(survey, child.measure, parent.by, code, child.by, inside) > MIRROR
    rest_of_parent = [int(c) for c in np.flatnonzero(up == code) if c != inside]
    outside = [int(c) for c in range(up.size) if up[c] != code]
    if not rest_of_parent or not outside:
        return True
    merged = put_together(survey, child.measure, child.by, rest_of_parent, outside)
    if merged is None:
        return False
    return not (yield from goes_on(parent, merged))
