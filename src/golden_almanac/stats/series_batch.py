"""Series made ready for their paths, many at once: wild values drawn in, season chosen, own autocorrelation known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..tables import Grain
from . import seasonal_terms
from .autocorrelated_fits import Floats, autocorrelations, basis
from .batched_fits import residuals
from .plain_medians import median

Places = npt.NDArray[np.intp]
#: A residual this many robust standard deviations out is drawn in before paths are fitted.
_CLIP = 4.0
#: Neighbours on either side of a value whose median it is set against.
_REACH = 3
#: Fewer siblings than this say too little about the autocorrelation they share.
_LEAST_SIBLINGS = 5
#: How much more than seen so many siblings may differ: times one and this over the root of their number.
_FEW = 2.0
#: Siblings know a variance so many times as well as the series itself, at most: what sums of skewed amounts stray by is
#: less alike than it looks.
_MOST_KNOWN = 2.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Batch:
    """Series of equal length, shape (series, n), ready for their paths.

    `calm` is `y` with wild values drawn in; `designs` are seasonal columns, each of shape (n, k), and `which` the place
    of each series' own among them; `line_phi` the autocorrelation beside a line and `line_variance` the variance left
    there. Shape (series,) where nothing is said.
    """

    y: Floats
    calm: Floats
    designs: tuple[Floats, ...]
    which: Places
    line_phi: Floats
    line_variance: Floats

    @property
    def count(self) -> int:
        return int(self.y.shape[0])

    @property
    def length(self) -> int:
        return int(self.y.shape[1])

    def season(self, place: int = 0) -> Floats:
        """The seasonal columns of one series, shape (n, k)."""
        return self.designs[int(self.which[place])]

    def at(self, places: Places) -> Batch:
        """Some of the series."""
        return replace(
            self,
            y=self.y[places],
            calm=self.calm[places],
            which=self.which[places],
            line_phi=self.line_phi[places],
            line_variance=self.line_variance[places],
        )

    def groups(self) -> list[tuple[Floats, Places]]:
        """The series of each seasonal design: the design, and their places."""
        used = np.unique(self.which)
        return [(self.designs[int(one)], np.flatnonzero(self.which == one)) for one in used]


def prepare(
    grain: Grain, numbers: npt.NDArray[np.int64], y: Floats, season: tuple[tuple[Floats, ...], Places] | None = None
) -> Batch:
    """Choose the seasonal columns of each series of `y` (no NaN), shape (series, n), or (n,) for one, unless they are
    known: designs, and the place of each series' own. `numbers` are the period numbers."""
    y = np.atleast_2d(y)
    designs, which = seasonal_terms.choose_each(grain, numbers, y) if season is None else season
    calm, phi, variance = np.empty_like(y), np.empty(y.shape[0]), np.empty(y.shape[0])
    for used in np.unique(which):
        design, places = designs[int(used)], np.flatnonzero(which == used)
        line = line_beside(design)
        calm[places] = drawn_in(y[places], line)
        left = residuals(basis(line), calm[places])
        phi[places] = autocorrelations(left, 2)
        variance[places] = np.einsum("ij,ij->i", left, left) / max(1, y.shape[1] - line.shape[1])
    return Batch(y=y, calm=calm, designs=designs, which=which, line_phi=phi, line_variance=variance)


def line_beside(season: Floats) -> Floats:
    """Columns of a constant, a line and the season; shape (n, 2 + k)."""
    n = season.shape[0]
    return np.column_stack([np.ones(n), np.arange(n, dtype=np.float64) - (n - 1) / 2, season])


def seasonal_part(y: Floats, season: Floats) -> Floats:
    """What seasonal columns, shape (n, k), make of each series of `y`, shape (series, n), fitted beside a line."""
    if not season.shape[1]:
        return np.zeros_like(y)
    return np.asarray((y @ np.linalg.pinv(line_beside(season))[2:].T) @ season.T)


def drawn_in(y: Floats, line: Floats) -> Floats:
    """Series, shape (series, n), with single wild values drawn in to the band around their neighbours."""
    season = seasonal_part(y, line[:, 2:])
    plain = y - season
    near = _running_median(plain)
    residual = plain - near
    middle = median(residual)[:, None]
    scale = 1.4826 * median(np.abs(residual - middle))[:, None]
    drawn = near + np.clip(residual, -_CLIP * scale, _CLIP * scale) + season
    return np.where(scale > 0, drawn, y)


def _running_median(y: Floats) -> Floats:
    """Median of each value and its neighbours on either side, fewer at the ends."""
    n, width = y.shape[1], 2 * _REACH + 1
    near = np.empty_like(y)
    if n >= width:
        windows = np.lib.stride_tricks.sliding_window_view(y, width, axis=1)
        near[:, _REACH : n - _REACH] = np.partition(windows, _REACH, axis=2)[:, :, _REACH]
    for i in range(n):
        if i < _REACH or i >= n - _REACH or n < width:
            near[:, i] = median(y[:, max(0, i - _REACH) : i + _REACH + 1])
    return near


@dataclass(frozen=True, slots=True, kw_only=True)
class Pooled:
    """The autocorrelation that siblings share, and how much of a series' own excess over it is believed (0 to 1).

    `times` is how many times the variance that the rows make by themselves the siblings usually vary by, beside what
    they remember, and `known` the degrees of freedom with which that is known of each of them; nought for not at all.
    Numbers for all series, or each an array of shape (series,).
    """

    phi: float | Floats
    belief: float | Floats
    times: float | Floats = 1.0
    known: float | Floats = 0.0

    @classmethod
    def each(cls, known: Sequence[Pooled]) -> Pooled:
        """What is known of several series, one by one."""
        if all(one is known[0] for one in known):
            return known[0]
        return cls(
            phi=np.array([one.phi for one in known]),
            belief=np.array([one.belief for one in known]),
            times=np.array([one.times for one in known]),
            known=np.array([one.known for one in known]),
        )


def pooled_memory(batch: Batch, sampling: Floats | None = None) -> Pooled | None:
    """The autocorrelation that sibling series share: the median of their own, or None for too few; with the variance
    that the rows behind each make by themselves, shape (series,), NaN where not known, what they share of that, too.

    One series of three years hardly knows its own autocorrelation, and a step in it looks like autocorrelation;
    twenty siblings know theirs well, and a step in one does not move the median. Where they differ no more than short
    series of one autocorrelation do, what a series shows above the median is chance; the more they differ, the more of
    it is believed (empirical Bayes, Efron & Morris 1975).
    """
    if batch.count < _LEAST_SIBLINGS:
        return None
    phi, n = float(np.median(batch.line_phi)), batch.length
    by_chance = (1 - phi * phi) / n / max(0.3, 1 - 4 / n) ** 2
    seen = (1.4826 * float(np.median(np.abs(batch.line_phi - phi)))) ** 2
    pooled = Pooled(phi=phi, belief=max(0.0, 1 - by_chance / seen) if seen > 0 else 0.0)
    return pooled if sampling is None else _with_variance(pooled, batch, sampling)


def _with_variance(pooled: Pooled, batch: Batch, sampling: Floats) -> Pooled:
    """What siblings know of a series' variance, from how alike they are once the rows behind each are counted: the
    moderated variance of Smyth (2004), from medians, since a few of them move.

    Few siblings hardly tell how alike they are: the spread between them is taken as larger than seen.
    """
    from scipy.special import polygamma, psi

    use = (sampling > 0) & (batch.line_variance > 0)
    if np.count_nonzero(use) < _LEAST_SIBLINGS:
        return pooled
    df = np.maximum(1, batch.length - 2 - np.array([design.shape[1] for design in batch.designs]))[batch.which[use]]
    ratio = np.log(batch.line_variance[use] * (1 - pooled.phi**2) / sampling[use]) - psi(df / 2) + np.log(df / 2)
    middle = float(np.median(ratio))
    spread = (1.4826 * float(np.median(np.abs(ratio - middle)))) ** 2 * (1 + _FEW / np.sqrt(ratio.size))
    beyond = spread - float(np.median(polygamma(1, df / 2)))
    most = _MOST_KNOWN * float(np.median(df))
    known = most if beyond <= 0 else min(most, _with_trigamma(beyond))
    return replace(pooled, times=float(np.exp(middle + psi(known / 2) - np.log(known / 2))), known=known)


def _with_trigamma(spread: float) -> float:
    """The degrees of freedom of a variance whose logarithm varies by `spread`: twice the inverse of the trigamma
    function, by Newton's steps on its reciprocal, which is nearly a line (Smyth 2004)."""
    from scipy.special import polygamma

    x = 0.5 + 1 / spread
    for _ in range(50):
        value = float(polygamma(1, x))
        step = value * (1 - value / spread) / float(polygamma(2, x))
        x += step
        if abs(step) < 1e-8 * x:
            break
    return 2 * x
