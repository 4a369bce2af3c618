"""Established implementations of the same families, with ranges of their own: statsmodels, in the bench only."""

from __future__ import annotations

import itertools
import warnings
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Foretold:
    """A forecast with its ranges, each of shape (horizon,); the ranges have shape (2, horizon)."""

    mean: Floats
    range80: Floats
    range95: Floats


def smoothing(history: Floats, season: int, horizon: int) -> Foretold:
    """Exponential smoothing in state space, the form chosen by AICc."""
    import pandas as pd
    from statsmodels.tsa.exponential_smoothing.ets import ETSModel

    named = pd.Series(history)
    best = None
    seasonal = [None] + (["add", "mul"] if 1 < season <= 24 and history.size >= 2 * season + 4 else [])
    for error, trend, part in itertools.product(("add", "mul"), (None, "add", "damped"), seasonal):
        if (error == "mul" or part == "mul") and history.min() <= 0:
            continue
        if error == "add" and part == "mul":
            continue
        try:
            model = ETSModel(
                named,
                error=error,
                trend="add" if trend else None,
                damped_trend=trend == "damped",
                seasonal=part,
                seasonal_periods=season if part else None,
            )
            fitted = model.fit(disp=False, maxiter=200)
        except (ValueError, np.linalg.LinAlgError, NotImplementedError):
            continue
        if np.isfinite(fitted.aicc) and (best is None or fitted.aicc < best.aicc):
            best = fitted
    if best is None:
        raise ValueError("no form fits")
    told = best.get_prediction(start=history.size, end=history.size + horizon - 1)
    ranges = [np.asarray(told.summary_frame(alpha=alpha))[:, -2:].T for alpha in (0.2, 0.05)]
    return Foretold(np.asarray(best.forecast(horizon)), ranges[0], ranges[1])


def theta(history: Floats, season: int, horizon: int) -> Foretold:
    """The theta method, deseasonalised where a test says so."""
    import pandas as pd
    from statsmodels.tsa.forecasting.theta import ThetaModel

    can = season > 1 and history.size >= 2 * season
    way = "auto" if history.min() > 0 else "additive"
    fitted = ThetaModel(
        pd.Series(history), period=season if can else 1, deseasonalize=can, use_test=True, method=way
    ).fit()
    ranges = [np.asarray(fitted.prediction_intervals(horizon, alpha=alpha)).T for alpha in (0.2, 0.05)]
    return Foretold(np.asarray(fitted.forecast(horizon)), ranges[0], ranges[1])


def moving(history: Floats, season: int, horizon: int) -> Foretold:
    """Autoregression, differences and moving averages, the order chosen by AICc among common ones."""
    from statsmodels.tsa.statespace.sarimax import SARIMAX

    seasonal = 1 < season <= 12 and history.size >= 3 * season
    parts = [(0, 1, 1, season), (1, 0, 0, season)] if seasonal else [(0, 0, 0, 0)]
    best = None
    for order, part in itertools.product(((0, 1, 1), (1, 1, 0), (1, 0, 0), (1, 1, 1), (2, 1, 0)), parts):
        try:
            model = SARIMAX(
                history,
                order=order,
                seasonal_order=part,
                trend="c" if order[1] == 0 else None,
                enforce_stationarity=False,
                enforce_invertibility=False,
            )
            fitted = model.fit(disp=False, maxiter=60)
        except (ValueError, np.linalg.LinAlgError):
            continue
        if np.isfinite(fitted.aicc) and (best is None or fitted.aicc / fitted.nobs_effective < best[0]):
            best = (fitted.aicc / fitted.nobs_effective, fitted)
    if best is None:
        raise ValueError("no order fits")
    told = best[1].get_forecast(horizon)
    return Foretold(
        np.asarray(told.predicted_mean), np.asarray(told.conf_int(alpha=0.2)).T, np.asarray(told.conf_int(alpha=0.05)).T
    )


ESTABLISHED: dict[str, Callable[[Floats, int, int], Foretold]] = {
    "exponential smoothing, chosen by AICc": smoothing,
    "theta": theta,
    "ARIMA, chosen by AICc": moving,
}


def all_of(history: Floats, season: int, horizon: int) -> dict[str, Foretold]:
    """What each says; one that fails says what the last value does."""
    made = {}
    for name, method in ESTABLISHED.items():
        with warnings.catch_warnings(), np.errstate(all="ignore"):
            warnings.simplefilter("ignore")
            try:
                found = method(history, season, horizon)
            except (ValueError, np.linalg.LinAlgError, IndexError):
                found = _last(history, horizon)
        made[name] = (
            found if np.isfinite(found.mean).all() and np.isfinite(found.range95).all() else _last(history, horizon)
        )
    return made


def _last(history: Floats, horizon: int) -> Foretold:
    mean = np.full(horizon, history[-1])
    spread = np.std(np.diff(history)) * np.sqrt(np.arange(1, horizon + 1))
    return Foretold(mean, *(np.array([mean - z * spread, mean + z * spread]) for z in (1.2816, 1.96)))
