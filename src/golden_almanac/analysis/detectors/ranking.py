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
from ...stats.false_discovery import worth_a_look
from ...support.phrasing import marked
from .block_tests import LEAST_BLOCKS, block_test, test_name
from .lead_by_rows import checked, lead_by_rows
from .standings import Standing, gap_between, standings

#: Labels that may be level with the leader: their gap to it is no surer than this.
_LEVEL_WITH = 0.05


_TEST = (
    "t over periods on the ratio of first to second, times half the number of groups",
    "z of the gap of first to second over rows, times half the number of groups",
)
_LAST_TEST = (
    "t over periods on the ratio of last to the next, times half the number of groups",
    "z of the gap of last to the next over rows, times half the number of groups",
)
_CLIMB_TEST = "t over periods on the ratio to the next, times the number of groups"
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
        "row_share": "share of the rows that are of the first, 0 to 1",
        "rows_pct": "how many more rows it has than the second, in percent",
        "per_row_pct": "how much more it makes per row than the second, in percent",
        "by_rows": "whether it leads by its number of rows alone",
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
        measures = [measure for measure in survey.measures if measure.additive]
        boards = {column.name: standings(survey, measures, column.name) for column in survey.dimensions}
        gaps = [gap for board in boards.values() for one in board.values() for gap in (one.lead, one.last)]
        likely = worth_a_look(sum(gap is not None for gap in gaps))
        candidates = []
        for measure in measures:
            for by, board in boards.items():
                if measure in board:
                    candidates += self._of_board(survey, measure, by, board[measure], likely)
        return candidates

    def _of_board(
        self, survey: Survey, measure: Measure, by: str, standing: Standing, likely: float
    ) -> list[Candidate]:
        """Who leads, who is last by more than chance, and who has climbed past others within a year."""
        labels, candidates = survey.labels(by), []
        if standing.lead is not None:
            candidates.append(self._first(survey, measure, by, standing, *standing.lead, likely))
        if standing.last is not None:
            statistic, p = standing.last
            next_up, last = standing.order[-2:]
            candidates.append(
                Candidate.nothing(
                    self.kind, measure, by, Slice(((by, labels[last]),)), test_name(survey, *_LAST_TEST), statistic, p
                )
                if p > likely
                else self._placed(survey, measure, by, "last", last, next_up, statistic, p, standing.order, {})
            )
        for climb in standing.climbs[:1] if standing.listed else ():
            passed = labels.index(climb["passed"][0])
            candidates.append(
                self._placed(
                    survey, measure, by, "climbed", labels.index(climb["label"]), passed, climb["statistic"],
                    climb["p"], standing.order, climb,
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
            test=test_name(survey, *_LAST_TEST) if what == "last" else _CLIMB_TEST,
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

    def _first(
        self, survey: Survey, measure: Measure, by: str, standing: Standing, statistic: float, p: float, likely: float
    ) -> Candidate:
        if p > likely:
            return Candidate.nothing(self.kind, measure, by, Slice(), test_name(survey, *_TEST), statistic, p)
        labels, order = survey.labels(by), standing.order
        values = measure.factor * survey.cells(by).linear(measure.top)
        first, second = order[0], order[1]
        lead = 100 * float(values[first] / values[second] - 1)
        level = [
            labels[code]
            for code in order[1:4]
            if gap_between(survey, measure, by, first, code)[1] * len(labels) / 2 > _LEVEL_WITH
        ]
        table = survey.table
        where, beside = (within(table, Slice(((by, labels[code]),))) for code in (first, second))
        found = lead_by_rows(survey.cells(by).rows, values, [first], second, measure)
        columns, given = checked(measure, found, where, beside, within(table, Slice()))
        check = Check(
            sql=one_row(
                {
                    "first_value": scalar(measure, where),
                    "second_value": scalar(measure, beside),
                    "total": scalar(measure, within(table, Slice())),
                    **columns,
                }
            ),
            expect={
                "first_value": float(values[first]),
                "second_value": float(values[second]),
                "total": float(values.sum()),
                **given,
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
            "climbers": [{name: climb[name] for name in ("label", "from", "to")} for climb in standing.climbs],
            **found,
        }
        # What leads because nearly all rows are its own leads by being the rule.
        alone = 1 - figures["row_share"] if figures["by_rows"] else 1.0
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=Slice(),
            period=None,
            baseline=None,
            direction=None,
            figures=figures,
            test=test_name(survey, *_TEST),
            statistic=statistic,
            p=p,
            strength=squash(lead, 40.0) * min(1.0, 2 * alone),
            reach=float(values[first] / values.sum()),
            large=lead >= self.floor_pct,
            floor=(self.floor_pct, _UNIT),
            check=check,
            series={"labels": list(figures["order"]), "values": list(figures["values"])},
        )


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
