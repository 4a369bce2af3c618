"""Tests of groups against SciPy's, published tables and exact counts; the choice of test; what it means."""

from __future__ import annotations

import json

import numpy as np
import pandas as pd
import pytest
from scipy import stats

import golden_almanac as ga
from golden_almanac.analysis.comparison import compare, count_tests, mean_tests, rank_tests
from golden_almanac.analysis.relation import least_telling
from golden_almanac.stats.studentized_range import range_p, range_quantile

RNG = np.random.default_rng(11)
A, B, C = RNG.normal(0, 1, 20), RNG.normal(0.6, 2, 31), RNG.gamma(2, 1, 15)


@pytest.mark.parametrize(("k", "df", "wanted"), [(3, 10, 3.877), (5, 20, 4.232), (2, 5, 3.635), (10, 60, 4.646)])
def test_the_studentised_range_is_that_of_printed_tables(k: int, df: int, wanted: float) -> None:
    assert range_quantile(0.05, k, df) == pytest.approx(wanted, abs=6e-4)
    assert range_p(wanted, k, df) == pytest.approx(0.05, abs=1e-4)


def test_means() -> None:
    ours, theirs = mean_tests.welch(A, B), stats.ttest_ind(A, B, equal_var=False)
    assert (ours.statistic, ours.p) == pytest.approx((theirs.statistic, theirs.pvalue))
    interval = theirs.confidence_interval(0.95)
    assert (ours.difference.low, ours.difference.high) == pytest.approx((interval.low, interval.high))
    paired, its = mean_tests.paired_t(A, B[:20]), stats.ttest_rel(A, B[:20])
    assert (paired.statistic, paired.p) == pytest.approx((its.statistic, its.pvalue))
    pairs, matrix = mean_tests.games_howell([A, B, C], "abc"), stats.tukey_hsd(A, B, C, equal_var=False).pvalue
    assert [one.p for one in pairs] == pytest.approx([matrix[0, 1], matrix[0, 2], matrix[1, 2]], abs=1e-6)


def test_welch_anova_is_that_of_its_formula_and_of_two_groups() -> None:
    two = mean_tests.welch_anova([A, B], "ab")
    t = mean_tests.welch(A, B)
    assert two.statistic == pytest.approx(t.statistic**2)
    assert two.p == pytest.approx(t.p)
    even = mean_tests.welch_anova([A, B, C], "abc")
    assert even.effect.low <= even.effect.value <= even.effect.high


def test_ranks() -> None:
    a, b = A.round(1), B.round(1)
    ours, theirs = rank_tests.mann_whitney(a, b), stats.mannwhitneyu(a, b, method="asymptotic")
    assert (ours.statistic, ours.p) == pytest.approx((theirs.statistic, theirs.pvalue))
    assert ours.effect.value == pytest.approx(theirs.statistic / (a.size * b.size))
    for x, y in ((A, B[:20]), (a, b[:20])):
        exact = stats.wilcoxon(x, y, method="exact" if x is A else "approx", correction=x is not A)
        assert rank_tests.wilcoxon(x, y).p == pytest.approx(exact.pvalue)
    three, its = rank_tests.kruskal([a, b, C], "abc"), stats.kruskal(a, b, C)
    assert (three.statistic, three.p) == pytest.approx((its.statistic, its.pvalue))


def test_dunn_of_two_groups_is_kruskal_wallis() -> None:
    found = rank_tests.kruskal([A, B], "ab")
    assert found.pairs[0].p == pytest.approx(found.p)


def test_counts() -> None:
    table = np.array([[8.0, 2.0], [1.0, 5.0]])
    assert count_tests.fisher(table).p == pytest.approx(stats.fisher_exact(table).pvalue)
    wide = np.array([[20.0, 30, 25], [35, 10, 18]])
    ours, theirs = count_tests.chi_squared(wide), stats.chi2_contingency(wide, correction=False)
    assert (ours.statistic, ours.p) == pytest.approx((theirs.statistic, theirs.pvalue))
    # Newcombe 1998, table II, method 10: 56/70 against 48/80.
    gap = count_tests.difference_of((56, 48), (70, 80))
    assert (gap.low, gap.high) == pytest.approx((0.0524, 0.3339), abs=1e-4)
    z = count_tests.two_proportions((56, 48), (70, 80))
    assert z.statistic**2 == pytest.approx(count_tests.chi_squared(np.array([[56.0, 14], [48, 32]])).statistic)


def test_holm_by_hand() -> None:
    assert rank_tests.holm([0.01, 0.04, 0.03]) == pytest.approx([0.03, 0.06, 0.06])


@pytest.mark.parametrize(
    ("frame", "arguments", "name"),
    [
        ({"y": np.r_[A, B], "g": ["a"] * 20 + ["b"] * 31}, {}, "Welch's t test"),
        ({"y": np.r_[C**4, B], "g": ["a"] * 15 + ["b"] * 31}, {}, "Mann–Whitney U test"),
        ({"y": np.r_[A, B, A + 1], "g": ["a"] * 20 + ["b"] * 31 + ["c"] * 20}, {}, "Welch's analysis of variance"),
        ({"y": np.r_[A, B, C**4], "g": ["a"] * 20 + ["b"] * 31 + ["c"] * 15}, {}, "Kruskal–Wallis test"),
        ({"y": ["yes"] * 20 + ["no"] * 31, "g": ["a", "b", "b"] * 17}, {}, "two-proportion z test"),
        ({"y": ["yes"] * 3 + ["no"] * 33, "g": ["a", "b", "b"] * 12}, {}, "Fisher's exact test"),
        ({"y": ["x", "y", "z"] * 20, "g": ["a", "b", "b", "a"] * 15}, {}, "chi-squared test"),
        (
            {"y": np.r_[A, A + 0.3 + 0.1 * B[:20]], "g": ["a"] * 20 + ["b"] * 20, "k": [*range(20)] * 2},
            {"paired": "k"},
            "paired t test",
        ),
    ],
)
def test_the_test_that_fits_is_chosen_with_its_reason(frame: dict, arguments: dict, name: str) -> None:
    found = ga.compare(pd.DataFrame(frame), "y", "g", **arguments)
    made = found.to_dict()
    assert made["test"]["name"] == name
    assert made["test"]["why"]
    assert made["meaning"].endswith(".")
    assert not found.chart().issues()
    json.dumps(made, allow_nan=False)


def test_figures_of_groups_are_those_of_sql(sailings) -> None:
    found = ga.compare(sailings, "delay_min", "vessel")
    plain = found.table.sql(
        "SELECT vessel, count(delay_min) AS n, avg(delay_min) AS mean, stddev_samp(delay_min) AS sd, "
        "quantile_cont(delay_min, 0.25) AS q1 FROM source GROUP BY 1 ORDER BY 1"
    )
    for one, (_, row) in zip(found.result.groups, plain.iterrows(), strict=True):
        wanted = (row["vessel"], row["n"])
        assert (one.label, one.n) == wanted
        assert (one.mean, one.sd, one.q1) == pytest.approx((row["mean"], row["sd"], row["q1"]))
    assert "Tern" in found.headline
    assert "31 of 36 pairs" in found.summary().text


def test_what_cannot_be_compared_is_said() -> None:
    frame = pd.DataFrame({"y": np.arange(40.0), "g": ["a"] * 40, "k": [1, 1] * 20, "two": ["a", "b"] * 20})
    with pytest.raises(ga.ColumnError, match="only one group"):
        compare(ga.read(frame), "y", "g")
    with pytest.raises(ga.ColumnError, match="stands 20 times"):
        compare(ga.read(frame, roles={"k": "key"}), "y", "two", paired="k")
    with pytest.raises(ga.RequestError, match="cannot be 'anova'"):
        compare(ga.read(frame), "y", "two", test="anova")


def test_relations() -> None:
    x = np.linspace(0, 10, 400)
    y = np.minimum(x, 4) + RNG.normal(0, 0.3, 400)
    found = ga.relate(pd.DataFrame({"x": x.round(3), "y": y.round(3)}), "x", "y")
    r, _ = stats.pearsonr(x.round(3), y.round(3))
    rho = stats.spearmanr(x.round(3), y.round(3)).statistic
    assert found.result.pearson[0] == pytest.approx(r)
    assert found.result.spearman[0] == pytest.approx(rho)
    low, high = stats.pearsonr(x.round(3), y.round(3)).confidence_interval()
    assert found.result.pearson[1:3] == pytest.approx((low, high))
    assert found.result.shape.name == "levels off"
    assert found.result.shape.bend == pytest.approx(4, abs=0.5)
    assert "levels off above" in found.headline
    assert not found.chart().issues()


def test_a_mean_of_ratios_is_never_taken() -> None:
    frame = pd.DataFrame({"a": RNG.gamma(2, 1, 60), "b": RNG.gamma(2, 1, 60), "g": ["x", "y"] * 30})
    with pytest.raises(ga.RequestError, match="over a row; of a rate"):
        ga.compare(frame, "sum(a) / sum(b)", "g")
    with pytest.raises(ga.RequestError, match="over a row; of a rate"):
        ga.regress(frame, "sum(a) / sum(b)", "b")


@pytest.mark.parametrize(("rows", "critical"), [(5, 0.878), (10, 0.632), (20, 0.444), (30, 0.361)])
def test_few_rows_say_what_they_cannot_show(rows: int, critical: float) -> None:
    """Critical values of the correlation, two-sided 5%, as tables of statistics print them (Fisher and Yates)."""
    assert least_telling(rows) == pytest.approx(critical, abs=0.0005)
    frame = pd.DataFrame({"x": np.arange(rows) * 1.5, "y": (np.arange(rows) * 7) % 5 + 0.5})
    told = str(ga.relate(frame, "x", "y").summary())
    assert (f"{rows} rows show only strong relations: chance gives correlations up to {critical:.2f}." in told) == (
        rows < 30
    )


@pytest.mark.parametrize("size", [1e300, 5e-324])
def test_numbers_beyond_reckoning_are_refused_in_a_sentence(size: float) -> None:
    frame = pd.DataFrame({"x": np.array([0.0, 1.0, 1.0, 0.0, 1.0]) * size, "y": [1.0, 2.0, 3.0, 5.0, 8.0]})
    with pytest.raises(ga.ColumnError, match="beyond reckoning"):
        ga.relate(frame, "x", "y")
