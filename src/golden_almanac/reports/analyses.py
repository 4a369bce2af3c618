"""Reports of a comparison, a regression, a relation, a model: one claim, its chart, its evidence."""

from __future__ import annotations

from collections.abc import Sequence

from ..charts import Chart
from ..charts import comparing as charts
from ..charts import modelling as model_charts
from ..core.comparisons import Compared
from ..core.expressions import quote_name, quote_value
from ..core.measures import Measure, spoken
from ..core.models import Chosen, Model, rules
from ..core.regression import Regression
from ..core.relation import Relation
from ..core.tables import Table
from ..words import Summary, names, numbers
from ..words import comparing as said
from ..words import modelling as said_of_models
from .model import Report, Section


def _edition(table: Table, rows: int) -> str:
    return " · ".join([table.name, f"{numbers.whole(rows)} rows", *([f"where {table.where}"] if table.where else [])])


def _made(table: Table, *more: str) -> tuple[str, ...]:
    return (f"{numbers.whole(table.rows_read)} rows were read from {table.name}.", *more)


def comparison_report(
    table: Table,
    one: Compared,
    measure: Measure | None,
    summary: Summary,
    chart: Chart,
    caveats: Sequence[str],
    title: str | None,
) -> Report:
    first = one.groups[0]
    column, by = quote_name(one.outcome), quote_name(one.by)
    where = f"{by} = {quote_value(first.label)}"
    named = any(known.name == one.outcome for known in table.columns)
    numeric = one.kind == "numbers" and named and first.mean is not None
    expect = (("n", repr(float(first.n))), *((("mean", repr(first.mean)),) if numeric else ()))
    mean = f", avg({column}) AS mean" if numeric else ""
    section = Section(
        id="comparison",
        claim=f"{said.meaning(one, measure)}.",
        detail=" ".join(said.pairs(one, measure)),
        chart=chart,
        evidence=(
            ("Test", said.test_line(one.test)),
            ("Chosen for", one.why),
            ("Groups", "; ".join(f"{group.label} {group.n:,}" for group in one.groups[:8])),
            ("Assumptions", " ".join(one.assumptions[-3:])),
        ),
        sql=f"SELECT count({column}) AS n{mean} FROM source WHERE {where}" if named and one.kind != "pairs" else "",
        expect=expect if named and one.kind != "pairs" else (),
    )
    return Report(
        title=title or f"{names.capital(spoken(one.outcome))} by {names.dimension(one.by)}",
        edition=_edition(table, one.overall.n),
        summary=summary,
        keys=(),
        sections=(section,),
        further=(),
        caveats=tuple(caveats),
        made=_made(table, f"{one.test.name}, chosen for {one.why}."),
    )


def regression_report(
    table: Table, one: Regression, summary: Summary, equation: str, warnings: Sequence[str], title: str | None
) -> Report:
    evidence = (
        ("Rows", numbers.whole(one.n)),
        ("R²", f"{numbers.fixed(one.r2, 3)} (adjusted {numbers.fixed(one.adjusted_r2, 3)})"),
        ("Residual", f"standard deviation {numbers.plain(one.residual_sd)} on {one.df[1]:g} degrees of freedom"),
    )
    sections = [
        Section(
            id=kind,
            claim=claim,
            detail=detail,
            chart=charts.draw_regression(one, kind, claim.rstrip(".")),
            evidence=evidence,
            sql="",
            expect=(),
        )
        for kind, claim, detail in (
            ("coefficients", summary.headline, equation),
            ("residuals", f"What the fit leaves of {one.outcome.label}.", " ".join(warnings)),
        )
        if kind != "coefficients" or len(one.coefficients) > one.intercept
    ]
    return Report(
        title=title or f"A regression of {one.outcome.label}",
        edition=_edition(table, one.n),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(one.bases),
        made=_made(table, "Least squares by QR, refined; ranges are classical, robust errors (HC3) stand beside."),
    )


def relation_report(one: Relation, summary: Summary, chart: Chart, title: str | None) -> Report:
    a, b = quote_name(one.x.name), quote_name(one.y.name)
    flag = [f"CAST({name} AS DOUBLE)" for name in (a, b)]
    section = Section(
        id="relation",
        claim=summary.headline,
        detail=" ".join(summary.bullets),
        chart=chart,
        evidence=(("Rows", numbers.whole(one.n)), ("Shape", f"{one.shape.name}, by BIC")),
        sql=f"SELECT corr({flag[0]}, {flag[1]}) AS r FROM source",
        expect=(("r", repr(one.pearson[0])),),
    )
    return Report(
        title=title or f"{names.capital(spoken(one.y.name))} and {spoken(one.x.name)}",
        edition=_edition(one.table, one.n),
        summary=summary,
        keys=(),
        sections=(section,),
        further=(),
        caveats=(),
        made=_made(one.table),
    )


def model_report(model: Model, one: Chosen, summary: Summary, title: str | None) -> Report:
    table = one.about.table
    evidence = (
        ("Rows", numbers.whole(one.about.n)),
        (
            "Tried",
            "; ".join(f"{name} {numbers.plain(value)}" for name, value, _ in one.scores)
            + f"; base {numbers.plain(one.base)}",
        ),
        ("Metric", f"{one.metric}, five-fold cross-validation"),
    )
    told = said_of_models.calibrated(one)
    sections = []
    if model.kind == "tree":
        leaf = rules(model)[0]
        sections.append(
            Section(
                id="tree",
                claim=summary.headline,
                detail="",
                evidence=evidence,
                chart=model_charts.draw_tree(model, one, summary.headline.rstrip(".")),
                sql=f"SELECT {one.about.measure.sql} AS value FROM source WHERE {leaf['where']}",
                expect=(("value", repr(leaf["value"])),) if one.about.sampled is None else (),
            )
        )
    sections.append(
        Section(
            id="calibration",
            claim=f"{told}.",
            detail="",
            chart=model_charts.draw_calibration(model, one, told),
            evidence=evidence,
            sql="",
            expect=(),
        )
    )
    return Report(
        title=title or f"Foretelling {model.label}",
        edition=_edition(table, one.about.n),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(f"{part.factor}: {part.reason}." for part in one.left_out),
        made=_made(table, "Every model was judged on rows it had not seen."),
    )
