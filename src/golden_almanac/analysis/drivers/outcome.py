"""The outcome that drivers are looked for: a number, a yes/no question, or a rate with its weights."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ...aggregation.measure_names import spoken
from ...aggregation.measures import Measure, parse_measure
from ...sql import expressions
from ...support.errors import ColumnError, ExpressionError, RequestError, join_or, rather, shorten
from ...support.phrasing import phrased
from ...tables import Column, Table

Floats = npt.NDArray[np.float64]

#: Fewer rows than this tell an effect from chance only by luck.
LEAST_ROWS = 30
#: Tables longer than this are looked at through a stated, even sample.
MOST_ROWS = 5_000_000
#: Labels that mean yes, where a column has two labels and nobody says which one is meant.
_YES = ("yes", "true", "1", "1.0", "y", "ja", "sí", "oui")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Outcome:
    """The outcome of each row that has one.

    `kind` is number, yes/no or rate; `event` the label that counts as yes; `measure` the aggregate whose value over any
    rows is the (weighted) mean of `values`; `weights` the denominators of a rate, None where each row counts once;
    `rows` the places of the rows in `table`; `columns` what it is made from. Arrays have shape (n,).
    """

    name: str
    label: str
    kind: str
    event: str | None
    measure: Measure
    table: Table
    sampled: int | None
    rows: npt.NDArray[np.intp]
    values: Floats
    weights: Floats | None
    columns: frozenset[str]

    @property
    def n(self) -> int:
        return int(self.values.size)

    @property
    def yes_no(self) -> bool:
        return self.kind == "yes/no"

    @property
    def overall(self) -> float:
        return float(np.average(self.values, weights=self.weights))

    def told(self) -> str:
        """What is to be said of the rows looked at; nothing where they are all."""
        return "" if self.sampled is None else phrased("an even sample of {n} rows", n=self.sampled)


def outcome_of(table: Table, text: str, event: str | None = None, least: int = LEAST_ROWS) -> Outcome:
    """The outcome as named: a column, an aggregate that is a ratio, or an SQL expression over a row.

    Raises ColumnError, ExpressionError or RequestError, also where there are too few rows or nothing varies.
    """
    whole, sampled = table, None
    if table.rows > MOST_ROWS:
        drawn = table.sample()
        if drawn is not None:
            table, sampled = drawn, drawn.rows
    folded = {name.casefold(): name for name in reversed(table.names)}
    name = text.strip().strip('"')
    if name in table.names or name.casefold() in folded:
        found = _column(table, table.column(name), event)
    elif re.match(r"(?is)^[\s(\d.*]*(sum|avg|count|min|max)\s*\(", text):
        found = _ratio(table, text)
    elif re.fullmatch(r"\w+", name):
        raise ColumnError.unknown(name, table.names, "the outcome", table.private)
    else:
        found = _expression(table, text)
    _varied(found, least)
    return found if whole is table else replace(found, sampled=sampled)


def unweighted(outcome: Outcome, where: str) -> Outcome:
    """The outcome, if each row counts once. Raises RequestError for a rate: a mean of ratios is never taken."""
    if outcome.weights is not None:
        raise RequestError(
            f"The outcome to {where}",
            outcome.name,
            "a column or an expression over a row; of a rate, drivers tells what goes with it",
        )
    return outcome


def _made(table: Table, values: Floats, weights: Floats | None, **facts: Any) -> Outcome:
    known = np.isfinite(values) if weights is None else np.isfinite(values) & (weights > 0)
    rows = np.flatnonzero(known)
    return Outcome(
        table=table,
        sampled=None,
        rows=rows,
        values=values[rows],
        weights=None if weights is None else weights[rows],
        **facts,
    )


def _column(table: Table, column: Column, event: str | None) -> Outcome:
    quoted = expressions.quote_name(column.name)
    label = spoken(column.name, column.unit)
    flag = column.type == "boolean" or (column.type == "number" and _two(table, column) <= {"0", "1", "0.0", "1.0"})
    if column.type == "number" and not flag and event is None:
        measure = parse_measure(f"avg({quoted})", table)
        return _made(
            table,
            table.numbers(column.name),
            None,
            name=column.name,
            label=label,
            kind="number",
            event=None,
            measure=measure,
            columns=frozenset((column.name,)),
        )
    labels = [text for text in table.labels(column.name) if text is not None]
    if event is None and len(labels) > 2:
        raise ColumnError(
            column.name,
            f"The outcome {column.name!r} has {len(labels)} labels, not two.",
            f"Say which one counts as yes, with --event: {join_or(labels[:6])}.",
        )
    if event is None:
        event = _likely(table, column.name, labels)
    if event is None or event not in labels:
        raise RequestError(
            f"The event of {column.name}", event, f"one that occurs; {rather(str(event), labels, 'labels')}"
        )
    codes, known = table.codes(column.name)
    values = (codes == known.index(event)).astype(np.float64)
    if None in known:
        values[codes == known.index(None)] = np.nan
    yes = event.casefold() in _YES
    is_event = table.equals(column.name, event)
    measure = parse_measure(f"avg({quoted})" if flag and yes else f"avg(CAST({is_event} AS INT))", table)
    told = label if yes else f"{label} = {event}"
    return _made(
        table,
        values,
        None,
        name=column.name,
        label=told,
        kind="yes/no",
        event=event,
        measure=replace(measure, share=True, label=f"{told} rate" if yes else f"share of {event}"),
        columns=frozenset((column.name,)),
    )


def _two(table: Table, column: Column) -> set[str]:
    """The labels of a column that has at most two; others have some label of their own."""
    if column.distinct > 2:
        return {"more"}
    return {label for label in table.labels(column.name) if label is not None} or {"none"}


def _likely(table: Table, name: str, labels: list[str]) -> str | None:
    for label in labels:
        if label.casefold() in _YES:
            return label
    counts = dict(zip(*table.label_counts(name), strict=True))
    return min(labels, key=lambda label: (counts[label], label), default=None)


def _ratio(table: Table, text: str) -> Outcome:
    measure = parse_measure(text, table)
    if not measure.bottom or any(part.kind not in ("sum", "count") for part in measure.parts):
        raise ExpressionError(
            text, "is no average or ratio of sums", "Name a column, or a rate such as sum(revenue) / sum(passengers)."
        )

    def of(parts: tuple[tuple[float, Any], ...]) -> Floats:
        total = np.zeros(table.rows)
        for weight, part in parts:
            each = np.ones(table.rows) if not part.sql else table.evaluate(part.sql)
            total = total + weight * (np.isfinite(each) if part.kind == "count" and part.sql else each)
        return total

    top, bottom = of(measure.top), of(measure.bottom)
    with np.errstate(divide="ignore", invalid="ignore"):
        values = measure.factor * top / bottom
    weights = np.where(np.isfinite(bottom), bottom, 0.0)
    if measure.kind == "mean" and measure.share:
        return _made(
            table,
            values,
            None,
            name=measure.name,
            label=measure.label,
            kind="yes/no",
            event=None,
            measure=measure,
            columns=_columns(measure),
        )
    even = measure.kind == "mean"
    return _made(
        table,
        values,
        None if even else weights,
        name=measure.name,
        label=measure.label,
        kind="number" if even else "rate",
        event=None,
        measure=measure,
        columns=_columns(measure),
    )


#: Numbers beyond this have no square among the doubles.
MOST_SIZE = 1e150


def _columns(measure: Measure) -> frozenset[str]:
    return frozenset(part.column for part in measure.parts if part.column)


def _expression(table: Table, text: str) -> Outcome:
    from sqlglot import exp

    tree = expressions.bind(
        expressions.parse(text, aggregates=False, what="a column, or an expression such as delay_min > 10"),
        table.names,
        "the outcome",
        table.private,
    )
    safe = expressions.to_sql(tree)
    values = table.evaluate(safe)
    known = values[np.isfinite(values)]
    yes_no = bool(known.size) and bool(np.isin(known, (0.0, 1.0)).all())
    inner = f"CAST(({safe}) AS INT)" if yes_no else f"({safe})"
    measure = parse_measure(f"avg({inner})", table)
    told = text.strip()
    return _made(
        table,
        values,
        None,
        name=told,
        label=told,
        kind="yes/no" if yes_no else "number",
        event=None,
        measure=replace(measure, share=yes_no, label=f"share with {told}" if yes_no else f"average {told}"),
        columns=frozenset(column.name for column in tree.find_all(exp.Column)),
    )


def _varied(outcome: Outcome, least: int) -> None:
    """Refuses an outcome that too few rows have, or that does not vary."""
    if outcome.n < least:
        raise ColumnError(
            outcome.name,
            f"Only {outcome.n} rows have a value of the outcome {outcome.name!r}; at least {least} are needed.",
            "Loosen the condition, or choose another outcome.",
        )
    if float(np.abs(outcome.values).max()) > MOST_SIZE:
        raise ColumnError(
            outcome.name,
            f"The outcome {shorten(outcome.name)!r} has numbers so large that their squares are beyond reckoning.",
            "Divide it, such as by a million.",
        )
    if float(np.ptp(outcome.values)) == 0.0:
        what = f"{outcome.values[0]:g}" if not outcome.yes_no else ("yes" if outcome.values[0] else "no")
        raise ColumnError(
            outcome.name,
            f"The outcome {outcome.name!r} is {what} in every row, so nothing can go with it.",
            "Choose an outcome that varies, or keep other rows.",
        )
