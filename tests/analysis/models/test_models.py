"""Models: metrics against closed forms, predictions that add up, rules by SQL, saving and loading, new rows."""

from __future__ import annotations

import json

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.analysis.models import auc, metric

from ..drivers.test_drivers import planted


def test_metrics_by_hand() -> None:
    y, p = np.array([1.0, 0, 1, 0]), np.array([0.9, 0.8, 0.7, 0.1])
    assert auc(y, p) == 0.75
    assert auc(y, np.full(4, 0.5)) == 0.5
    assert metric("brier", y, p) == pytest.approx((0.01 + 0.64 + 0.09 + 0.01) / 4)
    assert metric("log_loss", y, p) == pytest.approx(-np.mean(np.log([0.9, 0.2, 0.7, 0.9])))
    assert metric("accuracy", y, p) == 0.75
    assert metric("mae", y, p) == pytest.approx(0.325)


@pytest.mark.parametrize("kind", ["linear", "tree", "boosted"])
@pytest.mark.parametrize("outcome", ["delay", "late"])
def test_predictions_add_up_and_survive_saving(kind: str, outcome: str, tmp_path) -> None:
    frame = planted(n=500)
    frame["late"] = np.where(frame["delay"] > 12, "yes", "no")
    factors = ["load", "vessel", "rota"]
    made = ga.model_outcome(frame, outcome, factors, kind=kind)
    scored = made.predict(frame)
    parts = scored.drop(columns=["prediction"]).sum(axis=1)
    assert np.allclose(parts, scored["prediction"], atol=1e-9)
    again = ga.load_model(made.save(tmp_path / "model.json"))
    assert np.allclose(again.predict(frame)["prediction"], scored["prediction"], atol=1e-12)
    base = made.to_frame().set_index("model")["value"]
    assert base[kind] < base["base rate"]
    assert "from" in made.why(frame, 2)
    assert not made.chart().issues()
    json.dumps(made.to_dict(), allow_nan=False)


def test_new_labels_and_missing_values_are_scored() -> None:
    made = ga.model_outcome(planted(n=500), "delay", ["load", "vessel"], kind="tree")
    new = pd.DataFrame({"load": [10.0, None, 99.0], "vessel": ["Petrel", "Sandpiper", None]})
    assert np.isfinite(made.predict(new)["prediction"]).all()
    with pytest.raises(ga.ColumnError, match="no column named 'vessel'"):
        made.predict(pd.DataFrame({"load": [1.0, 2.0]}))
    with pytest.raises(ga.ColumnError, match="as a number"):
        made.predict(pd.DataFrame({"load": ["a", "b"], "vessel": ["Tern", "Tern"]}))


def test_rules_of_a_tree_are_what_sql_gives(sailings) -> None:
    made = ga.model_outcome(sailings, "delay_min", ["route", "vessel"], kind="tree")
    table = ga.read(sailings)
    rules = made.rules()
    assert 3 <= len(rules) <= 16
    for _, row in rules.iterrows():
        found = table.sql(
            f"SELECT avg(delay_min) AS v, count(*) AS n FROM source WHERE delay_min IS NOT NULL AND ({row['where']})"
        ).iloc[0]
        assert found["n"] == row["rows"]
        assert found["v"] == pytest.approx(row["value"], rel=1e-6)
    assert rules["rows"].sum() == made.chosen.about.n
    assert not made.chart(kind="tree").issues()


def test_chance_is_not_foretold() -> None:
    rng = np.random.default_rng(3)
    frame = pd.DataFrame({"y": rng.normal(size=400), "a": rng.normal(size=400), "b": rng.choice(["u", "v"], 400)})
    made = ga.model_outcome(frame, "y", ["a", "b"])
    assert made.headline.startswith("Nothing foretells") or made.to_frame()["value"].max() < 1.02 * made.chosen.base


def test_what_cannot_be_modelled_is_said(tmp_path) -> None:
    with pytest.raises(ga.RequestError, match="one of mae, rmse"):
        ga.model_outcome(planted(n=100), "delay", metric="auc")
    with pytest.raises(ga.RequestError, match="best, linear, tree, boosted"):
        ga.model_outcome(planted(n=100), "delay", kind="forest")
    (tmp_path / "x.json").write_text("[]")
    with pytest.raises(ga.SourceError, match="no model that was saved"):
        ga.load_model(tmp_path / "x.json")
