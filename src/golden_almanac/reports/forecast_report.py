"""A forecast as a report: what to expect, what the past is made of, how sure it is, by which way."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..analysis.forecast import Outlook
from ..charts import Chart
from ..text import Summary, names, numbers
from ..text.forecast_sentences import methods_table
from ..text.languages import say
from ..text.text_tables import TextTable
from .outcome_reports import edition, made_of
from .page_model import Report, Section

if TYPE_CHECKING:
    import pandas as pd


def forecast_report(
    found: Outlook,
    summary: Summary,
    charts: Sequence[Chart],
    tables: Sequence[TextTable],
    caveats: Sequence[str],
    title: str | None,
) -> Report:
    """The sections in the order in which a reader asks for them."""
    by_name = {chart.name: chart for chart in charts}
    evidence = (
        (say("Periods of the past"), numbers.whole(len(found.history))),
        (say("Points tried from"), numbers.whole(found.origins)),
    )
    claim = say(
        "{who} by {parts}",
        who=names.capital(names.measure_name(found.measure)),
        parts=names.one_of(names.grain_noun(found.grain.value)),
    )
    sections = [
        _section("forecast", claim, by_name.get("forecast"), None, found.sql, evidence),
        _section("periods", say("The figures"), None, _frame(tables[:1])),
    ]
    if len(tables) > 1:
        sections.append(_section("parts", tables[1].title, None, _frame(tables[1:2])))
    if "components" in by_name:
        sections.append(_section("components", say("What the past is made of"), by_name["components"], None))
    sections.append(
        _section("methods", say("How it is forecast, and how sure that is"), None, _frame([methods_table(found)]))
    )
    if "errors" in by_name:
        sections.append(_section("errors", by_name["errors"].title, by_name["errors"], None))
    return Report(
        title=title or say("What to expect: {measure}", measure=names.measure_name(found.measure)),
        edition=edition(found.table, found.table.rows),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(caveats),
        made=made_of(found.table),
    )


def _section(
    name: str,
    claim: str,
    chart: Chart | None,
    table: pd.DataFrame | None,
    sql: str = "",
    evidence: tuple[tuple[str, str], ...] = (),
) -> Section:
    return Section(id=name, claim=claim, detail="", chart=chart, evidence=evidence, sql=sql, expect=(), table=table)


def _frame(tables: Sequence[TextTable]) -> pd.DataFrame | None:
    import pandas as pd

    return pd.DataFrame([list(row) for row in tables[0].rows], columns=list(tables[0].heads)) if tables else None
