"""Ranges of forecasts: from the errors that the whole procedure made at its origins.

The standard error of a step is that of the errors known, drawn along a power of the horizon, and of the best form of
smoothing, each by how many errors stand behind it; the width is the quantile of the scaled errors (split conformal,
Vovk et al. 2005; with the correction for a finite sample). Where few origins were tried, no range is below what the
model itself says. Where many were, that floor lost more than it gave: on the public series of `bench/forecast` the
pinball loss is 0.181 without it and 0.192 with it.
"""

from __future__ import annotations

import warnings
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri, stdtrit

from .origins import Floats, Origins, scale_of

LEVELS = (0.80, 0.95)
#: Origins below which their errors say too little.
LEAST_ORIGINS = 5
#: Origins from which the errors made outweigh what the model says of itself.
_MANY_ORIGINS = 12
#: The power of the horizon by which errors grow is drawn to the model's by so many horizons' worth.
_DRAWN = 4.0
#: Errors of an origin count for so much, as neighbours share most of theirs; the model's for so many origins, and
#: somewhat more than it says, as its parameters were fitted.
_OWN, _MODEL, _FITTED = 0.5, 6.0, 1.1


@dataclass(frozen=True, slots=True)
class Ranges:
    """Half widths by level, each of shape (series, horizon); `naive` where too few origins were known."""

    half: dict[float, Floats]
    naive: bool


def ranges(series: Floats, origins: Origins, errors: Floats, model: Floats) -> Ranges:
    """The half widths at the end of the series, from the errors at all origins, shape (series, origins, horizon), NaN
    where they are not known; `model` are the standard errors that the model says, shape (series, horizon)."""
    errors = errors[:, :-1]
    known = int(np.isfinite(errors).any(axis=(0, 2)).sum())
    if known < LEAST_ORIGINS:
        return _naive(series, origins)
    ahead = np.arange(1.0, origins.horizon + 1)
    grown = _growth(errors, ahead, model, scale_of(series, origins.season))
    shape = ahead ** grown[:, None]
    spread = np.sqrt(_mean((errors / shape[:, None]) ** 2, (1, 2)))[:, None] * shape
    count = known * _OWN
    scale = np.sqrt((count * spread**2 + _MODEL * (_FITTED * model) ** 2) / (count + _MODEL))
    scaled = np.abs(errors / np.maximum(spread, 1e-300)[:, None]).reshape(series.shape[0], -1)
    half = {}
    for level in LEVELS:
        quantile = np.nanquantile(scaled, min(1.0, level * (1 + 1 / known)), axis=1)
        half[level] = quantile[:, None] * scale
        if known < _MANY_ORIGINS:
            half[level] = np.maximum(half[level], ndtri(0.5 + level / 2) * model)
    return Ranges(half, naive=False)


def _growth(errors: Floats, ahead: Floats, model: Floats, least: Floats) -> Floats:
    """The power of the horizon by which errors grow, by series, drawn to that by which the model's do."""
    told = np.maximum(model, 1e-9 * least[:, None])
    own = np.log(told[:, -1] / told[:, 0]) / max(np.log(ahead[-1]), 1.0) if ahead.size > 1 else np.zeros(len(model))
    squares = np.maximum(np.sqrt(_mean(errors**2, (1,))), 1e-9 * least[:, None])
    count = np.isfinite(errors).sum(axis=1).astype(float)
    known = count > 0
    logs = np.where(known, np.log(np.where(known, squares, 1.0)), 0.0)
    along = np.log(ahead)
    total = np.maximum(count.sum(axis=1, keepdims=True), 1.0)
    middle = (count * along).sum(axis=1, keepdims=True) / total
    level = (count * logs).sum(axis=1, keepdims=True) / total
    drawn = _DRAWN * count.sum(axis=1) / np.maximum(known.sum(axis=1), 1)
    power = ((count * (along - middle) * (logs - level)).sum(axis=1) + own * drawn) / (
        (count * (along - middle) ** 2).sum(axis=1) + drawn
    )
    made: Floats = np.clip(power, 0.0, 1.2)
    return made


def _naive(series: Floats, origins: Origins) -> Ranges:
    """What the last value or the last season would miss by, growing with the root of the steps or seasons."""
    season = origins.season if series.shape[1] > origins.season + 3 else 1
    moves = series[:, season:] - series[:, :-season] if series.shape[1] > season else np.zeros((series.shape[0], 1))
    spread = np.sqrt((moves**2).mean(axis=1))
    steps = np.sqrt(np.ceil(np.arange(1, origins.horizon + 1) / season))
    freedom = max(1, moves.shape[1] - 1)
    half = {level: stdtrit(freedom, 0.5 + level / 2) * spread[:, None] * steps for level in LEVELS}
    return Ranges(half, naive=True)


def _mean(values: Floats, axis: tuple[int, ...]) -> Floats:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)
        made: Floats = np.nanmean(values, axis=axis)
    return made
