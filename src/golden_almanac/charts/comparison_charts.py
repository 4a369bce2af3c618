"""Charts of comparisons, regressions and relations."""

from __future__ import annotations

from dataclasses import replace
from math import sqrt

import numpy as np

from ..aggregation.measures import Measure
from ..analysis.comparison import Compared
from ..analysis.regression import Regression
from ..analysis.relation import Relation
from ..stats.share_ranges import wilson
from ..support.errors import RequestError
from ..tables import Table
from ..text import comparison_sentences as said
from ..text import consistent_rounding, names, numbers
from ..text.languages import say
from .boxes import boxes
from .chart import Chart, source_line
from .heatmap import heat
from .intervals import intervals
from .marks import with_notes
from .scatter import averaged, scatter

_MOST = 16


def draw_comparison(table: Table, compared: Compared, measure: Measure | None, title: str) -> Chart:
    """Boxes of numbers, intervals of shares, tiles of labels by labels."""
    return replace(_drawn(table, compared, measure, title), figures=_figures(compared))


def _figures(compared: Compared) -> tuple[float, ...]:
    """What the title of a comparison may say beside what is drawn."""
    difference = compared.test.difference
    told = [compared.test.effect.value, compared.test.effect.low, compared.test.effect.high]
    told += [] if difference is None else [difference.value, difference.low, difference.high]
    told += [value for group in compared.groups for value in (group.mean, group.median)]
    return tuple(float(value) for value in told if value is not None and np.isfinite(value))


def _drawn(table: Table, compared: Compared, measure: Measure | None, title: str) -> Chart:
    source = source_line(table, compared.overall.n)
    who = names.column(compared.outcome, measure.unit if measure is not None else None)
    by = names.dimension(compared.by)
    if compared.kind == "labels":
        assert compared.table is not None
        rows, columns, counts = compared.table
        shares = counts / counts.sum(axis=1, keepdims=True)
        return heat(
            name="crosstab",
            title=title,
            source=source,
            rows=rows,
            columns=columns,
            values=shares,
            subtitle=say("Share of each {who} within a {part} · rows add up to 100%", who=who, part=by),
            texts=[consistent_rounding.shares(row) for row in shares],
            by=(compared.by, compared.outcome),
        )
    order = sorted(range(len(compared.groups)), key=lambda i: -(compared.groups[i].mean or 0.0))[:_MOST]
    labels = [names.label(compared.groups[i].label) for i in order]
    if compared.kind == "shares":
        yes = [(compared.groups[i].mean or 0.0) * compared.groups[i].n for i in order]
        ends = [wilson(count, compared.groups[i].n) for count, i in zip(yes, order, strict=True)]
        return intervals(
            name="shares",
            title=title,
            source=source,
            labels=labels,
            subtitle=say("Share with {who} by {part} · whiskers: 95% range · line: all rows", who=who, part=by),
            values=[compared.groups[i].mean or 0.0 for i in order],
            low=[end[0] for end in ends],
            high=[end[1] for end in ends],
            texts=[
                say(
                    "{value} of {n}",
                    value=said.figure(compared.groups[i].mean or 0.0, compared, measure),
                    n=numbers.whole(compared.groups[i].n),
                )
                for i in order
            ],
            by=compared.by,
            highlight=labels[:1],
            reference=compared.overall.mean or 0.0,
        )
    unit = f" ({measure.unit})" if measure is not None and measure.unit else ""
    if table.minimum > 1:
        # The ends of a box are values of single rows: averages with their ranges are shown in its place.
        groups = [compared.groups[i] for i in order]
        ends_of = [1.96 * (group.sd or 0.0) / sqrt(max(1, group.n)) for group in groups]
        means = [group.mean or 0.0 for group in groups]
        return intervals(
            name="means",
            title=title,
            source=source,
            labels=labels,
            subtitle=with_notes(f"{names.capital(who)}{unit}", say("whiskers: 95% range")),
            values=means,
            low=[mean - end for mean, end in zip(means, ends_of, strict=True)],
            high=[mean + end for mean, end in zip(means, ends_of, strict=True)],
            texts=[said.figure(mean, compared, measure) for mean in means],
            by=compared.by,
            highlight=labels[:1],
            reference=compared.overall.mean or 0.0,
        )
    return boxes(
        name="boxes",
        title=title,
        source=source,
        labels=labels,
        samples=[compared.samples[i] for i in order],
        measure=measure,
        subtitle=say(
            "{measure} by {part} · line: median, diamond: mean, box: middle half, whiskers: 1.5 boxes",
            measure=names.capital(who) + unit,
            part=by,
        ),
        by=compared.by,
        highlight=labels[0],
    )


def draw_regression(regression: Regression, kind: str, title: str) -> Chart:
    """Coefficients beside each other, or what the fit leaves. Raises RequestError, LookupError."""
    return replace(
        _fit(regression, kind, title),
        figures=(regression.r2, float(regression.n), *(() if regression.p is None else (regression.p,))),
    )


def _fit(regression: Regression, kind: str, title: str) -> Chart:
    source = source_line(regression.outcome.table, regression.n)
    if kind == "residuals":
        step = max(1, regression.n // 1500)
        points = np.column_stack([regression.fitted, regression.residual])[
            np.argsort(regression.fitted, kind="stable")
        ][::step]
        return scatter(
            name="residuals",
            title=title,
            source=source,
            points=averaged(points, regression.outcome.table.minimum),
            band=None,
            subtitle=say("What is left of {label} over what the fit gives", label=names.noun(regression.outcome.label)),
            axis_names=(say("fitted"), say("residual")),
        )
    if kind != "coefficients":
        raise RequestError("The kind of chart", kind, "coefficients or residuals")
    shown = [c for c in regression.coefficients if c.term != "intercept"][:_MOST]
    if not shown:
        raise LookupError("there is no term but the intercept, so there is nothing to draw")
    # Terms have units of their own: beside each other only their t can stand.
    strongest = max(shown, key=lambda c: abs(c.t)).term
    texts = [
        f"{numbers.signed(c.estimate, numbers.plain(abs(c.estimate)))} ± {numbers.plain(c.error, 2)}" for c in shown
    ]
    return intervals(
        name="coefficients",
        title=title,
        source=source,
        labels=[c.term for c in shown],
        subtitle=say(
            "Coefficients on {label} in their own standard errors · whiskers: 95% range",
            label=names.noun(regression.outcome.label),
        ),
        values=[c.t for c in shown],
        low=[c.t - 1.96 for c in shown],
        high=[c.t + 1.96 for c in shown],
        texts=texts,
        by="term",
        highlight=[strongest],
    )


def draw_relation(relation: Relation, title: str) -> Chart:
    x, y = (names.column(column.name, column.unit) for column in (relation.x, relation.y))
    units = [f" ({column.unit})" if column.unit else "" for column in (relation.x, relation.y)]
    bins = [(point[0], point[1]) for point in relation.shape.curve] if relation.n > 200 else []
    shape = relation.shape
    place = shape.cut.at if shape.cut is not None else shape.bend
    shown = say("{y} over {x} · line: fit with its 95% band", y=names.capital(y), x=x)
    shown = with_notes(shown, say("black: averages") if bins else "")
    if len(relation.points) < relation.n:
        drawn, known = numbers.whole(len(relation.points)), numbers.whole(relation.n)
        shown = with_notes(shown, say("{n} of {all} rows drawn", n=drawn, all=known))
    return scatter(
        name="relation",
        title=title,
        source=source_line(relation.table, relation.n),
        points=averaged(relation.points, relation.table.minimum),
        band=relation.band,
        bins=bins,
        subtitle=shown,
        axis_names=(names.capital(x) + units[0], names.capital(y) + units[1]),
        place=place,
        figures=(
            *relation.pearson[:3],
            *relation.spearman[:3],
            float(relation.n),
            *(() if place is None else (place,)),
        ),
    )
