"""The usual course of an account: its season, its trend, the steps it took, and the months that lie off it.

Amounts are taken in logarithms where an account has one sign, against a base where the account goes with that rather
than by itself. Beside a season and a line chosen by BIC, months off the course, steps, bends and pairs of months that
make up for each other are added one by one, the surest first, as long as they are sure: the search for innovations of
Chen & Liu (1993), each tested with the memory of what it leaves.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import numpy.typing as npt
from scipy.special import stdtr, stdtrit

from ...stats.autocorrelated_fits import Fit, autocorrelation, basis, bic, gls, ols
from ...stats.batched_fits import bic as bic_each

Floats = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Shape = Literal["month", "pair", "step", "drift"]
#: How sure an event must be among all that one account could have had.
SURE = 0.002
#: Events of one account at most; months from which there is a course; months that a step or a bend stands apart from
#: either end; seasons are told from two years on.
_MOST, LEAST, _APART = 5, 8, 4
#: What the search for a place costs, in parameters: of a month, and of a turn, which a plain line must not pass for; by
#: how much BIC must speak for the base.
_PLACE, _TURN, _CLEARLY = 2, 4, 6.0
#: Twice the usual is what a posting made twice gives: it is likelier than any other size, and its p counts for so much
#: less (weighted tests, Genovese et al. 2006) where it lies within so many standard deviations of twice.
_TWICE, _TWICE_WEIGHT, _TWICE_NEAR = float(np.log(2)), 0.04, 1.5
#: What counts as nothing left, of all; and as a shape that a design does not hold already.
_EXACT, _SEEN = 1e-20, 1e-3
#: Standard errors put on top of the memory that a single series shows, by shape: what goes on is what memory makes of
#: chance, a step most of all. Of a slope beside those of other accounts, which are as wide as theirs.
_MARGIN: dict[Shape, float] = {"month": 0.5, "pair": 0.5, "drift": 1.0, "step": 1.5}
_SLOPE_MARGIN = 0.75
#: The 95% range of a month.
_RANGE = 0.975


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Something that lies off an account's usual course from `place` on: one month, a pair of months that make up for
    each other, a step, a drift. `effect` in the scale of the course (logarithms where it is relative), `p` among all
    that the account could have had."""

    shape: Shape
    place: int
    effect: float
    p: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Course:
    """The course of an account, shape (months,): `usual` what a month would have been without its event (steps and
    drifts before it included, its own not), `low` and `high` the 95% range of that; `events` in the order found;
    `spread` of single months about it. `relative` where worked out in logarithms, `of_base` where against the base;
    `slope` and its `error` a month, `known` the months that it is fitted to."""

    usual: Floats
    low: Floats
    high: Floats
    fitted: Floats
    events: tuple[Event, ...]
    spread: float
    relative: bool
    of_base: bool
    slope: float
    error: float
    known: Flags

    def without(self, event: Event) -> Floats:
        """The fitted course had the event not been, in money."""
        shape = _column(event.shape, event.place, self.fitted.size)
        if self.relative:
            return np.asarray(self.fitted * np.exp(-event.effect * shape))
        return np.asarray(self.fitted - event.effect * shape)


def course_of(values: Floats, known: Flags, year: tuple[int, int], base: Floats | None) -> Course | None:
    """The course of values, shape (months,), in the months `known`. `year` is the place of the first in its
    year, and how many make one (0: no season is told). `base`, all above nought, is what the account may go with. None
    where there are too few months."""
    return courses_of(values[None], known[None], year, [base])[0]


def courses_of(
    values: Floats, known: Flags, year: tuple[int, int], bases: Sequence[Floats | None]
) -> list[Course | None]:  # fmt: skip
    """The same of many accounts, shape (accounts, months): those known in the same months are looked at together, and
    one by one only where something may lie off."""
    logs = np.log(np.where(known & (values != 0), np.abs(values), 1.0))
    signs = [np.sign(row[own]) for row, own in zip(values, known, strict=True)]
    sides = np.array([0.0 if not sign.size or sign.min() != sign.max() else float(sign[0]) for sign in signs])
    alone = np.where(sides[:, None] == 0, values, logs)
    divided = np.array([place for place, base in enumerate(bases) if base is not None and sides[place] != 0], dtype=int)
    first = _all_chosen(alone, known, year, sides != 0)
    beside: dict[int, _Fitted | None] = {}
    if divided.size:
        shares = np.array([logs[place] - np.log(base) for place in divided if (base := bases[place]) is not None])
        found = _all_chosen(shares, known[divided], year, np.ones(divided.size, dtype=bool))
        beside = dict(zip(divided.tolist(), found, strict=True))
    made: list[Course | None] = []
    for place, own in enumerate(first):
        other, base = beside.get(place), bases[place]
        if own is None:
            made.append(None)
        elif other is not None and base is not None and other.bic < own.bic - _CLEARLY:
            # Against the base only where that says clearly more: a share of it is one thing more to explain.
            made.append(_money(other, base, float(sides[place])))
        else:
            made.append(_money(own, None, float(sides[place])))
    return made


def _all_chosen(y: Floats, known: Flags, year: tuple[int, int], logs: Flags) -> list[_Fitted | None]:
    """The best fit of each row, shape (rows, months)."""
    made: list[_Fitted | None] = [None] * len(y)
    groups: dict[bytes, list[int]] = {}
    for place, own in enumerate(known):
        if own.sum() >= LEAST:
            groups.setdefault(own.tobytes(), []).append(place)
    for packed, places in groups.items():
        months = np.frombuffer(packed, dtype=bool)
        calm = _calm(y[places][:, months], packed, year, logs[places])
        for place, design in zip(places, calm, strict=True):
            if design < 0:
                made[place] = _chosen(y[place], months, year, logs=bool(logs[place]))
            else:
                made[place] = _fit(_designs(packed, year)[design], y[place], months, [])
    return made


def _calm(seen: Floats, packed: bytes, year: tuple[int, int], logs: Flags) -> npt.NDArray[np.int64]:
    """Of rows, shape (rows, known months), the design that BIC takes where no event may be sure beside any; -1 where
    one may be."""
    n = seen.shape[1]
    names, _ = _candidates(packed)
    months = np.array([shape == "month" for shape, _ in names])
    best, taken = np.full(len(seen), np.inf), np.zeros(len(seen), dtype=np.int64)
    for place, prepared in enumerate(_prepared(packed, year)):
        left = seen - (seen @ prepared.q) @ prepared.q.T
        rss = np.einsum("ij,ij->i", left, left)
        size = prepared.q.shape[1]
        df = n - size - 1
        along = left @ prepared.apart
        p, family = _odds(along, along / prepared.norm, rss[:, None], df, months & logs[:, None])
        exact = rss <= _EXACT * np.einsum("ij,ij->i", seen, seen) + 1e-300
        taken[((p * family).min(axis=1) <= SURE) & ~exact] = -1
        judged = bic_each(np.maximum(rss, _EXACT * n), n, size)
        better = (judged < best - 1e-9) & (taken >= 0)
        best[better], taken[better] = judged[better], place
    return taken


def _odds(along: Floats, effect: Floats, rss: Floats, df: int, months: Flags) -> tuple[Floats, Floats]:
    """The p of events, and among how many they count: `along` is what lies along each, of length one, `effect` what it
    comes to, `rss` what is left without them; single `months` at twice the usual are likelier than others."""
    gain = along**2
    inner = np.maximum(rss - gain, 1e-12 * rss + 1e-300)
    family = np.full(gain.shape, float(gain.shape[-1]))
    family[months & (np.abs(effect - _TWICE) <= _TWICE_NEAR * np.sqrt(inner / df))] *= _TWICE_WEIGHT
    return 2 * stdtr(df, -np.sqrt(gain / inner * df)), family


@dataclass(frozen=True, slots=True, eq=False)
class _Prepared:
    """A design's orthonormal columns, shape (known months, columns), and what of each candidate lies beside them:
    `apart` of length one, shape (known months, candidates), and its length before, `norm`."""

    q: Floats
    apart: Floats
    norm: Floats


@lru_cache(maxsize=256)
def _prepared(packed: bytes, year: tuple[int, int]) -> tuple[_Prepared, ...]:
    known = np.frombuffer(packed, dtype=bool)
    _, columns = _candidates(packed)
    made = []
    for design in _designs(packed, year):
        q = basis(design[known])
        apart = columns[:, known].T
        apart = apart - q @ (q.T @ apart)
        norm = np.sqrt(np.einsum("ij,ij->j", apart, apart))
        usable = norm > _SEEN
        made.append(
            _Prepared(q, np.where(usable, apart / np.where(usable, norm, 1.0), 0.0), np.where(usable, norm, np.inf))
        )
    return tuple(made)


@dataclass(frozen=True, slots=True, eq=False)
class _Fitted:
    """A design over all months, the events added to it, its fit to the known ones, and how well it does."""

    design: Floats
    events: tuple[Event, ...]
    fit: Fit
    y: Floats
    known: Flags
    bic: float


def _chosen(y: Floats, known: Flags, year: tuple[int, int], *, logs: bool = True) -> _Fitted:
    """The best of the seasons and lines, each with its own events."""
    packed = known.tobytes()
    best: _Fitted | None = None
    for design in _designs(packed, year):
        fitted = _searched(design, y, known, logs)
        if best is None or fitted.bic < best.bic - 1e-9:
            best = fitted
    assert best is not None
    return best


@lru_cache(maxsize=256)
def _designs(packed: bytes, year: tuple[int, int]) -> tuple[Floats, ...]:
    """Seasons (none, one wave, two, a level a month or quarter) with and without a line, over all months."""
    known = np.frombuffer(packed, dtype=bool)
    n = known.size
    along = np.arange(n, dtype=float)
    one, line = np.ones((n, 1)), ((along - along.mean()) / n)[:, None]
    seasons: list[Floats] = [np.empty((n, 0))]
    phase, cycle = year
    if cycle and known.sum() >= 2 * cycle:
        turn = 2 * np.pi * (along + phase) / cycle
        waves = [np.column_stack([np.sin(k * turn), np.cos(k * turn)]) for k in (1, 2) if k < cycle / 2]
        seasons += [np.column_stack(waves[: k + 1]) for k in range(len(waves))]
        place = ((along + phase) % cycle).astype(int)
        if np.bincount(place[known], minlength=cycle).min() >= 2:
            seasons.append(np.eye(cycle)[place][:, 1:])
    return tuple(np.column_stack([one, season, *more]) for season in seasons for more in ((), (line,)))


def _searched(design: Floats, y: Floats, known: Flags, logs: bool) -> _Fitted:
    """The design with the events that are sure beside it."""
    events: list[Event] = []
    seen = y[known]
    while len(events) < _MOST and seen.size - design.shape[1] > 4:
        found = _surest(design[known], seen, known, events, logs)
        if found is None:
            break
        events.append(found[0])
        design = np.column_stack([design, found[1]])
    return _fit(design, y, known, events)


def _fit(design: Floats, y: Floats, known: Flags, events: list[Event]) -> _Fitted:
    """The fit of a design whose last columns are those of some events; effects as they are beside all the others."""
    n, fit = int(known.sum()), ols(design[known], y[known])
    effects = fit.beta[fit.beta.size - len(events) :]
    told = tuple(
        Event(shape=one.shape, place=one.place, effect=float(effect), p=one.p)
        for one, effect in zip(events, effects, strict=True)
    )
    size = design.shape[1] + sum(_TURN if one.shape in ("step", "drift") else _PLACE for one in events)
    return _Fitted(design, told, fit, y, known, bic(max(fit.rss, _EXACT * n), n, size))


def _surest(
    own: Floats, seen: Floats, known: Flags, events: list[Event], logs: bool
) -> tuple[Event, Floats] | None:  # fmt: skip
    """The event that explains most of what is left, if it is sure."""
    q = basis(own)
    left = seen - q @ (q.T @ seen)
    names, columns = _candidates(known.tobytes())
    apart = columns[:, known].T
    apart = apart - q @ (q.T @ apart)
    norm = np.sqrt(np.einsum("ij,ij->j", apart, apart))
    usable = norm > _SEEN
    along = np.where(usable, left @ apart / np.where(usable, norm, 1.0), 0.0)
    rss, df = float(left @ left), seen.size - own.shape[1] - 1
    if rss <= _EXACT * float(seen @ seen) + 1e-300:
        return None
    months = np.array([shape == "month" for shape, _ in names]) & logs
    p, family = _odds(along, along / np.where(usable, norm, np.inf), np.array(rss), df, months)
    taken = {(one.shape, one.place) for one in events}
    # Shapes that explain as much: the simplest, which stand first.
    for place in np.argsort(-np.round(along**2 / rss, 9), kind="stable")[:3]:
        shape, at = names[place]
        if (shape, at) in taken:
            continue
        if float(p[place] * family[place]) > SURE:
            return None
        column = columns[place]
        fit = _tested(np.column_stack([own, column[known]]), seen, _MARGIN[shape])
        sure = min(1.0, fit.p(fit.beta.size - 1) * float(family[place]))
        return None if sure > SURE else (Event(shape=shape, place=at, effect=float(fit.beta[-1]), p=sure), column)
    return None


def _tested(design: Floats, y: Floats, margin: float) -> Fit:
    """The fit with the memory of what it leaves, `margin` standard errors more; none is believed below nought."""
    fit = ols(design, y)
    phi = autocorrelation(fit.residual, design.shape[1], margin)
    return gls(design, y, min(phi, 0.9)) if phi > 0.1 else fit


@lru_cache(maxsize=256)
def _candidates(packed: bytes) -> tuple[tuple[tuple[Shape, int], ...], Floats]:
    """Every event that known months can show: (shape, place), and its column over all months, shape (events,
    months)."""
    known = np.frombuffer(packed, dtype=bool)
    n = known.size
    wanted: list[tuple[Shape, int]] = [("month", place) for place in range(n) if known[place]]
    before, after = np.cumsum(known), np.cumsum(known[::-1])[::-1]
    inner = [place for place in range(1, n) if before[place - 1] >= _APART and after[place] >= _APART]
    wanted += [("step", place) for place in inner]
    wanted += [("drift", place) for place in inner]
    wanted += [("pair", place) for place in range(n - 1) if known[place] and known[place + 1]]
    return tuple(wanted), np.array([_column(shape, place, n) for shape, place in wanted])


def _column(shape: Shape, place: int, n: int) -> Floats:
    along = np.arange(n)
    if shape == "month":
        return np.asarray(along == place, dtype=float)
    if shape == "pair":
        return np.asarray((along == place + 1).astype(float) - (along == place))
    if shape == "step":
        return np.asarray(along >= place, dtype=float)
    return np.asarray(np.maximum(0, along - place + 1) / n)


def _money(fitted: _Fitted, base: Floats | None, side: float) -> Course:
    """The course in money; `side` is the sign of an account that is worked out in logarithms, nought for others."""
    fit, design = fitted.fit, fitted.design
    count = len(fitted.events)
    line = design @ fit.beta
    # A month's own event, and its half of a pair, are no part of what was usual for it.
    usual = line.copy()
    for event in fitted.events:
        if event.shape in ("month", "pair"):
            usual -= event.effect * _column(event.shape, event.place, line.size)
    q = basis(design[fitted.known])
    sd = float(np.sqrt(fit.rss / fit.df))
    inverse = np.linalg.pinv(design[fitted.known])
    lever = np.einsum("ij,ij->i", design @ inverse, design @ inverse)
    half = float(stdtrit(fit.df, _RANGE)) * sd * np.sqrt(1 + np.minimum(lever, 1.0))
    slope, error = _slope(fitted, q, count)
    bounds: Iterator[Floats] = iter((usual, usual - half, usual + half, line))
    if side:
        scale = side if base is None else side * base
        bounds = iter([scale * np.exp(np.clip(one, -700, 700)) for one in bounds])
    middle, low, high, course = bounds
    return Course(
        usual=middle, low=np.minimum(low, high), high=np.maximum(low, high), fitted=course, events=fitted.events,
        spread=sd, relative=bool(side), of_base=base is not None, slope=slope, error=error, known=fitted.known,
    )  # fmt: skip


def _slope(fitted: _Fitted, q: Floats, count: int) -> tuple[float, float]:
    """The slope a month beside season and events, and its error with the memory of what is left."""
    n = fitted.y.size
    line = ((np.arange(n) - (n - 1) / 2) / n)[fitted.known]
    own = fitted.design[fitted.known]
    apart = line - q @ (q.T @ line)
    if float(apart @ apart) > 1e-9 * float(line @ line):
        own = np.column_stack([own, line])
        place = own.shape[1] - 1
    else:
        # The design holds a line: behind the season, before the events.
        place = own.shape[1] - 1 - count
    if own.shape[0] - own.shape[1] < 3:
        return 0.0, np.inf
    fit = _tested(own, fitted.y[fitted.known], _SLOPE_MARGIN)
    return float(fit.beta[place]) / n, float(fit.error[place]) / n
