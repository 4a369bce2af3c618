"""A ledger's review as a report: what to ask, the accounts drawn, how the margin moved."""

from __future__ import annotations

from collections.abc import Sequence

from ..aggregation.measures import Measure
from ..analysis.ledger import LedgerReview, MarginBridge
from ..charts import Chart
from ..text import Summary, dates, numbers
from ..text.languages import say
from ..text.ledger_asking import told
from ..text.ledger_sentences import leading, line_sentence
from ..text.text_tables import TextTable
from .outcome_reports import edition, made_of, table_section
from .page_model import Report, Section

#: Questions, and lines of the margin, that are told one by one below their chart.
_MOST = 6


def ledger_report(
    found: LedgerReview,
    bridge: MarginBridge | None,
    money: Measure,
    summary: Summary,
    charts: Sequence[Chart],
    tables: Sequence[TextTable],
    caveats: Sequence[str],
    title: str | None,
) -> Report:
    books = found.books
    by_name = {chart.name: chart for chart in charts}
    sections = []
    if "ledger-accounts" in by_name:
        sections.append(
            Section(
                id="ledger-accounts",
                claim=say("Accounts beside what is usual for them"),
                detail=" ".join(told(one, money) for one in found.questions[1:_MOST]),
                chart=by_name["ledger-accounts"],
                evidence=(
                    (say("Accounts", "column"), numbers.whole(len(books.names))),
                    (say("Period", "column"), dates.period(books.span(0, books.count - 1))),
                    (say("Test"), say("months and turns beside the course of each account, all as one family")),
                ),
                sql="",
                expect=(),
            )
        )  # fmt: skip
    if found.questions:
        sections.append(table_section("ledger-questions", say("What to ask those who keep the books"), tables[0]))
    if bridge is not None and "margin-bridge" in by_name:
        sections.append(
            Section(
                id="margin-bridge",
                claim=say("How the margin moved"),
                detail=" ".join(line_sentence(line, bridge, money) for line in leading(bridge)[:_MOST]),
                chart=by_name["margin-bridge"],
                evidence=(),
                sql=bridge.sql,
                expect=(),
            )
        )
        sections.append(table_section("margin-lines", say("The lines of the margin"), tables[-1]))
    return Report(
        title=title or say("Review of the ledger"),
        edition=edition(books.table, books.table.rows),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(caveats),
        made=made_of(books.table),
    )
