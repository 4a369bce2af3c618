"""The alerts of a brief: conditions over the measures of the period, findings of a kind, figures out of their range."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..aggregation.measures import Measure, cast_flags, parse_measure
from ..analysis.detectors import kinds
from ..findings import Slice
from ..findings.checks import within
from ..reports.brief import Brief
from ..sql import expressions
from ..support.errors import RequestError
from ..tables import Period, Table
from ..text import dates, names, numbers
from ..text import edition_sentences as said
from .brief_report import BriefReport, explained_in
from .explain_change import change_of


@dataclass(frozen=True, slots=True, kw_only=True)
class Fired:
    """An alert that fired, in words, and whether it asks for mail."""

    text: str
    mail: bool


def check_alerts(brief: Brief, table: Table) -> None:
    """Refuse, before any work, alerts that cannot be asked of the table. Raises AlmanacError."""
    for place, one in enumerate(brief.get("alert", ()), start=1):
        if "when" in one:
            table.sql(f"SELECT ({_condition(one['when'], table)[0]}) AS holds FROM source LIMIT 0")
        for key in ("unusual", "measure"):
            if key in one:
                parse_measure(one[key], table)
        if "kind" in one and one["kind"] not in kinds():
            raise RequestError(f"kind in [[alert]] {place}", one["kind"], "one of " + ", ".join(sorted(kinds())))


def fired_alerts(brief: Brief, made: BriefReport) -> list[Fired]:
    """The alerts whose conditions hold. Raises AlmanacError where one cannot be judged: it must not stay silent."""
    found = []
    for one in brief.get("alert", ()):
        why = _why(one, made)
        if why is not None:
            name = names.capital(one["name"]).rstrip(".")
            found.append(Fired(text=f"{said.alert_told(name)}: {why}", mail=bool(one.get("mail"))))
    return found


def _why(alert: Mapping[str, Any], made: BriefReport) -> str | None:
    """What an alert fires of; None where it does not."""
    if "when" in alert:
        return _holds(alert["when"], made)
    return _unusual(alert["unusual"], made) if "unusual" in alert else _of_kind(alert, made)


def _of_kind(alert: Mapping[str, Any], made: BriefReport) -> str | None:
    measure = parse_measure(alert["measure"], made.table).name if "measure" in alert else None
    for finding in made.scan.findings:
        own = dict(finding.where.conditions)
        if finding.kind != alert["kind"]:
            continue
        if any(own.get(column) != label for column, label in alert.get("where", {}).items()):
            continue
        if measure is None or (finding.measure is not None and finding.measure.name == measure):
            return str(finding.headline)
    return None


def _holds(text: str, made: BriefReport) -> str | None:
    """A condition over measures of the period, asked in SQL of the rows that the brief keeps; with their values."""
    table = made.scan.result.survey.table
    condition, measures = _condition(text, table)
    span, column = _period_of(made)
    asked = {"holds": f"({condition})", **{f"v{place}": f"({one.sql})" for place, one in enumerate(measures)}}
    columns = ", ".join(f"{sql} AS {name}" for name, sql in asked.items())
    where = "TRUE" if span is None else within(table, Slice(), column, span)
    row = made.table.sql(f"SELECT {columns} FROM source WHERE {where}").iloc[0]
    if row["holds"] is None or row["holds"] != row["holds"] or not bool(row["holds"]):
        return None
    told = []
    for place, measure in enumerate(measures):
        told.append(f"{names.measure_name(measure)} {numbers.amount(float(row[f'v{place}']), measure)}")
    when = [] if span is None else [dates.period(span)]
    return f"{names.capital(names.listed(told))} ({', '.join([*when, text])})."


def _condition(text: str, table: Table) -> tuple[str, list[Measure]]:
    """The condition as SQL, and the measures in it. Raises ExpressionError, ColumnError."""
    from sqlglot import exp

    tree = expressions.parse(text, aggregates=True, what="a condition such as sum(revenue) < 1000000")
    bound: Any = expressions.bind(tree, table.names, "the alert", table.private)
    cast = cast_flags(bound, table)
    # As they were written: a measure of yes and no casts them by itself, and is a share.
    parts = dict.fromkeys(expressions.to_sql(one) for one in bound.find_all(exp.AggFunc))
    return expressions.to_sql(cast), [parse_measure(one, table) for one in parts]


def _period_of(made: BriefReport) -> tuple[Period | None, str]:
    """The period reported on."""
    line = made.scan.result.survey.timeline
    if line is None:
        return None, ""
    explained = explained_in(made)
    if explained:
        return explained[0][1].period, line.column
    return (line.period(line.complete.stop - 1) if line.complete_count else None), line.column


def _unusual(text: str, made: BriefReport) -> str | None:
    measure = parse_measure(text, made.table)
    known = {one.measure.name: (finding, one) for finding, one in explained_in(made)}
    if measure.name not in known:
        span = next((one.period for _, one in explained_in(made)), None)
        period = None if span is None else f"{span.start}/{span.end}"
        change = change_of(made.scan.result.survey, measure, period, None, ())
        known[measure.name] = (change.findings[0], change.explanation)
    finding, one = known[measure.name]
    return None if one.usual is None or one.usual.usual else str(finding.headline)
