"""The difference of two means whose variances may differ.

Welch, "The generalization of 'Student's' problem when several different population variances are involved", Biometrika
34 (1947).
"""

from __future__ import annotations

from math import sqrt

from .autocorrelated_fits import Floats


def mean_gap(a: Floats, b: Floats) -> tuple[float, float, float]:
    """(difference of the means, its standard error, degrees of freedom) of samples of shapes (n,) and (m,), two values
    each at least."""
    va, vb = float(a.var(ddof=1)) / a.size, float(b.var(ddof=1)) / b.size
    error = sqrt(va + vb)
    df = (va + vb) ** 2 / (va**2 / (a.size - 1) + vb**2 / (b.size - 1)) if error else float(a.size + b.size - 2)
    return float(a.mean() - b.mean()), error, df
