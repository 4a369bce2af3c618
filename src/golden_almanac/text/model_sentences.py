"""What a model of an outcome foretells, and why one row was predicted as it was."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from ..analysis.models import METRICS, Chosen, Model, rules
from ..analysis.models.features import Feature
from . import names, numbers
from .languages import mark, qualified, say, statement
from .summary import Summary, fit

#: (its name, named with its article) of each kind of model.
_KINDS = {
    "logistic": (mark("logistic model"), mark("the logistic model")),
    "linear": (mark("linear model"), mark("the linear model")),
    "tree": (mark("tree"), mark("the tree")),
    "boosted": (mark("boosted trees"), mark("the boosted trees")),
}
_METRICS = {
    "auc": mark("area under the curve"),
    "accuracy": mark("share right"),
    "brier": mark("Brier score"),
    "log_loss": mark("log loss"),
    "mae": mark("mean absolute error"),
    "rmse": mark("root mean squared error"),
}


def kind(model: Model, name: str | None = None) -> str:
    """ "logistic model", "tree", "boosted trees"."""
    return say(_kind(model, name)[0])


def _kind(model: Model, name: str | None = None) -> tuple[str, str]:
    name = name or model.kind
    return _KINDS["logistic" if name == "linear" and model.yes_no else name]


def figure(value: float, model: Model) -> str:
    return numbers.share(value) if model.yes_no else numbers.plain(value)


def model_summary(model: Model, chosen: Chosen | None) -> Summary:
    label = names.noun(model.label)
    if chosen is None:
        loaded = say("A {kind} of {label}, loaded.", kind=kind(model), label=label)
        return Summary(headline=loaded, text="", bullets=())
    values = {name: value for name, value, _ in chosen.scores}
    own = values[model.kind]
    more = METRICS[chosen.metric][0]
    better = own > chosen.base if more else own < chosen.base
    places = {
        "kind": say(_kind(model)[1]),
        "label": label,
        "metric": say(_METRICS[chosen.metric]),
        "value": numbers.plain(own),
        "base": numbers.plain(chosen.base),
        "against": say("the base rate") if model.yes_no else say("the average"),
    }
    if not better:
        return fit(
            say(
                "Nothing foretells {label}: {kind} has a {metric} of {value} on unseen rows, no better than {against} "
                "({base}).",
                **places,
            ),
            [],
            _left(chosen),
        )
    first = say(
        "{kind} foretells {label} on rows it has not seen with a {metric} of {value}, against {base} for {against}.",
        **places,
    )
    others = [
        statement((say(_kind(model, name)[1]), " ", numbers.plain(value)))
        for name, value, _ in chosen.scores
        if name != model.kind
    ]
    body = [say("Also tried: {told}.", told=names.listed(others))] if others else []
    body.append(statement((calibrated(chosen), ".")))
    if model.kind == "tree":
        leaves = sorted(rules(model), key=lambda leaf: -abs(leaf["value"] - model.overall))
        body.append(
            say(
                "Farthest from the overall {overall}: {value} where {where} ({n} rows).",
                overall=figure(model.overall, model),
                value=figure(leaves[0]["value"], model),
                where=leaves[0]["where"].replace('"', "").replace("'", ""),
                n=numbers.whole(leaves[0]["rows"]),
            )
        )
    return fit(names.capital(first), body, _left(chosen))


def _left(chosen: Chosen) -> list[str]:
    gone = [one.factor for one in chosen.left_out]
    return [say("Left out: {names}.", names=names.listed(gone[:5]))] if gone else []


def calibrated(chosen: Chosen) -> str:
    """How far predictions of unseen rows lie from what came, as a sentence without its full stop."""
    worst = max(chosen.calibration, key=lambda one: abs(one[0] - one[1]), default=None)
    if worst is None:
        return say("Too few rows to say how well predictions hold")
    predicted, came, error, _ = worst
    places = {"predicted": figure(predicted, chosen.model), "came": figure(came, chosen.model)}
    if abs(predicted - came) <= 3 * max(error, 1e-12):
        return say("Predictions hold on rows not seen; farthest off: predicted {predicted}, came {came}", **places)
    return say("Predictions are off in places on rows not seen; farthest: predicted {predicted}, came {came}", **places)


def branch(feature: Feature, kept: npt.NDArray[np.bool_]) -> str:
    """One side of a split as said: "vessel Petrel or Tern", "vessel other than Petrel", "load up to 42"."""
    name = names.column(feature.column)
    if feature.part:
        name = qualified(names.noun(feature.part), mark("{noun} of {label}"), label=name)
    if not feature.number:
        levels = [names.label(level) for level, keeps in zip(feature.levels, kept, strict=False) if keeps]
        others = [names.label(level) for level in feature.levels if names.label(level) not in levels]
        if len(others) < len(levels):
            return say("{name} other than {labels}", name=name, labels=_either(others))
        return f"{name} {_either(levels)}"
    inner = np.flatnonzero(kept[:-1])
    if not inner.size:
        return say("{name} missing", name=name)
    parts = []
    if inner[0] > 0:
        parts.append(say("above {at}", at=numbers.plain(feature.edges[inner[0] - 1])))
    if inner[-1] < len(feature.edges) - 1:
        parts.append(say("up to {at}", at=numbers.plain(feature.edges[inner[-1]])))
    told = f"{name} {names.listed(parts) or say('known')}"
    return say("{what} or missing", what=told) if kept[-1] and parts else told


def _either(labels: list[str]) -> str:
    """ "a or b or c"."""
    told = labels[0] if labels else ""
    for label in labels[1:]:
        told = say("{first} or {second}", first=told, second=label)
    return told


def why_predicted(model: Model, parts: Mapping[str, float]) -> str:
    """One prediction taken apart: "Predicted 71.5% late, from 10.0% on average: vessel +40.1 points, …"."""
    added = {name: value for name, value in parts.items() if name not in ("prediction", "start")}
    told = [
        statement(
            (
                name,
                " ",
                numbers.signed(value, numbers.points(100 * value) if model.yes_no else numbers.plain(abs(value))),
            )
        )
        for name, value in sorted(added.items(), key=lambda pair: (-abs(pair[1]), pair[0]))[:4]
        if value
    ]
    return say(
        "Predicted {label}: {made}, from {start} at the start: {told}.",
        label=names.noun(model.label),
        made=figure(parts["prediction"], model),
        start=figure(parts["start"], model),
        told=names.listed(told),
    )
