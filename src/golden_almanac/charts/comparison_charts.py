"""Charts of comparisons, regressions and relations."""

from __future__ import annotations

from dataclasses import replace
from math import sqrt

import numpy as np

from ..aggregation.measures import Measure
from ..analysis.comparison import Compared
from ..analysis.drivers.segments import wilson
from ..analysis.regression import Regression
from ..analysis.relation import Relation
from ..support.errors import RequestError
from ..tables import Table
from ..text import consistent_rounding, names, numbers
from ..text import test_sentences as said
from ..text.languages import say
from .boxes import boxes
from .chart import Chart, source_line
from .heatmap import heat
from .intervals import intervals
from .scatter import averaged, scatter

_MOST = 16


def draw_comparison(table: Table, one: Compared, measure: Measure | None, title: str) -> Chart:
    """Boxes of numbers, intervals of shares, tiles of labels by labels."""
    return replace(_drawn(table, one, measure, title), figures=_figures(one))


def _figures(one: Compared) -> tuple[float, ...]:
    """What the title of a comparison may say beside what is drawn."""
    found = one.test.difference
    told = [one.test.effect.value, one.test.effect.low, one.test.effect.high]
    told += [] if found is None else [found.value, found.low, found.high]
    told += [value for group in one.groups for value in (group.mean, group.median)]
    return tuple(float(value) for value in told if value is not None and np.isfinite(value))


def _drawn(table: Table, one: Compared, measure: Measure | None, title: str) -> Chart:
    source = source_line(table, one.overall.n)
    who = names.column(one.outcome, measure.unit if measure is not None else None)
    by = names.dimension(one.by)
    if one.kind == "labels":
        assert one.table is not None
        rows, columns, counts = one.table
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
            by=(one.by, one.outcome),
        )
    order = sorted(range(len(one.groups)), key=lambda i: -(one.groups[i].mean or 0.0))[:_MOST]
    labels = [names.label(one.groups[i].label) for i in order]
    if one.kind == "shares":
        yes = [(one.groups[i].mean or 0.0) * one.groups[i].n for i in order]
        ends = [wilson(count, one.groups[i].n) for count, i in zip(yes, order, strict=True)]
        return intervals(
            name="shares",
            title=title,
            source=source,
            labels=labels,
            subtitle=say("Share with {who} by {part} · whiskers: 95% range · line: all rows", who=who, part=by),
            values=[one.groups[i].mean or 0.0 for i in order],
            low=[end[0] for end in ends],
            high=[end[1] for end in ends],
            texts=[
                say(
                    "{value} of {n}",
                    value=said.figure(one.groups[i].mean or 0.0, one, measure),
                    n=numbers.whole(one.groups[i].n),
                )
                for i in order
            ],
            by=one.by,
            highlight=labels[:1],
            reference=one.overall.mean or 0.0,
        )
    unit = f" ({measure.unit})" if measure is not None and measure.unit else ""
    if table.minimum > 1:
        # The ends of a box are values of single rows: averages with their ranges are shown in its place.
        groups = [one.groups[i] for i in order]
        ends_of = [1.96 * (group.sd or 0.0) / sqrt(max(1, group.n)) for group in groups]
        means = [group.mean or 0.0 for group in groups]
        return intervals(
            name="means",
            title=title,
            source=source,
            labels=labels,
            subtitle=f"{names.capital(who)}{unit}{say(' · whiskers: 95% range')}",
            values=means,
            low=[mean - end for mean, end in zip(means, ends_of, strict=True)],
            high=[mean + end for mean, end in zip(means, ends_of, strict=True)],
            texts=[said.figure(mean, one, measure) for mean in means],
            by=one.by,
            highlight=labels[:1],
            reference=one.overall.mean or 0.0,
        )
    return boxes(
        name="boxes",
        title=title,
        source=source,
        labels=labels,
        samples=[one.samples[i] for i in order],
        measure=measure,
        subtitle=say(
            "{measure} by {part} · line: median, diamond: mean, box: middle half, whiskers: 1.5 boxes",
            measure=names.capital(who) + unit,
            part=by,
        ),
        by=one.by,
        highlight=labels[0],
    )


def draw_regression(one: Regression, kind: str, title: str) -> Chart:
    """Coefficients beside each other, or what the fit leaves. Raises RequestError, LookupError."""
    return replace(_fit(one, kind, title), figures=(one.r2, float(one.n), *(() if one.p is None else (one.p,))))


def _fit(one: Regression, kind: str, title: str) -> Chart:
    source = source_line(one.outcome.table, one.n)
    if kind == "residuals":
        step = max(1, one.n // 1500)
        points = np.column_stack([one.fitted, one.residual])[np.argsort(one.fitted, kind="stable")][::step]
        return scatter(
            name="residuals",
            title=title,
            source=source,
            points=averaged(points, one.outcome.table.minimum),
            band=None,
            subtitle=say("What is left of {label} over what the fit gives", label=names.noun(one.outcome.label)),
            axis_names=(say("fitted"), say("residual")),
        )
    if kind != "coefficients":
        raise RequestError("The kind of chart", kind, "coefficients or residuals")
    shown = [c for c in one.coefficients if c.term != "intercept"][:_MOST]
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
            label=names.noun(one.outcome.label),
        ),
        values=[c.t for c in shown],
        low=[c.t - 1.96 for c in shown],
        high=[c.t + 1.96 for c in shown],
        texts=texts,
        by="term",
        highlight=[strongest],
    )


def draw_relation(one: Relation, title: str) -> Chart:
    x, y = (names.column(column.name, column.unit) for column in (one.x, one.y))
    units = [f" ({column.unit})" if column.unit else "" for column in (one.x, one.y)]
    bins = [(point[0], point[1]) for point in one.shape.curve] if one.n > 200 else []
    shape = one.shape
    place = shape.cut.at if shape.cut is not None else shape.bend
    shown = say("{y} over {x} · line: fit with its 95% band", y=names.capital(y), x=x)
    shown += say(" · black: averages") if bins else ""
    if len(one.points) < one.n:
        shown += say(" · {n} of {all} rows drawn", n=numbers.whole(len(one.points)), all=numbers.whole(one.n))
    return scatter(
        name="relation",
        title=title,
        source=source_line(one.table, one.n),
        points=averaged(one.points, one.table.minimum),
        band=one.band,
        bins=bins,
        subtitle=shown,
        axis_names=(names.capital(x) + units[0], names.capital(y) + units[1]),
        place=place,
        figures=(*one.pearson[:3], *one.spearman[:3], float(one.n), *(() if place is None else (place,))),
    )
