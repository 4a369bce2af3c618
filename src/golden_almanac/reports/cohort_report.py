"""Cohorts as a report: the triangle, the curves, what a member brings."""

from __future__ import annotations

from collections.abc import Sequence

from ..analysis.cohorts import CohortTable
from ..charts import Chart
from ..text import Summary, numbers
from ..text.languages import say
from .outcome_reports import edition, made_of
from .page_model import Report, Section


def cohort_report(
    found: CohortTable, summary: Summary, charts: Sequence[Chart], caveats: Sequence[str], title: str | None
) -> Report:
    evidence = [(say("Members", "column"), numbers.whole(found.members))]
    if found.odd:
        first = found.odd[0]
        test = (
            say("ages at which members were active, against the others")
            if found.survival is None
            else say("log-rank test")
        )
        evidence.append((say("Test"), f"{test}; {numbers.p_value(first.p)}"))
    sections = [
        Section(
            id="cohorts" if place == 0 else "cohort-curves",
            # The summary stands above: sections say what is shown.
            claim=say("Share active by age") if place == 0 else say("Cohorts beside each other"),
            detail="",
            chart=chart,
            evidence=tuple(evidence) if place == 0 else (),
            sql=found.sql if place == 0 else "",
            expect=(),
        )
        for place, chart in enumerate(charts)
    ]
    return Report(
        title=title or say("Cohorts"),
        edition=edition(found.table, found.table.rows),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(caveats),
        made=made_of(found.table),
    )
