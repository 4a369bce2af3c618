"""What each label of a dimension contributes to a change; contributions add up to it exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...stats.autocorrelated_fits import Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Contribution:
    """One label's part of a change. For ratios `value` and `baseline` are the label's own,
    `rate` + `mix` = `change`, and weights are its shares of the denominator. `status` is kept, new or ended."""

    label: str | None
    baseline: float | None
    value: float | None
    change: float
    share: float | None
    status: str
    rate: float | None = None
    mix: float | None = None
    weight_before: float | None = None
    weight_now: float | None = None


def additive(
    labels: Sequence[str | None], before: Floats, now: Floats, rows_before: Floats, rows_now: Floats
) -> list[Contribution]:
    """Contributions to a sum or count: each label's own change; all arrays of shape (labels,)."""
    total = float(now.sum() - before.sum())
    return [
        Contribution(
            label=label,
            baseline=float(b),
            value=float(v),
            change=float(v - b),
            share=float(v - b) / total if total else None,
            status=status(n0, n1),
        )
        for label, b, v, n0, n1 in zip(labels, before, now, rows_before, rows_now, strict=True)
        if n0 or n1
    ]


def ratio(
    labels: Sequence[str | None], top0: Floats, bottom0: Floats, top1: Floats, bottom1: Floats
) -> list[Contribution]:
    """Contributions to a ratio R = Σ top / Σ bottom, split into rate and mix with midpoint weights.

    With weights w = bottom / Σ bottom and own rates r: rate = (w₁+w₀)/2·(r₁−r₀), mix =
    (w₁−w₀)·[(r₀+r₁)/2 − (R₀+R₁)/2]; they sum to R₁ − R₀. A new or ended label has no rate part.
    """
    whole0, whole1 = float(top0.sum() / bottom0.sum()), float(top1.sum() / bottom1.sum())
    w0, w1 = bottom0 / bottom0.sum(), bottom1 / bottom1.sum()
    total, found = whole1 - whole0, []
    for i, label in enumerate(labels):
        if bottom0[i] == bottom1[i] == top0[i] == top1[i] == 0:
            continue
        r0 = float(top0[i] / bottom0[i]) if bottom0[i] else None
        r1 = float(top1[i] / bottom1[i]) if bottom1[i] else None
        # Rate and mix together; so written it holds for a label too that has a top and no bottom.
        change = float(top1[i] / bottom1.sum() - top0[i] / bottom0.sum() - (w1[i] - w0[i]) * (whole0 + whole1) / 2)
        if r0 is not None and r1 is not None:
            rate = float((w1[i] + w0[i]) / 2 * (r1 - r0))
            mix = float((w1[i] - w0[i]) * ((r0 + r1) / 2 - (whole0 + whole1) / 2))
        else:
            rate, mix = 0.0, change
        found.append(
            Contribution(
                label=label,
                baseline=r0,
                value=r1,
                change=rate + mix,
                share=(rate + mix) / total if total else None,
                status=status(bottom0[i], bottom1[i]),
                rate=rate,
                mix=mix,
                weight_before=float(w0[i]),
                weight_now=float(w1[i]),
            )
        )
    return found


def log_mean(a: float, b: float) -> float:
    """Logarithmic mean of two positive numbers."""
    return a if a == b else (a - b) / float(np.log(a / b))


def factors(value0: float, value1: float, parts0: Sequence[float], parts1: Sequence[float]) -> list[float] | None:
    """The change of a product split over its factors (log-mean Divisia, Ang 2004), exact; None unless
    all are positive."""
    if min(value0, value1, *parts0, *parts1) <= 0:
        return None
    weight = log_mean(value1, value0)
    return [weight * float(np.log(b / a)) for a, b in zip(parts0, parts1, strict=True)]


def captured(changes: Floats, before: Floats, error: Floats, total0: float) -> float:
    """How much of the deviation from a proportional change a dimension captures: 0 none … 1 all of it.

    Half the sum of absolute excesses over the proportional share, relative to that plus the size of the change itself,
    less what chance alone gives so many labels: a normal error strays by √(2/π) of its standard deviation on average.
    All arrays of shape (labels,).
    """
    change = float(changes.sum())
    if total0 == 0 or changes.size < 2:
        return 0.0
    strayed = 0.5 * float(np.abs(_excess(changes, before, total0)).sum())
    gross = strayed + abs(change)
    by_chance = 0.5 * float(np.sqrt(2 / np.pi) * error.sum())
    return max(0.0, strayed - by_chance) / gross if gross else 0.0


def farthest(changes: Floats, before: Floats, total0: float) -> float:
    """The largest excess over the proportional share among the labels, by chance or not, relative to the change."""
    change = float(changes.sum())
    if total0 == 0 or change == 0:
        return 0.0
    return float(np.abs(_excess(changes, before, total0)).max() / abs(change))


def _excess(changes: Floats, before: Floats, total0: float) -> Floats:
    return np.asarray(changes - before * (float(changes.sum()) / total0))


def gross(parts: Sequence[Contribution]) -> tuple[float, float]:
    """The contributions that went up added together, and those that went down; their sum is the change."""
    return sum(part.change for part in parts if part.change > 0), sum(part.change for part in parts if part.change < 0)


def status(before: float, now: float) -> str:
    """Whether what has so many rows in each period is kept, new or ended."""
    if not before:
        return "new"
    return "kept" if now else "ended"
