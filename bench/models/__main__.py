"""python -m bench.models: linear, tree and boosted models against scikit-learn's on the same folds.

Needs scikit-learn (`pip install -e '.[bench]'`). A ratio below 1 is better than the library; 1.01 is one percent worse.
"""

from __future__ import annotations

import numpy as np
from sklearn.datasets import load_breast_cancer, load_diabetes, load_wine
from sklearn.ensemble import HistGradientBoostingClassifier, HistGradientBoostingRegressor
from sklearn.linear_model import LogisticRegression, RidgeCV
from sklearn.model_selection import GridSearchCV
from sklearn.pipeline import make_pipeline
from sklearn.preprocessing import StandardScaler
from sklearn.tree import DecisionTreeClassifier, DecisionTreeRegressor

from golden_almanac.analysis.drivers import Factor
from golden_almanac.analysis.models import metric
from golden_almanac.analysis.models.outcome_model import FOLDS, dealt, out_of_fold


def _theirs(kind: str, yes_no: bool):  # type: ignore[no-untyped-def]
    depth = {"max_depth": [1, 2, 3, 4, 5, 6], "min_samples_leaf": [10]}
    if kind == "linear":
        if yes_no:
            return make_pipeline(StandardScaler(), LogisticRegression(max_iter=2000))
        return make_pipeline(StandardScaler(), RidgeCV(alphas=(0.001, 0.1, 1, 10, 100)))
    if kind == "tree":
        if yes_no:
            return GridSearchCV(DecisionTreeClassifier(random_state=0), depth, scoring="neg_brier_score")
        return GridSearchCV(DecisionTreeRegressor(random_state=0), depth, scoring="neg_mean_squared_error")
    made = HistGradientBoostingClassifier if yes_no else HistGradientBoostingRegressor
    return made(
        max_depth=3, early_stopping=True, random_state=0, max_iter=300, n_iter_no_change=15, validation_fraction=0.2
    )


def main() -> None:
    wine = load_wine()
    sets = {
        "diabetes": (*load_diabetes(return_X_y=True), False),
        "breast cancer": (*load_breast_cancer(return_X_y=True), True),
        "wine, second kind": (wine.data, (wine.target == 1).astype(float), True),
    }
    print(f"{'data':<20}{'model':<10}{'metric':<10}{'ours':>9}{'theirs':>9}{'ratio':>8}")
    for name, (x, y, yes_no) in sets.items():
        y = np.asarray(y, dtype=float)
        factors = [
            Factor(name=f"x{j}", column=f"x{j}", part="", values=np.asarray(x[:, j], float), codes=None, levels=())
            for j in range(x.shape[1])
        ]
        folds = dealt(y.size, seed=7)
        for kind in ("linear", "tree", "boosted"):
            ours = out_of_fold(factors, y, np.ones(y.size), folds, kind, yes_no)
            theirs = np.empty(y.size)
            for fold in range(FOLDS):
                train, test = folds != fold, folds == fold
                model = _theirs(kind, yes_no).fit(x[train], y[train])
                theirs[test] = model.predict_proba(x[test])[:, 1] if yes_no else model.predict(x[test])
            for by in ("auc", "brier") if yes_no else ("rmse", "mae"):
                a, b = metric(by, y, ours), metric(by, y, theirs)
                ratio = b / a if by == "auc" else a / b
                print(f"{name:<20}{kind:<10}{by:<10}{a:>9.4f}{b:>9.4f}{ratio:>8.3f}", flush=True)


if __name__ == "__main__":
    main()
