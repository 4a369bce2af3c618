"""A change as a candidate finding, for a scan and for a report."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...aggregation import PERIOD, Survey, period_holes
from ...findings import Candidate, Check
from ...findings.checks import one_row, over
from ...findings.finding_kind import FindingKind
from ...findings.scoring import squash
from ...stats.false_discovery import worth_a_look
from ...support.errors import PeriodError
from .compared_periods import resolve_periods
from .explanation import Explanation, explain

KIND = FindingKind(
    name="change",
    what="the last complete period, where it is unusual against earlier ones",
    detector="Change",
    interest=1.0,
    needs_time=True,
    least_periods=2,
    happens="period",
    figures={
        "value": "the measure in the period",
        "baseline": "the measure in the baseline",
        "change": "value minus baseline",
        "change_pct": "the same in percent of the baseline",
        "expected_change": "the change that was to be expected",
        "expected_low": "lower end of the range it was expected in",
        "expected_high": "upper end of the range it was expected in",
        "expected_basis": "what the expectation rests on",
        "rows": "rows in the period",
        "rows_baseline": "rows in the baseline",
        "events": "of a rate of yes and no that rests on few: the rows that are yes",
        "events_of": "of as many rows",
        "cut_days": "days to which both were cut, where the period is unfinished",
        "contributions": "parts of the change by slice or factor; they add up",
        "contribution": "of a slice: what it adds to the change of the whole",
        "share": "of a slice: its contribution as a share of that change",
        "excess": "of a slice: its change beyond what the rest did",
        "how": "of a slice: rate, or mix",
        "status": "of a slice: kept, new or ended",
        "weight_before": "of a slice of an average: its share of the rows (or weights) in the baseline",
        "weight_now": "of a slice of an average: the same in the period",
        "along": "of a slice: the columns of its condition",
    },
)
#: What the surprise of a change is set against.
_TESTS = {
    "expected": "surprise against earlier comparisons of the same kind",
    "forecast": "surprise against the forecast made before",
    "chance": "change against the spread of the rows",
    None: "surprise against earlier comparisons of the same kind",
}


def unusual(survey: Survey) -> list[Candidate]:
    """Candidates: the last complete period against a year ago (or the one before), for each measure."""
    line = survey.timeline
    if line is None or line.complete_count < 2:
        return []
    try:
        now, then, cut = resolve_periods(survey, None, None)
        values = {measure: survey.cells(PERIOD).value(measure) for measure in survey.measures}
        known = [
            measure
            for measure, value in values.items()
            if np.isfinite(value[line.complete][~period_holes(survey)]).all()
        ]
        candidates, likely = [], worth_a_look(len(known))
        for measure in known:
            # Where it came about is worth knowing of what could be told.
            one = candidate(explain(survey, measure, now, then, cut, thorough=False, apart=False))
            if one.p <= likely:
                one = candidate(explain(survey, measure, now, then, cut, thorough=False))
            candidates.append(one)
    except PeriodError:
        return []
    return candidates


def candidate(explanation: Explanation) -> Candidate:
    """The change as a candidate finding; its p-value is that of its surprise."""
    table, line = explanation.survey.table, explanation.survey.timeline
    assert line is not None
    expected = explanation.usual
    check = Check(
        sql=one_row(
            {
                name: over(explanation.measure, table, explanation.where, line.column, span)
                for name, span in (("value", explanation.period), ("baseline", explanation.baseline))
                if not span.foretold
            }
        ),
        # What was foretold, no rows give again.
        expect={"value": explanation.value}
        | ({} if explanation.baseline.foretold else {"baseline": explanation.before}),
    )
    best = explanation.breakdowns[0] if explanation.breakdowns else None
    # The same volume here as in the explanation, where it has one.
    factors = explanation.volume_rate if explanation.factors is None else explanation.factors.parts
    events = explanation.events if explanation.events is not None and explanation.events.few else None
    figures: dict[str, Any] = {
        "value": explanation.value,
        "baseline": explanation.before,
        "change": explanation.change,
        "change_pct": explanation.change_pct,
        "expected_change": None if expected is None else expected.change,
        "expected_low": None if expected is None else expected.low,
        "expected_high": None if expected is None else expected.high,
        "rows": explanation.rows,
        "rows_baseline": explanation.rows_before,
        "expected_basis": None if expected is None else expected.basis,
        "cut_days": explanation.cut_days,
        "events": None if events is None else round(events.yes),
        "events_of": None if events is None else round(events.of),
        "contributions": []
        if best is None
        else [
            {"by": best.by, "where": {best.by: [part.label]}, "change": part.change, "share": part.share}
            for part in best.contributions
        ]
        + [{"by": None, "factor": name, "change": part, "share": None} for name, part in factors],
    }
    surprise = explanation.change - (0.0 if expected is None else expected.change)
    half = abs(expected.high - expected.low) / 2 if expected is not None else abs(explanation.change) or 1.0
    return Candidate(
        kind=KIND,
        measure=explanation.measure,
        by=None,
        where=explanation.where,
        period=explanation.period,
        baseline=explanation.baseline,
        direction="flat" if explanation.change == 0 else "up" if explanation.change > 0 else "down",
        figures=figures,
        test=_TESTS[explanation.judged_by],
        statistic=None,
        p=1.0 if expected is None else expected.p,
        strength=squash(surprise / (half or 1.0), 1.5),
        reach=1.0,
        large=expected is not None,
        check=check,
        series={"time": line.column, "explanation": explanation},
    )
