"""Rankings: who leads and who is last, by more than chance, and who has climbed past others.

The lead is tested over periods (see `blocks`), on the ratio of first to second; that the first was
picked as the largest of k counts k/2 times. A leader no surer than chance is no finding.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Floats
from ...support.phrasing import marked
from .block_tests import LEAST_BLOCKS, block_test, block_test_each
from .tested_series import UNLIKELY

#: Longer lists are no ranking that a person reads.
MOST_LABELS = 60
#: Shorter lists have no last place worth telling.
_LEAST_LISTED = 4
#: The last place is told of a label that makes this part of an even share at least: a kiosk among shops is no laggard.
_LEAST_LAST = 0.25
#: A place gained or lost is looked into only when the gaps before and after are surer than this.
_SURE = 0.01


_TEST = "t over periods on the ratio of first to second, times half the number of groups"
_UNIT = marked("percent ahead of the next")
KIND = FindingKind(
    name="ranking",
    what="who leads by more than chance",
    detector="Ranking",
    interest=0.45,
    weight=0.5,
    floor=Floor(setting="floor_pct", unit=_UNIT),
    told_apart_by="what",
    of_parts=False,
    figures={
        "what": "first, last or climbed",
        "order": "the labels in order",
        "values": "their amounts",
        "shares": "their shares of the whole, 0 to 1",
        "lead_pct": "the gap to the other in percent of the smaller",
        "lead_low_pct": "lower end of its 95% range",
        "lead_high_pct": "upper end of its 95% range",
        "first_value": "amount of the first",
        "second_value": "amount of the second",
        "total": "amount of all",
        "level_with": "labels that may share the place",
        "climbers": "labels that climbed within a year",
        "other": "the label it is told against",
        "share": "share of the whole, 0 to 1",
        "value": "the label's amount",
        "other_value": "the other's amount",
        "from": "place a year before",
        "to": "place now",
        "passed": "labels passed",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranking:
    """`floor_pct`: a lead over the second of fewer percent is not reported."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 5.0

    def detect(self, survey: Survey) -> list[Candidate]:
        candidates = []
        for measure in survey.measures:
            if not measure.additive:
                continue
            for column in survey.dimensions:
                candidate = self._candidate(survey, measure, column.name)
                if candidate is not None:
                    candidates.append(candidate)
                candidates += self._others(survey, measure, column.name)
        return candidates

    def _others(self, survey: Survey, measure: Measure, by: str) -> list[Candidate]:
        """Who is last by more than chance, and who has climbed past others, or been passed, within a year."""
        cells = survey.cells(by)
        values = measure.factor * cells.linear(measure.top)
        labels, told = cells.labels[0], np.flatnonzero(survey.told(by)).tolist()
        if not _LEAST_LISTED <= len(told) <= MOST_LABELS or values.min() < 0 or not values.sum() > 0:
            return []
        order = sorted(told, key=lambda code: (-values[code], code))
        last, next_up = order[-1], order[-2]
        candidates = []
        if values[last] >= _LEAST_LAST * values.sum() / len(told):
            statistic, p = _gap(survey, measure, by, next_up, last)
            p = min(1.0, p * len(told) / 2)
            candidates.append(
                Candidate.nothing(self.kind, measure, by, Slice(((by, labels[last]),)), _TEST, statistic, p)
                if p > UNLIKELY
                else self._placed(survey, measure, by, "last", last, next_up, statistic, p, order, {})
            )
        for climb in _climbs(survey, measure, by, labels, told)[:1]:
            passed = labels.index(climb["passed"][0])
            candidates.append(
                self._placed(
                    survey, measure, by, "climbed", labels.index(climb["label"]), passed, climb["statistic"],
                    climb["p"], order, climb,
                )
            )  # fmt: skip
        return candidates

    def _placed(
        self,
        survey: Survey,
        measure: Measure,
        by: str,
        what: str,
        code: int,
        other: int,
        statistic: float,
        p: float,
        order: list[int],
        climb: dict[str, Any],
    ) -> Candidate:
        line, table = survey.timeline, survey.table
        labels = survey.labels(by)
        where, beside = (Slice(((by, labels[one]),)) for one in (code, other))
        span = climb.get("span")
        amounts = _amounts(survey, measure, by, span)
        period = None if span is None or line is None else line.span(span.start, span.stop - 1)
        time = None if line is None or span is None else line.column
        sums = {"value": where, "other_value": beside, "total": Slice()}
        expect = {"value": amounts[code], "other_value": amounts[other], "total": float(amounts.sum())}
        gap = 100 * abs(amounts[code] / amounts[other] - 1) if amounts[other] else 100.0
        share = float(amounts[code] / amounts.sum())
        told: dict[str, Any] = {name: climb[name] for name in ("from", "to", "passed") if name in climb}
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=where,
            period=period,
            baseline=None,
            direction=None if what == "last" else "up",
            figures={
                "what": what,
                "order": [labels[one] for one in order],
                "values": [float(amounts[one]) for one in order],
                "shares": [float(amounts[one] / amounts.sum()) for one in order],
                "lead_pct": gap,
                "other": labels[other],
                "share": share,
                **expect,
                **told,
            },
            test="t over periods on the ratio to the next, times the number of groups",
            statistic=statistic,
            p=p,
            strength=squash(gap, 60.0 if what == "last" else 20.0),
            reach=share,
            large=gap >= self.floor_pct,
            floor=(self.floor_pct, _UNIT),
            check=Check(
                sql=one_row({name: scalar(measure, within(table, one, time, period)) for name, one in sums.items()}),
                expect={name: float(one) for name, one in expect.items()},
            ),
            series={"time": time} if time is not None else {},
        )

    def _candidate(self, survey: Survey, measure: Measure, by: str) -> Candidate | None:
        cells = survey.cells(by)
        values = measure.factor * cells.linear(measure.top)
        labels = cells.labels[0]
        if not 2 <= len(labels) <= MOST_LABELS or not values.sum() > 0:
            return None
        order = sorted(np.flatnonzero(survey.told(by)).tolist(), key=lambda code: (-values[code], code))
        if len(order) < 2:
            return None
        first, second = order[0], order[1]
        # Among losses a leader may make more than the whole: no share tells that.
        if values[second] <= 0 or values[first] > values.sum():
            return None
        statistic, p = _gap(survey, measure, by, first, second)
        p = min(1.0, p * len(labels) / 2)
        if p > UNLIKELY:
            return Candidate.nothing(self.kind, measure, by, Slice(), _TEST, statistic, p)
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
            "what": "first",
            "lead_pct": lead,
            **_range(survey, measure, by, first, second),
            "first_value": float(values[first]),
            "second_value": float(values[second]),
            "total": float(values.sum()),
            "level_with": level,
            "climbers": [
                {name: climb[name] for name in ("label", "from", "to")}
                for climb in _climbs(survey, measure, by, labels, order)
            ],
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
            test=_TEST,
            statistic=statistic,
            p=p,
            strength=squash(lead, 40.0),
            reach=float(values[first] / values.sum()),
            large=lead >= self.floor_pct,
            floor=(self.floor_pct, _UNIT),
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
    squares = cells.squares(measure.top)
    total = cells.linear(measure.top)
    error = float(np.sqrt(squares[first] + squares[second]))
    z = float(total[first] - total[second]) / error if error else 0.0
    return z, float(2 * ndtr(-abs(z)))


def _gaps(a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """t and p of the gaps between series, both of shape (pairs, periods); in logs where both are positive."""
    positive = np.minimum(a.min(axis=1), b.min(axis=1)) > 0
    gap = a - b
    gap[positive] = np.log(a[positive]) - np.log(b[positive])
    return block_test_each(gap)


def _range(survey: Survey, measure: Measure, by: str, first: int, second: int) -> dict[str, float | None]:
    """The 95% range of the lead in percent, from the spread of the monthly ratios."""
    line = survey.timeline
    if line is None or line.complete_count < LEAST_BLOCKS:
        return {"lead_low_pct": None, "lead_high_pct": None}
    series = survey.cells(by, PERIOD).linear(measure.top)[:, line.complete]
    if min(series[first].min(), series[second].min()) <= 0:
        return {"lead_low_pct": None, "lead_high_pct": None}
    gap = np.log(series[first] / series[second])
    t, _ = block_test(gap, np.ones(gap.size))
    error = float(gap.mean()) / t if t and np.isfinite(t) else 0.0
    ends = sorted(float(gap.mean()) + side * 1.96 * error for side in (-1, 1))
    return {f"lead_{name}_pct": 100 * float(np.expm1(end)) for name, end in zip(("low", "high"), ends, strict=True)}


def _amounts(survey: Survey, measure: Measure, by: str, span: slice | None) -> Floats:
    """The measure by label, over the whole table or over a span of places."""
    if span is None:
        return np.asarray(measure.factor * survey.cells(by).linear(measure.top))
    return np.asarray(measure.factor * survey.cells(by, PERIOD).linear(measure.top)[:, span].sum(axis=1))


def _climbs(
    survey: Survey, measure: Measure, by: str, labels: tuple[str | None, ...], told: list[int]
) -> list[dict[str, Any]]:
    """What has climbed; kept with the survey, since whoever leads is told with it. See `_found_climbs`."""
    key = ("climbs", measure.name, by)
    if key not in survey._cache:
        survey._cache[key] = _found_climbs(survey, measure, by, labels, told)
    return survey._cache[key]  # type: ignore[no-any-return]


def _found_climbs(
    survey: Survey, measure: Measure, by: str, labels: tuple[str | None, ...], told: list[int]
) -> list[dict[str, Any]]:
    """Labels that stand higher in the last year than in the one before, both gaps to those passed beyond chance.

    The less sure of the gaps before and after counts, and pays for all pairs that could have changed places.
    """
    line = survey.timeline
    if line is None:
        return []
    cycle = max(line.grain.per_year, LEAST_BLOCKS)
    stop = line.complete.stop
    if line.complete_count < 2 * cycle or (line.grain.per_year > cycle):
        return []
    now, before = slice(stop - cycle, stop), slice(stop - 2 * cycle, stop - cycle)
    series = survey.cells(by, PERIOD).linear(measure.top)
    orders = [sorted(told, key=lambda code: (-series[code, span].sum(), code)) for span in (before, now)]
    places = [{code: place for place, code in enumerate(order)} for order in orders]
    passing = [
        (code, other)
        for code in orders[1]
        for other in orders[0][: places[0][code]]
        if places[1][other] > places[1][code]
    ]
    if not passing:
        return []
    pairs = len(told) * (len(told) - 1) / 2
    up, down = (np.array(side) for side in zip(*passing, strict=True))
    gaps = [_gaps(series[down, before], series[up, before]), _gaps(series[up, now], series[down, now])]
    later = gaps[1][1] > gaps[0][1]
    ts, ps = (np.where(later, gaps[1][which], gaps[0][which]) for which in (0, 1))
    moved = []
    for place, code in enumerate(orders[1]):
        was = places[0][code]
        sure = [
            (min(1.0, float(ps[at]) * pairs), float(ts[at]), other)
            for at, (climber, other) in enumerate(passing)
            if climber == code
        ]
        # Told are those it has passed for certain.
        clear = [one for one in sure if one[0] <= _SURE]
        if clear:
            p, t, _ = min(clear, key=lambda one: (one[0], one[2]))
            past = [labels[other] for _, _, other in sorted(clear, key=lambda one: (one[0], one[2]))]
            moved.append(
                {
                    "label": labels[code], "from": was + 1, "to": place + 1, "passed": past, "p": p, "statistic": t,
                    "span": now,
                }
            )  # fmt: skip
    return sorted(moved, key=lambda one: (one["p"], str(one["label"])))
