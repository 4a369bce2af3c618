"""Which path a series takes: flat, a line, a line with one bend, or a step.

All four are fitted beside the seasonal columns, with autoregressive errors, and compared by BIC. A
bend or a step is looked for at every place, so its p-value is that of the whole search: Bonferroni over the places,
and where that is small, the same search on the series in other orders (see `permutations`).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..tables import Grain
from . import seasonal_terms
from .autocorrelated_fits import Fit, Floats, autocorrelation, basis, bic, gls, left_over, ols, whiten
from .permutation_tails import calibrated_p
from .series_memory import UNIT_ROOT, memory_left

#: Fewest periods to speak of a trend at all.
LEAST_PERIODS = 8
#: A leg after a bend, and each side of a step, last at least so long.
LEAST_LEG, LEAST_SIDE = 6, 3
#: A residual this many robust standard deviations out is drawn in before paths are fitted.
_CLIP = 4.0
#: Standard deviations put on a series' own memory, where siblings tell most of it.
_BESIDE_SIBLINGS = 1.0
#: Fewer siblings than this say too little about the autocorrelation they share.
_LEAST_SIBLINGS = 5
#: How much better (BIC) a bend must be than a line: "strong" evidence (Kass & Raftery 1995).
_BEND_MARGIN = 6.0
#: A bend is told where a line, or a step, might have been: so often the search was made.
_SHAPES = 2
#: Lines and steps surer than this are weighed against the series in other orders.
_LOOKED_INTO = 0.01
#: A current leg less sure than this gives way to the line through the whole.
_SURE_LEG = 0.01


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Path:
    """The path chosen: `shape` is flat, line, bend or step; `start` the place where the leg begins.

    `slope` per period of the current leg (0 for a step), `jump` the size of a step, `p` the two-sided
    p-value of what is claimed, `error` the standard error of slope or jump, `noise` the standard
    deviation of what is left, `season` the seasonal part per period (mean nought).
    """

    shape: str
    start: int
    slope: float
    jump: float
    p: float
    error: float
    df: int
    noise: float
    phi: float
    statistic: float
    season: Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Prepared:
    """A series made ready for its paths: wild values drawn in, season chosen, own autocorrelation known."""

    y: Floats
    calm: Floats
    season: Floats
    line: Floats
    line_phi: float


def prepare(grain: Grain, numbers: npt.NDArray[np.int64], y: Floats, season: Floats | None = None) -> Prepared:
    """Choose the seasonal columns of `y` (no NaN), shape (n,), unless known; `numbers` are its period numbers."""
    n = y.size
    if season is None:
        season = seasonal_terms.choose(grain, numbers, y)
    time = np.arange(n, dtype=np.float64) - (n - 1) / 2
    line = np.column_stack([np.ones(n), time, season])
    calm = _drawn_in(y, line)
    return Prepared(y=y, calm=calm, season=season, line=line, line_phi=autocorrelation(ols(line, calm).residual, 2))


@dataclass(frozen=True, slots=True, kw_only=True)
class Pooled:
    """The autocorrelation that siblings share, and how much of a series' own excess over it is believed (0 to 1)."""

    phi: float
    belief: float


def pooled_phi(series: list[Prepared]) -> Pooled | None:
    """The autocorrelation that sibling series share: the median of their own, or None for too few.

    One series of three years hardly knows its own autocorrelation, and a step in it looks like autocorrelation;
    twenty siblings know theirs well, and a step in one does not move the median. Where they differ no more than short
    series of one autocorrelation do, what a series shows above the median is chance; the more they differ, the more of
    it is believed (empirical Bayes, Efron & Morris 1975).
    """
    if len(series) < _LEAST_SIBLINGS:
        return None
    own = np.array([prepared.line_phi for prepared in series])
    phi = float(np.median(own))
    n = series[0].y.size
    by_chance = (1 - phi * phi) / n / max(0.3, 1 - 4 / n) ** 2
    seen = (1.4826 * float(np.median(np.abs(own - phi)))) ** 2
    return Pooled(phi=phi, belief=max(0.0, 1 - by_chance / seen) if seen > 0 else 0.0)


def choose_path(series: Prepared, pooled: Pooled | None = None, sampling: float | None = None) -> Path:
    """The best path through a series; `pooled` is the autocorrelation of its siblings, if known.

    `sampling` is the variance that the spread of the rows behind each value makes by itself. Rows are independent: only
    what varies beyond that can lean on the month before.
    """
    calm, season, line = series.calm, series.season, series.line
    n = calm.size
    flat = np.column_stack([np.ones(n), season])
    time = np.arange(n, dtype=np.float64)[:, None]
    designs: dict[str, Floats] = {"line": line}
    places = {"line": 0}
    if n >= 16:
        tried = np.arange(LEAST_LEG, n - LEAST_LEG)
        places["bend"] = int(tried[_best(line, np.maximum(time - tried, 0.0), calm)])
        designs["bend"] = _hinge(line, places["bend"])
    if n >= 10:
        tried = np.arange(LEAST_SIDE, n - LEAST_SIDE + 1)
        places["step"] = int(tried[_best(flat, (time >= tried).astype(np.float64), calm)])
        designs["step"] = _jump(flat, places["step"])
    own = min(designs, key=lambda name: bic(*left_over(designs[name], calm), designs[name].shape[1] + (name != "line")))
    left = ols(designs[own], calm).residual
    if pooled is None:
        phi = memory_left(left, season.shape[1])
        if sampling is not None and sampling > 0:
            df = max(1, n - designs[own].shape[1] - 1)
            times = float(left @ left) / df * (1 + np.sqrt(2 / df)) / sampling
            phi = min(phi, max(0.0, 1 - 1 / max(times, 1e-9)))
    else:
        own_memory = memory_left(left, season.shape[1], _BESIDE_SIBLINGS)
        phi = max(0.0, pooled.phi + pooled.belief * max(0.0, own_memory - pooled.phi))
    if phi >= UNIT_ROOT:
        # What remembers for so long wanders by itself: nothing but its level can be told.
        return replace(_describe("line", 0, line, gls(line, calm, UNIT_ROOT), series), p=1.0)
    fits = {name: gls(design, calm, phi) for name, design in designs.items()}
    scores = {
        name: bic(fit.rss, fit.residual.size, designs[name].shape[1] + (name != "line")) for name, fit in fits.items()
    }
    # Growth by so many a month bends on a log scale: a bend must be far better than a line, not just better.
    scores["bend"] = scores.get("bend", np.inf) + _BEND_MARGIN
    shape = min(scores, key=lambda name: scores[name])
    chosen = _describe(shape, places[shape], designs[shape], fits[shape], series)
    if shape != "bend" or chosen.p <= _SURE_LEG:
        return chosen
    # The current leg is flat or unsure; what the whole path did is still worth a test (a second one).
    whole = _describe("line", 0, line, fits["line"], series)
    return replace(whole, p=min(1.0, 2 * whole.p)) if 2 * whole.p < chosen.p else chosen


def _describe(shape: str, place: int, design: Floats, fit: Fit, series: Prepared) -> Path:
    n = series.y.size
    width = series.season.shape[1]
    plain = ols(design, series.y)
    seasonal = series.season @ plain.beta[plain.beta.size - width :] if width else np.zeros(n)
    noise = float(np.sqrt(plain.rss / max(1, n - design.shape[1])))
    # Columns of a bend are the slopes before and after: what is claimed is the current leg.
    column = 2 if shape == "bend" else 1
    places = {"line": 1, "bend": n - 2 * LEAST_LEG, "step": n - 2 * LEAST_SIDE + 1}[shape]
    p = min(1.0, fit.p(column) * places)
    if p <= _LOOKED_INTO:
        p = max(fit.p(column), _shuffled(series, fit, p, bent=shape == "bend"))
    estimate = float(fit.beta[column])
    return Path(
        shape=shape,
        start=place,
        slope=0.0 if shape == "step" else estimate,
        jump=estimate if shape == "step" else 0.0,
        p=p,
        error=float(fit.error[column]),
        df=fit.df,
        noise=noise,
        phi=fit.phi,
        statistic=fit.t(column),
        season=seasonal,
    )


def _shuffled(series: Prepared, fit: Fit, nominal: float, bent: bool = False) -> float:
    """The p-value of a line or a step by how sure shuffled series make either of them look; of a bend beside a line."""
    n = series.y.size
    time = np.arange(n, dtype=np.float64)[:, None]
    if bent:
        hinges = np.maximum(time - np.arange(LEAST_LEG, n - LEAST_LEG), 0.0)
        null, y, *white = whiten(fit.phi, series.line, series.calm, hinges)
        return min(1.0, _SHAPES * calibrated_p(null, white, y, fit.df, nominal))
    steps = (time >= np.arange(LEAST_SIDE, n - LEAST_SIDE + 1)).astype(np.float64)
    searches = [time, steps] if n >= 10 else [time]
    null, y, *white = whiten(fit.phi, np.column_stack([np.ones(n), series.season]), series.calm, *searches)
    return calibrated_p(null, white, y, fit.df, nominal)


def stepped_at(series: Prepared, place: int, phi: float) -> Path:
    """The path with a step at a place known from elsewhere; its p-value needs to pay for no search."""
    design = _jump(np.column_stack([np.ones(series.y.size), series.season]), place)
    fit = gls(design, series.calm, phi)
    return replace(_describe("step", place, design, fit, series), p=fit.p(1))


def searched(null: Floats, trials: Floats, y: Floats, phi: float) -> tuple[int, Fit, float]:
    """Which column of `trials`, shape (n, m), beside `null`, shape (n, k), tells most of `y`: its place, the fit with
    it as the last column, and the p-value of the search."""
    place = _best(*whiten(phi, null, trials, y))
    fit = gls(np.column_stack([null, trials[:, place]]), y, phi)
    nominal = min(1.0, fit.p(null.shape[1]) * trials.shape[1])
    if nominal > _LOOKED_INTO:
        return place, fit, nominal
    white_null, white, white_y = whiten(phi, null, trials, y)
    return place, fit, max(fit.p(null.shape[1]), calibrated_p(white_null, [white], white_y, fit.df, nominal))


def _best(base: Floats, trials: Floats, y: Floats) -> int:
    """Which of the columns in `trials`, shape (n, m), added to `base` leaves the least of `y`."""
    q = basis(base)
    left = trials - q @ (q.T @ trials)
    spread = np.sum(left * left, axis=0)
    gain = np.where(spread > 1e-9, (left.T @ (y - q @ (q.T @ y))) ** 2 / np.maximum(spread, 1e-9), 0.0)
    return int(np.argmax(gain))


def _hinge(line: Floats, place: int) -> Floats:
    """Slopes before and after `place` in columns 1 and 2, in place of the one slope."""
    n = line.shape[0]
    time = np.arange(n, dtype=np.float64)
    before, after = np.minimum(time, place), np.maximum(time - place, 0.0)
    return np.column_stack([line[:, 0], before, after, line[:, 2:]])


def _jump(flat: Floats, place: int) -> Floats:
    after = (np.arange(flat.shape[0]) >= place).astype(np.float64)
    return np.column_stack([flat[:, 0], after, flat[:, 1:]])


def _running_median(y: Floats, reach: int) -> Floats:
    """Median of each value and its `reach` neighbours on either side, fewer at the ends."""
    n, width = y.size, 2 * reach + 1
    near = np.empty(n)
    if n >= width:
        near[reach : n - reach] = np.sort(np.lib.stride_tricks.sliding_window_view(y, width), axis=1)[:, reach]
    for i in range(n):
        if i < reach or i >= n - reach or n < width:
            window = np.sort(y[max(0, i - reach) : i + reach + 1])
            middle = window.size // 2
            near[i] = window[middle] if window.size % 2 else (window[middle - 1] + window[middle]) / 2
    return near


def _drawn_in(y: Floats, line: Floats) -> Floats:
    """The series with single wild values drawn in to the band around their neighbours."""
    n = y.size
    season = line[:, 2:] @ ols(line, y).beta[2:] if line.shape[1] > 2 else np.zeros(n)
    plain = y - season
    near = _running_median(plain, 3)
    residual = plain - near
    scale = 1.4826 * float(np.median(np.abs(residual - np.median(residual))))
    if scale == 0:
        return y
    return np.asarray(near + np.clip(residual, -_CLIP * scale, _CLIP * scale) + season)
