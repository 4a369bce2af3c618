"""Key figures as a report: spark lines, the table, what to do."""

from __future__ import annotations

from collections.abc import Sequence

from ..charts import Chart
from ..tables import Table
from ..text import Summary
from ..text.languages import say
from ..text.text_tables import TextTable
from .outcome_reports import edition, made_of, table_section
from .page_model import Report, Section


def key_figure_report(
    table: Table,
    summary: Summary,
    chart: Chart,
    figures: TextTable,
    sql: str,
    steps: Sequence[str],
    caveats: Sequence[str],
    title: str,
) -> Report:
    first = Section(
        id="key-figures", claim=say("The figures, with the spans before"), detail="", chart=chart, evidence=(), sql=sql,
        expect=(),
    )  # fmt: skip
    return Report(
        title=title,
        edition=edition(table, table.rows),
        summary=summary,
        keys=(),
        sections=(first, table_section("figures", say("What is usual"), figures)),
        further=(),
        caveats=tuple(caveats),
        made=made_of(table),
        steps=tuple(steps),
    )
