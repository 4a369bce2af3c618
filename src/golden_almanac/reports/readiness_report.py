"""The report of a check: each problem a section, questions first, with the rows concerned."""

from __future__ import annotations

from collections.abc import Sequence

from ..tables import Table
from ..tables.problems import Problem
from ..text import Summary, numbers
from ..text.core_sentences import retold
from ..text.languages import say
from .page_model import Report, Section


def readiness_report(table: Table, problems: Sequence[Problem], summary: Summary, title: str | None) -> Report:
    """The problems in their order; of each what is asked or was mended, and a few of its rows."""
    import pandas as pd

    sections = []
    for place, problem in enumerate(problems, start=1):
        evidence = [(say("Rows"), numbers.whole(problem.rows))] if problem.rows else []
        rows = pd.DataFrame([{"row": row, "value": retold(value)} for row, value in problem.examples])
        sections.append(
            Section(
                id=f"problem-{place}",
                claim=retold(problem.message),
                detail=retold(problem.question.text) if problem.question else "",
                chart=None,
                evidence=tuple(evidence),
                sql="",
                expect=(),
                table=None if rows.empty else rows,
            )
        )
    return Report(
        title=title or say("What matters in {table}", table=table.name),
        edition=say("{n} rows", n=numbers.whole(table.rows)),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=(),
        made=(say("{n} rows were read from {table}.", n=numbers.whole(table.rows_read), table=table.name),),
    )
