"""Exponential smoothing in its state space forms, fitted at all origins of all series in a few passes.

Given parameters and the states it starts from, one pass over the series gives the likelihood at every origin on its
way. So a grid of parameters costs one pass, a closer grid around the best of each origin another, and a last one takes
the states at the origins. Hyndman, Koehler, Ord & Snyder, Forecasting with Exponential Smoothing (2008); errors that
grow with the level differ from others in their likelihood only.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from .origins import Floats, Origins

TRENDS = ("none", "linear", "damped")
SEASONS = ("none", "added", "multiplied")
_ALPHAS = (0.03, 0.1, 0.2, 0.35, 0.5, 0.7, 0.9, 0.99)
_BETAS = (0.005, 0.05, 0.15, 0.4)
_GAMMAS = (0.005, 0.08, 0.25, 0.6)
_PHIS = (0.8, 0.9, 0.96)
#: Steps of the closer grid: of alpha, of beta and gamma as shares, of phi.
_CLOSER = ((-0.08, 0.0, 0.08), (-0.5, 0.0, 0.6), (-0.5, 0.0, 0.6), (-0.05, 0.0, 0.02))
_TINY = 1e-9


class Parameters(NamedTuple):
    """Weights of level, slope and season and the damping, each of shape (series, candidates)."""

    alpha: Floats
    beta: Floats
    gamma: Floats
    phi: Floats


@dataclass(frozen=True, slots=True)
class Start:
    """The states before the first period: level and slope of shape (series,), season of shape (season, series)."""

    level: Floats
    slope: Floats
    season: Floats


@dataclass(frozen=True, slots=True)
class FormFit:
    """A form at each origin: `aicc` of shape (series, origins), `paths` of shape (series, origins, horizon) and their
    standard errors by the form itself (`errors`), and its parameters, of shape (series, origins)."""

    trend: str
    season: str
    aicc: Floats
    paths: Floats
    errors: Floats
    parameters: Parameters


def fitted_forms(series: Floats, origins: Origins, forms: list[tuple[str, str]]) -> list[FormFit]:
    """Each form that the series allow; the multiplied season where all values are above nought."""
    return [_fitted(series, origins, trend, season) for trend, season in forms]


def forms_for(series: Floats, origins: Origins) -> list[tuple[str, str]]:
    """Forms that can be fitted: with a season where there are two of it before the first origin."""
    seasons = ["none"]
    if 1 < origins.season <= 24 and origins.ends[0] >= 2 * origins.season:
        seasons.append("added")
        if (series > 0).all():
            seasons.append("multiplied")
    return list(product(TRENDS, seasons))


def _fitted(series: Floats, origins: Origins, trend: str, season: str) -> FormFit:
    start = _start(series[:, : max(int(origins.ends[0]), 2)], origins.season, trend, season)
    grid = _grid(trend, season, series.shape[0])
    score, *_ = _scores(series, origins, grid, start, trend, season)
    best = _taken(grid, score.argmin(axis=2))
    closer = _around(best, trend, season)
    score, spread, relative = _scores(series, origins, closer, start, trend, season)
    # What was found around a later origin knows what an earlier one does not.
    made_at = np.tile(np.arange(origins.count), score.shape[2] // origins.count)
    chosen = np.where(made_at <= np.arange(origins.count)[:, None], score, np.inf).argmin(axis=2)
    parameters = _taken(closer, chosen)
    aicc, sigma, grown = (
        np.take_along_axis(one, chosen[:, :, None], axis=2)[:, :, 0] for one in (score, spread, relative)
    )
    count = 2 + 1 + (trend != "none") * 2 + (trend == "damped") + (season != "none") * origins.season
    size = origins.ends.astype(float)
    room = size - count - 1
    penalty = np.where(room > 0, 2 * count + 2 * count * (count + 1) / np.maximum(room, 1), np.inf)
    paths = _paths(series, origins, parameters, start, trend, season)
    errors = _step_errors(paths, sigma, grown) * _growth(parameters, origins, trend, season)
    return FormFit(trend, season, aicc + penalty, paths, errors, parameters)


def _step_errors(paths: Floats, sigma: Floats, grown: Floats) -> Floats:
    """The standard error of one step, at each step of the paths: as it is, or by the level where that fits better."""
    made: Floats = np.where(np.isfinite(grown)[:, :, None], np.abs(paths) * grown[:, :, None], sigma[:, :, None])
    return made


def _growth(par: Parameters, origins: Origins, trend: str, season: str) -> Floats:
    """How standard errors grow with the horizon (the class 1 forms of Hyndman et al. 2008, 6.3)."""
    ahead = np.arange(1, origins.horizon + 1)
    moved = np.repeat(par.alpha[:, :, None], origins.horizon, axis=2)
    if trend != "none":
        moved = moved + par.beta[:, :, None] * np.cumsum(par.phi[:, :, None] ** (ahead - 1), axis=2)
    if season != "none":
        moved = moved + par.gamma[:, :, None] * (ahead % origins.season == 0)
    # What one step added is in all steps behind it.
    made: Floats = np.sqrt(
        1 + np.concatenate([np.zeros_like(moved[:, :, :1]), np.cumsum(moved**2, axis=2)[:, :, :-1]], axis=2)
    )
    return made


def _grid(trend: str, season: str, count: int) -> Parameters:
    """The first grid; slope and season take a share of what is left to them."""
    listed = np.array(
        [
            (alpha, alpha * beta, (1 - alpha) * gamma, phi)
            for alpha, beta, gamma, phi in product(
                _ALPHAS,
                _BETAS if trend != "none" else (0.0,),
                _GAMMAS if season != "none" else (0.0,),
                _PHIS if trend == "damped" else (1.0,),
            )
        ]
    ).T
    return Parameters(*(np.broadcast_to(one, (count, one.size)) for one in listed))


def _around(best: Parameters, trend: str, season: str) -> Parameters:
    """Parameters around the best of each origin, shape (series, origins × steps)."""
    made: list[list[Floats]] = [[], [], [], []]
    wanted = (
        _CLOSER[0],
        _CLOSER[1] if trend != "none" else (0.0,),
        _CLOSER[2] if season != "none" else (0.0,),
        _CLOSER[3] if trend == "damped" else (0.0,),
    )
    for a, b, c, d in product(*wanted):
        alpha = np.clip(best.alpha + a, 0.001, 0.999)
        made[0].append(alpha)
        made[1].append(np.clip(best.beta * (1 + b), 0.0, alpha))
        made[2].append(np.clip(best.gamma * (1 + c), 0.0, 1 - alpha))
        made[3].append(best.phi if trend != "damped" else np.clip(best.phi + d, 0.75, 0.985))
    return Parameters(*(np.concatenate(part, axis=1) for part in made))


def _taken(grid: Parameters, places: npt.NDArray[np.intp]) -> Parameters:
    return Parameters(*(np.take_along_axis(np.asarray(part), places, axis=1) for part in grid))


def _start(known: Floats, season: int, trend: str, kind: str) -> Start:
    """States before the first period, by least squares over the first seasons: nothing later is looked at."""
    size = known.shape[1]
    if kind == "none":
        some = known[:, : min(size, 10)]
        level, slope = _line(some)
        season_states = np.zeros((1, known.shape[0]))
        if trend == "none":
            return Start(some[:, : min(5, some.shape[1])].mean(axis=1), np.zeros_like(slope), season_states)
        return Start(level - slope, slope, season_states)
    whole = min(size // season, 4) * season
    some = known[:, :whole]
    means = some.reshape(known.shape[0], -1, season).mean(axis=2)
    slope = (means[:, -1] - means[:, 0]) / max(1, (means.shape[1] - 1) * season)
    middle = means.mean(axis=1)
    along = np.arange(whole) - (whole - 1) / 2
    line = middle[:, None] + slope[:, None] * along
    if kind == "added":
        parts = (some - line).reshape(known.shape[0], -1, season).mean(axis=1)
        parts = parts - parts.mean(axis=1, keepdims=True)
    else:
        parts = (some / np.maximum(line, _TINY)).reshape(known.shape[0], -1, season).mean(axis=1)
        parts = np.maximum(parts / parts.mean(axis=1, keepdims=True), 0.01)
    level = line[:, 0] - slope
    if trend == "none":
        return Start(means[:, 0], np.zeros_like(slope), parts.T.copy())
    return Start(level, slope, parts.T.copy())


def _line(some: Floats) -> tuple[Floats, Floats]:
    """Intercept at the first period and slope of a line, each of shape (series,)."""
    along = np.arange(some.shape[1]) - (some.shape[1] - 1) / 2
    slope: Floats = (some * along).sum(axis=1) / max(1e-12, float((along**2).sum()))
    level: Floats = some.mean(axis=1) + slope * along[0]
    return level, slope


def _scores(
    series: Floats, origins: Origins, par: Parameters, start: Start, trend: str, season: str
) -> tuple[Floats, Floats, Floats]:
    """Minus twice the log likelihood at each origin, the better of errors that stay and that grow with the level; the
    standard deviation of a step; the same as a share of the level where that is the better, else NaN. Each of shape
    (series, origins, candidates)."""
    wanted = {int(end): place for place, end in enumerate(origins.ends)}
    shape = (series.shape[0], origins.count, par.alpha.shape[1])
    score, spread, grown = np.empty(shape), np.empty(shape), np.full(shape, np.nan)
    positive = bool((series > 0).all())
    squares, relative, logs = (np.zeros(par.alpha.shape) for _ in range(3))
    for place, (mean, error, *_) in enumerate(_steps(series, par, start, trend, season), start=1):
        squares += error * error
        if positive:
            size = np.maximum(np.abs(mean), _TINY)
            relative += (error / size) ** 2
            logs += np.log(size)
        if place in wanted:
            own = wanted[place]
            score[:, own] = place * np.log(np.maximum(squares / place, 1e-300))
            if positive:
                scaled = place * np.log(np.maximum(relative / place, 1e-300)) + 2 * logs
                grown[:, own] = np.where(scaled < score[:, own], np.sqrt(relative / place), np.nan)
                score[:, own] = np.minimum(score[:, own], scaled)
            spread[:, own] = np.sqrt(squares / place)
    return score, spread, grown


def _steps(
    series: Floats, par: Parameters, start: Start, trend: str, season: str
) -> Iterator[tuple[Floats, Floats, Floats, Floats, Floats]]:
    """Every step of the recursion: what was expected, by how much it was missed, and the states behind it."""
    alpha, beta, gamma, phi = par
    level = np.broadcast_to(start.level[:, None], alpha.shape).copy()
    slope = np.broadcast_to(start.slope[:, None], alpha.shape).copy()
    states = np.repeat(start.season[:, :, None], alpha.shape[1] if season != "none" else 1, axis=2)
    for place in range(series.shape[1]):
        base = level if trend == "none" else level + phi * slope
        own = states[place % states.shape[0]]
        if season == "none":
            mean = base
        elif season == "added":
            mean = base + own
        else:
            base = np.maximum(base, _TINY)
            mean = base * own
        error = series[:, place, None] - mean
        moved = error / own if season == "multiplied" else error
        level = base + alpha * moved
        if trend != "none":
            slope = phi * slope + beta * moved
        if season != "none":
            states[place % states.shape[0]] = (
                own + gamma * error if season == "added" else np.maximum(own + gamma * error / base, 0.01)
            )
        yield mean, error, level, slope, states


def _paths(series: Floats, origins: Origins, par: Parameters, start: Start, trend: str, season: str) -> Floats:
    """Forecasts of each origin with its own parameters, shape (series, origins, horizon)."""
    paths = np.empty((series.shape[0], origins.count, origins.horizon))
    wanted = {int(end): place for place, end in enumerate(origins.ends)}
    ahead = np.arange(1, origins.horizon + 1)
    for place, (_, _, level, slope, states) in enumerate(_steps(series, par, start, trend, season), start=1):
        if place not in wanted:
            continue
        own = wanted[place]
        base = level[:, own, None]
        if trend != "none":
            base = base + np.cumsum(par.phi[:, own, None] ** ahead, axis=1) * slope[:, own, None]
        else:
            base = np.broadcast_to(base, (series.shape[0], origins.horizon))
        if season != "none":
            parts = states[(place + ahead - 1) % states.shape[0], :, own].T
            base = base + parts if season == "added" else np.maximum(base, 0.0) * parts
        paths[:, own] = base
    return paths
