"""What goes with an outcome that few rows have: each factor by itself, tested by permutation.

With fewer than thirty rows effects beside each other are those of the fit, not of the rows; so nothing is said "all
else equal", no segments are searched, and what would have gone unseen is told.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...stats.false_discovery import q_values
from ...stats.mean_gap import mean_gap
from ...stats.permutation_tests import correlation_p, groups_p
from ...support.phrasing import phrased
from ...tables import Table
from .driver_results import PERMUTATION, Driver, Effect, Found, Unclear, round_step
from .factors import Factor, LeftOut
from .outcome import Outcome
from .robust_fits import Floats

#: A factor is told at this false-discovery rate: there are few of them, and what else is not known is said.
_LEVEL = 0.05
#: A label of fewer rows is set beside the others, but not told.
_LEAST = 3


def find_among_few(about: Outcome, kept: Sequence[Factor], left: Sequence[LeftOut], toward: str) -> Found:
    """Drivers of an outcome of few rows."""
    y = about.values
    tried = [_tried(factor, about.table, y) for factor in kept]
    q = q_values([p for p, _, _ in tried])
    drivers, unclear = [], []
    for factor, (p, importance, effects), own_q in zip(kept, tried, q, strict=True):
        told = sorted(effects, key=lambda one: (one.n < _LEAST, -abs(one.effect), str(one.level)))
        if toward != "both":
            sign = 1 if toward == "higher" else -1
            told = [one for one in told if factor.number or one.effect * sign > 0] or told
        if told and float(own_q) <= _LEVEL and told[0].n >= _LEAST:
            first = tuple(told[:1])
            drivers.append(
                Driver(
                    factor=factor,
                    effects=first,
                    every=tuple(effects),
                    p=p,
                    q=float(own_q),
                    importance=importance,
                    shape=None,
                )
            )
        else:
            reason = phrased("so few rows do not tell it from chance")
            unclear.append(Unclear(factor=factor, effects=tuple(effects), p=p, q=float(own_q), reason=reason))
    drivers.sort(key=lambda one: (-one.importance, one.p, one.factor.name))
    return Found(
        outcome=about,
        factors=tuple(kept),
        drivers=tuple(drivers),
        unclear=tuple(unclear),
        left_out=tuple(left),
        segments=(),
        every_segment=(),
        toward=toward,
        foretold=0.0,
        errors=PERMUTATION,
    )


def _tried(factor: Factor, table: Table, y: Floats) -> tuple[float, float, list[Effect]]:
    """(p, share of the variance it tells, effects) of one factor."""
    if factor.number:
        assert factor.values is not None
        known = ~factor.missing
        x, own = factor.values[known], y[known]
        if x.size < _LEAST or np.ptp(x) == 0 or np.ptp(own) == 0:
            return 1.0, 0.0, [_slope(factor, x, own)]
        r = float(np.corrcoef(x, own)[0, 1])
        return correlation_p(x, own), _adjusted(r * r, x.size, 1), [_slope(factor, x, own)]
    assert factor.codes is not None
    codes = factor.codes
    sums, rows = np.bincount(codes, weights=y), np.bincount(codes)
    means = sums / np.maximum(rows, 1)
    whole = float(((y - y.mean()) ** 2).sum())
    r2 = 1 - float(((y - means[codes]) ** 2).sum()) / whole
    effects = [
        _gap(factor, table, code, label, y) for code, label in enumerate(factor.levels) if 1 < rows[code] < y.size - 1
    ]
    if not effects:
        return 1.0, 0.0, effects
    return groups_p(codes, y), _adjusted(r2, y.size, int((rows > 0).sum()) - 1), effects


def _adjusted(r2: float, n: int, spent: int) -> float:
    """The share of the variance told, without what so many columns tell by chance (Ezekiel 1930)."""
    return max(0.0, 1 - (1 - r2) * (n - 1) / max(1, n - 1 - spent))


def _slope(factor: Factor, x: Floats, y: Floats) -> Effect:
    from scipy.special import stdtrit

    n, spread = x.size, float(((x - x.mean()) ** 2).sum())
    slope = float(((x - x.mean()) * y).sum()) / spread if spread > 0 else 0.0
    left = y - y.mean() - slope * (x - x.mean())
    error = float(np.sqrt((left @ left) / max(1, n - 2) / spread)) if spread > 0 else 0.0
    half = float(stdtrit(max(1, n - 2), 0.975)) * error
    step, sd = round_step(factor.sd), factor.sd
    ends = {"low": (slope - half) * sd, "high": (slope + half) * sd}
    return Effect(
        factor=factor.name,
        level=None,
        effect=slope * sd,
        p=correlation_p(x, y) if n >= _LEAST and spread > 0 else 1.0,
        unadjusted=slope * sd,
        unadjusted_low=ends["low"],
        unadjusted_high=ends["high"],
        n=n,
        sql=None,
        per=sd,
        step=step,
        per_step=slope * step,
        **ends,
    )


def _gap(factor: Factor, table: Table, code: int, label: str | None, y: Floats) -> Effect:
    """A label against all others: the difference of means with Welch's interval."""
    from scipy.special import stdtrit

    assert factor.codes is not None
    inside = factor.codes == code
    own, rest = y[inside], y[~inside]
    gap, error, df = mean_gap(own, rest)
    half = float(stdtrit(df, 0.975)) * error
    return Effect(
        factor=factor.name,
        level=label,
        effect=gap,
        low=gap - half,
        high=gap + half,
        p=groups_p(inside.astype(np.intp), y),
        unadjusted=gap,
        unadjusted_low=gap - half,
        unadjusted_high=gap + half,
        n=int(own.size),
        sql=factor.equals(table, label),
        value=float(own.mean()),
    )
