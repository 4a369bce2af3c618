"""Drivers of planted outcomes, their figures against plain SQL, segments by filter, and what bad input is told."""

from __future__ import annotations

import json

import numpy as np
import pandas as pd
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.analysis.drivers.design_matrix import Design
from golden_almanac.analysis.drivers.effect_shapes import maximal_p, roundest
from golden_almanac.analysis.drivers.factors import factors_of
from golden_almanac.analysis.drivers.outcome import outcome_of
from golden_almanac.analysis.drivers.permutation_importance import cramer
from golden_almanac.analysis.drivers.robust_fits import least_squares
from golden_almanac.stats.share_ranges import wilson


def planted(seed: int = 5, n: int = 2400) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    frame = pd.DataFrame(
        {
            "load": np.round(rng.uniform(0, 100, n), 1),
            "vessel": rng.choice(["Tern", "Gannet", "Petrel"], n),
            "rota": rng.choice(["Amber", "Blue"], n),
        }
    )
    mean = 10 + 2 * (frame["load"] > 40) + 1.5 * (frame["vessel"] == "Petrel")
    return frame.assign(delay=np.round(mean + rng.gamma(4, 1, n) - 4, 2))


def test_planted_drivers_are_found_in_order_with_their_cut() -> None:
    found = ga.find_drivers(planted(), "delay")
    assert [one.factor.name for one in found.drivers] == ["load", "vessel"]
    load, vessel = found.drivers
    assert load.shape.name == "step"
    assert load.shape.cut.at == pytest.approx(40, abs=1.5)
    assert load.shape.cut.difference == pytest.approx(2, abs=0.3)
    first = vessel.effects[0]
    assert first.level == "Petrel"
    assert first.low < 1.5 < first.high
    assert [one.factor.name for one in found.found.unclear] == ["rota"]
    assert "above 40" in found.headline or "above 39" in found.headline
    json.dumps(found.to_dict(), allow_nan=False)


def test_unadjusted_effects_are_differences_of_averages() -> None:
    frame = planted()
    found = ga.find_drivers(frame, "delay")
    petrel = next(one for one in found.drivers[1].every if one.level == "Petrel")
    own = frame["vessel"] == "Petrel"
    assert petrel.unadjusted == pytest.approx(frame.loc[own, "delay"].mean() - frame.loc[~own, "delay"].mean())
    assert petrel.value == pytest.approx(frame.loc[own, "delay"].mean())


def test_every_segment_is_given_again_by_filter_and_average(sailings) -> None:
    found = ga.find_drivers(sailings, "delay_min")
    assert len(found.found.every_segment) > 5
    for one in (*found.segments, *found.found.every_segment):
        row = found.found.outcome.table.sql(
            f"SELECT avg(delay_min) AS v, count(*) AS n FROM source WHERE delay_min IS NOT NULL AND ({one.sql})"
        ).iloc[0]
        assert row["v"] == pytest.approx(one.value, rel=1e-9)
        assert row["n"] == one.n
        assert len(one.conditions) <= 3
    for place, one in enumerate(found.segments):
        for other in found.segments[:place]:
            both = found.found.outcome.table.sql(
                f"SELECT count(*) AS n FROM source WHERE ({one.sql}) AND ({other.sql})"
            )
            assert both["n"].iloc[0] == 0


def test_the_demo_tells_its_stories_and_leaves_chance_alone(sailings) -> None:
    found = ga.find_drivers(sailings, "delay_min")
    told = [one.factor.name for one in found.drivers]
    assert told == ["route", "vessel"]
    assert found.drivers[1].effects[0].level == "Petrel"
    unclear = [one.factor.name for one in found.found.unclear]
    assert {"crew_rota", "tide_index"} <= set(unclear)
    left = {one.factor: one.reason for one in found.found.left_out}
    assert "bookkeeping" in left["on_time"]
    assert "each route has only one region" in left["region"]
    for chart in (found.chart(), found.chart("vessel"), found.chart(kind="segments")):
        assert not chart.issues()


def test_hc3_is_that_of_the_formula() -> None:
    frame = planted(n=300)
    about = outcome_of(ga.read(frame), "delay")
    factors, _ = factors_of(about, ["load", "vessel"])
    design = Design.of(factors, about.n)
    fit = least_squares(design, about.values)
    x = design.dense(slice(0, about.n))
    inverse = np.linalg.inv(x.T @ x)
    beta = inverse @ x.T @ about.values
    e = (about.values - x @ beta) / (1 - np.einsum("ij,jk,ik->i", x, inverse, x))
    wanted = inverse @ ((x * (e**2)[:, None]).T @ x) @ inverse
    assert np.allclose(fit.beta, beta, rtol=1e-6)
    assert np.allclose(fit.covariance, wanted, rtol=1e-5, atol=1e-12)


def test_published_values() -> None:
    # The largest of all standardised rank sums between the tenth and ninetieth percentile, by shuffling.
    rng = np.random.default_rng(8)
    ranks = rng.permuted(np.tile(np.arange(1.0, 401), (4000, 1)), axis=1)
    places = np.arange(40, 361)
    spread = np.sqrt(places * (400 - places) / 400 * ranks[0].var(ddof=1))
    sums = np.abs(np.cumsum(ranks, axis=1)[:, places - 1] - places * 401 / 2) / spread
    for level in (0.05, 0.01):
        observed = np.quantile(sums.max(axis=1), 1 - level)
        assert level * 0.8 < maximal_p(float(observed)) < level * 1.8  # the formula errs on the safe side
    # Wilson 1927, as in Newcombe 1998 (table I, 81 of 263): 0.2553 to 0.3662.
    assert wilson(81, 263) == pytest.approx((0.2553, 0.3662), abs=1e-4)
    assert [roundest(39.7, 40.2), roundest(14, 15), roundest(0.12, 0.1301), roundest(-3.2, -2.7)] == [40, 14, 0.12, -3]
    same = np.repeat([0, 1, 2], 50)
    assert cramer(same, same, 3, 3) == pytest.approx(1.0)


@settings(max_examples=8)
@given(seed=st.integers(0, 10_000))
@example(seed=690)
def test_order_of_rows_and_names_of_labels_change_nothing(seed: int) -> None:
    frame = planted(seed, 400)
    shuffled = frame.sample(frac=1, random_state=seed)
    one, other = (ga.find_drivers(f, "delay").to_dict() for f in (frame, shuffled))
    assert [(d["factor"], d["level"]) for d in one["drivers"]] == [(d["factor"], d["level"]) for d in other["drivers"]]
    assert [d["effect"] for d in one["drivers"]] == pytest.approx([d["effect"] for d in other["drivers"]])
    assert [d["importance"] for d in one["drivers"]] == pytest.approx([d["importance"] for d in other["drivers"]])
    assert [(s["sql"], s["n"]) for s in one["segments"]] == [(s["sql"], s["n"]) for s in other["segments"]]


def test_yes_no_rates_and_expressions(sailings) -> None:
    factors = ["route", "vessel"]
    yes = ga.find_drivers(sailings, "on_time", factors).to_dict()
    outer = next(one for one in yes["drivers"] if one["level"] == "Outer Bar")
    assert outer["unit"] == "probability"
    assert 0 < outer["odds_ratio"] < 0.3
    assert outer["effect"] < -0.3
    late = ga.find_drivers(sailings, "delay_min > 10", factors).to_dict()
    mirrored = next(one for one in late["drivers"] if one["level"] == "Outer Bar")
    assert mirrored["effect"] == pytest.approx(-outer["effect"], rel=1e-6)
    rate = ga.find_drivers(sailings, "sum(revenue) / sum(passengers)", ["fare_class"])
    table = rate.found.outcome.table
    peak = next(one for one in rate.drivers[0].every if one.level == "Peak")
    by_hand = table.sql(
        "SELECT sum(revenue) FILTER (WHERE fare_class = 'Peak') / sum(passengers) FILTER (WHERE fare_class = 'Peak') - "
        "sum(revenue) FILTER (WHERE fare_class <> 'Peak') / sum(passengers) FILTER (WHERE fare_class <> 'Peak') AS gap "
        "FROM source WHERE passengers > 0"
    )["gap"].iloc[0]
    assert peak.unadjusted == pytest.approx(by_hand, rel=1e-9)
    event = ga.find_drivers(sailings, "channel", ["route"], event="Web")
    assert event.found.outcome.event == "Web"


def test_one_direction_of_interest(sailings) -> None:
    high, low = (ga.find_drivers(sailings, "delay_min", ["route", "vessel"], toward=way) for way in ("higher", "lower"))
    assert all(one.value > one.overall for one in high.segments)
    assert all(one.value < one.overall for one in low.segments)
    assert all(effect.effect > 0 for driver in high.drivers for effect in driver.effects)


BASE = {"y": np.r_[np.arange(40.0), 3.5], "a": np.r_[np.arange(20.0), np.arange(21.0)]}


@pytest.mark.parametrize(
    ("columns", "outcome", "message"),
    [
        ({"y": [2.5] * 40, "a": [*range(40)]}, "y", "is 2.5 in every row"),
        ({"y": ["yes"] * 40, "a": [*range(40)]}, "y", "is yes in every row"),
        ({"y": [1.0, 2.0] * 2, "a": [*range(4)]}, "y", "at least 5 are needed"),
        ({"y": ["p", "q", "r", "s"] * 10, "a": [*range(40)]}, "y", "Say which one counts as yes"),
        ({"y": [*range(40)], "a": [f"x{i}" for i in range(40)]}, "y", "a value of its own in every row"),
        (BASE, "z", "There is no column named 'z'"),
        (BASE, "sum(y)", "no average or ratio"),
    ],
)
def test_outcomes_that_cannot_be_used(columns: dict, outcome: str, message: str) -> None:
    with pytest.raises(ga.AlmanacError, match=message):
        ga.find_drivers(pd.DataFrame(columns), outcome, ["a"])


def test_odd_factors_are_handled_and_said() -> None:
    rng = np.random.default_rng(2)
    frame = planted(n=600).assign(
        empty=np.nan,
        same="x",
        twice=lambda f: 3 * f["load"] + 1,
        restated=lambda f: f["delay"] * 2 + rng.normal(0, 0.01, 600),
    )
    frame["late"] = np.where(frame["delay"] > 12, "yes", "no")
    frame["load"] = frame["load"].where(rng.random(600) > 0.1)
    found = ga.find_drivers(frame, "delay", ["load", "vessel", "empty", "same", "twice", "restated"])
    left = {one.factor: one.reason for one in found.found.left_out}
    assert "holds no values" in left["empty"]
    assert "same in every row" in left["same"]
    assert "restates the outcome" in left["restated"] or "bookkeeping" in left["restated"]
    parted = ga.find_drivers(
        frame.assign(parts=frame["late"].map({"yes": "A", "no": "B"})), "late", ["parts", "vessel"]
    )
    assert "restates" in {one.factor: one.reason for one in parted.found.left_out}["parts"]


def test_a_factor_asked_for_by_name_is_told_however_small() -> None:
    rng = np.random.default_rng(1)
    origin = rng.choice(["A", "B", "C"], 40_000)
    delay = (rng.gamma(4, 5, 40_000) + 0.6 * (origin == "A")).round(1)
    frame = pd.DataFrame({"origin": origin, "delay_min": delay})
    (told,) = ga.find_drivers(frame, "delay_min", ["origin"]).drivers
    assert told.effects[0].level == "A"
    assert told.effects[0].effect == pytest.approx(0.6, abs=0.3)
    unasked = ga.find_drivers(frame, "delay_min")
    assert unasked.drivers == ()
    assert "too small to matter" in str(unasked.found.unclear[0].reason)
