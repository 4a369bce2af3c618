"""Exact tests of counts."""

from __future__ import annotations

import numpy as np

from .autocorrelated_fits import Floats


def fisher_p(counts: Floats) -> float:
    """The two-sided p-value of Fisher's exact test (1935) of a table of counts, shape (2, 2): how often tables with the
    same margins are no likelier than this one."""
    from scipy.special import gammaln

    a, b = (float(v) for v in counts[0])
    c, d = (float(v) for v in counts[1])
    row, column, total = a + b, a + c, a + b + c + d
    low, high = max(0.0, row + column - total), min(row, column)
    x = np.arange(low, high + 1)

    def lchoose(n: float, k: Floats) -> Floats:
        return np.asarray(gammaln(n + 1) - gammaln(k + 1) - gammaln(n - k + 1))

    weight = lchoose(column, x) + lchoose(total - column, row - x)
    p = np.exp(weight - weight.max())
    p /= p.sum()
    own = p[int(a - low)]
    return min(1.0, float(p[p <= own * (1 + 1e-7)].sum()))
