"""A forecast as a report: what to expect, what the past is made of, how sure it is, by which way."""

from __future__ import annotations

from collections.abc import Sequence

from ..analysis.forecast import Outlook
from ..charts import Chart
from ..text import Summary, names, numbers
from ..text.forecast_sentences import methods_table
from ..text.languages import say
from ..text.text_tables import TextTable
from .outcome_reports import edition, made_of, table_section
from .page_model import Report, Section


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
    claim = say(
        "{who} by {parts}",
        who=names.capital(names.measure_name(found.measure)),
        parts=names.one_of(names.grain_noun(found.grain.value)),
    )
    sections = [
        forecast_section(found, claim, "", by_name.get("forecast")),
        table_section("periods", say("The figures"), tables[0]),
    ]
    if len(tables) > 1:
        sections.append(table_section("parts", tables[1].title, tables[1]))
    if "components" in by_name:
        sections.append(_picture("components", say("What the past is made of"), by_name["components"]))
    sections.append(table_section("methods", say("How it is forecast, and how sure that is"), methods_table(found)))
    if "errors" in by_name:
        sections.append(_picture("errors", by_name["errors"].title, by_name["errors"]))
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


def forecast_section(found: Outlook, claim: str, detail: str, chart: Chart | None) -> Section:
    """The forecast drawn, with what it was made from and the SELECT of its past."""
    evidence = (
        (say("Periods of the past"), numbers.whole(len(found.history))),
        (say("Points tried from"), numbers.whole(found.origins)),
    )
    return Section(id="forecast", claim=claim, detail=detail, chart=chart, evidence=evidence, sql=found.sql, expect=())


def _picture(name: str, claim: str, chart: Chart) -> Section:
    return Section(id=name, claim=claim, detail="", chart=chart, evidence=(), sql="", expect=())
