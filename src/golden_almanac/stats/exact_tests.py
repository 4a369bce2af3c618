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


def rates_p(events: float, exposed: float, others: float, beside: float) -> float:
    """The two-sided p-value that two rates of events are one: `events` among `exposed` against `others` among `beside`.

    Given how many events there are, each fell to the first with the chance of its part of all exposure (Przyborowski
    and Wilenski 1940); twice the smaller tail. Events need not be whole: of events that come in clusters so many are
    given as are worth as much as single ones.
    """
    from scipy.special import betainc

    chance = exposed / (exposed + beside)
    # P(X >= k) is the incomplete beta function of k and n - k + 1, and P(X <= k) that of its complement.
    above = float(betainc(events, others + 1, chance)) if events > 0 else 1.0
    below = float(betainc(others, events + 1, 1 - chance)) if others > 0 else 1.0
    return min(1.0, 2 * min(above, below))
