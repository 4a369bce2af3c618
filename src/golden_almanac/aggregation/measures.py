"""Measures: SQL aggregates over a table, taken apart into parts that add up.

`avg` and ratios do not add up over groups; their numerators and denominators do. A measure is kept
as two sums of parts, aggregated apart and divided last, so that no mean of ratios is ever taken.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from ..sql import expressions
from ..support.errors import ColumnError, ExpressionError, shorten
from ..tables import Column, Role, Table
from ..tables.meaning import glimpse
from ..tables.meaning.name_words import COUNTS, MONEY, NO_NOUGHT, tells, words
from ..tables.meaning.natures import Nature
from ..tables.meaning.rates_of_counts import CountedRate, rates_of_counts
from ..tables.meaning.row_events import of_events
from ..tables.meaning.spans_of_time import TimeSpan, spans_of_time
from ..tables.yes_no import is_flag
from .measure_names import singular, spoken, times_of

if TYPE_CHECKING:
    from collections.abc import Sequence

#: Natures of columns that are not added up over time.
STOCK, RUNNING = Nature.STOCK.value, Nature.RUNNING.value
_WHAT = "an SQL aggregate such as sum(revenue), avg(delay), count(*) or sum(profit) / sum(revenue)"


@dataclass(frozen=True, slots=True, order=True)
class Part:
    """One aggregate that cells hold: `kind` is sum, count, distinct, min or max of a row expression.

    `sql` is the bound row expression, "" for `count(*)`; `column` its name when it is a plain column.
    """

    kind: str
    sql: str
    column: str = ""

    def __hash__(self) -> int:
        # Parts are looked up by the hundred thousand; few share an expression.
        return hash(self.sql)


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """A number made from rows: `top` over `bottom` (each a weighted sum of parts), times `factor`.

    `kind` is additive (sum, count), mean (avg of a column), ratio, or other (min, max, distinct).
    `share` marks a mean of a yes/no column: it lies in 0–1 and is shown in percent. `level` marks a sum of levels
    (balances, head counts): it adds up over the rows of one moment, and of a span it is that of the last moment.
    `column` names the column of rates that a ratio gives, weighed; `between` what the two dates are of whose distance
    is averaged, where a measure is that. `decimals` are those that its figures are written with, where somebody said
    so.
    """

    name: str
    sql: str
    label: str
    kind: str
    top: tuple[tuple[float, Part], ...]
    bottom: tuple[tuple[float, Part], ...] = ()
    factor: float = 1.0
    unit: str | None = None
    share: bool = False
    level: bool = False
    column: str = ""
    decimals: int | None = None
    between: tuple[str, ...] = ()

    def __hash__(self) -> int:
        # Measures are looked up by the hundred thousand; those of one table differ by name.
        return hash(self.name)

    @property
    def additive(self) -> bool:
        return self.kind == "additive"

    @property
    def in_points(self) -> bool:
        """Whether a difference is one of percentage points: of shares from 0 to 1, and of figures in percent."""
        return self.share or self.unit == "%"

    @property
    def in_percent(self) -> bool:
        """Whether a difference may be told in percent of a level: not of percentages, which have points, nor of what
        has no nought of its own (temperatures)."""
        columns = (part.column for _, part in self.top if part.column)
        return not self.in_points and not any(NO_NOUGHT & set(words(column)) for column in columns)

    @property
    def parts(self) -> tuple[Part, ...]:
        return tuple(dict.fromkeys(part for _, part in self.top + self.bottom))


#: The number of rows.
ROWS = Measure(name="count(*)", sql="COUNT(*)", label="rows", kind="additive", top=((1.0, Part("count", "")),))


def parse_measure(text: str, table: Table) -> Measure:
    """A measure from SQL, or from a bare column name (its sum if an amount, its average if a rate).

    Raises ExpressionError or ColumnError.
    """
    measure = _parsed(text, table)
    return _as_stated(_of_two_columns(measure, table) or measure, table)


def _of_two_columns(measure: Measure, table: Table) -> Measure | None:
    """The measure of the same name that a table is told by unasked, where it is one of two columns."""
    if "DATE_DIFF" in measure.sql:
        made = [_between(span, table) for span in spans_of_time(table)]
    elif measure.kind == "ratio" and measure.factor == 1:
        made = [_rate(rate, table) for rate in rates_of_counts(table)]
    else:
        return None
    return next((one for one in made if one.name == measure.name), None)


def _as_stated(measure: Measure, table: Table) -> Measure:
    """A measure with the unit and the decimals that somebody said it has."""
    told = table.stated.measures.get(measure.name)
    if told is None:
        return measure
    if told.unit == "%" and measure.kind == "ratio" and measure.factor == 1.0:
        # A ratio between 0 and 1 whose unit is percent is a share.
        return replace(measure, share=True, unit=None, decimals=told.decimals)
    return replace(measure, unit=told.unit or measure.unit, decimals=told.decimals)


def _parsed(text: str, table: Table) -> Measure:
    from sqlglot import exp

    bare = text.strip().strip('"')
    folded = {name.casefold(): name for name in reversed(table.names)}
    if bare in table.names or bare.casefold() in folded:
        column = table.column(bare)
        if column.type not in ("number", "boolean"):
            raise ColumnError(
                column.name,
                f"The column {column.name!r} holds {column.type}, not numbers.",
                "Count it with count(distinct …), or choose a number.",
            )
        if column.weighed is not None:
            return _weighed(column, table)
        if len(column.weights) == 1:
            return _by_weight(column, table)
        adds_up = column.adds_up if column.adds_up is not None else True
        text = f"{'sum' if adds_up else 'avg'}({expressions.quote_name(column.name)})"
    tree: Any = expressions.parse(text, aggregates=True, what=_WHAT)
    alias = None
    if isinstance(tree, exp.Alias):
        alias, tree = tree.alias, tree.this
    bound: Any = expressions.bind(tree, table.names, "the measure", table.private)
    _of_numbers(bound, table)
    bound = cast_flags(bound, table)
    factor, core = _unwrap(bound)
    top_tree, bottom_tree = (core.this, core.expression) if isinstance(core, exp.Div) else (core, None)
    bottom_factor = 1.0
    if bottom_tree is not None and (divisor := _number(bottom_tree)):
        factor, bottom_tree = factor / divisor, None
    if bottom_tree is not None:
        bottom_factor, bottom_tree = _unwrap(bottom_tree)
        if isinstance(bottom_tree, exp.Nullif):
            bottom_tree = bottom_tree.this
    top_factor, top_tree = _unwrap(top_tree)
    factor *= top_factor / (bottom_factor or 1.0)
    top = _linear(top_tree, text)
    bottom = () if bottom_tree is None else _linear(bottom_tree, text)
    kind, share = _kind(top, bottom)
    mean_of = _mean_column(top_tree) if bottom_tree is None else None
    if kind == "avg":
        part = top[0][1]
        kind = "mean"
        top, bottom = ((1.0, Part("sum", part.sql, part.column)),), ((1.0, Part("count", part.sql, part.column)),)
        share = part.sql.startswith("CAST(") or (bool(part.column) and is_flag(table, table.column(part.column)))
    unit = _unit(table, top, bottom, mean_of)
    label = alias or _label(table, kind, share, top, bottom, unit, factor)
    return Measure(
        name=_display(bound),
        sql=expressions.to_sql(bound),
        label=label,
        kind=kind,
        top=top,
        bottom=bottom,
        factor=factor,
        unit=unit,
        share=share and factor == 1.0,
        level=kind == "additive" and _of_levels(table, [part.column for _, part in top]),
    )


def default_measures(table: Table) -> list[Measure]:
    """A measure for every column that has the role: sums of amounts, averages of rates; and the number of rows, where
    they are events without money or counts of their own."""
    kept = [column for column in table.with_role(Role.MEASURE) if column.nature != RUNNING and not column.beside]
    measures = [of_column(column, table) for column in kept]
    counted = not measures or _counts_rows(table, measures)
    measures += [_as_stated(_rate(rate, table), table) for rate in rates_of_counts(table)]
    measures += [_as_stated(_between(span, table), table) for span in spans_of_time(table)]
    return [parse_measure("count(*)", table), *measures] if counted else measures


def _rate(rate: CountedRate, table: Table) -> Measure:
    """Events as a share of their chances."""
    events, chances = (expressions.quote_name(name) for name in rate)
    return replace(_parsed(f"sum({events}) / sum({chances})", table), share=True, unit=None)


def _between(span: TimeSpan, table: Table) -> Measure:
    """The average time from one date to another."""
    first, last = (expressions.quote_name(name) for name in (span.first, span.last))
    if span.hours:
        took = f"date_diff('minute', {first}, {last}) / 60.0"
    else:
        took = f"date_diff('day', CAST({first} AS DATE), CAST({last} AS DATE))"
    if span.settled is not None:
        took = f"CASE WHEN {first} < DATE '{span.settled + np.timedelta64(1, 'D')}' THEN {took} END"
    one, other = span.spoken
    label = f"average time from {one} to {other}"
    return replace(_parsed(f"avg({took})", table), label=label, unit="h" if span.hours else "days", between=span.spoken)


def _counts_rows(table: Table, measures: Sequence[Measure]) -> bool:
    """Whether how many rows there were is the first thing to know: they are events, with no money and nothing counted
    but what most of them have none of (the children of a booking)."""
    dated = table.with_role(Role.TIME)
    added = [part.column for measure in measures if measure.additive for part in measure.parts if part.column]
    named = [column for column in added if tells(words(column), MONEY) or tells(words(column), COUNTS)]
    if not dated or any(glimpse.mostly_something(table, column) for column in named):
        return False
    return of_events(table, min(dated, key=lambda column: column.missing).name)


def of_column(column: Column, table: Table) -> Measure:
    """The sum of an amount, the average of a rate: as `parse_measure` gives it for the bare name, without a parser."""
    return _as_stated(_of_column(column, table), table)


def _of_column(column: Column, table: Table) -> Measure:
    if column.weighed is not None:
        return _weighed(column, table)
    if len(column.weights) == 1:
        return _by_weight(column, table)
    quoted = expressions.quote_name(column.name)
    inner = f"CAST({quoted} AS INT)" if column.type == "boolean" else quoted
    adds_up = column.adds_up if column.adds_up is not None else True
    sql = f"{'SUM' if adds_up else 'AVG'}({inner})"
    top = ((1.0, Part("sum", inner, column.name)),)
    bottom = () if adds_up else ((1.0, Part("count", inner, column.name)),)
    kind = "additive" if adds_up else "mean"
    share = not adds_up and is_flag(table, column)
    return Measure(
        name=_shown(sql),
        sql=sql,
        label=_label(table, kind, share, top, bottom, column.unit),
        kind=kind,
        top=top,
        bottom=bottom,
        unit=column.unit,
        share=share,
        level=adds_up and column.nature == STOCK,
    )


def _weighed(column: Column, table: Table) -> Measure:
    """A rate or price that is the ratio of two columns: their sums, one over the other."""
    assert column.weighed is not None
    above, below, factor = column.weighed
    sums = f"sum({expressions.quote_name(above)}) / sum({expressions.quote_name(below)})"
    ratio = parse_measure(sums if factor == 1 else f"{factor:g} * {sums}", table)
    share = factor == 1 and column.nature == Nature.SHARE
    return replace(ratio, label=spoken(column.name, column.unit), unit=column.unit, share=share, column=column.name)


def _by_weight(column: Column, table: Table) -> Measure:
    """A rate or price averaged by the column that it is naturally weighed by, over the rows that have both."""
    own, weight = expressions.quote_name(column.name), expressions.quote_name(column.weights[0])
    top, bottom = f"{own} * {weight}", weight
    if column.missing or table.column(column.weights[0]).missing:
        # A weight without a price would count as one of nought.
        bottom = f"CASE WHEN {own} IS NOT NULL THEN {weight} END"
    ratio = parse_measure(f"sum({top}) / sum({bottom})", table)
    return replace(ratio, label=spoken(column.name, column.unit), unit=column.unit, share=False, column=column.name)


def _of_levels(table: Table, columns: Sequence[str]) -> bool:
    """Whether a sum is one of levels, all of it."""
    return all(name and table.column(name).nature in (STOCK, RUNNING) for name in columns)


def summing(measures: Sequence[Measure], column: str) -> list[Measure]:
    """The measures that are the plain sum of a column."""
    return [
        measure for measure in measures if measure.additive and [part.column for _, part in measure.top] == [column]
    ]


def lead_measure(measures: Sequence[Measure]) -> Measure:
    """The measure that a summary opens with: money if there is any (by its name, or because a price is a part of it),
    else the first that adds up."""
    money = ("revenue", "sales", "turnover", "income", "amount", "umsatz", "ingresos", "profit", "value")
    for word in money:
        for measure in measures:
            if measure.additive and word in measure.name.casefold():
                return measure
    paid = {part.column for measure in measures if measure.column for _, part in measure.top}
    added = [measure for measure in measures if measure.additive]
    priced = [measure for measure in added if any(part.column in paid for _, part in measure.top)]
    return (priced or added or list(measures))[0]


def _of_numbers(tree: Any, table: Table) -> None:
    """Refuses sums, averages and ends of a column that holds no numbers."""
    from sqlglot import exp

    for node in tree.find_all(exp.Sum, exp.Avg, exp.Min, exp.Max):
        inner = node.this
        if not isinstance(inner, exp.Column):
            continue
        column = table.column(inner.name)
        if column.type not in ("number", "boolean", "empty"):
            raise ColumnError(
                column.name,
                f"The column {shorten(column.name)!r} holds {column.type}, not numbers.",
                "Count it with count(distinct …), or choose a number.",
            )


def cast_flags(tree: Any, table: Table) -> Any:
    """yes/no columns inside aggregates count as 1 and 0."""
    from sqlglot import exp

    def turn(node: Any) -> Any:
        inside = isinstance(node.parent, exp.Sum | exp.Avg | exp.Min | exp.Max)
        if isinstance(node, exp.Column) and inside and table.column(node.name).type == "boolean":
            return exp.cast(node.copy(), "INT")
        return node

    return tree.transform(turn)


def _unwrap(tree: Any) -> tuple[float, Any]:
    """A leading number and what it multiplies, without brackets: 100 * (x) → (100, x)."""
    from sqlglot import exp

    factor = 1.0
    while True:
        if isinstance(tree, exp.Paren):
            tree = tree.this
        elif isinstance(tree, exp.Mul) and _number(tree.this) is not None:
            factor *= _number(tree.this) or 0.0
            tree = tree.expression
        elif isinstance(tree, exp.Mul) and _number(tree.expression) is not None:
            factor *= _number(tree.expression) or 0.0
            tree = tree.this
        elif isinstance(tree, exp.Div) and isinstance(tree.this, exp.Mul | exp.Paren) and _unwrap(tree.this)[0] != 1.0:
            inner, rest = _unwrap(tree.this)
            factor *= inner
            tree = exp.Div(this=rest.copy(), expression=tree.expression.copy())
        elif isinstance(tree, exp.Neg):
            factor, tree = -factor, tree.this
        else:
            return factor, tree


def _number(tree: Any) -> float | None:
    """The value of a number literal, or None for anything else."""
    from sqlglot import exp

    if isinstance(tree, exp.Paren):
        return _number(tree.this)
    return float(tree.this) if isinstance(tree, exp.Literal) and not tree.is_string else None


def _linear(tree: Any, text: str) -> tuple[tuple[float, Part], ...]:
    from sqlglot import exp

    factor, tree = _unwrap(tree)
    if isinstance(tree, exp.Add | exp.Sub):
        sign = 1.0 if isinstance(tree, exp.Add) else -1.0
        terms = [*_linear(tree.this, text), *((sign * weight, part) for weight, part in _linear(tree.expression, text))]
        if any(part.kind not in ("sum", "count") for _, part in terms):
            raise ExpressionError(text, "adds up aggregates that do not add up", f"Give {_WHAT}.")
    elif isinstance(tree, exp.Sum | exp.Avg | exp.Min | exp.Max | exp.Count):
        terms = [(1.0, _part(tree, text))]
    else:
        raise ExpressionError(text, "is not an aggregate, or not a sum or ratio of them", f"Give {_WHAT}.")
    return tuple((factor * weight, part) for weight, part in terms)


def _part(tree: Any, text: str) -> Part:
    from sqlglot import exp

    inner = tree.this
    kind = {exp.Sum: "sum", exp.Avg: "avg", exp.Min: "min", exp.Max: "max", exp.Count: "count"}[type(tree)]
    if isinstance(inner, exp.Distinct):
        if kind != "count" or len(inner.expressions) != 1:
            raise ExpressionError(text, "uses DISTINCT where it has no sense", f"Give {_WHAT}.")
        kind, inner = "distinct", inner.expressions[0]
    if isinstance(inner, exp.Star):
        return Part("count", "")
    if any(isinstance(node, exp.Sum | exp.Avg | exp.Min | exp.Max | exp.Count) for node in inner.walk()):
        raise ExpressionError(text, "puts an aggregate inside an aggregate", f"Give {_WHAT}.")
    plain = inner.this if isinstance(inner, exp.Cast) else inner
    return Part(kind, expressions.to_sql(inner), plain.name if isinstance(plain, exp.Column) else "")


def _kind(top: tuple[tuple[float, Part], ...], bottom: tuple[tuple[float, Part], ...]) -> tuple[str, bool]:
    kinds = {part.kind for _, part in top + bottom}
    if bottom:
        return ("ratio" if kinds <= {"sum", "count"} else "other"), False
    if kinds <= {"sum", "count"}:
        return "additive", False
    return ("avg" if kinds == {"avg"} else "other"), False


def _mean_column(tree: Any) -> str | None:
    from sqlglot import exp

    return tree.this.name if isinstance(tree, exp.Avg) and isinstance(tree.this, exp.Column) else None


def _unit(
    table: Table, top: tuple[tuple[float, Part], ...], bottom: tuple[tuple[float, Part], ...], mean_of: str | None
) -> str | None:
    units = {table.column(part.column).unit if part.column else None for _, part in top if part.kind != "count"}
    if (bottom and mean_of is None) or len(units) != 1:
        return None
    return units.pop()


def _display(bound: Any) -> str:
    """The measure as people write it: sum(revenue), without quotes where names are plain words."""
    return _shown(expressions.to_sql(bound))


def _shown(sql: str) -> str:
    text = re.sub(r'"([A-Za-z_][A-Za-z0-9_]*)"', r"\1", sql)
    text = re.sub(r"CAST\((\w+) AS INT\)", r"\1", text)
    return re.sub(r"\b(SUM|AVG|COUNT|MIN|MAX|DISTINCT)\b", lambda match: match[0].lower(), text)


def _label(
    table: Table,
    kind: str,
    share: bool,
    top: tuple[tuple[float, Part], ...],
    bottom: tuple[tuple[float, Part], ...],
    unit: str | None,
    factor: float = 1.0,
) -> str:
    if len(top) != 1 or len(bottom) > 1:
        return "the measure"
    part = top[0][1]
    name = spoken(part.column or part.sql, unit)
    if kind == "mean":
        # A column of averages says so already.
        bare = re.sub(r"^(avg|average|mean) (?=.)", "", name)
        return f"{name} rate" if share and not name.endswith("rate") else f"average {bare}"
    if kind == "ratio":
        below = spoken(bottom[0][1].column or bottom[0][1].sql) if bottom[0][1].sql else "rows"
        times = times_of(factor)
        return f"{name if part.sql else 'rows'} per {f'{times:,} {below}' if times else singular(below)}"
    if part.kind == "count":
        return f"rows with {name}" if part.sql else "rows"
    return {"sum": name, "distinct": f"distinct {name}", "min": f"lowest {name}", "max": f"highest {name}"}[part.kind]
