"""What goes with an outcome, groups set against each other, fits and models, as tables of text."""

from __future__ import annotations

from collections.abc import Sequence

from ...analysis.comparison import Compared, Group
from ...analysis.drivers import Driver, Found
from ...analysis.models import Chosen, Model, rules
from ...analysis.regression import Regression
from ...analysis.relation import Relation
from .. import driver_sentences as of_drivers
from .. import model_sentences as of_models
from .. import names, numbers
from ..languages import say
from .text_table import NONE, TextTable

#: Levels of one factor that are shown.
_MOST_LEVELS = 3
#: Digits of figures that others reckon on with: estimates, and all else.
_ESTIMATE, _DIGITS = 6, 4


def drivers_tables(found: Found, most: int) -> tuple[TextTable, ...]:
    """Effects, segments, factors without a clear effect, factors left out: those that there are."""
    made = []
    rows = [row for driver in found.drivers[:most] for row in _effects(driver, found)]
    if rows:
        heads = (
            say("factor", "column"),
            say("level", "column"),
            say("effect", "column"),
            say("95% range", "column"),
            say("by itself", "column"),
            say("importance", "column"),
        )
        made.append(
            TextTable(
                title=say("Effects, each by itself") if found.few else say("Effects, all else equal"),
                heads=heads,
                rows=tuple(rows),
                left=2,
            )
        )
    if found.segments:
        measure = found.outcome.measure
        shown = tuple(
            (
                of_drivers.conditions(segment),
                numbers.whole(segment.n),
                numbers.percent(100 * segment.share),
                numbers.amount(segment.value, measure),
                numbers.amount(segment.estimate, measure),
            )
            for segment in found.segments
        )
        heads_of = (
            say("where", "column"),
            say("rows", "column"),
            say("share", "column"),
            say("value", "column"),
            say("held out", "column"),
        )
        made.append(TextTable(title=say("Segments"), heads=heads_of, rows=shown))
    unclear = [(of_drivers.factor_name(one.factor), of_drivers.reason(one.reason)) for one in found.unclear]
    gone = [(names.column(one.factor), of_drivers.reason(one.reason)) for one in found.left_out]
    for title, reasons in ((say("No clear effect"), unclear), (say("Left out"), gone)):
        if reasons:
            heads_why = (say("factor", "column"), say("why", "column"))
            told = tuple((str(name), why) for name, why in reasons)
            made.append(TextTable(title=title, heads=heads_why, rows=told, left=2))
    return tuple(made)


def _effects(driver: Driver, found: Found) -> list[tuple[str, ...]]:
    measure = found.outcome.measure

    def signed(value: float) -> str:
        return numbers.signed(value, numbers.difference(value, measure))

    made: list[tuple[str, ...]] = []
    for place, effect in enumerate(driver.effects[:_MOST_LEVELS]):
        per = say("per {size}", size=numbers.figure(effect.per, _DIGITS)) if effect.per is not None else ""
        made.append(
            (
                str(of_drivers.factor_name(driver.factor)) if place == 0 else "",
                per if driver.factor.number else of_drivers.level(effect, driver.factor),
                signed(effect.effect),
                say("{low} to {high}", low=signed(effect.low), high=signed(effect.high)),
                signed(effect.unadjusted),
                numbers.percent(100 * driver.importance) if place == 0 else "",
            )
        )
    return made


def comparison_tables(compared: Compared, most: int) -> tuple[TextTable, ...]:
    """The groups (or, for labels, the rows of each pair of labels), then the pairs of groups."""
    made = [_crossed(compared) if compared.kind == "labels" else _groups(compared, most)]
    pairs = sorted(compared.test.pairs, key=lambda pair: (pair.p, -abs(pair.difference)))
    if pairs:
        rows = tuple(
            (
                f"{names.label(pair.a)} – {names.label(pair.b)}",
                numbers.figure(pair.difference, _DIGITS),
                _span(pair.low, pair.high),
                _p(pair.p),
            )
            for pair in pairs[:most]
        )
        more = say("the surest {n} of {all}", n=most, all=len(pairs)) if len(pairs) > most else ""
        heads = (
            say("pair", "column"),
            say("difference", "column"),
            say("range", "column"),
            say("p, corrected", "column"),
        )
        made.append(TextTable(title=say("Pairs") + (f" ({more})" if more else ""), heads=heads, rows=rows))
    return tuple(made)


def _groups(compared: Compared, most: int) -> TextTable:
    heads = (
        compared.by,
        say("rows", "column"),
        say("mean", "column"),
        say("median", "column"),
        say("sd", "column"),
        say("lower q.", "column"),
        say("upper q.", "column"),
        say("missing", "column"),
    )
    rows = tuple(_group(part, names.label(part.label)) for part in compared.groups[:most])
    return TextTable(title=say("Groups"), heads=heads, rows=(*rows, _group(compared.overall, _overall(compared))))


def _overall(compared: Compared) -> str:
    return say("difference", "column") if compared.kind == "pairs" else say("all rows")


def _group(part: Group, label: str) -> tuple[str, ...]:
    return (
        label,
        numbers.whole(part.n),
        *(
            NONE if figure is None else numbers.figure(figure, _DIGITS)
            for figure in (part.mean, part.median, part.sd, part.q1, part.q3)
        ),
        numbers.whole(part.missing),
    )


def _crossed(compared: Compared) -> TextTable:
    """How many rows have each pair of labels, with the sums of rows and columns."""
    assert compared.table is not None
    labels, columns, counts = compared.table
    heads = (compared.by, *(names.label(column) for column in columns), say("Total"))

    def row(name: str, own: Sequence[float]) -> tuple[str, ...]:
        return (name, *(numbers.whole(n) for n in own), numbers.whole(sum(own)))

    rows = tuple(row(names.label(label), count) for label, count in zip(labels, counts, strict=True))
    return TextTable(title=say("Rows"), heads=heads, rows=rows, total=row(say("Total"), counts.sum(axis=0)))


def regression_tables(regression: Regression) -> tuple[TextTable, ...]:
    heads = (
        say("term", "column"),
        say("estimate", "column"),
        say("error", "column"),
        say("robust", "column"),
        "t",
        "p",
        say("95% range", "column"),
    )
    rows = tuple(
        (
            say("intercept") if part.term == "intercept" else part.term,
            numbers.figure(part.estimate, _ESTIMATE),
            numbers.figure(part.error, _DIGITS),
            numbers.figure(part.error_hc3, _DIGITS),
            numbers.fixed(part.t, 2),
            _p(part.p),
            _span(part.low, part.high),
        )
        for part in regression.coefficients
    )
    return (TextTable(title=say("Terms"), heads=heads, rows=rows),)


def fit_line(regression: Regression) -> str:
    """How well a regression fits, in one line."""
    places = {
        "n": numbers.whole(regression.n),
        "r2": numbers.fixed(regression.r2, 4),
        "adjusted": numbers.fixed(regression.adjusted_r2, 4),
        "sd": numbers.figure(regression.residual_sd, _DIGITS),
    }
    if regression.f is None:
        return say("{n} rows, R² {r2}, adjusted {adjusted}, residual sd {sd}.", **places)
    return say(
        "{n} rows, R² {r2}, adjusted {adjusted}, F {f} on {df1} and {df2}, p {p}, residual sd {sd}.",
        f=numbers.figure(regression.f, _DIGITS),
        df1=numbers.whole(regression.df[0]),
        df2=numbers.whole(regression.df[1]),
        p=_p(regression.p),
        **places,
    )


def relation_table(relation: Relation) -> TextTable:
    heads = (str(names.column(relation.x.name)), str(names.column(relation.y.name)), say("rows", "column"))
    rows = tuple(
        (numbers.figure(x, _DIGITS), numbers.figure(y, _DIGITS), numbers.whole(n))
        for x, y, _, n in relation.shape.curve
    )
    return TextTable(title=say("Averages"), heads=heads, rows=rows, left=0)


def model_tables(model: Model, chosen: Chosen) -> tuple[TextTable, ...]:
    """How each kind of model did on rows it had not seen, beside the base rate; the rules of a tree."""
    rows = []
    for name, value, _ in chosen.scores:
        kept = say("{kind} (kept)", kind=of_models.kind(model, name)) if name == model.kind else ""
        rows.append((kept or of_models.kind(model, name), numbers.figure(value, _DIGITS)))
    rows.append((say("base rate") if model.yes_no else say("average"), numbers.figure(chosen.base, _DIGITS)))
    heads = (say("model", "column"), chosen.metric)
    judged = TextTable(title=say("On rows not seen"), heads=heads, rows=tuple(rows))
    if model.kind != "tree":
        return (judged,)
    leaves = tuple(
        (str(leaf["where"]), numbers.whole(leaf["rows"]), numbers.figure(leaf["value"], _DIGITS))
        for leaf in rules(model)
    )
    heads_of = (say("where", "column"), say("rows", "column"), say("value", "column"))
    return (judged, TextTable(title=say("Rules"), heads=heads_of, rows=leaves))


def _span(low: float | None, high: float | None) -> str:
    if low is None or high is None:
        return NONE
    return say("{low} to {high}", low=numbers.figure(low, _DIGITS), high=numbers.figure(high, _DIGITS))


def _p(value: float | None) -> str:
    if value is None:
        return NONE
    return f"< {numbers.fixed(0.0001, 4)}" if value < 0.0001 else numbers.fixed(value, 4)
