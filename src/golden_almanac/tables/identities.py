"""Accounting identities among numeric columns: profit = revenue − cost, revenue = quantity × price, a column twice.

Found on a sample of rows by least squares whose residual is at the level of rounding, then confirmed on all rows. They
are bookkeeping, not discoveries: nothing is reported because of them, and changes are taken apart along them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations_with_replacement

import numpy as np
import numpy.typing as npt

from ..sql.expressions import quote_name
from . import Table

Floats = npt.NDArray[np.float64]
#: Rows on which identities are looked for, and columns beyond which they are not.
_ROWS, _MOST_COLUMNS = 2000, 16
#: The share of a column's variance that rounding may leave unexplained, and of the rows that may break an identity.
_LEFT, _BROKEN = 1e-5, 0.001
#: The share of rows that a fit leaves out, so that wrong ones among them do no harm.
_LEFT_OUT = 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class Identity:
    """`result` is the sum of `terms` (coefficient, column), or for a product the first coefficient times its columns.

    For a threshold the coefficient is the least value above it, negative where the result is yes below it. `broken`
    rows of the table do not keep the identity: worth a look each.
    """

    kind: str
    result: str
    terms: tuple[tuple[float, str], ...]
    broken: int

    @property
    def columns(self) -> frozenset[str]:
        return frozenset((self.result, *(name for _, name in self.terms)))

    def sql(self) -> str:
        """The right-hand side as SQL."""
        names = [f"CAST({quote_name(name)} AS DOUBLE)" for _, name in self.terms]
        if self.kind == "threshold":
            cut = self.terms[0][0]
            return f"CAST({names[0]} {'>=' if cut > 0 else '<'} {abs(cut)!r} AS INT)"
        if self.kind == "product":
            return f"{self.terms[0][0]!r} * {' * '.join(names)}"
        return " + ".join(f"{weight!r} * {name}" for (weight, _), name in zip(self.terms, names, strict=True))


def identities(table: Table, columns: Sequence[str]) -> tuple[Identity, ...]:
    """The identities among these numeric columns, simplest first; kept with the table."""
    key = ("identities", *columns)
    if key not in table._cache:
        table._cache[key] = _found(table, list(columns)[:_MOST_COLUMNS])
    return table._cache[key]  # type: ignore[no-any-return]


def confirmed(table: Table, identity: Identity) -> Identity | None:
    """An identity stated by someone, with the rows that break it; None where those are more than a few."""
    values = table.numbers(identity.result)
    return _confirmed(table, identity, _resolution(values[np.isfinite(values)][:_ROWS]))


def bound_together(identities: Sequence[Identity]) -> list[frozenset[str]]:
    """The sets of columns that identities bind, also through a column that is another one's multiple."""
    sets = {identity.columns for identity in identities}
    while True:
        pairs = [one for one in sets if len(one) == 2]
        more = {known | pair for known in sets for pair in pairs if known & pair} - sets
        if not more:
            return sorted(sets, key=sorted)
        sets |= more


def _found(table: Table, columns: list[str]) -> tuple[Identity, ...]:
    sample = table.sample() or table
    values = np.column_stack([sample.numbers(name) for name in columns]) if columns else np.empty((0, 0))
    whole = values[np.isfinite(values).all(axis=1)]
    # Rows in the order of their values, so that the order in the file picks no others.
    whole = whole[np.lexsort(whole.T)] if whole.size else whole
    picked = whole[:: max(1, whole.shape[0] // _ROWS)]
    if picked.shape[0] < 30 or len(columns) < 2:
        return ()
    unit = np.array([_resolution(picked[:, j]) for j in range(len(columns))])
    varied = np.ptp(picked, axis=0) > 0
    found: dict[frozenset[str], Identity] = {}
    for place, name in enumerate(columns):
        others = [j for j in range(len(columns)) if j != place and varied[j]]
        if not varied[place]:
            continue
        for kind, terms in (
            ("threshold", _threshold_of(picked, place, others)),
            *(("sum", one) for one in _sums_of(picked, unit, place, others)),
            ("product", _product_of(picked, unit, place, others)),
        ):
            known = frozenset((name, *(columns[j] for _, j in terms)))
            if terms and known not in found:
                told = tuple((weight, columns[j]) for weight, j in terms)
                made = _confirmed(table, Identity(kind=kind, result=name, terms=told, broken=0), float(unit[place]))
                if made is not None:
                    found[known] = made
    return tuple(sorted(found.values(), key=lambda one: (len(one.terms), one.result)))


def _sums_of(values: Floats, unit: Floats, place: int, others: list[int]) -> list[list[tuple[float, int]]]:
    """The sums that the column at `place` is. Where columns nearly stand for each other (an amount, and its tax) one
    may hide another: each is looked for without a column of the first, too."""
    first = _sum_of(values, unit, place, others)
    found = [first]
    for _, column in first:
        found.append(_sum_of(values, unit, place, [j for j in others if j != column]))
    return [one for one in found if one]


def _sum_of(values: Floats, unit: Floats, place: int, others: list[int]) -> list[tuple[float, int]]:
    """The fewest columns whose weighted sum is the one at `place`, or none."""
    y = values[:, place]

    def fits(use: list[int]) -> Floats | None:
        if not use:
            return None
        weights = np.asarray(np.linalg.lstsq(values[:, use], y, rcond=None)[0])
        # A few wrong rows must not bend the fit: those farthest from it are left out, and it is made again.
        off = np.abs(y - values[:, use] @ weights)
        near = off <= np.quantile(off, 1 - _LEFT_OUT)
        weights = np.asarray(np.linalg.lstsq(values[near][:, use], y[near], rcond=None)[0])
        weights = np.where(np.abs(weights - np.round(weights, 2)) < 1e-4, np.round(weights, 2), weights)
        allowed = 0.51 * (unit[place] + float(np.abs(weights) @ unit[use]))
        return weights if _exact(y, values[:, use] @ weights, allowed) else None

    use = list(others)
    if fits(use) is None:
        return []
    for column in others:
        fewer = [j for j in use if j != column]
        if fits(fewer) is not None:
            use = fewer
    weights = fits(use)
    assert weights is not None
    return [(float(weight), j) for weight, j in zip(weights, use, strict=True) if weight]


def _product_of(values: Floats, unit: Floats, place: int, others: list[int]) -> list[tuple[float, int]]:
    y = values[:, place]
    for a, b in combinations_with_replacement(others, 2):
        both = values[:, a] * values[:, b]
        known = both != 0
        if known.sum() < 30:
            continue
        factor = float(np.median(y[known] / both[known]))
        factor = round(factor, 2) if abs(factor - round(factor, 2)) < 1e-3 * abs(factor) else factor
        room = np.abs(values[:, a]) * unit[b] + np.abs(values[:, b]) * unit[a]
        if factor and _exact(y, factor * both, 0.51 * (unit[place] + abs(factor) * room)):
            return [(factor, a), (1.0, b)]
    return []


def _threshold_of(values: Floats, place: int, others: list[int]) -> list[tuple[float, int]]:
    """The column that tells a yes/no column wholly, by lying above or below some value: late, and the delay."""
    y = values[:, place]
    if not np.isin(y, (0.0, 1.0)).all():
        return []
    for j in others:
        yes, no = values[y == 1, j], values[y == 0, j]
        if min(yes.size, no.size) >= 5 and np.unique(values[:, j]).size > 2:
            if yes.min() > no.max():
                return [(float(yes.min()), j)]
            if no.min() > yes.max():
                return [(-float(no.min()), j)]
    return []


def _exact(y: Floats, made: Floats, allowed: float | Floats) -> bool:
    off = y - made
    close = np.mean(np.abs(off) <= allowed) >= 1 - _BROKEN
    near = np.sort(off * off)[: max(1, int((1 - _BROKEN) * off.size))]
    return bool(close and near.sum() <= _LEFT * float(np.var(y)) * near.size)


def _resolution(column: Floats) -> float:
    """The unit a column is rounded to: 1, 0.1, 0.01 …, or nought for doubles at full length."""
    for decimals in range(5):
        if np.all(np.abs(column - np.round(column, decimals)) <= 1e-9 * np.maximum(1.0, np.abs(column))):
            return float(10.0**-decimals)
    return 1e-6 * float(np.abs(column).max())


def _confirmed(table: Table, identity: Identity, unit: float) -> Identity | None:
    """The identity with the number of rows that break it; None where those are more than a few."""
    y, made = f"CAST({quote_name(identity.result)} AS DOUBLE)", identity.sql()
    known = " AND ".join(f"{quote_name(name)} IS NOT NULL" for name in sorted(identity.columns))
    near = f"abs({y} - ({made})) <= {2 * unit!r} + 1e-5 * abs({y})"
    row = table.store.query(
        f"SELECT count(*) AS n, count(*) FILTER (WHERE NOT ({near})) AS broken FROM source WHERE {known}"
    )
    n, broken = int(row.column("n")[0].as_py()), int(row.column("broken")[0].as_py())
    if not n or broken > max(1, _BROKEN * n):
        return None
    return Identity(kind=identity.kind, result=identity.result, terms=identity.terms, broken=broken)
