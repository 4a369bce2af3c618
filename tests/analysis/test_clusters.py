"""Rows of one customer count as one where they resemble each other, in comparisons and in the search for drivers."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from scipy import stats

import golden_almanac as ga
from golden_almanac.analysis.comparison.cluster_tests import cluster_means
from golden_almanac.tables.meaning.name_words import of_individual, words


def visits(seed: int, *, own: float = 3.0, effect: float = 0.0) -> pd.DataFrame:
    """Eighty customers of two regions, twelve visits each; `own` is how much customers differ."""
    rng = np.random.default_rng(seed)
    region = np.repeat(rng.choice(["N", "S"], 80), 12)
    level = np.repeat(rng.normal(0, own, 80), 12)
    return pd.DataFrame(
        {
            "customer_id": np.repeat(np.arange(1000, 1080), 12),
            "region": region,
            "age": np.repeat(rng.integers(20, 70, 80), 12),
            "wait_min": np.round(20 + level + rng.normal(0, 2, 960) + effect * (region == "S"), 2),
        }
    )


def test_customers_are_counted_where_they_differ() -> None:
    told = ga.compare(visits(1), "wait_min", by="region")
    assert told.to_dict()["test"]["name"] == "cluster-robust t test"
    assert "resemble each other" in told.summary().text
    alike = ga.compare(visits(1, own=0.0), "wait_min", by="region")
    assert alike.to_dict()["test"]["name"] == "Welch's t test"


def test_chance_is_called_a_difference_as_seldom_as_promised() -> None:
    seeds = range(300, 360)
    p = [ga.compare(visits(seed), "wait_min", by="region").to_dict()["test"]["p"] for seed in seeds]
    assert sum(one < 0.05 for one in p) <= 8
    assert not any(ga.find_drivers(visits(seed), "wait_min").drivers for seed in range(300, 312))
    assert sum(bool(ga.find_drivers(visits(seed, effect=3), "wait_min").drivers) for seed in range(5)) >= 4


def few_patients(seed: int, count: int = 14) -> pd.DataFrame:
    """Fourteen patients by name, of one ward each, with visits of very unlike number."""
    rng = np.random.default_rng(seed)
    who = rng.choice(count, 500, p=rng.dirichlet(np.full(count, 3.0)))
    ward = np.array(["A", "B", *rng.choice(["A", "B"], count - 2)])
    names = np.array([f"Mx {place}" for place in range(count)])
    level = rng.normal(0, 6, count)
    pain = np.round(50 + level[who] + rng.normal(0, 8, 500), 1)
    return pd.DataFrame({"patient": names[who], "ward": ward[who], "pain_score": pain, "dose": rng.integers(1, 9, 500)})


def test_people_by_name_are_counted_few_as_they_are() -> None:
    told = [ga.compare(few_patients(seed), "pain_score", by="ward").to_dict()["test"] for seed in range(600, 640)]
    assert {one["name"] for one in told} == {"cluster-robust t test"}
    assert sum(one["p"] < 0.05 for one in told) <= 5
    scans = [ga.scan(few_patients(seed)).findings for seed in range(600, 606)]
    assert not [f.headline for found in scans for f in found if f.kind == "difference" and f.by == "ward"]


def test_who_differs_is_told_of_all_the_same() -> None:
    """A patient's own rows are all of one cluster: that one of them differs is no matter of how patients differ."""
    frame = few_patients(1, count=14)
    frame.loc[frame["patient"] == "Mx 3", "pain_score"] += 40
    assert "Mx 3" in [f.where.label for f in ga.scan(frame).findings if f.kind == "difference"]


def test_names_of_kinds_are_no_people() -> None:
    assert not any(
        of_individual(words(name)) for name in ("customer_segment", "account", "supplier", "shop", "case_type")
    )
    assert all(of_individual(words(name)) for name in ("Customer", "patient_id", "ClientName", "Kunde", "machine no"))


def test_one_row_a_cluster_is_the_plain_test() -> None:
    """With clusters of one row the test is Welch's, but for the degrees of freedom."""
    rng = np.random.default_rng(2)
    a, b = rng.normal(0, 1, 60), rng.normal(0.4, 2, 80)
    made = cluster_means([a, b], [np.arange(60), np.arange(60, 140)], ["a", "b"])
    assert made.statistic == pytest.approx(stats.ttest_ind(a, b, equal_var=False).statistic)
    # So many rows as know the variance as well: 140, of which those of the smaller group count more.
    weights = np.repeat([1 / 60**2, 1 / 80**2], [60, 80])
    df = weights.sum() ** 2 / (weights @ weights) - 1
    assert made.p == pytest.approx(2 * stats.t.sf(abs(made.statistic), df))


def test_three_groups_have_pairs_that_agree_with_two() -> None:
    rng = np.random.default_rng(3)
    samples = [rng.normal(shift, 1, 90) for shift in (0, 0.1, 1)]
    codes = [np.arange(90) // 3 + 30 * group for group in range(3)]
    made = cluster_means(samples, codes, ["a", "b", "c"])
    assert made.name == "cluster-robust Wald test"
    assert made.p < 1e-4
    assert [round(pair.difference, 9) for pair in made.pairs] == [
        round(float(samples[i].mean() - samples[j].mean()), 9) for i, j in ((0, 1), (0, 2), (1, 2))
    ]


def test_few_rows_are_searched_by_permutation() -> None:
    rng = np.random.default_rng(4)
    depth = rng.normal(8, 2, 18).round(1)
    frame = pd.DataFrame(
        {
            "depth": depth,
            "region": rng.choice(["N", "S"], 18),
            "staff": rng.integers(2, 12, 18),
            "wait_min": (20 - 1.2 * depth + rng.normal(0, 1, 18)).round(1),
        }
    )
    found = ga.find_drivers(frame, "wait_min")
    assert [one.factor.name for one in found.drivers] == ["depth"]
    slope = stats.linregress(depth, frame["wait_min"]).slope
    assert found.drivers[0].effects[0].effect == pytest.approx(slope * depth.std())
    assert found.headline.endswith("taken by itself.")
    assert "all else equal" not in found.report().html().decode()
    chance = [ga.find_drivers(frame.assign(wait_min=rng.permutation(frame["wait_min"])), "wait_min") for _ in range(40)]
    assert sum(bool(one.drivers) for one in chance) <= 5


def _visits(seed: int, later: float = 0.0, timed: bool = True) -> pd.DataFrame:
    """Visits of 150 customers, each with a waiting time and a weight of their own; regions that differ by `later`."""
    rng = np.random.default_rng(seed)
    who, region = rng.integers(0, 150, 5000), rng.choice(["North", "South", "East", "West"], 150)
    own, heavy = rng.normal(0, 8, 150), rng.normal(0, 8, 150)
    frame = pd.DataFrame(
        {
            "customer_id": 10_000 + who,
            "region": region[who],
            "waiting_minutes": (30 + own[who] + rng.normal(0, 10, 5000) + later * (region[who] == "East")).round(1),
            "weight_kg": (100 + heavy[who] + rng.normal(0, 10, 5000)).round(1),
        }
    )
    if timed:
        frame.insert(0, "day", pd.Timestamp("2023-01-01") + pd.to_timedelta(rng.integers(0, 730, 5000), unit="D"))
    return frame


@pytest.mark.parametrize("timed", [True, False])
def test_a_scan_counts_customers_not_their_visits(timed: bool) -> None:
    """With visits as the sample, nine tables of ten told of regions, or of waiting and weight, by chance."""
    measures = ["avg(waiting_minutes)", "avg(weight_kg)"]
    told = [bool(ga.scan(_visits(seed, timed=timed), measures=measures).findings) for seed in range(8)]
    assert sum(told) <= 1
    found = ga.scan(_visits(8, later=10.0, timed=timed), measures=measures).findings
    assert [(one.kind, one.where.label) for one in found] == [("difference", "East")]


def test_rows_that_stand_alone_lose_nothing() -> None:
    """Numbers of customers who do not resemble themselves leave the tests as they were."""
    frame = _visits(9, later=2.0)
    frame["customer_id"] = np.random.default_rng(1).permutation(frame["customer_id"].to_numpy())
    measures = ["avg(waiting_minutes)"]
    plain = ga.scan(frame.drop(columns="customer_id"), measures=measures).findings
    assert [one.test.p for one in ga.scan(frame, measures=measures).findings] == [one.test.p for one in plain]
