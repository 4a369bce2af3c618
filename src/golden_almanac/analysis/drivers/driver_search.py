"""What goes with an outcome: effects one at a time and beside each other, cut points, importance, segments."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import exp, sqrt

import numpy as np
import numpy.typing as npt

from ...stats.false_discovery import q_values
from ...support import progress
from ...support.errors import RequestError
from ...support.phrasing import phrased
from ...tables import Role, Table
from ..clusters import Clusters, key_clusters
from .design_matrix import Design
from .driver_results import Driver, Effect, Found, Unclear, round_step
from .effect_shapes import Shape, shape_of
from .factors import Factor, factors_of
from .few_rows import find_among_few
from .hash_split import hashed, thinned
from .leakage import without_leaks
from .outcome import LEAST_ROWS, Outcome, outcome_of
from .permutation_importance import importances
from .robust_fits import Robust, least_squares, logistic
from .segments import Searched, segments

Floats = npt.NDArray[np.float64]

#: A factor is told at this false-discovery rate; its levels at this error rate among themselves.
LEVEL, _LEVELS = 0.01, 0.05
#: Fewer rows than this tell nothing.
_FEWEST = 5
#: A factor that foretells less than this share of the outcome's variance is sure at best, and trivial.
_LEAST_SHARE = 0.001
#: Rows from which bends and shares are found; effects are of all rows.
_MOST_BENT = 150_000
TOWARD = ("both", "higher", "lower")


def find(
    table: Table, outcome: str, factors: Sequence[str] | None = None, *, event: str | None = None, toward: str = "both"
) -> Found:
    """Drivers and segments of an outcome; see `ga.find_drivers`."""
    if toward not in TOWARD:
        raise RequestError("The direction of interest", toward, "one of " + ", ".join(TOWARD))
    about = outcome_of(table, outcome, event, least=_FEWEST)
    progress.say("taking up the factors")
    every, left = factors_of(about, factors)
    kept, leaks = without_leaks(about, every)
    left = [*left, *leaks]
    if not kept:
        reasons = "; ".join(f"{one.factor}: {one.reason}" for one in left)
        raise RequestError("The factors", ", ".join(one.factor for one in left), f"columns that can tell ({reasons})")
    if about.n < LEAST_ROWS and about.weights is None:
        return find_among_few(about, kept, left, toward)
    belonging = [
        *_weeks(about),
        *key_clusters(about.table, about.rows, {*about.columns, *(one.column for one in kept)}, values=about.values),
    ]
    progress.say(f"fitting {about.label} to {len(kept)} factors")
    # A weight of a rate counts relative to the others.
    w = None if about.weights is None else about.weights / about.weights.mean()
    plain = Design.of(kept, about.n)
    fit = least_squares(plain, about.values, w, belonging)
    # Bends, shares and shapes need no more rows than these.
    hashes = hashed(kept, about.values)
    few = thinned(hashes, _MOST_BENT)
    thin = [factor.rows(few) for factor in kept] if few.size < about.n else kept
    y, own = about.values[few], None if w is None else w[few]
    bent = Design.of(thin, few.size, bent=True)
    some = [one._replace(codes=np.unique(one.codes[few], return_inverse=True)[1].astype(np.intp)) for one in belonging]
    fuller = least_squares(bent, y, own, some) if bent.k > plain.k or few.size < about.n else fit
    p = [_p_of(factor, number, plain, fit, bent, fuller) for number, factor in enumerate(kept)]
    q = q_values(p)
    odds = _odds(plain, about)
    progress.say("weighing the factors")
    shares, foretold = importances(bent, y, own)
    found = [
        _weighed(
            factor,
            _effects(factor, number, plain, fit, about, w, odds),
            p=p[number],
            q=float(q[number]),
            share=float(shares[number]),
            # What was asked for by name is told however small it is.
            least=0.0 if factors is not None else _LEAST_SHARE,
        )
        for number, factor in enumerate(kept)
    ]
    drivers = [one for one in found if isinstance(one, Driver)]
    number_of = {factor.name: number for number, factor in enumerate(kept)}
    drivers = [
        one
        if not one.factor.number
        else replace(one, shape=_shape(thin, number_of[one.factor.name], bent, fuller, about, own))
        for one in drivers
    ]
    drivers.sort(key=lambda one: (-one.importance, one.p, one.factor.name))
    progress.say("searching for segments")
    searched: Searched = segments(
        about.table,
        kept,
        about.values,
        about.weights,
        hashes,
        yes_no=about.yes_no,
        toward=toward,
        clusters=next((one.codes for one in belonging if fit.errors == f"by {one.name}"), None),
    )
    return Found(
        outcome=about,
        factors=tuple(kept),
        drivers=tuple(_toward(drivers, toward)),
        unclear=tuple(one for one in found if isinstance(one, Unclear)),
        left_out=tuple(left),
        segments=searched.top,
        every_segment=searched.every,
        toward=toward,
        foretold=foretold,
        errors=fit.errors,
    )


def _weighed(
    factor: Factor, effects: Sequence[Effect], *, p: float, q: float, share: float, least: float
) -> Driver | Unclear:
    """A factor as a driver, its shape not looked at yet, or, where it is not sure or foretells too little, unclear."""
    clear = q <= LEVEL
    if clear and share >= least:
        return Driver(
            factor=factor, effects=_clear(effects), every=tuple(effects), p=p, q=q, importance=share, shape=None
        )
    small = phrased("sure, but too small to matter: it foretells less than 0.1% of the differences")
    return Unclear(factor=factor, effects=tuple(effects), p=p, q=q, reason=small if clear else _why_unclear(effects))


def _shape(
    factors: Sequence[Factor], number: int, bent: Design, fuller: Robust, about: Outcome, w: Floats | None
) -> Shape:
    """The shape of a number's effect, from the rows that bends are found in."""
    return shape_of(factors[number], fuller.residual + _own(bent, number, fuller) + about.overall, w)


def _toward(drivers: Sequence[Driver], toward: str) -> list[Driver]:
    """The drivers with the levels that go the way that is of interest."""
    if toward == "both":
        return list(drivers)
    sign = 1 if toward == "higher" else -1
    return [
        driver
        if driver.factor.number
        else replace(
            driver, effects=tuple(effect for effect in driver.effects if effect.effect * sign > 0) or driver.effects[:1]
        )
        for driver in drivers
        if driver.factor.number or any(effect.effect * sign > 0 for effect in driver.effects)
    ]


def _weeks(about: Outcome) -> list[Clusters]:
    """The rows' weeks and days, by the first column of dates that every row has."""
    for column in about.table.with_role(Role.TIME):
        days = about.table.days(column.name)[about.rows]
        if not np.isnat(days).any():
            number = days.astype("datetime64[D]").astype(np.int64)
            return [
                Clusters(name, np.unique(code, return_inverse=True)[1].astype(np.intp))
                for name, code in (("week", (number + 3) // 7), ("day", number))
            ]
    return []


def _p_of(factor: Factor, number: int, plain: Design, fit: Robust, bent: Design, fuller: Robust) -> float:
    """The p-value of a factor: of its levels together; for a number of its slope or its bends, the surer times two."""
    if not factor.number:
        return fit.joint_p(plain.blocks[number])
    place = plain.blocks[number].start
    slope = fit.t_p(float(fit.beta[place]), sqrt(max(0.0, float(fit.covariance[place, place]))))
    if bent.blocks[number].stop - bent.blocks[number].start == 1:
        return slope
    return min(1.0, 2 * min(slope, fuller.joint_p(bent.blocks[number])))


def _own(design: Design, number: int, fit: Robust) -> Floats:
    block = design.blocks[number]
    made = np.empty(design.n)
    for first in range(0, design.n, 65_536):
        where = slice(first, min(design.n, first + 65_536))
        made[where] = design.block(number, where) @ fit.beta[block]
    return made


def _odds(design: Design, about: Outcome) -> Floats | None:
    if not about.yes_no:
        return None
    most = 200_000
    if about.n > most:
        rows = np.arange(0, about.n, about.n // most)
        thin = [factor.rows(rows) for factor in design.factors]
        small = Design.of(thin, rows.size)
        if small.k != design.k or small.bases != design.bases:
            return None
        beta, settled = logistic(small, about.values[rows])
    else:
        beta, settled = logistic(design, about.values)
    return beta if settled else None


def _effects(
    factor: Factor, number: int, design: Design, fit: Robust, about: Outcome, w: Floats | None, odds: Floats | None
) -> list[Effect]:
    t = fit.quantile()
    y = about.values
    each = np.ones(about.n) if w is None else w
    if factor.number:
        assert factor.values is not None
        place = design.blocks[number].start
        weights = np.zeros(design.k)
        weights[place] = 1.0
        value, error = fit.contrast(weights)
        known = ~factor.missing
        alone, its_error = _simple(factor.values[known], y[known], each[known])
        step = round_step(factor.sd)
        ratio = None if odds is None else exp(float(np.clip(odds[place], -50, 50)))
        return [
            Effect(
                factor=factor.name,
                level=None,
                effect=value,
                low=value - t * error,
                high=value + t * error,
                p=fit.t_p(value, error),
                unadjusted=alone * factor.sd,
                unadjusted_low=(alone - t * its_error) * factor.sd,
                unadjusted_high=(alone + t * its_error) * factor.sd,
                n=int(known.sum()),
                sql=None,
                per=factor.sd,
                step=step,
                per_step=value / factor.sd * step,
                odds_ratio=ratio,
            )
        ]
    assert factor.codes is not None
    codes, size = factor.codes, len(factor.levels)
    rows = np.bincount(codes, minlength=size)
    weight = np.bincount(codes, weights=each, minlength=size)
    sums = np.bincount(codes, weights=each * y, minlength=size)
    means = sums / np.maximum(weight, 1e-300)
    own = np.bincount(codes, weights=(each * (y - means[codes])) ** 2, minlength=size)
    columns = design.level_columns(number)
    effects = []
    for level, label in enumerate(factor.levels):
        rest = weight.sum() - weight[level]
        contrast = np.zeros(design.k)
        for other, column in enumerate(columns):
            if column is not None:
                contrast[column] += 1.0 if other == level else -weight[other] / rest
        value, error = fit.contrast(contrast)
        beside = float((sums.sum() - sums[level]) / rest)
        gap = float(means[level]) - beside
        others = float(np.sum((each * (y - beside))[codes != level] ** 2))
        n = int(rows[level])
        its_error = sqrt(own[level] / weight[level] ** 2 * n / max(1, n - 1) + others / rest**2)
        ratio = None if odds is None else exp(float(np.clip(contrast @ odds, -50, 50)))
        effects.append(
            Effect(
                factor=factor.name,
                level=label,
                effect=value,
                low=value - t * error,
                high=value + t * error,
                p=fit.t_p(value, error),
                unadjusted=gap,
                unadjusted_low=gap - t * its_error,
                unadjusted_high=gap + t * its_error,
                n=n,
                sql=factor.equals(about.table, label),
                value=float(means[level]),
                odds_ratio=ratio,
            )
        )
    return effects


def _simple(x: Floats, y: Floats, w: Floats) -> tuple[float, float]:
    """Slope of one number alone, and its robust error."""
    centre, mean = float(np.average(x, weights=w)), float(np.average(y, weights=w))
    spread = float(np.sum(w * (x - centre) ** 2))
    if spread <= 0:
        return 0.0, float("inf")
    slope = float(np.sum(w * (x - centre) * (y - mean))) / spread
    residual = y - mean - slope * (x - centre)
    return slope, sqrt(float(np.sum((w * (x - centre) * residual) ** 2))) / spread


def _clear(effects: Sequence[Effect]) -> tuple[Effect, ...]:
    """The effects to tell: a number's own; of a category the levels that are sure among themselves, strongest first."""
    if len(effects) == 1:
        return tuple(effects)
    if len(effects) == 2:
        # Two levels are each other's mirror: the rarer one is told.
        return (min(effects, key=lambda one: (one.n, str(one.level))),)
    sure = [effect for effect in effects if effect.p * len(effects) <= _LEVELS]
    told = sorted(sure or [min(effects, key=lambda one: one.p)], key=lambda one: (-abs(one.effect), str(one.level)))
    return tuple(told)


def _why_unclear(effects: Sequence[Effect]) -> str:
    """Why nothing is claimed: by itself it looks like something and goes with others, or the range includes nothing."""
    strongest = max(effects, key=lambda one: (abs(one.unadjusted), str(one.level)))
    if strongest.unadjusted_low * strongest.unadjusted_high > 0 and strongest.low * strongest.high <= 0:
        return phrased("what it shows by itself goes with the other factors")
    if strongest.low * strongest.high <= 0:
        return phrased("its range includes nothing")
    return phrased("chance makes as much among so many factors")


def driver_of(found: Found, name: str) -> Driver:
    """The driver of that name. Raises RequestError with those there are."""
    for driver in found.drivers:
        if driver.factor.name == name:
            return driver
    known = [driver.factor.name for driver in found.drivers]
    raise RequestError("The driver", name, f"one that was found ({', '.join(known) or 'none was'})")
