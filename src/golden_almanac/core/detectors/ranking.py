"""Rankings: who leads, by more than chance, and who has climbed or fallen.

The lead is tested over periods (see `blocks`), on the ratio of first to second; that the first was
picked as the largest of k counts k/2 times. A leader no surer than chance is no finding.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ..cells import PERIOD, Survey
from ..findings import Candidate, Check, Slice
from ..findings.checks import one_row, scalar, within
from ..findings.scoring import squash
from ..measures import Measure
from ..series.regression import Floats
from .blocks import LEAST_BLOCKS, block_test

#: Longer lists are no ranking that a person reads.
MOST_LABELS = 60
#: A place gained or lost is told only when the gaps before and after are surer than this.
_SURE = 0.001


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranking:
    """`floor_pct`: a lead over the second of fewer percent is not reported."""

    kind: ClassVar[str] = "ranking"
    needs_time: ClassVar[bool] = False
    least_periods: ClassVar[int] = 0
    floor_pct: float = 5.0

    def detect(self, survey: Survey) -> list[Candidate]:
        found = []
        for measure in survey.measures:
            if not measure.additive:
                continue
            for column in survey.dimensions:
                candidate = self._candidate(survey, measure, column.name)
                if candidate is not None:
                    found.append(candidate)
        return found

    def _candidate(self, survey: Survey, measure: Measure, by: str) -> Candidate | None:
        cells = survey.cells(by)
        values = measure.factor * cells.linear(measure.top)
        labels = cells.labels[0]
        if not 2 <= len(labels) <= MOST_LABELS or values.min() < 0 or not values.sum() > 0:
            return None
        order = sorted(np.flatnonzero(survey.told(by)).tolist(), key=lambda code: (-values[code], code))
        if len(order) < 2:
            return None
        first, second = order[0], order[1]
        if values[second] <= 0:
            return None
        statistic, p = _gap(survey, measure, by, first, second)
        p = min(1.0, p * len(labels) / 2)
        lead = 100 * float(values[first] / values[second] - 1)
        level = [
            labels[code] for code in order[1:4] if _gap(survey, measure, by, first, code)[1] * len(labels) / 2 > 0.05
        ]
        where = Slice(((by, labels[first]),))
        table = survey.table
        check = Check(
            sql=one_row(
                {
                    "first_value": scalar(measure, within(table, where)),
                    "second_value": scalar(measure, within(table, Slice(((by, labels[second]),)))),
                    "total": scalar(measure, within(table, Slice())),
                }
            ),
            expect={
                "first_value": float(values[first]),
                "second_value": float(values[second]),
                "total": float(values.sum()),
            },
        )
        figures: dict[str, Any] = {
            "order": [labels[code] for code in order],
            "values": [float(values[code]) for code in order],
            "shares": [float(values[code] / values.sum()) for code in order],
            "lead_pct": lead,
            "first_value": float(values[first]),
            "second_value": float(values[second]),
            "total": float(values.sum()),
            "level_with": level,
            "climbers": _climbers(survey, measure, by, labels),
        }
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=Slice(),
            period=None,
            baseline=None,
            direction=None,
            figures=figures,
            test="t over periods on the ratio of first to second, times half the number of groups",
            statistic=statistic,
            p=p,
            strength=squash(lead, 40.0),
            reach=float(values[first] / values.sum()),
            large=lead >= self.floor_pct,
            check=check,
            series={"labels": list(figures["order"]), "values": list(figures["values"])},
        )


def _gap(
    survey: Survey, measure: Measure, by: str, first: int, second: int, span: slice | None = None
) -> tuple[float, float]:
    line = survey.timeline
    if line is not None and line.complete_count >= LEAST_BLOCKS:
        cells = survey.cells(by, PERIOD)
        series = cells.linear(measure.top)[:, line.complete if span is None else span]
        a, b = series[first], series[second]
        gap: Floats = np.log(a) - np.log(b) if min(a.min(), b.min()) > 0 else a - b
        return block_test(gap, np.ones(gap.size))
    # Without periods: sums of rows that come at random have the variance of their squares.
    from scipy.special import ndtr

    cells = survey.cells(by)
    squares = sum(
        (weight * weight * (cells.rows if not part.sql else cells.parts[part].squares) for weight, part in measure.top),
        np.zeros(cells.rows.shape),
    )
    total = cells.linear(measure.top)
    error = float(np.sqrt(squares[first] + squares[second]))
    z = float(total[first] - total[second]) / error if error else 0.0
    return z, float(2 * ndtr(-abs(z)))


def _climbers(survey: Survey, measure: Measure, by: str, labels: tuple[str | None, ...]) -> list[dict[str, Any]]:
    """Labels whose place differs between the last year and the one before, both gaps beyond chance."""
    line = survey.timeline
    if line is None:
        return []
    cycle = max(line.grain.per_year, LEAST_BLOCKS)
    stop = line.complete.stop
    if line.complete_count < 2 * cycle:
        return []
    now, before = slice(stop - cycle, stop), slice(stop - 2 * cycle, stop - cycle)
    series = survey.cells(by, PERIOD).linear(measure.top)
    orders = [sorted(range(len(labels)), key=lambda code: (-series[code, span].sum(), code)) for span in (before, now)]
    moved = []
    for place, code in enumerate(orders[1]):
        was = orders[0].index(code)
        if place >= was:
            continue
        passed = [other for other in orders[0][place:was] if orders[1].index(other) > place]
        if passed and all(
            _gap(survey, measure, by, other, code, before)[1] < _SURE
            and _gap(survey, measure, by, code, other, now)[1] < _SURE
            for other in passed
        ):
            moved.append({"label": labels[code], "from": was + 1, "to": place + 1})
    return moved
