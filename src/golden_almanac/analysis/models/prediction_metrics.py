"""How good predictions are: accuracy, AUC, Brier score, log loss, mean absolute and root mean squared error."""

from __future__ import annotations

from math import sqrt

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: Name → whether more is better, and for which outcomes.
METRICS = {
    "auc": (True, "yes/no"),
    "accuracy": (True, "yes/no"),
    "brier": (False, "yes/no"),
    "log_loss": (False, "yes/no"),
    "mae": (False, "number"),
    "rmse": (False, "number"),
}


def metric(name: str, y: Floats, predicted: Floats, weights: Floats | None = None) -> float:
    """The metric of predictions (probabilities for yes/no outcomes); shapes (n,)."""
    w = np.ones(y.size) if weights is None else weights
    if name == "rmse":
        return sqrt(float(np.average((y - predicted) ** 2, weights=w)))
    if name == "mae":
        return float(np.average(np.abs(y - predicted), weights=w))
    if name == "brier":
        return float(np.average((y - predicted) ** 2, weights=w))
    if name == "log_loss":
        p = np.clip(predicted, 1e-15, 1 - 1e-15)
        return float(-np.average(y * np.log(p) + (1 - y) * np.log(1 - p), weights=w))
    if name == "accuracy":
        return float(np.average((predicted >= 0.5) == (y >= 0.5), weights=w))
    return auc(y, predicted)


def auc(y: Floats, predicted: Floats) -> float:
    """Area under the receiver operating curve: the share of (yes, no) pairs in the right order, ties half (Hanley &
    McNeil 1982). 0.5 where one class is missing."""
    order = np.argsort(predicted, kind="stable")
    sorted_ = predicted[order]
    new = np.flatnonzero(np.r_[True, sorted_[1:] != sorted_[:-1]])
    lengths = np.diff(np.append(new, y.size))
    ranks = np.empty(y.size)
    ranks[order] = np.repeat(new + (lengths + 1) / 2, lengths)
    yes = float(y.sum())
    no = y.size - yes
    if not yes or not no:
        return 0.5
    return (float(ranks[y > 0.5].sum()) - yes * (yes + 1) / 2) / (yes * no)
