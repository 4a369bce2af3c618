"""Reports of a comparison, a regression, a relation, a model: one claim, its chart, its evidence."""

from __future__ import annotations

from collections.abc import Sequence

from ..aggregation.measures import Measure
from ..analysis.comparison import Compared
from ..analysis.models import Chosen, Model, rules
from ..analysis.regression import Regression
from ..analysis.relation import Relation
from ..charts import Chart, model_charts
from ..charts import comparison_charts as charts
from ..sql.expressions import quote_name, quote_value
from ..tables import Table
from ..text import Summary, names, numbers
from ..text import comparison_sentences as said
from ..text import model_sentences as said_of_models
from ..text.core_sentences import retold
from ..text.languages import say
from ..text.text_tables import TextTable
from .page_model import Report, Section, edition_line


def edition(table: Table, rows: int) -> str:
    return edition_line(table, rows)


def table_section(name: str, claim: str, table: TextTable) -> Section:
    """Figures by themselves: a slide has room for a chart or a table."""
    return Section(id=name, claim=claim, detail="", chart=None, evidence=(), sql="", expect=(), table=table.to_frame())


def made_of(table: Table, *more: str) -> tuple[str, ...]:
    return (say("{n} rows were read from {table}.", n=numbers.whole(table.rows_read), table=table.name), *more)


def comparison_report(
    table: Table,
    compared: Compared,
    measure: Measure | None,
    summary: Summary,
    chart: Chart,
    caveats: Sequence[str],
    title: str | None,
) -> Report:
    first = compared.groups[0]
    column, by = quote_name(compared.outcome), quote_name(compared.by)
    where = f"{by} = {quote_value(first.label)}"
    named = any(known.name == compared.outcome for known in table.columns)
    numeric = compared.kind == "numbers" and named and first.mean is not None
    expect = (("n", repr(float(first.n))), *((("mean", repr(first.mean)),) if numeric else ()))
    mean = f", avg({column}) AS mean" if numeric else ""
    section = Section(
        id="comparison",
        claim=f"{said.meaning(compared, measure)}.",
        detail=" ".join(said.pairs(compared, measure)),
        chart=chart,
        evidence=(
            (say("Test"), said.test_line(compared.test)),
            (say("Chosen for"), retold(compared.why)),
            (
                say("Groups"),
                "; ".join(f"{names.label(group.label)} {numbers.whole(group.n)}" for group in compared.groups[:8]),
            ),
            (say("Assumptions"), " ".join(map(retold, compared.assumptions[-3:]))),
        ),
        sql=f"SELECT count({column}) AS n{mean} FROM source WHERE {where}"
        if named and compared.kind != "pairs"
        else "",
        expect=expect if named and compared.kind != "pairs" else (),
    )
    return Report(
        title=title
        or say(
            "{measure} by {part}",
            measure=names.capital(names.column(compared.outcome)),
            part=names.dimension(compared.by),
        ),
        edition=edition(table, compared.overall.n),
        summary=summary,
        keys=(),
        sections=(section,),
        further=(),
        caveats=tuple(caveats),
        made=made_of(table, say("{test}, chosen for {why}.", test=say(compared.test.name), why=retold(compared.why))),
    )


def regression_report(
    table: Table, regression: Regression, summary: Summary, equation: str, warnings: Sequence[str], title: str | None
) -> Report:
    evidence = (
        (say("Rows"), numbers.whole(regression.n)),
        (
            "R²",
            say(
                "{r2} (adjusted {adjusted})",
                r2=numbers.fixed(regression.r2, 3),
                adjusted=numbers.fixed(regression.adjusted_r2, 3),
            ),
        ),
        (
            say("Residual"),
            say(
                "standard deviation {sd} on {df} degrees of freedom",
                sd=numbers.plain(regression.residual_sd),
                df=numbers.whole(regression.df[1]),
            ),
        ),
    )
    sections = [
        Section(
            id=kind,
            claim=claim,
            detail=detail,
            chart=charts.draw_regression(regression, kind, claim.rstrip(".")),
            evidence=evidence,
            sql="",
            expect=(),
        )
        for kind, claim, detail in (
            ("coefficients", summary.headline, equation),
            (
                "residuals",
                say("What the fit leaves of {label}.", label=names.noun(regression.outcome.label)),
                " ".join(warnings),
            ),
        )
        if kind != "coefficients" or len(regression.coefficients) > regression.intercept
    ]
    return Report(
        title=title or say("A regression of {label}", label=names.noun(regression.outcome.label)),
        edition=edition(table, regression.n),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(map(retold, regression.bases)),
        made=made_of(
            table, say("Least squares by QR, refined; ranges are classical, robust errors (HC3) stand beside.")
        ),
    )


def relation_report(relation: Relation, summary: Summary, chart: Chart, title: str | None) -> Report:
    a, b = quote_name(relation.x.name), quote_name(relation.y.name)
    flag = [f"CAST({name} AS DOUBLE)" for name in (a, b)]
    section = Section(
        id="relation",
        claim=summary.headline,
        detail=" ".join(summary.bullets),
        chart=chart,
        evidence=(
            (say("Rows"), numbers.whole(relation.n)),
            (say("Shape"), say("{shape}, by BIC", shape=say(relation.shape.name))),
        ),
        sql=f"SELECT corr({flag[0]}, {flag[1]}) AS r FROM source",
        expect=(("r", repr(relation.pearson[0])),),
    )
    return Report(
        title=title
        or say("{a} and {b}", a=names.capital(names.column(relation.y.name)), b=names.column(relation.x.name)),
        edition=edition(relation.table, relation.n),
        summary=summary,
        keys=(),
        sections=(section,),
        further=(),
        caveats=(),
        made=made_of(relation.table),
    )


def model_report(model: Model, chosen: Chosen, summary: Summary, title: str | None) -> Report:
    table = chosen.about.table
    evidence = (
        (say("Rows"), numbers.whole(chosen.about.n)),
        (
            say("Tried"),
            "; ".join(
                [
                    *(f"{said_of_models.kind(model, name)} {numbers.plain(value)}" for name, value, _ in chosen.scores),
                    say("base {value}", value=numbers.plain(chosen.base)),
                ]
            ),
        ),
        (say("Metric"), say("{metric}, five-fold cross-validation", metric=chosen.metric)),
    )
    told = said_of_models.calibrated(chosen)
    sections = []
    if model.kind == "tree":
        leaf = rules(model)[0]
        sections.append(
            Section(
                id="tree",
                claim=summary.headline,
                detail="",
                evidence=evidence,
                chart=model_charts.draw_tree(model, chosen, summary.headline.rstrip(".")),
                sql=f"SELECT {chosen.about.measure.sql} AS value FROM source WHERE {leaf['where']}",
                expect=(("value", repr(leaf["value"])),) if chosen.about.sampled is None else (),
            )
        )
    sections.append(
        Section(
            id="calibration",
            claim=f"{told}.",
            detail="",
            chart=model_charts.draw_calibration(model, chosen, told),
            evidence=evidence,
            sql="",
            expect=(),
        )
    )
    return Report(
        title=title or say("Foretelling {label}", label=names.noun(model.label)),
        edition=edition(table, chosen.about.n),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(f"{part.factor}: {retold(part.reason)}." for part in chosen.left_out),
        made=made_of(table, say("Every model was judged on rows it had not seen.")),
    )
