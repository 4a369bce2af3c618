"""What a model of an outcome foretells, and why one row was predicted as it was."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from ..core.measures import spoken
from ..core.models import METRICS, Chosen, Model, rules
from ..core.models.features import Feature
from . import names, numbers
from .summary import Summary, fit

_NAMES = {"linear": "straight-line", "tree": "tree", "boosted": "boosted trees"}
_METRICS = {
    "auc": "area under the curve",
    "accuracy": "share right",
    "brier": "Brier score",
    "log_loss": "log loss",
    "mae": "mean absolute error",
    "rmse": "root mean squared error",
}


def kind(model: Model, name: str | None = None) -> str:
    """ "logistic model", "tree", "boosted trees"."""
    name = name or model.kind
    if name == "linear":
        return "logistic model" if model.yes_no else "linear model"
    return _NAMES[name]


def figure(value: float, model: Model) -> str:
    return numbers.share(value) if model.yes_no else numbers.plain(value)


def model_summary(model: Model, chosen: Chosen | None) -> Summary:
    if chosen is None:
        return Summary(headline=f"A {kind(model)} of {model.label}, loaded.", text="", bullets=())
    values = {name: value for name, value, _ in chosen.scores}
    own = values[model.kind]
    more = METRICS[chosen.metric][0]
    better = own > chosen.base if more else own < chosen.base
    word = _METRICS[chosen.metric]
    if not better:
        return fit(
            f"Nothing foretells {model.label}: the {kind(model)} has a {word} of {numbers.plain(own)} on unseen "
            f"rows, no better "
            f"than the {'base rate' if model.yes_no else 'average'} ({numbers.plain(chosen.base)}).",
            [],
            _left(chosen),
        )
    first = (
        f"The {kind(model)} foretells {model.label} on rows it has not seen with a {word} of {numbers.plain(own)}, "
        f"against "
        f"{numbers.plain(chosen.base)} for the {'base rate' if model.yes_no else 'average'}."
    )
    others = [
        f"the {kind(model, name)} {numbers.plain(value)}" for name, value, _ in chosen.scores if name != model.kind
    ]
    body = [f"Also tried: {names.listed(others)}."] if others else []
    body.append(f"{calibrated(chosen)}.")
    if model.kind == "tree":
        leaves = sorted(rules(model), key=lambda leaf: -abs(leaf["value"] - model.overall))
        where = leaves[0]["where"].replace('"', "").replace("'", "")
        body.append(
            f"Farthest from the overall {figure(model.overall, model)}: {figure(leaves[0]['value'], model)} where "
            f"{where} ({numbers.whole(leaves[0]['rows'])} rows)."
        )
    return fit(first, body, _left(chosen))


def _left(chosen: Chosen) -> list[str]:
    gone = [one.factor for one in chosen.left_out]
    return [f"Left out: {names.listed(gone[:5])}."] if gone else []


def calibrated(chosen: Chosen) -> str:
    """How far predictions of unseen rows lie from what came, as a sentence without its full stop."""
    worst = max(chosen.calibration, key=lambda one: abs(one[0] - one[1]), default=None)
    if worst is None:
        return "Too few rows to say how well predictions hold"
    predicted, came, error, _ = worst
    told = f"predicted {figure(predicted, chosen.model)}, came {figure(came, chosen.model)}"
    if abs(predicted - came) <= 3 * max(error, 1e-12):
        return f"Predictions hold on rows not seen; farthest off: {told}"
    return f"Predictions are off in places on rows not seen; farthest: {told}"


def branch(feature: Feature, kept: npt.NDArray[np.bool_]) -> str:
    """One side of a split as said: "vessel Petrel or Tern", "vessel other than Petrel", "load up to 42"."""
    name = f"{feature.part} of {spoken(feature.column)}" if feature.part else spoken(feature.column)
    if not feature.number:
        levels = [names.label(level) for level, keeps in zip(feature.levels, kept, strict=False) if keeps]
        others = [names.label(level) for level in feature.levels if names.label(level) not in levels]
        if len(others) < len(levels):
            return f"{name} other than {' or '.join(others)}"
        return f"{name} {' or '.join(levels)}"
    inner = np.flatnonzero(kept[:-1])
    if not inner.size:
        return f"{name} missing"
    parts = []
    if inner[0] > 0:
        parts.append(f"above {numbers.plain(feature.edges[inner[0] - 1])}")
    if inner[-1] < len(feature.edges) - 1:
        parts.append(f"up to {numbers.plain(feature.edges[inner[-1]])}")
    return f"{name} {' and '.join(parts) or 'known'}" + (" or missing" if kept[-1] and parts else "")


def why_predicted(model: Model, parts: Mapping[str, float]) -> str:
    """One prediction taken apart: "Predicted 71.5% late, from 10.0% on average: vessel +40.1 points, …"."""
    added = {name: value for name, value in parts.items() if name not in ("prediction", "start")}
    told = [
        f"{name} {numbers.signed(value, numbers.points(100 * value) if model.yes_no else numbers.plain(abs(value)))}"
        for name, value in sorted(added.items(), key=lambda pair: (-abs(pair[1]), pair[0]))[:4]
        if value
    ]
    start = figure(parts["start"], model)
    made = figure(parts["prediction"], model)
    return f"Predicted {model.label}: {made}, from {start} at the start: {names.listed(told)}."
