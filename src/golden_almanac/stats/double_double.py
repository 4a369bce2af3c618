"""Arithmetic with twice the digits of a double: a number is the unevaluated sum of two (Dekker 1971; Knuth 1969).

All functions work on arrays elementwise and need nothing of the machine but IEEE doubles.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Doubled = tuple[Floats, Floats]
_SPLIT = 134_217_729.0  # 2²⁷ + 1


def two_sum(a: Floats, b: Floats) -> Doubled:
    """a + b exactly (Knuth)."""
    s = a + b
    t = s - a
    return s, (a - (s - t)) + (b - t)


def two_product(a: Floats, b: Floats) -> Doubled:
    """a · b exactly (Dekker, Veltkamp)."""
    p = a * b
    c = _SPLIT * a
    ah = c - (c - a)
    al = a - ah
    c = _SPLIT * b
    bh = c - (c - b)
    bl = b - bh
    return p, ((ah * bh - p) + ah * bl + al * bh) + al * bl


def add(x: Doubled, y: Doubled) -> Doubled:
    s, e = two_sum(x[0], y[0])
    return two_sum(s, e + x[1] + y[1])


def multiply(x: Doubled, y: Doubled) -> Doubled:
    p, e = two_product(x[0], y[0])
    return two_sum(p, e + x[0] * y[1] + x[1] * y[0])


def power(x: Floats, exponent: int) -> Doubled:
    """x to a whole power, by squaring."""
    made: Doubled = (np.ones_like(x), np.zeros_like(x))
    base: Doubled = (x, np.zeros_like(x))
    while exponent:
        if exponent & 1:
            made = multiply(made, base)
        base = multiply(base, base)
        exponent >>= 1
    return made


def dot(x: Doubled, y: Doubled) -> tuple[float, float]:
    """Σ x·y, its products exact and added without rounding but the last."""
    p, e = two_product(x[0], y[0])
    rest = x[0] * y[1] + x[1] * y[0]
    high = math.fsum([*p.tolist(), *e.tolist(), *rest.tolist()])
    low = math.fsum([*p.tolist(), *e.tolist(), *rest.tolist(), -high])
    return high, low
