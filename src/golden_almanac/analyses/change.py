"""`ga.explain_change`: why a measure changed between two periods."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from .. import words
from ..charts import draw_change
from ..core.changes import Explanation, candidate, explain, resolve_periods
from ..core.findings import Candidate, Finding, Score, Slice, Test
from ..core.findings.checks import one_row, scalar, within
from ..core.findings.finding import Check, plain
from ..core.findings.scoring import score
from ..core.measures import lead_measure
from ..core.progress import told_to
from ..core.scanning import caveats, survey_of
from .heads import caveat_sentences, request_head, table_head
from .reading import read
from .report import Report

if TYPE_CHECKING:
    import pandas as pd


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Change:
    """A change explained. `findings` holds the change first, then each slice that stands out."""

    explanation: Explanation
    findings: tuple[Finding, ...]

    @property
    def headline(self) -> str:
        return self.findings[0].headline

    def summary(self) -> words.Summary:
        """What changed, against what was usual, where, and through what."""
        return words.change_summary(self.findings[0], self.explanation)

    def caveats(self) -> list[str]:
        """What to bear in mind: unfinished periods that are part of what was compared, rows without a date."""
        return caveat_sentences(_relevant(self.explanation))

    def to_frame(self) -> pd.DataFrame:
        """One row a label of each dimension: by, label, baseline, value, change, share_of_change, status
        and, for averages and ratios, rate and mix. Within a dimension `change` adds up to the change."""
        import pandas as pd

        return pd.DataFrame(
            [
                {
                    "by": one.by,
                    "label": part.label,
                    "baseline": part.baseline,
                    "value": part.value,
                    "change": part.change,
                    "share_of_change": part.share,
                    "status": part.status,
                    "rate": part.rate,
                    "mix": part.mix,
                }
                for one in self.explanation.breakdowns
                for part in one.contributions
            ],
            columns=["by", "label", "baseline", "value", "change", "share_of_change", "status", "rate", "mix"],
        )

    def to_dict(self) -> dict[str, Any]:
        """The change in JSON: the head, the findings and the explanation."""
        one = self.explanation
        survey = one.survey
        return {
            "format": "golden-almanac/findings/1",
            "table": table_head(survey),
            "request": request_head(
                survey, measure=one.measure.name, period=one.period.to_dict(), baseline=one.baseline.to_dict()
            ),
            "readiness": [problem.to_dict() for problem in survey.table.problems],
            "caveats": self.caveats(),
            "findings": [finding.to_dict() for finding in self.findings],
            "explanation": plain(_explained(one)),
            "summary": self.summary().to_dict(),
        }

    def chart(self, by: str | None = None) -> Any:
        """Contribution bars by a dimension, the most telling one by default."""
        chart = draw_change(self.explanation, self.headline, by)
        if chart is None:
            raise LookupError("there is no column to break the change down by, so there is nothing to draw")
        return chart

    def report(self, title: str | None = None) -> Report:
        """The change as a report, ready to publish."""
        from ..reports import change_report

        model = change_report(self.explanation.survey, self.summary(), self.findings[0], self.explanation, title)
        return Report(model=model, data=self.to_dict, frame=self.to_frame)

    def __repr__(self) -> str:
        frame = self.to_frame().drop(columns=["rate", "mix"] if self.explanation.measure.additive else [])
        return f"Change: {self.summary()}\n\n{frame.head(20).to_string(index=False)}"


def explain_change(
    source: Any,
    measure: str | None = None,
    *,
    period: str | None = None,
    baseline: str | None = None,
    by: Sequence[str] | str | None = None,
    time: str | None = None,
    grain: str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
) -> Change:
    """Explain the change of a measure between a period and its baseline.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measure
        An SQL aggregate or a bare column name; by default the one that a scan leads with.
    period
        ISO 8601 (`2025`, `2025-08`, `2025-W07`, `2025-07-01/2025-09-30`) or `2025-Q3`; the last complete
        period of the grain by default. If it is unfinished, the baseline is cut to the same days.
    baseline
        `previous`, `year-ago` or a period; a year ago by default where the data reach so far.
    by, time, grain, where
        As for `ga.scan`.

    Raises
    ------
    PeriodError
        A period cannot be read, overlaps the other, lies outside the data or holds no rows.
    AlmanacError
        Another of its subclasses, when the source or the request cannot be used.
    """
    with told_to(progress):
        table = read(source)
        if where is not None:
            table = table.filter(where)
        survey = survey_of(
            table,
            measures=None if measure is None else [measure],
            by=[by] if isinstance(by, str) else by,
            time=time,
            grain=grain,
        )
        wanted = lead_measure(survey.measures)
        now, then, cut = resolve_periods(survey, period, baseline)
        one = explain(survey, wanted, now, then, cut)
        return Change(explanation=one, findings=tuple(_worded(one)))


def _worded(one: Explanation) -> list[Finding]:
    whole = _finding(candidate(one), one)
    return [whole, *(_finding(_slice(one, whole.candidate, by, part, excess), one) for by, part, excess in one.named)]


def _finding(claim: Candidate, one: Explanation) -> Finding:
    q = claim.p
    bare = Finding(
        candidate=claim,
        test=Test(name=claim.test, statistic=claim.statistic, p=claim.p),
        _table=one.survey.table,
        score=score(claim, min(q, 0.1))
        if claim.large
        else Score(total=0.0, strength=claim.strength, reach=claim.reach, confidence=0.0),
        _draw=lambda finding: draw_change(one, finding.headline),
    )
    return replace(bare, headline=words.headline(bare), detail=words.detail(bare))


def _slice(one: Explanation, whole: Candidate, by: str, part: Any, excess: float) -> Candidate:
    where = Slice((*one.where.conditions, (by, part.label)))
    table, line = one.survey.table, one.survey.timeline
    assert line is not None
    value, baseline = (0.0 if number is None else number for number in (part.value, part.baseline))
    columns = {
        "value": scalar(one.measure, within(table, where, line.column, one.period)),
        "baseline": scalar(one.measure, within(table, where, line.column, one.baseline)),
    }
    kept = {"value": part.value, "baseline": part.baseline}
    check = Check(
        sql=one_row(
            {
                name: f"coalesce({sql}, 0)" if one.measure.additive else sql
                for name, sql in columns.items()
                if kept[name] is not None
            }
        ),
        expect={name: number for name, number in kept.items() if number is not None},
    )
    from ..core.changes.explain import percent

    change = value - baseline
    figures = {
        "value": part.value,
        "baseline": part.baseline,
        "change": change if one.measure.additive else part.change,
        "change_pct": percent(value, baseline) if not one.measure.share and part.status == "kept" else None,
        "contribution": part.change,
        "share": part.share,
        "excess": excess,
        "status": part.status,
        "contributions": [],
    }
    return replace(
        whole,
        by=by,
        where=where,
        figures=figures,
        direction="up" if part.change > 0 else "down",
        check=check,
        reach=min(1.0, abs(part.share or 0.0)),
    )


def _relevant(one: Explanation) -> list[tuple[str, dict[str, Any]]]:
    found = [(name, facts) for name, facts in caveats(one.survey) if name == "rows without a date"]
    line = one.survey.timeline
    if line is not None and line.partial_first and one.baseline.start < line.first_day:
        found.append(("baseline begins late", {"first": line.first_day}))
    return found


def _explained(one: Explanation) -> dict[str, Any]:
    named = [
        {
            "where": {by: [part.label]},
            "sql": Slice(((by, part.label),)).sql(one.survey.table),
            "change": part.change,
            "excess": excess,
        }
        for by, part, excess in one.named
    ]
    explained = sum(part.change for _, part, _ in one.named) / one.change if named and one.change else None
    expected = one.expected
    return {
        "dimensions": [
            {
                "by": b.by,
                "captured": b.captured,
                "contributions": [
                    {
                        "label": p.label,
                        "baseline": p.baseline,
                        "value": p.value,
                        "change": p.change,
                        "share_of_change": p.share,
                        "status": p.status,
                    }
                    for p in b.contributions
                ],
            }
            for b in one.breakdowns
        ],
        "rate_mix": []
        if one.measure.additive
        else [
            {
                "by": b.by,
                "rate": sum(p.rate or 0.0 for p in b.contributions),
                "mix": sum(p.mix or 0.0 for p in b.contributions),
                "parts": [{"label": p.label, "rate": p.rate, "mix": p.mix} for p in b.contributions],
            }
            for b in one.breakdowns
        ],
        "factors": [{"name": name, "change": change} for name, change in one.volume_rate],
        "smallest": {"slices": named, "explained": explained},
        "expected": None
        if expected is None
        else {"change": expected.change, "low": expected.low, "high": expected.high, "basis": expected.basis},
    }
