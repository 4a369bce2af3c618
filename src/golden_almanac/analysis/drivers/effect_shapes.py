"""How an outcome goes with a number, all else equal: steadily, in a step at a cut point, or with a bend.

The cut is the place where a two-sample rank statistic is largest among all between the tenth and the ninetieth
percentile; its p-value is that of the maximum (Lausen & Schumacher 1992; Hothorn & Lausen 2003), not of the winner."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log, pi, sqrt

import numpy as np
import numpy.typing as npt

from .factors import Factor

Floats = npt.NDArray[np.float64]

#: Cuts leave at least this share of the rows on either side.
_EDGE = 0.1
#: Rows looked at for a shape: places do not get sharper than the bins of more.
_MOST_ROWS = 200_000
#: A slope this small beside the other side's is level.
_LEVEL = 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """A step: rows up to `at` (the value itself included) against those above; `next` is the least value above.

    `p` is that of the best of all cuts; `difference` the adjusted outcome above less that below.
    """

    at: float
    next: float
    p: float
    difference: float
    n_below: int
    n_above: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """`name` is line, step, levels off, sets in, turns or bend; `bend` where it bends; `cut` for a step.

    `curve` holds the adjusted outcome along the factor: (middle of the bin, mean, error, rows) of up to 20 bins.
    """

    name: str
    cut: Cut | None
    bend: float | None
    curve: tuple[tuple[float, float, float, int], ...]


def maximal_p(statistic: float, edge: float = _EDGE) -> float:
    """P-value of the largest standardised two-sample rank statistic over cuts between `edge` and 1 − `edge`
    (Lausen & Schumacher 1992, formula 3)."""
    b = abs(statistic)
    if b < 1.0:
        return 1.0
    phi = exp(-b * b / 2) / sqrt(2 * pi)
    return float(min(1.0, 4 * phi / b + phi * (b - 1 / b) * log((1 - edge) ** 2 / edge**2)))


def shape_of(factor: Factor, partial: Floats, weights: Floats | None) -> Shape:
    """The shape of the partial residuals (n,) along the factor."""
    assert factor.values is not None
    known = np.flatnonzero(~factor.missing)
    step = max(1, known.size // _MOST_ROWS)
    order = known[np.argsort(factor.values[known], kind="stable")][::step]
    x, y = factor.values[order], partial[order]
    w = np.ones(x.size) if weights is None else weights[order] / weights[order].mean()
    curve = _curve(x, y, w)
    places = _places(x)
    if places.size < 3:
        return Shape(name="line", cut=None, bend=None, curve=curve)
    base = np.column_stack([np.ones(x.size), (x - x.mean()) / (x.std() or 1.0)])
    line = _rss(base, y, w)
    n = x.size

    def score(rss: float, parameters: int) -> float:
        return n * log(max(rss, 1e-300) / n) + parameters * log(n)

    # A place that was searched for counts as a parameter more.
    best = ("line", score(line, 2), 0)
    left, right = np.cumsum(w)[places - 1], np.cumsum(w * y)[places - 1]
    total, whole = float(w.sum()), float((w * y).sum())
    gain = (right - left * whole / total) ** 2 * total / (left * (total - left))
    flat = float(np.sum(w * (y - whole / total) ** 2))
    at = int(places[int(np.argmax(gain))])
    stepped = flat - float(gain.max())
    if (value := score(stepped, 3)) < best[1]:
        best = ("step", value, at)
    for place in places[:: max(1, places.size // 24)]:
        knot = x[place]
        rss = _rss(np.column_stack([base, np.maximum(0.0, (x - knot) / (x.std() or 1.0))]), y, w)
        if (value := score(rss, 4)) < best[1] - 2:
            best = ("bend", value, int(place))
    name, _, place = best
    if name == "step":
        return Shape(name="step", cut=_cut(x, y, place), bend=None, curve=curve)
    if name == "bend":
        return Shape(name=_bend_name(x, y, w, float(x[place])), cut=None, bend=float(x[place]), curve=curve)
    return Shape(name="line", cut=None, bend=None, curve=curve)


def _places(x: Floats) -> npt.NDArray[np.intp]:
    """Where a new value begins, between the edges; at most about 2,000 of them."""
    new = np.flatnonzero(np.r_[False, x[1:] > x[:-1]])
    inner = new[(new >= _EDGE * x.size) & (new <= (1 - _EDGE) * x.size)]
    return np.asarray(inner[:: max(1, inner.size // 2000)], dtype=np.intp)


def _rss(design: Floats, y: Floats, w: Floats) -> float:
    root = np.sqrt(w)
    q = np.linalg.qr(design * root[:, None])[0]
    target = y * root
    residual = target - q @ (q.T @ target)
    return float(residual @ residual)


def _cut(x: Floats, y: Floats, place: int) -> Cut:
    n = y.size
    ranks = np.empty(n)
    order = np.argsort(y, kind="stable")
    ranks[order] = np.arange(1, n + 1)
    places = _places(x)
    sums = np.cumsum(ranks)[places - 1]
    expected = places * (n + 1) / 2
    spread = np.sqrt(places * (n - places) / n * ranks.var(ddof=1))
    largest = float(np.max(np.abs(sums - expected) / spread))
    low, high = float(x[place - 1]), float(x[place])
    return Cut(
        at=roundest(low, high),
        next=high,
        p=maximal_p(largest),
        difference=float(y[place:].mean() - y[:place].mean()),
        n_below=int(place),
        n_above=int(n - place),
    )


def roundest(low: float, high: float) -> float:
    """The number of fewest digits that is at least `low` and less than `high`."""
    if not low < high:
        return low
    size = 10.0 ** np.floor(np.log10(max(abs(low), abs(high), high - low)))
    for _ in range(14):
        for step in (5 * size, 2 * size, size):
            found = float(np.ceil(low / step - 1e-12) * step)
            found = float(f"{found:.15g}")
            if low <= found < high:
                return found
        size /= 10
    return low


def _bend_name(x: Floats, y: Floats, w: Floats, knot: float) -> str:
    hinge = np.maximum(0.0, x - knot)
    design = np.column_stack([np.ones(x.size), x - x.mean(), hinge])
    root = np.sqrt(w)
    beta = np.linalg.lstsq(design * root[:, None], y * root, rcond=None)[0]
    before, after = float(beta[1]), float(beta[1] + beta[2])
    if abs(after) < _LEVEL * abs(before):
        return "levels off"
    if abs(before) < _LEVEL * abs(after):
        return "sets in"
    return "turns" if before * after < 0 else "bend"


def _curve(x: Floats, y: Floats, w: Floats) -> tuple[tuple[float, float, float, int], ...]:
    distinct = np.unique(x)
    if distinct.size <= 20:
        starts = np.searchsorted(x, distinct)
    else:
        starts = np.unique(np.searchsorted(x, np.quantile(x, np.linspace(0, 1, 21)[:-1])))
    ends = np.append(starts[1:], x.size)
    made = []
    for first, last in zip(starts, ends, strict=True):
        rows = last - first
        if rows < 1:
            continue
        mean = float(np.average(y[first:last], weights=w[first:last]))
        error = float(np.std(y[first:last]) / sqrt(rows)) if rows > 1 else float("nan")
        made.append((float(x[first:last].mean()), mean, error, int(rows)))
    return tuple(made)
