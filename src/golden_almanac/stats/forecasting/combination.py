"""All candidates, weighted at each origin by the errors that it knows of: a procedure whose own errors are known.

An origin weighs a candidate by its mean absolute error on all earlier origins, to the power of minus six: near a choice
where one is clearly better, near a mean where none is. On half of the public series (`bench/forecast`) that did better
than the choice of one (by 10%), the median of some (6%) and weights of the first power (6%).
"""

from __future__ import annotations

import warnings
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from . import autoregression, plain
from .calendar_regression import calendar_regression
from .intermittent import croston
from .origins import Floats, Origins, scale_of
from .seasons import seasons
from .smoothing import FormFit, fitted_forms, forms_for
from .theta import theta

#: The power of the weights where an origin knows many errors, and how many of them make half of that.
_POWER, _HALF = 6.0, 10.0
#: Errors below which no candidate is weighed against another.
_LEAST_SEEN = 3
#: The combination is taken for so much better than smoothing at most.
_MOST_BETTER = 0.6
#: The share of noughts from which demand comes now and then.
_NOW_AND_THEN = 0.25
#: Candidates that lead where nothing is known of errors yet.
_FIRST = frozenset(
    {
        "exponential smoothing",
        "damped trend",
        "optimised theta",
        "autoregression of changes",
        "autoregression of seasonal changes",
        "autoregression of changes, in logarithms",
        "autoregression of seasonal changes, in logarithms",
    }
)


@dataclass(frozen=True, slots=True)
class Combined:
    """`names` of the candidates; their `paths`, shape (candidates, series, origins, horizon), and `weights`, shape
    (candidates, series, origins). `path` is the weighted one, shape (series, origins, horizon), `errors` its standard
    errors by the form of smoothing that fits best, `forms` the name of that, by series; `mase` the candidates' mean
    absolute errors over all origins, scaled, shape (candidates, series), `own` that of the procedure."""

    names: tuple[str, ...]
    paths: Floats
    weights: Floats
    path: Floats
    errors: Floats
    forms: tuple[str, ...]
    mase: Floats
    own: Floats


def combined(
    series: Floats, origins: Origins, *, long_season: float | None = None, known: Floats | None = None
) -> Combined:
    """Every candidate at every origin, and what they make together; series of shape (series, periods), complete."""
    paths, errors, forms = _candidates(series, origins, long_season, known)
    names = tuple(paths)
    stacked = np.stack([paths[name] for name in names])
    scale = scale_of(series, origins.season)
    missed = np.stack([np.abs(origins.errors(series, path)) / scale[:, None, None] for path in stacked])
    weights = _weights(missed, origins, names)
    path = (weights[..., None] * stacked).sum(axis=0)
    mase = _over_origins(missed)
    own = _over_origins(np.abs(origins.errors(series, path)) / scale[:, None, None])
    # What smoothing says of itself holds of what misses as much; together they miss less.
    smoothed = mase[names.index("exponential smoothing")]
    known = np.isfinite(own) & (smoothed > 0)
    better = np.where(known, own / np.where(known, smoothed, 1.0), 1.0)
    errors = errors * np.clip(better, _MOST_BETTER, 1.0)[:, None, None]
    return Combined(
        names=names, paths=stacked, weights=weights, path=path, errors=errors, forms=forms, mase=mase, own=own
    )


def _over_origins(missed: Floats) -> Floats:
    """The mean over all errors that are known, shape (…, series); NaN where none is."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)
        made: Floats = np.nanmean(missed[..., :-1, :].reshape(*missed.shape[:-2], -1), axis=-1)
    return made


def _candidates(
    series: Floats, origins: Origins, long_season: float | None, known: Floats | None
) -> tuple[dict[str, Floats], Floats, tuple[str, ...]]:
    fits = fitted_forms(series, origins, forms_for(series, origins))
    best, errors, forms = _best(fits)
    damped, *_ = _best([fit for fit in fits if fit.trend == "damped"])
    level, *_ = _best([fit for fit in fits if fit.trend == "none"])
    thetas = theta(series, origins, seasons(series, origins))
    made: dict[str, Floats] = {
        "mean": plain.mean(series, origins),
        "last value": plain.last(series, origins),
        "drift": plain.drift(series, origins),
        "exponential smoothing": best,
        "damped trend": damped,
        "smoothed level": level,
        "theta": thetas.plain,
        "optimised theta": thetas.optimised,
        "autoregression": autoregression.on_values(series, origins),
        "autoregression of changes": autoregression.on_changes(series, origins),
    }
    seasonal = origins.season > 1 and origins.ends[0] > origins.season + 4
    if seasonal:
        made["last season"] = plain.last_season(series, origins)
        made["autoregression of seasonal changes"] = autoregression.on_seasonal_changes(series, origins)
    if (series > 0).all():
        logs = np.log(series)
        made["autoregression of changes, in logarithms"] = _raised(autoregression.on_changes, logs, origins)
        if seasonal:
            made["autoregression of seasonal changes, in logarithms"] = _raised(
                autoregression.on_seasonal_changes, logs, origins
            )
    if ((series == 0).mean(axis=1) >= _NOW_AND_THEN).all():
        made["demand now and then"] = croston(series, origins, unbiased=False)
        made["demand now and then, unbiased"] = croston(series, origins, unbiased=True)
    if long_season is not None or known is not None:
        made["level with parts of the calendar"] = calendar_regression(series, origins, long_season, known)
    return made, errors, forms


def _raised(method: Callable[[Floats, Origins], Floats], logs: Floats, origins: Origins) -> Floats:
    made: Floats = np.exp(np.clip(method(logs, origins), -700, 700))
    return made


def _best(fits: list[FormFit]) -> tuple[Floats, Floats, tuple[str, ...]]:
    """The form of the least AICc at every origin: paths, their standard errors, and its name at the end, by series."""
    scores = np.stack([fit.aicc for fit in fits])
    scores = np.where(np.isfinite(scores), scores, np.inf)
    place = scores.argmin(axis=0)[None, :, :, None]
    paths = np.take_along_axis(np.stack([fit.paths for fit in fits]), place, axis=0)[0]
    errors = np.take_along_axis(np.stack([fit.errors for fit in fits]), place, axis=0)[0]
    names = tuple(f"{fits[int(own)].trend} trend, {fits[int(own)].season} season" for own in place[0, :, -1, 0])
    return paths, errors, names


def _weights(missed: Floats, origins: Origins, names: tuple[str, ...]) -> Floats:
    """The weights of the candidates at every origin, shape (candidates, series, origins); they add up to one."""
    made = np.empty(missed.shape[:3])
    first = np.array([1.0 if name in _FIRST else 0.5 for name in names])
    alone = np.array([1.0 if name in _FIRST else 0.0 for name in names])
    for place in range(origins.count):
        seen = origins.seen[place]
        count = int(seen.sum())
        if count < _LEAST_SEEN:
            made[:, :, place] = alone[:, None]
            continue
        score = np.maximum(missed[:, :, seen].mean(axis=2), 1e-9)
        power = _POWER * count / (count + _HALF)
        made[:, :, place] = first[:, None] * (score / score.min(axis=0)) ** -power
    total: Floats = made / made.sum(axis=0)
    return total
