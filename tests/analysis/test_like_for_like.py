"""Growth like for like: shops that opened and closed told apart from those there throughout, adding up."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga

_OPENED = {"Kelp": "2024-09-01", "Marl": "2025-02-01", "Nore": "2025-03-15"}
_CLOSED = {"Aber": "2025-03-01"}
_STAYED = ("Bray", "Cove", "Dunn", "Esk", "Fair", "Gull", "Holm")


def shops(seed: int = 1, growth: float = 0.04) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    rows = []
    for day in pd.date_range("2023-01-01", "2025-12-31"):
        for place, shop in enumerate(("Aber", *_STAYED, *_OPENED)):
            first, past = (pd.Timestamp(ends.get(shop, end)) for ends, end in ((_OPENED, "2000"), (_CLOSED, "2100")))
            if not first <= day < past:
                continue
            for _ in range(rng.poisson(1.2)):
                amount = rng.gamma(6, 10 + place) * (1 + growth * (day.year - 2023))
                rows.append((day, shop, round(float(amount), 2)))
    return pd.DataFrame(rows, columns=["day", "shop", "sales"])


@pytest.fixture(scope="module")
def opened() -> pd.DataFrame:
    return shops()


def test_a_change_is_told_like_for_like(opened: pd.DataFrame) -> None:
    change = ga.explain_change(opened, period="2025", baseline="2024")
    found = change.explanation.like_for_like
    assert found is not None
    assert set(found.came) == set(_OPENED)
    assert found.ended == ("Aber",)
    year = opened["day"].dt.year
    stayed = opened["shop"].isin(_STAYED)
    assert found.now == pytest.approx(opened["sales"][stayed & (year == 2025)].sum())
    assert found.before == pytest.approx(opened["sales"][stayed & (year == 2024)].sum())
    assert found.change + found.came_change + found.ended_change == pytest.approx(change.explanation.change)
    assert "Like for like, the 7 shops there throughout moved by" in change.summary().text
    told = change.to_dict()["explanation"]["like_for_like"]
    assert told["stayed"] == 7
    for name, of_year in (("value", 2025), ("baseline", 2024)):
        sql = f"SELECT sum(sales) AS s FROM source WHERE year(day) = {of_year} AND {told['sql']}"
        assert ga.read(opened).sql(sql)["s"][0] == pytest.approx(told[name])


def test_a_trend_that_is_openings_says_so(opened: pd.DataFrame) -> None:
    (trend,) = [one for one in ga.scan(opened, kinds=["trend"]).findings if not one.where.conditions]
    assert trend.figures["like_for_like"]["stayed"] == 7
    assert "but like for like, in the 7 shops there throughout, by" in trend.headline
    assert {"stayed_start", "stayed_end"} <= set(trend.evidence.expect)
    assert trend.check().agrees


@given(st.integers(0, 200))
def test_the_three_parts_add_up(seed: int) -> None:
    """On any coming and going of labels, month by month."""
    rng = np.random.default_rng(seed)
    months = pd.date_range("2023-01-01", "2025-12-01", freq="MS")
    rows = []
    for label in "abcdefgh":
        first, last = sorted(rng.integers(0, 36, 2)) if rng.random() < 0.4 else (0, 35)
        rows += [(month, label, round(float(rng.gamma(20, 5)), 2)) for month in months[first : last + 1]]
    frame = pd.DataFrame(rows, columns=["month", "branch", "revenue"])
    change = ga.explain_change(frame, period="2025", baseline="2024").explanation
    found = change.like_for_like
    if found is not None:
        assert found.change + found.came_change + found.ended_change == pytest.approx(change.change, abs=1e-6)
        assert not set(found.came) & set(found.ended)


def test_a_plan_has_no_openings() -> None:
    """What is not planned did not come since the plan; and four centuries of days are not grouped by label."""
    rng = np.random.default_rng(3)
    days = pd.date_range("2024-01-01", "2025-06-30")
    rows = [
        (day, f"Pier {pier}", what, float(rng.integers(50, 90)))
        for day in days
        for pier in range(40)
        for what in ("Actual", "Budget")
        if pier or what == "Actual"
    ]
    dues = pd.DataFrame(rows, columns=["day", "pier", "scenario", "dues"])
    found = ga.explain_change(dues, baseline="budget", period="2025-Q1").explanation
    assert found.like_for_like is None
    assert found.calendar is None


def test_labels_that_are_rare_did_not_come() -> None:
    """A label with a row now and then is no opening where it has none for a while."""
    rng = np.random.default_rng(5)
    days = rng.choice(pd.date_range("2023-01-01", "2025-12-31"), 3000)
    what = rng.choice(["often", "seldom", "now and then"], 3000, p=[0.995, 0.003, 0.002])
    frame = pd.DataFrame({"day": days, "what": what, "cost": np.round(rng.gamma(9, 10, 3000), 2)})
    assert ga.explain_change(frame, period="2025", baseline="2024").explanation.like_for_like is None


def waits(seed: int = 3) -> pd.DataFrame:
    """The shops that open make people wait longer, and more is brought back there; one that closes is like the rest."""
    frame = shops(seed)
    rng = np.random.default_rng(seed)
    slow = frame["shop"].isin(_OPENED).to_numpy()
    waiting = rng.gamma(6, 2.5, len(frame)) + np.where(slow, 12.0, 0.0)
    return frame.assign(waiting_minutes=waiting.round(2), returned=rng.random(len(frame)) < np.where(slow, 0.3, 0.08))


@pytest.mark.parametrize(
    ("measure", "column"), [("avg(waiting_minutes)", "waiting_minutes"), ("avg(returned)", "returned")]
)
def test_an_average_is_told_like_for_like(measure: str, column: str) -> None:
    frame = waits()
    change = ga.explain_change(frame, measure=measure, period="2025", baseline="2024")
    found = change.explanation.like_for_like
    assert found is not None
    year, stayed = frame["day"].dt.year, frame["shop"].isin(_STAYED)
    assert found.now == pytest.approx(frame[column][stayed & (year == 2025)].mean())
    assert found.before == pytest.approx(frame[column][stayed & (year == 2024)].mean())
    assert found.change + found.came_change + found.ended_change == pytest.approx(change.explanation.change)
    without = ~frame["shop"].isin(_OPENED)
    gone = [frame[column][without & (year == one)].mean() for one in (2024, 2025)]
    whole = [frame[column][year == one].mean() for one in (2024, 2025)]
    assert found.came_change == pytest.approx((whole[1] - whole[0]) - (gone[1] - gone[0]))
    assert "Like for like, the 7 shops there throughout moved by" in change.summary().text
    told = change.to_dict()["explanation"]["like_for_like"]
    sql = f"SELECT avg(CAST({column} AS DOUBLE)) AS s FROM source WHERE year(day) = 2025 AND {told['sql']}"
    assert ga.read(frame).sql(sql)["s"][0] == pytest.approx(told["value"])


@pytest.mark.parametrize(("seed", "kind"), [(12, "trend"), (3, "shift")])
def test_the_movement_of_an_average_that_is_openings_says_so(seed: int, kind: str) -> None:
    found = ga.scan(waits(seed), measures="avg(returned)", kinds=["trend", "shift"]).findings
    (whole,) = [one for one in found if not one.where.conditions]
    assert whole.kind == kind
    assert "but like for like, in the 7 shops there throughout, by" in whole.headline
    assert {"stayed_start", "stayed_end"} <= set(whole.evidence.expect)
    assert whole.check().agrees
