"""An outcome's model: chosen by cross-validation against the base rate, with predictions that add up from their
parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ...support import progress
from ...support.errors import RequestError, SourceError
from ...tables import Table
from ..drivers.factors import Factor, LeftOut, factors_of
from ..drivers.leakage import without_leaks
from ..drivers.outcome import Outcome, outcome_of
from .binned_trees import Tree, coded
from .boosting import Boosted, fit_boosted
from .features import Feature, learned, taken
from .linear_models import Linear, fit_linear
from .prediction_metrics import METRICS, metric
from .single_tree import fit_tree

Floats = npt.NDArray[np.float64]

KINDS = ("linear", "tree", "boosted")
FORMAT = "golden-almanac/model/1"
FOLDS = 5
#: Rows a model is made from at most; more do not move its figures.
MOST_ROWS = 100_000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Model:
    """`kind` is linear, tree or boosted; `fitted` what was learned; `overall` the outcome's mean."""

    kind: str
    outcome: str
    event: str | None
    label: str
    yes_no: bool
    overall: float
    features: tuple[Feature, ...]
    fitted: Linear | Tree | Boosted

    def predict(self, factors: Sequence[Factor]) -> Floats:
        """Predictions (n,): numbers, or probabilities for yes/no outcomes."""
        if isinstance(self.fitted, Linear):
            return _turned(self.fitted.margin(self.features, factors), self.yes_no)
        codes = coded(self.features, factors)
        if isinstance(self.fitted, Tree):
            return self.fitted.predict(codes)
        return _turned(self.fitted.margin(codes), self.yes_no)

    def parts(self, factors: Sequence[Factor]) -> tuple[float, Floats]:
        """Where every prediction starts, and what each feature adds to it (n, features): together the prediction.

        For yes/no outcomes what is added to the log odds is shared out in proportion over the change of probability.
        """
        if isinstance(self.fitted, Tree):
            codes = coded(self.features, factors)
            into = np.zeros(codes.shape)
            self.fitted.add_parts(codes, into)
            return float(self.fitted.value[0]), into
        if isinstance(self.fitted, Linear):
            start, added = self.fitted.intercept, self.fitted.parts(self.features, factors)
        else:
            start, added = self.fitted.parts(coded(self.features, factors))
        if not self.yes_no:
            return start, added
        whole = added.sum(axis=1)
        base = float(_turned(np.array([start]), True)[0])
        change = _turned(start + whole, True) - base
        with np.errstate(divide="ignore", invalid="ignore"):
            rate = np.where(np.abs(whole) > 1e-12, change / whole, base * (1 - base))
        return base, added * rate[:, None]

    def to_dict(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "kind": self.kind,
            "outcome": self.outcome,
            "event": self.event,
            "label": self.label,
            "yes_no": self.yes_no,
            "overall": self.overall,
            "features": [feature.to_dict() for feature in self.features],
            "fitted": self.fitted.to_dict(),
        }

    @classmethod
    def from_dict(cls, kept: Any, name: str) -> Model:
        """The model as kept. Raises SourceError for anything else."""
        if not isinstance(kept, dict) or kept.get("format") != FORMAT:
            raise SourceError(name, "it is no model that was saved here", "Give a file that OutcomeModel.save wrote.")
        made = {"linear": Linear, "tree": Tree, "boosted": Boosted}[kept["kind"]]
        return cls(
            kind=kept["kind"],
            outcome=kept["outcome"],
            event=kept["event"],
            label=kept["label"],
            yes_no=kept["yes_no"],
            overall=kept["overall"],
            features=tuple(Feature.from_dict(one) for one in kept["features"]),
            fitted=made.from_dict(kept["fitted"]),  # type: ignore[attr-defined]
        )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Chosen:
    """A model with how it was chosen: the metric of each kind on rows it had not seen, and of the base rate alone; the
    calibration: (mean predicted, mean outcome, error, rows) of ten bins of predictions on rows not seen."""

    model: Model
    about: Outcome
    factors: tuple[Factor, ...]
    left_out: tuple[LeftOut, ...]
    metric: str
    scores: tuple[tuple[str, float, float], ...]
    base: float
    calibration: tuple[tuple[float, float, float, int], ...]


def choose(
    table: Table,
    outcome: str,
    factors: Sequence[str] | None,
    *,
    event: str | None = None,
    kind: str = "best",
    by: str | None = None,
) -> Chosen:
    """Fit the kinds asked for, and keep the one that foretells rows best; see `ga.model_outcome`."""
    if kind not in (*KINDS, "best"):
        raise RequestError("The model", kind, "one of best, " + ", ".join(KINDS))
    about = outcome_of(table, outcome, event)
    by = by or ("log_loss" if about.yes_no else "rmse")
    fits = [name for name, (_, of) in METRICS.items() if (of == "yes/no") == about.yes_no]
    if by not in fits:
        raise RequestError("The metric", by, f"one of {', '.join(fits)} for this outcome")
    about = _thinned(about)
    every, left = factors_of(about, factors)
    kept, leaks = without_leaks(about, every)
    if not kept:
        raise RequestError("The factors", ", ".join(one.factor for one in (*left, *leaks)), "columns that can tell")
    w = np.ones(about.n) if about.weights is None else about.weights / about.weights.mean()
    folds = dealt(about.n)
    more = METRICS[by][0]
    wanted = KINDS if kind == "best" else (kind,)
    scores, unseen = [], {}
    for name in wanted:
        progress.say(f"fitting the {name} model")
        predicted = out_of_fold(kept, about.values, w, folds, name, about.yes_no)
        each = [metric(by, about.values[folds == f], predicted[folds == f], w[folds == f]) for f in range(FOLDS)]
        scores.append((name, float(np.mean(each)), float(np.std(each, ddof=1) / np.sqrt(FOLDS))))
        unseen[name] = predicted
    sign = -1 if more else 1
    best = min(scores, key=lambda one: sign * one[1])
    # The simplest that is within a standard error of the best: what can be told in a line is worth that.
    name = next(score[0] for score in scores if sign * score[1] <= sign * best[1] + 0.5 * best[2])
    features = [learned(factor) for factor in kept]
    fitted = fit(name, features, kept, about.values, w, folds, about.yes_no)
    constant = np.full(about.n, about.overall)
    return Chosen(
        model=Model(
            kind=name,
            outcome=about.name,
            event=about.event,
            label=about.label,
            yes_no=about.yes_no,
            overall=about.overall,
            features=tuple(features),
            fitted=fitted,
        ),
        about=about,
        factors=tuple(kept),
        left_out=(*left, *leaks),
        metric=by,
        scores=tuple(scores),
        base=metric(by, about.values, constant, w),
        calibration=calibration(about.values, unseen[name]),
    )


def _thinned(about: Outcome) -> Outcome:
    from dataclasses import replace

    if about.n <= MOST_ROWS:
        return about
    rows = np.arange(0, about.n, -(-about.n // MOST_ROWS))
    return replace(
        about,
        rows=about.rows[rows],
        values=about.values[rows],
        sampled=int(rows.size),
        weights=None if about.weights is None else about.weights[rows],
    )


def dealt(n: int, seed: int = 20_260_101) -> npt.NDArray[np.intp]:
    """Folds of the rows, dealt out evenly by a shuffle that is always the same."""
    return np.asarray(np.random.Generator(np.random.PCG64(seed)).permutation(n) % FOLDS, dtype=np.intp)


def out_of_fold(
    factors: Sequence[Factor], y: Floats, w: Floats, folds: npt.NDArray[np.intp], kind: str, yes_no: bool
) -> Floats:
    """Predictions of each row by a model that has not seen its fold."""
    predicted = np.empty(y.size)
    for fold in range(int(folds.max()) + 1):
        train, test = np.flatnonzero(folds != fold), np.flatnonzero(folds == fold)
        own = [factor.rows(train) for factor in factors]
        features = [learned(factor) for factor in own]
        inner = dealt(train.size, seed=fold + 1)
        fitted = fit(kind, features, own, y[train], w[train], inner, yes_no)
        model = Model(
            kind=kind,
            outcome="",
            event=None,
            label="",
            yes_no=yes_no,
            overall=0.0,
            features=tuple(features),
            fitted=fitted,
        )
        predicted[test] = model.predict([factor.rows(test) for factor in factors])
    return predicted


def fit(
    kind: str,
    features: Sequence[Feature],
    factors: Sequence[Factor],
    y: Floats,
    w: Floats,
    folds: npt.NDArray[np.intp],
    yes_no: bool,
) -> Linear | Tree | Boosted:
    if kind == "linear":
        return fit_linear(features, factors, y, w, folds, yes_no)
    codes = coded(features, factors)
    if kind == "tree":
        return fit_tree(features, codes, y, w, folds)
    return fit_boosted(features, codes, y, w, folds, yes_no)


def calibration(y: Floats, predicted: Floats, bins: int = 10) -> tuple[tuple[float, float, float, int], ...]:
    """Mean prediction, mean outcome, its error and the rows, in bins of equally many rows by prediction."""
    order = np.argsort(predicted, kind="stable")
    made = []
    for part in np.array_split(order, min(bins, max(1, y.size // 10))):
        if part.size:
            error = float(y[part].std(ddof=1) / np.sqrt(part.size)) if part.size > 1 else 0.0
            made.append((float(predicted[part].mean()), float(y[part].mean()), error, int(part.size)))
    return tuple(made)


def new_rows(model: Model, table: Table) -> list[Factor]:
    """A table's rows as the model takes them. Raises ColumnError."""
    return taken(table, model.features, table.rows)


def _turned(margin: Floats, yes_no: bool) -> Floats:
    return np.asarray(1 / (1 + np.exp(-np.clip(margin, -700, 700)))) if yes_no else margin


def rules(model: Model) -> list[dict[str, Any]]:
    """The leaves of a tree as rules: the SQL condition, rows learned from, what they predict. Raises LookupError."""
    if not isinstance(model.fitted, Tree):
        raise LookupError("only a tree has rules")
    tree = model.fitted
    made: list[dict[str, Any]] = []

    def walk(node: int, path: dict[tuple[int, str], Any]) -> None:
        which = int(tree.feature[node])
        if which < 0:
            told = [_sql(model.features[f], op, value) for (f, op), value in sorted(path.items(), key=str)]
            made.append(
                {"where": " AND ".join(told) or "TRUE", "rows": int(tree.rows[node]), "value": float(tree.value[node])}
            )
            return
        for side, keeps in ((0, tree.left[node]), (1, ~tree.left[node])):
            feature = model.features[which]
            known = path.get((which, "in"), np.ones(feature.bins, dtype=bool))
            walk(int(tree.children[node, side]), {**path, (which, "in"): known & keeps[: feature.bins]})

    walk(0, {})
    return made


def _sql(feature: Feature, _: str, kept: npt.NDArray[np.bool_]) -> str:
    from ...sql.expressions import quote_name, quote_value
    from ..drivers.factors import _MONTHS, _WEEKDAYS

    column = quote_name(feature.column)
    if not feature.number:
        levels = [level for level, keeps in zip(feature.levels, kept, strict=False) if keeps]
        if feature.part:
            names = _MONTHS if feature.part == "month" else _WEEKDAYS
            call = "month" if feature.part == "month" else "isodow"
            listed = ", ".join(str(names.index(str(level)) + 1) for level in levels if level is not None)
            return f"{call}({column}) IN ({listed})"
        told = ", ".join(quote_value(level) for level in levels if level is not None)
        gone = [level for level in feature.levels if level not in levels and level is not None]
        if None not in levels and len(gone) < len(levels):
            listed = ", ".join(quote_value(level) for level in gone)
            return f"{column} NOT IN ({listed})" if len(gone) > 1 else f"{column} <> {listed}"
        null = f"{column} IS NULL" if None in levels else ""
        inside = f"{column} IN ({told})" if told else ""
        if len(levels) == 1 and told:
            inside = f"{column} = {told}"
        return f"({inside} OR {null})" if inside and null else inside or null
    # Bins of a number are a stretch, with or without the missing ones.
    inner = np.flatnonzero(kept[:-1])
    parts = []
    if inner.size and inner.size < len(feature.edges):
        if inner[0] > 0:
            parts.append(f"{column} > {feature.edges[inner[0] - 1]!r}")
        if inner[-1] < len(feature.edges) - 1:
            parts.append(f"{column} <= {feature.edges[inner[-1]]!r}")
    text = " AND ".join(parts) or (f"{column} IS NOT NULL" if inner.size else f"{column} IS NULL")
    return f"({text} OR {column} IS NULL)" if kept[-1] and inner.size and parts else text
