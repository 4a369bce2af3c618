"""The terms of a regression: an intercept, columns, labels against the first of theirs, and SQL over a row."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ...sql import expressions
from ...stats.double_double import Doubled, multiply, power
from ...support.errors import ColumnError, ExpressionError
from ...support.phrasing import named, phrased
from ...tables import Table

Floats = npt.NDArray[np.float64]

_MOST_LEVELS = 60


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Term:
    """One column of the design: its name, values in doubled digits (n,), the factor it belongs to, and the label of
    that factor which it stands for, where it is one of labels."""

    name: str
    factor: str
    values: Doubled
    level: str | None = None


def terms_of(
    table: Table, factors: Sequence[str], intercept: bool
) -> tuple[list[Term], npt.NDArray[np.bool_], list[str]]:
    """The terms over all rows, which rows have all of them, and notes. Raises ColumnError or ExpressionError."""
    n = table.rows
    terms: list[Term] = []
    known = np.ones(n, dtype=bool)
    notes: list[str] = []
    zeros = np.zeros(n)
    if intercept:
        terms.append(Term(name="intercept", factor="", values=(np.ones(n), zeros)))
    for factor in factors:
        name = factor.strip().strip('"')
        found = next((c for c in table.columns if c.name == name), None) or next(
            (c for c in table.columns if c.name.casefold() == name.casefold()), None
        )
        if found is None:
            values, text = _expression(table, factor)
            known &= np.isfinite(values[0])
            terms.append(Term(name=text, factor=text, values=values))
            continue
        if found.type == "number":
            numbers = table.numbers(found.name)
            known &= np.isfinite(numbers)
            terms.append(Term(name=found.name, factor=found.name, values=(numbers, zeros)))
        elif found.type in ("text", "boolean"):
            codes, labels = table.codes(found.name)
            levels = [label for label in labels if label is not None]
            if len(levels) > _MOST_LEVELS:
                raise ColumnError(
                    found.name,
                    f"The factor {found.name!r} has {len(levels)} labels, too many for a regression.",
                    f"Choose one with at most {_MOST_LEVELS}.",
                )
            if None in labels:
                known &= codes != labels.index(None)
            if len(levels) > 1 or not intercept:
                base = levels[0] if intercept else None
                for place, level in enumerate(labels):
                    if level is not None and level != base:
                        values = ((codes == place).astype(float), zeros)
                        terms.append(Term(name=f"{found.name}={level}", factor=found.name, values=values, level=level))
                if base is not None:
                    notes.append(
                        phrased(
                            "{column} is told against {label}.", column=named(found.name, found.name), label=str(base)
                        )
                    )
        else:
            raise ColumnError(
                found.name,
                f"The factor {found.name!r} holds {found.type}, which a regression cannot use as it is.",
                "Use a number, labels, or an expression such as month(date).",
            )
    return terms, known, notes


def _expression(table: Table, text: str) -> tuple[Doubled, str]:
    """An SQL expression over a row. Whole powers and products of columns keep all their digits."""
    what = "a column, or an expression over a row such as load * load or pow(load, 2)"
    import re

    if re.fullmatch(r"\s*\w+\s*", text):
        raise ColumnError.unknown(text.strip(), table.names, "the factors", table.private)
    parsed = expressions.parse(text, aggregates=False, what=what)
    tree: Any = expressions.bind(parsed, table.names, "the factors", table.private)
    exact = _monomial(table, tree)
    if exact is not None:
        return exact, text.strip()
    values = table.evaluate(expressions.to_sql(tree))
    if not np.isfinite(values).any():
        raise ExpressionError(text, "gives no number in any row", f"Give {what}.")
    return (values, np.zeros(values.size)), text.strip()


def _monomial(table: Table, tree: Any) -> Doubled | None:
    """A product of whole powers of number columns in doubled digits; None for anything else."""
    from sqlglot import exp

    if isinstance(tree, exp.Paren):
        return _monomial(table, tree.this)
    if isinstance(tree, exp.Column):
        return (table.numbers(tree.name), np.zeros(table.rows)) if table.column(tree.name).type == "number" else None
    if isinstance(tree, exp.Mul):
        left, right = _monomial(table, tree.this), _monomial(table, tree.expression)
        return None if left is None or right is None else multiply(left, right)
    if isinstance(tree, exp.Pow) and isinstance(tree.expression, exp.Literal) and tree.expression.is_int:
        exponent = int(tree.expression.this)
        inner = tree.this.this if isinstance(tree.this, exp.Paren) else tree.this
        if isinstance(inner, exp.Column) and 1 <= exponent <= 64 and table.column(inner.name).type == "number":
            return power(table.numbers(inner.name), exponent)
    return None
