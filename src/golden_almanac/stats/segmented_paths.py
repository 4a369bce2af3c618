"""Which path a series takes: flat, a line, a line with one bend, or a step.

All four are fitted beside the seasonal columns, with autoregressive errors, and compared by BIC, for many series at
once. A bend or a step is looked for at every place, so its p-value is that of the whole search: Bonferroni over the
places, and where that is small, the same search on the series in other orders (see `permutation_tails`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from . import batched_fits
from .autocorrelated_fits import Fit, Floats, basis, gls, whiten
from .batched_fits import Fits, gls_each, left_over, residuals
from .permutation_tails import Runs, calibrated_p
from .series_batch import Batch, Places, Pooled, line_beside, seasonal_part
from .series_memory import MARGIN, UNIT_ROOT, memory_left, periods_spent, slow_memory
from .wandering_series import Stretches, drift_p, leap_p, stretches

#: Fewest periods to speak of a trend at all.
LEAST_PERIODS = 8
#: A leg after a bend, and each side of a step, last at least so long.
LEAST_LEG, LEAST_SIDE = 6, 3
#: Standard deviations put on a series' own memory, where siblings tell most of it.
_BESIDE_SIBLINGS = 1.0
#: The same where the rows tell how much of it varies by chance.
_BESIDE_ROWS = 0.5
#: How much better (BIC) a bend must be than a line: "strong" evidence (Kass & Raftery 1995).
_BEND_MARGIN = 6.0
#: A bend is told where a line, or a step, might have been: so often the search was made.
_SHAPES = 2
#: Lines and steps surer than this are weighed against the series in other orders.
_LOOKED_INTO = 0.01
#: A current leg less sure than this gives way to the line through the whole.
_SURE_LEG = 0.01
#: The shapes, in the order in which they are preferred where they fit alike.
_LINE, _BEND, _STEP = range(3)
_NAMES = ("line", "bend", "step")
#: Of a series that wanders, a leap rarer than this is told.
_LEAP = 0.01
#: Values of the designs that are worked on together.
_AT_ONCE = 4_000_000
#: Columns collinear with the others tell nothing.
_NOTHING = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Path:
    """The path chosen: `shape` is flat, line, bend, step or stretch; `start` the place where the leg begins, `stop`
    that where a stretch ends (None for the end of the series).

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
    stop: int | None = None


#: Nothing is claimed.
CALM = Path(
    shape="flat", start=0, slope=0.0, jump=0.0, p=1.0, error=0.0, df=1, noise=0.0, phi=0.0, statistic=0.0,
    season=np.empty(0),
)  # fmt: skip


def choose_path(series: Batch, pooled: Pooled | None = None, sampling: float | None = None) -> Path:
    """The best path through the first series of a batch; see `choose_paths`."""
    first = series.at(np.zeros(1, dtype=np.intp))
    return choose_paths(first, pooled, None if sampling is None else np.array([sampling]))[0]


def choose_paths(
    series: Batch,
    pooled: Pooled | Sequence[Pooled | None] | None = None,
    sampling: Floats | None = None,
    *,
    calibrated: bool = True,
) -> list[Path]:
    """The best path through each series; `pooled` is the autocorrelation of siblings, if known, of all or of each.

    `sampling` is the variance that the spread of the rows behind each value makes by itself, NaN where not known, shape
    (series,). Rows are independent: only what varies beyond that can lean on the month before. Where only the order of
    p-values matters, and whether they are small, they need not be `calibrated`: they pay for the places tried then, and
    the path has neither noise nor season.
    """
    rows = np.full(series.count, np.nan) if sampling is None else sampling
    known = pooled if isinstance(pooled, Sequence) else [pooled] * series.count
    beside = np.array([one is not None for one in known], dtype=bool)
    found = [CALM] * series.count
    for season, places in series.groups():
        width = series.length * (3 + season.shape[1])
        for alike in (places[beside[places]], places[~beside[places]]):
            for part in np.array_split(alike, -(-alike.size * width // _AT_ONCE)) if alike.size else ():
                siblings = [one for one in (known[int(place)] for place in part) if one is not None]
                told = Pooled.each(siblings) if siblings else None
                chosen = _choose(series.y[part], series.calm[part], season, told, rows[part], calibrated)
                for place, path in zip(part, chosen, strict=True):
                    found[int(place)] = path
    return found


class _Trials(NamedTuple):
    """Columns tried at every place beside a base: its orthonormal columns, what they leave of each trial, shape (n, m),
    the size of that, nought where nothing is left, and the places."""

    base: Floats
    columns: Floats
    size: Floats
    places: Places

    @classmethod
    def of(cls, base: Floats, trials: Floats, places: Places) -> _Trials:
        q = basis(base)
        columns = trials - q @ (q.T @ trials)
        spread = np.sum(columns * columns, axis=0)
        return cls(q, columns, np.where(spread > _NOTHING, spread, 0.0), places)

    def best(self, y: Floats) -> tuple[Places, Floats]:
        """Which trial leaves the least of each series of `y`, shape (series, n), and what it leaves."""
        left = residuals(self.base, y)
        told = left @ self.columns
        size = np.where(self.size > 0, self.size, np.inf)
        best = np.argmax(told * told / size, axis=1)
        taken = (told / size)[np.arange(y.shape[0]), best]
        return best, left - taken[:, None] * self.columns.T[best]


class _Columns(NamedTuple):
    """What the series of one season and length share: the designs of a line and of none, and the bends and steps tried
    (None where too short for them)."""

    line: Floats
    flat: Floats
    bends: _Trials | None
    steps: _Trials | None


@lru_cache(maxsize=64)
def _columns(packed: bytes, n: int) -> _Columns:
    """The columns beside a season, given as its bytes."""
    season = np.frombuffer(packed, dtype=np.float64).reshape(n, -1) if packed else np.empty((n, 0))
    line, flat = line_beside(season), np.column_stack([np.ones(n), season])
    time = np.arange(n, dtype=np.float64)[:, None]
    legs, sides = np.arange(LEAST_LEG, n - LEAST_LEG), np.arange(LEAST_SIDE, n - LEAST_SIDE + 1)
    return _Columns(
        line=line,
        flat=flat,
        bends=_Trials.of(line, np.maximum(time - legs, 0.0), legs) if n >= 16 else None,
        steps=_Trials.of(flat, (time >= sides).astype(np.float64), sides) if n >= 10 else None,
    )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Shapes:
    """The best line, bend and step of each series: the columns each design varies in, where, and what they leave.

    `places` and `left` have a first axis for the shapes: (shapes, series) and (shapes, series, n); `known` are the
    shapes that a series of such length can have.
    """

    line: Floats
    flat: Floats
    known: tuple[int, ...]
    places: npt.NDArray[np.intp]
    left: Floats

    def designs(self, shape: int, which: Places) -> Floats:
        """The design of some series under a shape: (n, k) where they share it, else (series, n, k). Columns of a bend
        are the slopes before and after; the claimed column is 2 of a bend, else 1."""
        if shape == _LINE:
            return self.line
        time, at = np.arange(self.line.shape[0], dtype=np.float64), self.places[shape, which][:, None]
        if shape == _BEND:
            return _beside(self.line[:, :1], np.minimum(time, at), np.maximum(time - at, 0.0), self.line[:, 2:])
        return _beside(self.flat[:, :1], (time >= at).astype(np.float64), self.flat[:, 1:])

    def columns(self, shape: int) -> int:
        return int(self.line.shape[1] + (1 if shape == _BEND else 0))

    def parameters(self, shape: int) -> int:
        """Columns fitted, and the place of a bend or step."""
        return self.columns(shape) + (shape != _LINE)


def best_shapes(calm: Floats, season: Floats) -> _Shapes:
    """The best place of a bend and of a step for each series, shape (series, n), beside a line."""
    n = calm.shape[1]
    shared = _columns(season.tobytes(), n)
    known, places, left = [_LINE], np.zeros((3, calm.shape[0]), dtype=np.intp), [residuals(basis(shared.line), calm)]
    for shape, trials in ((_BEND, shared.bends), (_STEP, shared.steps)):
        if trials is not None:
            at, rest = trials.best(calm)
            known.append(shape)
            places[shape] = trials.places[at]
            left.append(rest)
    return _Shapes(line=shared.line, flat=shared.flat, known=tuple(known), places=places, left=np.stack(left))


def beside_best_shape(calm: Floats, season: Floats, shapes: _Shapes | None = None) -> tuple[Floats, Places]:
    """What is left of each series beside its best shape by BIC, shape (series, n), and which that is."""
    shapes = best_shapes(calm, season) if shapes is None else shapes
    n = calm.shape[1]
    scores = [
        batched_fits.bic(left_over(left, calm), n, shapes.parameters(shape))
        for shape, left in zip(shapes.known, shapes.left, strict=True)
    ]
    own = np.argmin(np.stack(scores), axis=0)
    return shapes.left[own, np.arange(calm.shape[0])], np.array(shapes.known)[own]


def _choose(
    y: Floats, calm: Floats, season: Floats, pooled: Pooled | None, sampling: Floats, calibrated: bool
) -> list[Path]:
    """The paths of series that share their seasonal columns."""
    series, n = calm.shape
    shapes = best_shapes(calm, season)
    left, own = beside_best_shape(calm, season, shapes)
    phi = _memory(left, own, periods_spent(season), shapes, pooled, sampling)
    unit = phi >= UNIT_ROOT
    phi = np.where(unit, UNIT_ROOT, phi)
    fits = {shape: gls_each(shapes.designs(shape, np.arange(series)), calm, phi) for shape in shapes.known}
    if pooled is not None and np.any(pooled.known):
        told = np.where(sampling > 0, pooled.known, 0.0)
        variance = np.where(sampling > 0, pooled.times * sampling, 0.0)
        fits = {shape: fit.moderated(variance, told) for shape, fit in fits.items()}
    scores = np.stack([batched_fits.bic(fit.rss, n, shapes.parameters(shape)) for shape, fit in fits.items()])
    # Growth by so many a month bends on a log scale: a bend must be far better than a line, not just better.
    scores = scores + np.array([_BEND_MARGIN if shape == _BEND else 0.0 for shape in fits])[:, None]
    # What remembers for so long wanders by itself: nothing but its level can be told, leaps such as it never takes, and
    # that it drifts, all the time or for a stretch of it.
    leaps = leap_p(y, season, shapes.places[_STEP]) if unit.any() and _STEP in shapes.known else np.ones(series)
    leaped = unit & (leaps < _LEAP)
    shape = np.where(unit, np.where(leaped, _STEP, _LINE), np.array(shapes.known)[np.argmin(scores, axis=0)])
    shared = season, shapes, fits, phi, _LOOKED_INTO if calibrated else None
    found = _described(y, calm, shape, *shared)
    if unit.any():
        plain = calm - seasonal_part(calm, season)
        # Two looks are taken, at the whole and at a stretch of it.
        drifts, parts = np.minimum(1.0, 2 * drift_p(plain)), stretches(plain)
        for place in np.flatnonzero(unit):
            sure = float(leaps[place] if leaped[place] else drifts[place])
            found[place] = replace(found[place], p=max(found[place].p, sure))
            if not leaped[place] and 2 * parts.p[place] < found[place].p:
                found[place] = _stretched(found[place], parts, int(place))
    # The current leg is flat or unsure; what the whole path did is still worth a test (a second one).
    unsure = np.array([place for place, path in enumerate(found) if path.shape == "bend" and path.p > _SURE_LEG], int)
    if unsure.size:
        whole = _described(y, calm, np.where(np.isin(np.arange(series), unsure), _LINE, -1), *shared)
        for place in unsure:
            twice = 2 * whole[place].p
            if twice < found[place].p:
                found[place] = replace(whole[place], p=min(1.0, twice))
    return found


def _stretched(path: Path, parts: Stretches, place: int) -> Path:
    """The path of a series that wanders as one of a stretch of it."""
    start, stop, slope, error, t = (float(values[place]) for values in parts[1:])
    p = min(1.0, 2 * float(parts.p[place]))
    return replace(
        path, shape="stretch", start=int(start), stop=int(stop), slope=slope, error=error, statistic=t, p=p, jump=0.0
    )


def _memory(
    left: Floats, own: Places, spent: float, shapes: _Shapes, pooled: Pooled | None, sampling: Floats
) -> Floats:
    """The memory of each series beside its best shape, with what siblings and rows know of it."""
    n = left.shape[1]
    if pooled is not None:
        return memory_beside(left, spent, pooled)
    phi = memory_left(left, spent, MARGIN)
    df = np.maximum(1, n - np.array([shapes.columns(shape) for shape in range(3)])[own] - 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        times = np.einsum("ij,ij->i", left, left) / df / sampling
        most = np.maximum(0.0, 1 - 1 / (times * (1 + np.sqrt(2 / df))))
        known = np.maximum(np.minimum(phi, most), slow_memory(memory_left(left, spent, _BESIDE_ROWS), times - 1))
    return np.where(sampling > 0, known, phi)


def memory_beside(left: Floats, spent: float, pooled: Pooled | None) -> Floats:
    """The memory of series of which `left`, shape (series, n), is left beside a shape and a season that `spent` so
    many periods, with what siblings know of it; shape (series,)."""
    if pooled is None:
        return memory_left(left, spent, MARGIN)
    excess = memory_left(left, spent, _BESIDE_SIBLINGS) - pooled.phi
    return np.maximum(0.0, pooled.phi + pooled.belief * np.maximum(0.0, excess))


def _described(
    y: Floats,
    calm: Floats,
    chosen: npt.NDArray[np.intp],
    season: Floats,
    shapes: _Shapes,
    fits: dict[int, Fits],
    phi: Floats,
    looked_into: float | None,
) -> list[Path]:
    """The path of each series under the shape chosen for it; -1 for series that need none. What is surer than
    `looked_into` is weighed against the series in other orders; with None a path has neither noise nor season."""
    n, width = y.shape[1], season.shape[1]
    found: list[Path] = [CALM] * y.shape[0]
    for shape in shapes.known:
        which = np.flatnonzero(chosen == shape)
        if not which.size:
            continue
        fit, column = fits[shape], 2 if shape == _BEND else 1
        noise, seasonal = np.full(which.size, np.nan), np.zeros((which.size, n))
        if looked_into is not None:
            plain = gls_each(shapes.designs(shape, which), y[which], np.zeros(which.size))
            noise = np.sqrt(plain.rss / max(1, n - shapes.columns(shape)))
            if width:
                seasonal = plain.beta[:, plain.beta.shape[1] - width :] @ season.T
        places = {_LINE: 1, _BEND: n - 2 * LEAST_LEG, _STEP: n - 2 * LEAST_SIDE + 1}[shape]
        t, single = fit.t(column)[which], fit.p(column)[which]
        p = np.minimum(1.0, single * places)
        for at, place in enumerate(which):
            sure = float(p[at])
            if looked_into is not None and sure <= looked_into:
                known = fit.df, float(fit.known[place])
                shuffled = _shuffled(calm[place], season, float(phi[place]), known, sure, bent=shape == _BEND)
                sure = max(float(single[at]), shuffled)
            estimate = float(fit.beta[place, column])
            found[int(place)] = Path(
                shape=_NAMES[shape],
                start=int(shapes.places[shape, place]),
                slope=0.0 if shape == _STEP else estimate,
                jump=estimate if shape == _STEP else 0.0,
                p=sure,
                error=float(fit.error[place, column]),
                df=fit.df + round(float(fit.known[place])),
                noise=float(noise[at]),
                phi=float(phi[place]),
                statistic=float(t[at]),
                season=seasonal[at],
            )
    return found


def _shuffled(
    calm: Floats, season: Floats, phi: float, known: tuple[int, float], nominal: float, bent: bool = False
) -> float:
    """The p-value of a line or a step by how sure shuffled series make either of them look; of a bend beside a line.
    `known` are the degrees of freedom of the series' own, and those that siblings add."""
    n, (df, more) = calm.size, known
    time = np.arange(n, dtype=np.float64)[:, None]
    if bent:
        legs = np.arange(LEAST_LEG, n - LEAST_LEG)
        null, y, white = whiten(phi, line_beside(season), calm, np.maximum(time - legs, 0.0))
        bends = [Runs(white, LEAST_LEG, phi, sloped=True)]
        return min(1.0, _SHAPES * calibrated_p(null, bends, y, df, nominal, more))
    sides = np.arange(LEAST_SIDE, n - LEAST_SIDE + 1)
    null, y, line, white = whiten(
        phi, np.column_stack([np.ones(n), season]), calm, time, (time >= sides).astype(np.float64)
    )
    searches: list[Floats | Runs] = [line, Runs(white, LEAST_SIDE, phi)] if n >= 10 else [line]
    return calibrated_p(null, searches, y, df, nominal, more)


def stepped_at(series: Batch, which: int, place: int, phi: float) -> Path:
    """The path of one series with a step at a place known from elsewhere; its p-value pays for no search."""
    y, calm, season = series.y[which][None], series.calm[which][None], series.season(which)
    shapes = best_shapes(calm, season)
    shapes.places[_STEP] = place
    memory = np.array([phi])
    fits = {_STEP: gls_each(shapes.designs(_STEP, np.zeros(1, dtype=np.intp)), calm, memory)}
    path = _described(y, calm, np.array([_STEP]), season, shapes, fits, memory, -1.0)[0]
    return replace(path, p=float(fits[_STEP].p(1)[0]))


def searched(null: Floats, trials: Floats, y: Floats, phi: float) -> tuple[int, Fit, float]:
    """Which column of `trials`, shape (n, m), beside `null`, shape (n, k), tells most of `y`: its place, the fit with
    it as the last column, and the p-value of the search."""
    white_null, white, white_y = whiten(phi, null, trials, y)
    place = int(_Trials.of(white_null, white, np.arange(white.shape[1])).best(white_y[None])[0][0])
    fit = gls(np.column_stack([null, trials[:, place]]), y, phi)
    nominal = min(1.0, fit.p(null.shape[1]) * trials.shape[1])
    if nominal > _LOOKED_INTO:
        return place, fit, nominal
    return place, fit, max(fit.p(null.shape[1]), calibrated_p(white_null, [white], white_y, fit.df, nominal))


def _beside(*parts: Floats) -> Floats:
    """Columns side by side as designs of their own for each series: shared ones, shape (n, k), and those of each,
    shape (series, n) as one column."""
    shared, mine = (parts[0], parts[-1]), parts[1:-1]
    series = mine[0].shape[0]
    return np.concatenate(
        [
            np.broadcast_to(shared[0], (series, *shared[0].shape)),
            *(part[:, :, None] for part in mine),
            np.broadcast_to(shared[1], (series, *shared[1].shape)),
        ],
        axis=2,
    )
