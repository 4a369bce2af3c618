"""A sum's change through what it is made of: volume, mix and price of its items; or the columns it is the sum of.

Both are exact. Volume, mix and price are log-mean Divisia parts (Ang 2004), item by item; new and ended items stand
apart, and items whose amounts are not positive in both periods, for which there is no logarithm, are told as the rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...aggregation import Only, Survey
from ...aggregation.measures import Measure, Part
from ...aggregation.row_filter import EVERY
from ...findings import Slice
from ...sql.expressions import bind, parse, quote_name
from ...stats.autocorrelated_fits import Floats
from ...support.errors import RequestError
from ...tables import Period, Role, Table
from ...tables.identities import Identity, confirmed, identities
from .contributions import log_mean

#: A dimension's items must differ so much in price (standard deviation of logarithms) for their mix to be told.
_LEAST_APART = 0.02
#: What a difference of columns is called.
_LEFT_OVER = ("profit", "margin", "result", "surplus", "net", "balance", "earnings", "contribution")


@dataclass(frozen=True, slots=True, kw_only=True)
class Factors:
    """A sum as units times price over the items of `by` (None: taken together): parts of the change, that add up to it.

    `units` is the column counted, None where each row is one unit; `parts` are (name, change) of volume, mix, price (or
    rate, of rows), new, ended and rest, those that are nought left out. The price is that of the whole.
    """

    units: str | None
    by: str | None
    parts: tuple[tuple[str, float], ...]
    volume_before: float
    volume_now: float
    price_before: float
    price_now: float

    def part(self, name: str) -> float:
        return dict(self.parts).get(name, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Component:
    """A column that the measure is a sum of: its own sums, and what it adds to the change (with its sign)."""

    column: str | None
    before: float
    value: float
    change: float


def _sums(
    survey: Survey, measures: Sequence[Measure], where: Slice, both: tuple[Period, Period], by: str | None
) -> list[tuple[Floats, ...]]:
    """For each of the two periods the rows of each label, then the sums of each measure; shape (labels,)."""
    found = []
    for span in both:
        kept = survey.kept(Only(where.conditions, (span.start, span.end)))
        cells = kept.cells() if by is None else kept.cells(by)
        found.append(
            tuple(np.atleast_1d(one) for one in (cells.rows, *(cells.linear(measure.top) for measure in measures)))
        )
    return found


def split(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, identity: Identity | None
) -> Factors | None:
    """The change of a sum as volume, mix and price, by the dimension whose items differ most in price.

    Units are the factor of a product that the column is (`identity`); without one, rows. None unless the measure is the
    sum of one thing, positive in both periods.
    """
    part = _summed(measure)
    if part is None:
        return None
    units = None
    if identity is not None and identity.kind == "product" and identity.result == part.column:
        units = _units(survey.table, identity)
    counted = [measure]
    if units is not None:
        counted.append(_summed_column(survey.table, units))
        # The cells of the measure alone are there already; those with units are made once for all dimensions.
        survey = replace(survey, measures=tuple(counted), finer=None, whole=None, only=EVERY, _cache={})

    def priced(by: str | None) -> tuple[Floats, ...]:
        (rows0, amount0, *units0), (rows1, amount1, *units1) = _sums(survey, counted, where, (then, now), by)
        ends = units0[0] if units0 else rows0, units1[0] if units1 else rows1
        return measure.factor * amount0, ends[0], measure.factor * amount1, ends[1]

    fixed = {column for column, _ in where.conditions}
    chosen = by_items = None
    most = _LEAST_APART
    for column in survey.dimensions:
        if column.name not in fixed:
            own = priced(column.name)
            apart = _apart(own[0], own[1])
            if apart > most:
                most, chosen, by_items = apart, column.name, own
    v0, u0, v1, u1 = priced(None) if by_items is None else by_items
    return _parted(units, chosen, v0, u0, v1, u1)


def _parted(units: str | None, by: str | None, v0: Floats, u0: Floats, v1: Floats, u1: Floats) -> Factors | None:
    """Volume, mix and price of items with amounts `v` and units `u`, arrays of shape (items,)."""
    if min(v0.sum(), v1.sum(), u0.sum(), u1.sum()) <= 0:
        return None
    there0, there1 = (v0 != 0) | (u0 != 0), (v1 != 0) | (u1 != 0)
    kept = (v0 > 0) & (v1 > 0) & (u0 > 0) & (u1 > 0)
    found = {"volume": 0.0, "mix": 0.0, "price": 0.0}
    if kept.any():
        all0, all1 = float(u0[kept].sum()), float(u1[kept].sum())
        for a, b, m, n in zip(v0[kept], v1[kept], u0[kept], u1[kept], strict=True):
            weight = log_mean(float(b), float(a))
            found["volume"] += weight * float(np.log(all1 / all0))
            found["mix"] += weight * float(np.log((n / all1) / (m / all0)))
            found["price"] += weight * float(np.log((b / n) / (a / m)))
    new, ended = ~there0 & there1, there0 & ~there1
    found["new"], found["ended"] = float(v1[new].sum()), -float(v0[ended].sum())
    left = there0 & there1 & ~kept
    found["rest"] = float((v1[left] - v0[left]).sum())
    # Without items there is no mix, and what is left of it is rounding.
    if by is None:
        found["price"] += found.pop("mix")
    if units is None:
        found = {"rate" if name == "price" else name: change for name, change in found.items()}
    always = ("volume", "price", "rate")
    return Factors(
        units=units,
        by=by,
        parts=tuple((name, change) for name, change in found.items() if change or name in always),
        volume_before=float(u0.sum()),
        volume_now=float(u1.sum()),
        price_before=float(v0.sum() / u0.sum()),
        price_now=float(v1.sum() / u1.sum()),
    )


def bridge(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, identity: Identity | None
) -> tuple[Component, ...]:
    """The change of a sum by the columns it is the sum of; what rows that break the identity leave is the last one,
    without a column. Empty where no identity tells."""
    part = _summed(measure)
    if part is None or identity is None or identity.kind != "sum" or identity.result != part.column:
        return ()
    columns = [_summed_column(survey.table, name) for _, name in identity.terms]
    wide = replace(survey, measures=(measure, *columns), finer=None, whole=None, only=EVERY, _cache={})
    before, value = _sums(wide, (measure, *columns), where, (then, now), None)
    factor = measure.factor * measure.top[0][0]
    found = []
    for place, (weight, name) in enumerate(identity.terms, start=2):
        low, high = float(before[place][0]), float(value[place][0])
        found.append(Component(column=name, before=low, value=high, change=factor * weight * (high - low)))
    change = measure.factor * float(value[1][0] - before[1][0])
    rest = change - sum(one.change for one in found)
    if abs(rest) > 1e-9 * max(abs(float(value[1][0])), abs(float(before[1][0])), 1e-300):
        found.append(Component(column=None, before=0.0, value=0.0, change=rest))
    return tuple(sorted(found, key=lambda one: (one.column is None, -abs(one.change), one.column or "")))


def identities_of(survey: Survey, measure: Measure, stated: str | None) -> tuple[Identity | None, Identity | None]:
    """The product and the sum along which a measure is taken apart: the one stated, else those found among the columns.

    Raises RequestError when what is stated cannot be read, or does not hold row by row.
    """
    part, table = _summed(measure), survey.table
    if stated is not None:
        one = _stated(table, stated)
        if part is None or part.column != one.result:
            raise RequestError("The identity", stated, f"one of the column that is summed, such as {_example(part)}")
        return (one, None) if one.kind == "product" else (None, one)
    if part is None or not part.column:
        return None, None
    columns = [
        column.name
        for column in table.columns
        if column.type == "number" and column.role in (Role.MEASURE, Role.IGNORED)
    ]
    found = [identity for identity in identities(table, columns) if len(identity.terms) > 1]
    product = next((one for one in found if one.kind == "product" and one.result == part.column), None)
    sums = (_solved(one, part.column) for one in found)
    return product, next((one for one in sums if one is not None), None)


def result_of(table: Table, stated: str) -> str:
    """The column that a stated identity is about. Raises RequestError or ColumnError."""
    return _stated(table, stated).result


def _solved(identity: Identity, column: str) -> Identity | None:
    """A sum told of another of its columns, solved for this one: revenue = cost + profit as profit's.

    Which of the columns is made of the others the figures do not tell: what is left over goes by its name, else a total
    is the one that all others add to.
    """
    weights = {name: weight for weight, name in identity.terms} | {identity.result: -1.0}
    if identity.kind != "sum" or not weights.get(column):
        return None
    terms = tuple((-weight / weights[column], name) for name, weight in weights.items() if name != column)
    left_over = [name for name in weights if any(word in name.casefold() for word in _LEFT_OVER)]
    made = column in left_over or (not left_over and all(weight > 0 for weight, _ in terms))
    return Identity(kind="sum", result=column, terms=terms, broken=identity.broken) if made else None


def _summed_column(table: Table, name: str) -> Measure:
    """The sum of a column, also of one that is usually averaged."""
    part = Part("sum", quote_name(name), name)
    return Measure(name=f"sum({name})", sql=f"SUM({quote_name(name)})", label=name, kind="additive", top=((1.0, part),))


def _stated(table: Table, text: str) -> Identity:
    from sqlglot import exp

    left, mark, right = text.partition("=")
    wanted = "a column, an equals sign and a sum or product of columns, such as profit = revenue - cost"
    if not mark or not left.strip() or not right.strip():
        raise RequestError("The identity", text, wanted)
    result = table.column(left.strip().strip('"'), "the identity").name
    tree = bind(parse(right, aggregates=False, what=wanted), table.names, "the identity", table.private)
    if isinstance(tree, exp.Mul) and isinstance(tree.this, exp.Column) and isinstance(tree.expression, exp.Column):
        identity = Identity(
            kind="product", result=result, terms=((1.0, tree.this.name), (1.0, tree.expression.name)), broken=0
        )
    else:
        identity = Identity(kind="sum", result=result, terms=tuple(_terms(tree, 1.0, text, wanted)), broken=0)
    held = confirmed(table, identity)
    if held is None:
        raise RequestError("The identity", text, "one that holds in all but a few rows; in this table it does not")
    return held


def _terms(tree: object, sign: float, text: str, wanted: str) -> list[tuple[float, str]]:
    from sqlglot import exp

    if isinstance(tree, exp.Paren):
        return _terms(tree.this, sign, text, wanted)
    if isinstance(tree, exp.Neg):
        return _terms(tree.this, -sign, text, wanted)
    if isinstance(tree, exp.Add | exp.Sub):
        turned = sign if isinstance(tree, exp.Add) else -sign
        return [*_terms(tree.this, sign, text, wanted), *_terms(tree.expression, turned, text, wanted)]
    if isinstance(tree, exp.Column):
        return [(sign, tree.name)]
    raise RequestError("The identity", text, wanted)


def _summed(measure: Measure) -> Part | None:
    """What a measure is the plain sum of; None for anything else."""
    if not measure.additive or len(measure.top) != 1 or measure.top[0][1].kind != "sum":
        return None
    return measure.top[0][1]


def _units(table: Table, identity: Identity) -> str:
    """Which factor of a product counts units: the one that adds up; of two such the one in whole numbers."""
    names = [name for _, name in identity.terms]

    def fit(name: str) -> tuple[bool, bool]:
        values = table.numbers(name)[:1000]
        known = values[np.isfinite(values)]
        return table.column(name).adds_up is not False, bool((known == np.round(known)).all())

    return max(names, key=lambda name: (*fit(name), -names.index(name)))


def _apart(v: Floats, u: Floats) -> float:
    """How far the items' prices lie apart: the standard deviation of their logarithms, weighted by amount."""
    use = (v > 0) & (u > 0)
    if use.sum() < 2:
        return 0.0
    logs, weights = np.log(v[use] / u[use]), v[use] / v[use].sum()
    middle = float(logs @ weights)
    return float(np.sqrt(weights @ (logs - middle) ** 2))


def _example(part: Part | None) -> str:
    return f"{part.column} = …" if part is not None and part.column else "profit = revenue - cost"
