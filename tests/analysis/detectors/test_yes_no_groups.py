"""Columns of yes and no as groups: what differs between them is told once, of what comes of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.analysis.detectors.yes_no_groups import screened
from golden_almanac.analysis.scan_pipeline import survey_of


def _members(rows: int = 4000, answers: Sequence[object] = ("no", "yes"), seed: int = 1) -> pd.DataFrame:
    """Members of a club: those with a locker leave more often, and wait longer."""
    rng = np.random.default_rng(seed)
    locker, parking = rng.random(rows) < 0.15, rng.random(rows) < 0.4
    churn = rng.random(rows) < np.where(locker, 0.35, 0.1)
    held = np.array(answers, dtype=object)
    return pd.DataFrame(
        {
            "churn": held[churn.astype(int)],
            "locker": held[locker.astype(int)],
            "parking": held[parking.astype(int)],
            "waiting_min": (rng.gamma(3, 4, rows) + 5 * locker).round(1),
            "branch": rng.choice(["Quay", "Hill", "Mill"], rows),
        }
    )


def _told(found: ga.Scan) -> dict[tuple[str, str], ga.Finding]:
    return {(str(one.by), one.measure.name): one for one in found.findings if one.kind == "difference" and one.measure}


@pytest.mark.parametrize("answers", [("no", "yes"), (False, True), (0, 1), ("nein", "ja"), ("N", "Y")])
def test_what_comes_of_a_yes_is_told_once_however_it_is_written(answers: Sequence[object]) -> None:
    data = _members(answers=answers)
    told = _told(ga.scan(ga.read(data)))
    assert {by for by, _ in told} == {"locker"}
    rate, wait = (next(one for (_, name), one in told.items() if part in name) for part in ("churn", "waiting"))
    inside, outside = data[data.locker == answers[1]], data[data.locker == answers[0]]
    assert rate.figures["value"] == pytest.approx((inside.churn == answers[1]).mean())
    assert rate.figures["rest"] == pytest.approx((outside.churn == answers[1]).mean())
    assert wait.figures["value"] == pytest.approx(inside.waiting_min.mean())
    assert wait.figures["rest"] == pytest.approx(outside.waiting_min.mean())
    assert rate.check().agrees
    assert wait.check().agrees
    yes, no = ("1", "0") if isinstance(answers[0], int) and not isinstance(answers[0], bool) else ("yes", "no")
    assert f"where locker is {yes}, against" in rate.headline
    assert rate.headline.endswith(f"where it is {no}.")


def test_in_other_languages_yes_and_no_are_theirs() -> None:
    found = ga.scan(ga.read(_members()))
    for locale, words in (("de", ("ja", "nein")), ("es", ("sí", "no")), ("fr", ("oui", "non"))):
        line = next(one.headline for one in found.in_language(locale).findings if one.by == "locker")
        assert all(word in line for word in words)


def test_the_bar_of_yes_is_lit() -> None:
    found = ga.scan(ga.read(_members()))
    finding = next(one for one in found.findings if one.by == "locker")
    chart = finding.chart()
    assert "yes" in chart.data.iloc[:, 0].tolist()
    assert set(chart.sources) >= {"value", "rest"}


def test_what_is_made_from_a_measure_explains_nothing_of_it() -> None:
    data = _members()
    data["long_wait"] = np.where(data.waiting_min > 15, "yes", "no")
    data["waited_calls"] = np.where(data.parking == "yes", 2.5, 0.0) * np.random.default_rng(2).random(len(data))
    told = _told(ga.scan(ga.read(data, natures={"waited_calls": "reading"})))
    assert not any(by == "long_wait" and "waiting" in name for by, name in told)
    assert not any(by == "parking" and "calls" in name for by, name in told)


def test_ticks_on_a_list_are_no_news() -> None:
    rng = np.random.default_rng(3)
    kind = rng.integers(0, 6, 3000)
    data = pd.DataFrame({f"has_{name}": (kind == place).astype(int) for place, name in enumerate("abcdef")})
    data["rating"] = rng.normal(6, 1, 3000).round(1)
    assert not ga.scan(ga.read(data)).findings


def test_who_names_the_groups_wants_no_others() -> None:
    found = ga.scan(ga.read(_members()), by=["branch"])
    assert not any(one.by in {"locker", "parking", "churn"} for one in found.findings)


def test_chance_is_quiet() -> None:
    for seed in range(6):
        rng = np.random.default_rng(seed)
        data = _members(900, seed=seed).assign(churn=rng.choice(["yes", "no"], 900), waiting_min=rng.gamma(3, 4, 900))
        assert not ga.scan(ga.read(data)).findings


def test_the_look_at_all_flags_is_the_permutation_test_of_each() -> None:
    """z by its definition: the sum of the scores of those who say yes, over what permutations make of it."""
    data = _members(500).assign(parking=lambda one: one.parking.where(np.arange(500) % 7 > 0))
    survey = survey_of(ga.read(data), measures=["avg(waiting_min)"], by=None, time=None, grain=None)
    found = screened(survey, survey.measures[0], ["locker", "parking"])
    from scipy.stats import norm, rankdata

    scores = norm.ppf((rankdata(data.waiting_min) - 0.5) / len(data))
    for flag, (z, _, rows) in found.items():
        known = data[flag].notna().to_numpy()
        yes, of = (data[flag] == "yes").to_numpy()[known], scores[known]
        k, n = int(yes.sum()), int(known.sum())
        variance = k * (n - k) / n * of.var(ddof=1)
        assert z == pytest.approx((of[yes].sum() - k * of.mean()) / np.sqrt(variance), rel=0.02)
        assert rows == min(k, n - k)


@pytest.mark.parametrize("least_rows", [0, 500])
def test_all_the_others_are_the_same_rows_in_the_figure_and_in_its_sql(least_rows: int) -> None:
    """With rows that have no label, with what is left over ("Other") and with labels too small to be told of."""
    rng = np.random.default_rng(5)
    data = _members(5000)
    data["branch"] = rng.choice(["Quay", "Hill", "Mill", "Other", "Weir"], 5000, p=[0.4, 0.3, 0.15, 0.1, 0.05])
    data["waiting_min"] += 6 * (data.branch == "Quay")
    for column in ("branch", "locker", "churn", "waiting_min"):
        data.loc[rng.random(5000) < 0.1, column] = None
    found = ga.scan(ga.read(data), **({"least_rows": least_rows} if least_rows else {}))
    told = [one for one in (*found.findings, *found.folded) if one.kind == "difference"]
    assert {"branch", "locker"} <= {one.by for one in told}
    assert all(one.check().agrees for one in told)
    quay = next(one for one in told if one.where.label == "Quay" and "waiting" in one.measure.name)  # type: ignore[union-attr]
    others = data[data.branch.notna() & (data.branch != "Quay")]
    assert quay.figures["rest"] == pytest.approx(others.waiting_min.mean())


def test_two_figures_have_the_digits_that_tell_them_apart() -> None:
    data = _members()
    data["waiting_min"] = 22.9 + 0.02 * (data.locker == "yes") + np.random.default_rng(6).normal(0, 0.03, len(data))
    line = next(one.headline for one in ga.scan(ga.read(data)).findings if "waiting" in one.headline)
    value, rest = (part.split(" min")[0] for part in line.split(" is ", 1)[1].split("against "))
    assert value != rest


def test_a_few_rows_without_an_answer_cannot_be_reckoned_out() -> None:
    data = _members(answers=(0, 1)).astype({"locker": float})
    told = _told(ga.scan(ga.read(data, minimum_group=20)))
    assert "locker" in {by for by, _ in told}
    data.loc[:2, "locker"] = None
    assert "locker" not in {by for by, _ in _told(ga.scan(ga.read(data, minimum_group=20)))}
    assert "locker" in {by for by, _ in _told(ga.scan(ga.read(data)))}
