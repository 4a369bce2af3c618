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
from ..text import model_sentences as said_of_models
from ..text import test_sentences as said
from ..text.core_sentences import retold
from ..text.languages import say
from .page_model import Report, Section, edition_line


def _edition(table: Table, rows: int) -> str:
    return edition_line(table, rows)


def _made(table: Table, *more: str) -> tuple[str, ...]:
    return (say("{n} rows were read from {table}.", n=numbers.whole(table.rows_read), table=table.name), *more)


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
            (say("Test"), said.test_line(one.test)),
            (say("Chosen for"), retold(one.why)),
            (
                say("Groups"),
                "; ".join(f"{names.label(group.label)} {numbers.whole(group.n)}" for group in one.groups[:8]),
            ),
            (say("Assumptions"), " ".join(map(retold, one.assumptions[-3:]))),
        ),
        sql=f"SELECT count({column}) AS n{mean} FROM source WHERE {where}" if named and one.kind != "pairs" else "",
        expect=expect if named and one.kind != "pairs" else (),
    )
    return Report(
        title=title
        or say("{measure} by {part}", measure=names.capital(names.column(one.outcome)), part=names.dimension(one.by)),
        edition=_edition(table, one.overall.n),
        summary=summary,
        keys=(),
        sections=(section,),
        further=(),
        caveats=tuple(caveats),
        made=_made(table, say("{test}, chosen for {why}.", test=say(one.test.name), why=retold(one.why))),
    )


def regression_report(
    table: Table, one: Regression, summary: Summary, equation: str, warnings: Sequence[str], title: str | None
) -> Report:
    evidence = (
        (say("Rows"), numbers.whole(one.n)),
        (
            "R²",
            say("{r2} (adjusted {adjusted})", r2=numbers.fixed(one.r2, 3), adjusted=numbers.fixed(one.adjusted_r2, 3)),
        ),
        (
            say("Residual"),
            say(
                "standard deviation {sd} on {df} degrees of freedom",
                sd=numbers.plain(one.residual_sd),
                df=numbers.whole(one.df[1]),
            ),
        ),
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
            (
                "residuals",
                say("What the fit leaves of {label}.", label=names.noun(one.outcome.label)),
                " ".join(warnings),
            ),
        )
        if kind != "coefficients" or len(one.coefficients) > one.intercept
    ]
    return Report(
        title=title or say("A regression of {label}", label=names.noun(one.outcome.label)),
        edition=_edition(table, one.n),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(map(retold, one.bases)),
        made=_made(table, say("Least squares by QR, refined; ranges are classical, robust errors (HC3) stand beside.")),
    )


def relation_report(one: Relation, summary: Summary, chart: Chart, title: str | None) -> Report:
    a, b = quote_name(one.x.name), quote_name(one.y.name)
    flag = [f"CAST({name} AS DOUBLE)" for name in (a, b)]
    section = Section(
        id="relation",
        claim=summary.headline,
        detail=" ".join(summary.bullets),
        chart=chart,
        evidence=(
            (say("Rows"), numbers.whole(one.n)),
            (say("Shape"), say("{shape}, by BIC", shape=say(one.shape.name))),
        ),
        sql=f"SELECT corr({flag[0]}, {flag[1]}) AS r FROM source",
        expect=(("r", repr(one.pearson[0])),),
    )
    return Report(
        title=title or say("{a} and {b}", a=names.capital(names.column(one.y.name)), b=names.column(one.x.name)),
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
        (say("Rows"), numbers.whole(one.about.n)),
        (
            say("Tried"),
            "; ".join(f"{said_of_models.kind(model, name)} {numbers.plain(value)}" for name, value, _ in one.scores)
            + say("; base {value}", value=numbers.plain(one.base)),
        ),
        (say("Metric"), say("{metric}, five-fold cross-validation", metric=one.metric)),
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
        title=title or say("Foretelling {label}", label=names.noun(model.label)),
        edition=_edition(table, one.about.n),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(f"{part.factor}: {retold(part.reason)}." for part in one.left_out),
        made=_made(table, say("Every model was judged on rows it had not seen.")),
    )
