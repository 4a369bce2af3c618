"""Least squares by orthogonal triangles, refined: coefficients right to the last digits that the numbers allow.

QR by Householder's reflections on columns scaled by powers of two, then the residuals of the augmented system are taken
in doubled arithmetic and their corrections added, until nothing changes (Björck 1967)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .double_double import Doubled, add, dot, multiply, two_sum

Floats = npt.NDArray[np.float64]

_ROUNDS = 30
#: Cells of the design beyond which nothing is refined: so many rows do not make an ill-conditioned table by design.
_MOST_REFINED = 2_000_000
#: A scaled condition beyond this leaves no digit to trust, refined or not.
HOPELESS = 1e14


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Solved:
    """Coefficients (k,), the diagonal of (XᵀX)⁻¹ and all of it (k, k), residuals (n,), their sum of squares, the scaled
    condition number of the design, and whether the refinement settled."""

    beta: Floats
    inverse: Floats
    residual: Floats
    rss: float
    condition: float
    settled: bool


def solve(columns: Sequence[Doubled], y: Floats) -> Solved:
    """Least squares of y (n,) on the columns. The caller has made sure that none is a combination of others."""
    n, k = y.size, len(columns)
    scale = np.array([2.0 ** -np.round(np.log2(np.linalg.norm(doubled[0]) or 1.0)) for doubled in columns])
    x = np.column_stack([doubled[0] * size for doubled, size in zip(columns, scale, strict=True)])
    q, r = np.linalg.qr(x)
    condition = float(np.linalg.cond(r))
    scaled: list[Doubled] = [
        (doubled[0] * size, doubled[1] * size) for doubled, size in zip(columns, scale, strict=True)
    ]
    target: Doubled = (y, np.zeros(n))
    if n * k > _MOST_REFINED:
        b = np.linalg.solve(r, q.T @ y)
        residual = y - x @ b
        root = np.linalg.inv(r)
        inverse = root @ root.T * np.outer(scale, scale)
        return Solved(
            beta=b * scale,
            inverse=inverse,
            residual=residual,
            rss=float(residual @ residual),
            condition=condition,
            settled=True,
        )
    zero = np.zeros(k)
    beta, left, settled = _refined(scaled, q, r, target, zero)
    inverse = np.empty((k, k))
    for j in range(k):
        unit = np.zeros(k)
        unit[j] = -1.0
        column, _, fine = _refined(scaled, q, r, (np.zeros(n), np.zeros(n)), unit)
        inverse[:, j] = column[0] + column[1]
        settled &= fine
    rss, _ = dot(left, left)
    return Solved(
        beta=(beta[0] + beta[1]) * scale,
        inverse=(inverse + inverse.T) / 2 * np.outer(scale, scale),
        residual=left[0] + left[1],
        rss=rss,
        condition=condition,
        settled=settled,
    )


def _refined(x: Sequence[Doubled], q: Floats, r: Floats, f: Doubled, g: Floats) -> tuple[Doubled, Doubled, bool]:
    """Solve [I X; Xᵀ 0][e; b] = [f; g], everything kept in doubled digits."""
    n, k = q.shape
    b: Doubled = (np.zeros(k), np.zeros(k))
    e: Doubled = (np.zeros(n), np.zeros(n))
    last, settled = np.inf, False
    for _ in range(_ROUNDS):
        left: Doubled = add(f, (-e[0], -e[1]))
        for j in range(k):
            coefficient: Doubled = (np.full(n, -b[0][j]), np.full(n, -b[1][j]))
            left = add(left, multiply(x[j], coefficient))
        low = np.empty(k)
        for j in range(k):
            high, rest = dot(x[j], e)
            low[j] = (g[j] - high) - rest
        # Corrections by the factors that are there: R'z = g, e = Q(z) + (I − QQ')f, Rb = Q'f − z.
        z = np.linalg.solve(r.T, low)
        own = left[0] + left[1]
        projected = q.T @ own
        db = np.linalg.solve(r, projected - z)
        de = own - q @ projected + q @ z
        b, e = add(b, (np.asarray(db, dtype=np.float64), np.zeros(k))), add(e, (de, np.zeros(n)))
        size = float(np.max(np.abs(db) / np.maximum(np.abs(b[0]), 1e-300))) if k else 0.0
        if size < 1e-15:
            settled = True
            break
        if size > 0.9 * last and size > 1e-9:
            break
        settled = size < 1e-11
        last = size
    return two_sum(b[0], b[1]), e, settled
