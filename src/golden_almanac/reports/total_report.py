"""Totals and lists of rows as a report."""

from __future__ import annotations

from collections.abc import Sequence

from ..analysis.row_lists import Listed
from ..analysis.totals import Totals
from ..charts import Chart
from ..tables import Table
from ..text import Summary, names, numbers
from ..text.languages import say
from ..text.text_tables import TextTable
from ..text.total_sentences import head_of, rows_noun, told_as
from .outcome_reports import edition, made_of, table_section
from .page_model import Report, Section


def total_report(
    found: Totals, summary: Summary, chart: Chart | None, tables: Sequence[TextTable], title: str | None
) -> Report:
    # The headline stands above: the section says what is shown, not the same again.
    who = names.capital(told_as(found.measure, found.table))
    heads = names.listed([head_of(found, place) for place in range(found.labels)])
    claim = say("{who} by {parts}", who=who, parts=heads) if found.labels else summary.headline.rstrip(".")
    section = Section(
        id="total",
        claim=claim,
        detail="",
        chart=chart,
        evidence=((names.capital(rows_noun(found.table)), numbers.whole(found.counted)),),
        sql=found.sql,
        expect=(),
        table=tables[0].to_frame() if tables and chart is None else None,
    )
    return Report(
        title=title or who,
        edition=edition(found.table, found.counted),
        summary=summary,
        keys=(),
        sections=(section, table_section("figures", say("The figures"), tables[0]))
        if tables and chart is not None
        else (section,),
        further=(),
        caveats=(),
        made=made_of(found.table),
    )


def rows_report(found: Listed, summary: Summary, tables: Sequence[TextTable], title: str | None) -> Report:
    section = Section(
        id="rows",
        claim=summary.headline,
        detail="",
        chart=None,
        evidence=((say("Rows"), numbers.whole(found.matched)),),
        sql=found.sql,
        expect=(),
        table=tables[0].to_frame() if tables else None,
    )
    return Report(
        title=title or names.capital(rows_noun(found.table)),
        edition=edition(found.table, found.matched),
        summary=summary,
        keys=(),
        sections=(section,),
        further=(),
        caveats=(),
        made=made_of(found.table),
    )


def figures_report(
    table: Table,
    summary: Summary,
    chart: Chart,
    tables: Sequence[TextTable],
    caveats: Sequence[str],
    title: str,
    sql: str = "",
) -> Report:
    """A chart and its figures, with what they stand on."""
    section = Section(id="chart", claim=title, detail="", chart=chart, evidence=(), sql=sql, expect=())
    return Report(
        title=title,
        edition=edition(table, table.rows),
        summary=summary,
        keys=(),
        sections=(section, table_section("figures", say("The figures"), tables[0])),
        further=(),
        caveats=tuple(caveats),
        made=made_of(table),
    )
