"""How far a slice strays from what the rest of the rows did, in its own standard errors.

A sum is expected to change as the rest does, in proportion; an average or rate by as much; the weight of a label in
proportion again. Variances come from the spread of the rows (a random number of random amounts has Σx² as its
variance), times a dispersion that the rest of the cells shows. Where the two spans lie in different seasons, what the
slice did between the same seasons of earlier years is taken off, with its own error.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ...stats.autocorrelated_fits import Floats
from .span_cube import Sums

#: The median of the square of a standard normal variable.
MEDIAN_SQUARE = 0.4549
#: Cells with fewer rows on either side say nothing of the dispersion, and so many are needed to tell it.
_LEAST_ROWS, _LEAST_CELLS = 5, 12
#: Rows whose spread the whole lends to an average of few.
_PRIOR_ROWS = 2.0
#: The fewest rows of earlier years that tell a slice's season.
_FEWEST_EARLIER = 10


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Spans:
    """Sums of both spans, and of the same pair in earlier years put together (None where none is needed)."""

    then: Sums
    now: Sums
    earlier: tuple[Sums, Sums] | None = None

    def turned(self, turn: Callable[[Sums], Sums]) -> Spans:
        """The same with all sums turned into others."""
        earlier = None if self.earlier is None else (turn(self.earlier[0]), turn(self.earlier[1]))
        return Spans(then=turn(self.then), now=turn(self.now), earlier=earlier)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Strayed:
    """Per slice: how far it strays (in the measure's unit, as a part of the whole's change) and the square of that in
    standard errors; nought where it cannot be told. Shape (slices,).

    `evidence` is the same with the error there would be had nothing changed. It says which of two slices is the better
    one: a slice that grew tenfold has large rows, and with them a large error of its own, shared by all that hold it.
    `error` is the standard error of how far a slice's own sum strays relative to what was expected of it, or its own
    average in the measure's unit; NaN where it cannot be told.
    """

    excess: Floats
    squared: Floats
    evidence: Floats
    error: Floats

    def dispersion(self, spans: Spans) -> float | None:
        """How many times more the usual slice strays than the spread of its rows lets it; None for too few slices.

        From the median of distances to the median: one slice that grows makes all others seem to shrink alike.
        """
        use = (spans.then.rows >= _LEAST_ROWS) & (spans.now.rows >= _LEAST_ROWS) & (self.squared > 0)
        if use.sum() < _LEAST_CELLS:
            return None
        signed = np.sign(self.excess[use]) * np.sqrt(self.squared[use])
        return float(np.median((signed - np.median(signed)) ** 2)) / MEDIAN_SQUARE


#: How far slices by some dimensions stray: their sums, the whole's, and the names of the dimensions.
Stray = Callable[[Spans, Spans, tuple[str, ...]], Strayed]


def by_amount(spans: Spans, whole: Spans, names: tuple[str, ...] = ()) -> Strayed:
    """A slice's sum against a proportional change: grown as the rest has."""
    rest_then, rest_now = whole.then.without(spans.then), whole.now.without(spans.now)
    with np.errstate(divide="ignore", invalid="ignore"):
        grown = _grown(spans, whole, rest_then, rest_now)
        growth = np.where(grown, rest_now.top / np.where(grown, rest_then.top, 1.0), 1.0)
        season, uncertain = _season(spans, whole)
        # Amounts of both signs know no proportion: each row is expected to change as the rows of the rest did.
        by_rows = np.where(rest_then.rows > 0, spans.then.rows / np.maximum(rest_then.rows, 1), 0.0)
        moved = np.where(grown, 0.0, by_rows * (rest_now.top - rest_then.top))
        expected = growth * season * spans.then.top + moved
        excess = spans.now.top - expected
        share = np.where(grown, season * spans.then.top / rest_then.top, by_rows)
        variance = spans.now.tt + (growth * season) ** 2 * spans.then.tt
        rest = share**2 * (rest_now.tt + growth**2 * rest_then.tt) + expected**2 * uncertain
        unchanged = growth * season * (1 + growth * season) * spans.then.tt
        known = (spans.then.rows >= _LEAST_ROWS) & (unchanged > 0)
        found = _strayed(excess, excess, variance + rest, np.where(known, unchanged, variance) + rest)
        # Ratios of sums are nearer to normal as logarithms, and one huge row makes its own error as huge.
        ends = (spans.then, spans.now, rest_then, rest_now)
        relative = sum((end.tt / end.top**2 for end in ends), uncertain)
        whole_logs = grown & (expected > 0) & (spans.now.top > 0) & (relative > 0) & np.isfinite(relative)
        logs = np.log(np.where(whole_logs, spans.now.top / expected, 1.0)) ** 2 / np.where(whole_logs, relative, 1.0)
    # What is all there is has nothing to stray from; what is new or gone strays from nothing.
    alone = (rest_then.rows == 0) | (rest_now.rows == 0)
    use = ~alone | (spans.then.rows == 0) | (spans.now.rows == 0)
    squared = np.where(whole_logs & (found.squared > 0), logs, found.squared)
    with np.errstate(divide="ignore", invalid="ignore"):
        size = np.where(expected != 0, np.abs(expected), np.nan)
        error = np.where(whole_logs, np.sqrt(relative), np.sqrt(np.maximum(variance + rest, 0.0)) / size)
    return replace(found, squared=np.where(use, squared, 0.0), error=error)


def by_weight(spans: Spans, whole: Spans, names: tuple[str, ...] = ()) -> Strayed:
    """What a slice's weight, changed against a proportional change, does to the whole's average: the surer of neither
    counts, so both the weight and that the slice's average differs must be sure."""
    weights = by_amount(spans.turned(_as_weights), whole.turned(_as_weights))
    rest_then, rest_now = whole.then.without(spans.then), whole.now.without(spans.now)
    with np.errstate(divide="ignore", invalid="ignore"):
        (mine, mine_error), (theirs, their_error) = _average(spans), _average(Spans(then=rest_then, now=rest_now))
        apart = mine - theirs
        apart_squared = apart**2 / (mine_error + their_error)
        squared, evidence = (np.minimum(one, apart_squared) for one in (weights.squared, weights.evidence))
        effect = (spans.now.bottom / whole.now.bottom - spans.then.bottom / whole.then.bottom) * apart
    known = np.isfinite(effect) & np.isfinite(squared)
    excess, squared, evidence = (np.where(known, one, 0.0) for one in (effect, squared, evidence))
    return Strayed(excess=excess, squared=squared, evidence=evidence, error=weights.error)


def by_rate(
    spans: Spans, whole: Spans, names: tuple[str, ...] = (), mixes: Mapping[str, tuple[float, float]] | None = None
) -> Strayed:
    """A slice's average or rate against that of the rest: changed by as much.

    `mixes` tells, for each dimension, how much of the whole's change (now, and in earlier years) went through the
    weights of its labels: the rest's change is told without what went through those of the slices' dimensions.
    """
    mix = max(((mixes or {}).get(name, (0.0, 0.0)) for name in names), key=lambda one: abs(one[0]), default=(0.0, 0.0))
    with np.errstate(divide="ignore", invalid="ignore"):
        apart, variance, weight = _rate_apart(spans, whole, mix[0])
        if spans.earlier is not None and whole.earlier is not None:
            before, whole_before = (Spans(then=one.earlier[0], now=one.earlier[1]) for one in (spans, whole))  # type: ignore[index]
            season, season_variance, _ = _rate_apart(before, whole_before, mix[1])
            known = _told(before) & np.isfinite(season)
            apart = np.where(known, apart - season, apart)
            variance = np.where(known, variance + season_variance, variance)
        return _strayed(weight * apart, apart, variance, variance)


def _rate_apart(spans: Spans, whole: Spans, mix: float) -> tuple[Floats, Floats, Floats]:
    """How a slice's average moved less how the rest's did within its parts, the variance of that, and its weight."""
    change, variance = _moved(spans, whole)
    _, rest_variance = _moved(Spans(then=whole.then.without(spans.then), now=whole.now.without(spans.now)))
    weight = (spans.then.bottom / whole.then.bottom + spans.now.bottom / whole.now.bottom) / 2
    inside = (whole.now.top / whole.now.bottom - whole.then.top / whole.then.bottom)[0] - mix
    rest = (inside - weight * change) / (1 - weight)
    return change - rest, variance + rest_variance, weight


def _strayed(excess: Floats, tested: Floats, variance: Floats, unchanged: Floats) -> Strayed:
    with np.errstate(divide="ignore", invalid="ignore"):
        squared, evidence = (np.where(one > 0, tested**2 / one, 0.0) for one in (variance, unchanged))
        error = np.where(variance > 0, np.sqrt(np.maximum(variance, 0.0)), np.nan)
    known = np.isfinite(excess) & np.isfinite(squared) & np.isfinite(evidence)
    excess, squared, evidence = (np.where(known, one, 0.0) for one in (excess, squared, evidence))
    return Strayed(excess=excess, squared=squared, evidence=evidence, error=error)


def _grown(spans: Spans, whole: Spans, rest_then: Sums, rest_now: Sums) -> npt.NDArray[np.bool_]:
    """Where the rest can be said to have grown in proportion: not among amounts of both signs."""
    of_one_sign = (spans.then.top >= 0).all(axis=0) & (spans.now.top >= 0).all(axis=0)
    positive = (whole.then.top > 0) & (whole.now.top > 0) & of_one_sign
    return np.asarray(positive & (rest_then.top > 0) & (rest_now.top >= 0))


def _season(spans: Spans, whole: Spans) -> tuple[Floats, Floats]:
    """How many times as much as the rest a slice grew between these seasons before; the relative variance of that."""
    if spans.earlier is None or whole.earlier is None:
        return np.ones(1), np.zeros(1)
    then, now = spans.earlier
    rest_then, rest_now = whole.earlier[0].without(then), whole.earlier[1].without(now)
    known = _told(Spans(then=then, now=now))
    for one in (then, now, rest_then, rest_now):
        known &= one.top > 0
    times = (now.top / then.top) / (rest_now.top / rest_then.top)
    relative = sum(one.tt / one.top**2 for one in (then, now, rest_then, rest_now))
    return np.where(known, times, 1.0), np.where(known, relative, 0.0)


def _told(spans: Spans) -> npt.NDArray[np.bool_]:
    return np.asarray((spans.then.rows >= _FEWEST_EARLIER) & (spans.now.rows >= _FEWEST_EARLIER))


def _moved(spans: Spans, whole: Spans | None = None) -> tuple[Floats, Floats]:
    """The change of an average between two spans and its variance; with the whole, what few rows hide of it is lent by
    all: two nights without a fall are no proof that there are none."""
    prior = 0.0 if whole is None else _PRIOR_ROWS * _spread(whole)
    (rate0, error0), (rate1, error1) = (_rate(one, prior) for one in (spans.then, spans.now))
    return rate1 - rate0, error0 + error1


def _spread(whole: Spans) -> Floats:
    """The variance of a row about the whole's average, per unit of weight, over both spans; shape (1,)."""
    both = whole.then.plus(whole.now)
    _, error = _rate(both)
    return np.where(both.rows > 0, error * both.bottom**2 / np.maximum(both.rows, 1.0), 0.0)


def _average(spans: Spans) -> tuple[Floats, Floats]:
    """The mean of both spans' averages (of the one there is) and its variance."""
    (rate0, error0), (rate1, error1) = (_rate(one) for one in (spans.then, spans.now))
    there0, there1 = spans.then.bottom > 0, spans.now.bottom > 0
    rate0, rate1 = np.where(there0, rate0, rate1), np.where(there1, rate1, rate0)
    error0, error1 = np.where(there0, error0, error1), np.where(there1, error1, error0)
    return (rate0 + rate1) / 2, (error0 + error1) / 4


def _rate(sums: Sums, prior: Floats | float = 0.0) -> tuple[Floats, Floats]:
    """Σt / Σb and its variance, by the residuals t − r·b of its rows, and what a `prior` adds to their squares."""
    rate = sums.top / sums.bottom
    left = np.maximum(sums.tt - 2 * rate * sums.tb + rate**2 * sums.bb, 0.0)
    return rate, (left + prior) / sums.bottom**2


def _as_weights(sums: Sums) -> Sums:
    """The denominators as amounts of their own."""
    return Sums(sums.rows, sums.bottom, sums.rows, sums.bb, sums.bottom, sums.rows)
