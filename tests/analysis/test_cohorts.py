"""Cohorts against a hand count, an independent SQL query and the textbook; silence on noise, planted ones told."""

from __future__ import annotations

from pathlib import Path

import duckdb
import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.stats.share_ranges import wilson_ranges
from golden_almanac.stats.survival import kaplan_meier

from ..commands import run


def _log(
    seed: int, *, once: bool = True, odd: int | None = None, months: int = 20, per: int = 70, times: float = 2.0
) -> pd.DataFrame:
    """Members who join month by month and lapse; those of the cohort `odd` lapse some times as fast."""
    random, rows, number = np.random.default_rng(seed), [], 0
    for cohort in range(months):
        hazard = 0.15 * (times if cohort == odd else 1)
        for _ in range(random.poisson(per)):
            number += 1
            if once:
                ages = np.arange(min(random.geometric(hazard), months - cohort))
            else:
                chance = 0.6 * np.exp(-hazard * np.arange(months - cohort))
                chance[0] = 1
                ages = np.flatnonzero(random.random(months - cohort) < chance)
            months_of = np.datetime64("2023-01") + (cohort + ages).astype("timedelta64[M]")
            days = months_of.astype("datetime64[D]") + random.integers(0, 28, ages.size).astype("timedelta64[D]")
            channel = "Web" if random.random() < 0.3 + 0.02 * cohort else "Counter"
            rows += [(f"M{number:05d}", day, 10.0 + age, channel) for day, age in zip(days, ages, strict=True)]
    frame = pd.DataFrame(rows, columns=["member", "day", "fare", "channel"])
    # The last month is over.
    return pd.concat(
        [frame, frame.tail(1).assign(day=np.datetime64("2024-08-31") if months == 20 else frame["day"].max())]
    )


HAND = pd.DataFrame(
    [
        ("a", "2024-01-03", 5.0), ("a", "2024-02-01", 2.0), ("a", "2024-04-30", 1.0), ("b", "2024-01-31", 4.0),
        ("c", "2024-02-10", 3.0), ("c", "2024-03-10", 3.0), ("c", "2024-03-11", 1.0), ("d", "2024-02-11", 2.0),
        ("e", "2024-04-01", 9.0),
    ],
    columns=["who", "day", "fare"],
)  # fmt: skip


def test_a_table_counted_by_hand() -> None:
    found = ga.cohorts(HAND, "who", "day", measure="sum(fare)")
    frame = found.to_frame().set_index(["cohort", "age"])
    # January: a and b; a came again in February and April. February: c and d; c came again in March.
    assert frame.loc[("2024-01-01", 0), "members"] == 2
    assert frame["active"].to_dict() == {
        ("2024-01-01", 0): 2, ("2024-01-01", 1): 1, ("2024-01-01", 2): 0, ("2024-01-01", 3): 1,
        ("2024-02-01", 0): 2, ("2024-02-01", 1): 1, ("2024-02-01", 2): 0, ("2024-04-01", 0): 1,
    }  # fmt: skip
    assert frame.loc[("2024-01-01", 1), "share"] == 0.5
    assert frame.loc[("2024-01-01", 0), "value_per_member"] == 4.5
    assert frame.loc[("2024-02-01", 1), "value"] == 4.0
    # Wilson's range of one in two, as the textbook has it.
    assert frame.loc[("2024-01-01", 1), ["low", "high"]].tolist() == pytest.approx([0.0945, 0.9055], abs=1e-4)
    text = str(found.summary())
    assert "2 members of the first period may have joined earlier" in " ".join(found.caveats())
    assert "No cohort differs" in text


def test_joining_may_be_said_and_activity_before_it_is_left_out() -> None:
    joined = {"a": "2023-12-05", "b": "2024-01-31", "c": "2024-03-01", "d": "2024-02-01", "e": "2024-04-01"}
    frame = HAND.assign(joined=HAND["who"].map(joined))
    # One who joined and never came.
    frame = pd.concat([frame, pd.DataFrame([("f", None, None, "2024-02-02")], columns=frame.columns)])
    found = ga.cohorts(frame, "who", "day", joined="joined")
    told = found.to_frame().set_index(["cohort", "age"])
    assert told.loc[("2023-12-01", 0), "active"] == 0
    assert told.loc[("2023-12-01", 1), "active"] == 1
    assert told.loc[("2024-02-01", 0), ["members", "active"]].tolist() == [2, 1]
    assert "1 member was active before joining; that activity is left out." in found.caveats()
    assert not found.result.founders


def test_an_unfinished_period_and_the_future_are_blank() -> None:
    log = _log(3)
    cut = log[log["day"] <= np.datetime64("2024-06-10")]
    frame = ga.cohorts(cut, "member", "day").to_frame()
    assert frame["cohort"].max() == "2024-05-01"
    last = frame.groupby("cohort")["age"].max()
    assert last["2024-05-01"] == 0
    assert last["2023-01-01"] == 16


@settings(max_examples=40, deadline=None)
@given(
    rows=st.lists(st.tuples(st.integers(0, 12), st.integers(0, 400), st.integers(0, 50)), min_size=30, max_size=120),
    grain=st.sampled_from(["week", "month", "quarter"]),
)
def test_counts_are_those_of_an_independent_query(rows: list[tuple[int, int, int]], grain: str) -> None:
    log = pd.DataFrame(rows, columns=["who", "day", "paid"])
    log["day"] = pd.Timestamp("2023-01-02") + pd.to_timedelta(log["day"], "D")
    log["who"] = "W" + log["who"].astype(str)
    # A last row at the end of a period, so that all are over.
    log = pd.concat([log, pd.DataFrame([("W0", pd.Timestamp("2024-03-31"), 1)], columns=log.columns)])
    found = ga.cohorts(log, "who", "day", grain=grain, measure="sum(paid)").to_frame()
    wanted = duckdb.sql(
        f"""WITH p AS (SELECT who, date_trunc('{grain}', day) AS t, sum(paid) AS v FROM log GROUP BY ALL),
        j AS (SELECT who, min(t) AS c FROM p GROUP BY who)
        SELECT CAST(c AS DATE) AS cohort, datediff('{grain}', c, t) AS age, count(*) AS active, sum(v) AS value
        FROM p JOIN j USING (who) GROUP BY ALL"""
    ).df()
    wanted["cohort"] = wanted["cohort"].astype(str).str[:10]
    both = found.merge(wanted, on=["cohort", "age"], how="outer", suffixes=("", "_sql")).fillna(0)
    last = found["cohort"].max()
    both = both[both["members"] > 0] if last else both
    assert (both["active"] == both["active_sql"]).all()
    assert np.allclose(both["value"], both["value_sql"], rtol=1e-9)
    # The order of rows changes nothing.
    again = ga.cohorts(log.sample(frac=1, random_state=1), "who", "day", grain=grain, measure="sum(paid)").to_frame()
    pd.testing.assert_frame_equal(found, again)


def test_its_check_gives_the_same_again() -> None:
    table = ga.read(_log(5))
    found = ga.cohorts(table, "member", "day")
    sql = table.sql(found.sql)
    sql = sql.assign(cohort=sql["cohort"].astype(str).str[:10])
    told = found.to_frame()
    assert sql.groupby("cohort")["active"].sum().to_dict() == told.groupby("cohort")["active"].sum().to_dict()


def test_its_check_holds_the_condition_and_the_measure() -> None:
    log = _log(5)
    found = ga.cohorts(log, "member", "day", measure="sum(fare)", where="channel = 'Web'")
    # Over the source itself, all its rows.
    sql = ga.read(log).sql(found.sql)
    told = found.to_frame()
    assert int(sql["active"].sum()) == int(told["active"].sum())
    assert float(sql["value"].sum()) == pytest.approx(told["value"].sum())


def test_members_are_not_followed_where_small_groups_are_not_shown() -> None:
    with pytest.raises(ga.RequestError, match="groups of fewer than 5 rows are not shown"):
        ga.cohorts(ga.read(HAND, minimum_group=5), "who", "day")


def test_survival_is_that_of_the_textbook() -> None:
    """Remission of leukaemia patients under 6-MP, in weeks (Freireich et al. 1963), the example of every textbook."""
    weeks = np.array([6, 6, 6, 6, 7, 9, 10, 10, 11, 13, 16, 17, 19, 20, 22, 23, 25, 32, 32, 34, 35])
    back = np.array([1, 1, 1, 0, 1, 0, 1, 0, 0, 1, 1, 0, 0, 0, 1, 1, 0, 0, 0, 0, 0]) == 1
    found = kaplan_meier(weeks, back)
    told = {week: round(float(found.left[week - 1]), 4) for week in (6, 7, 10, 13, 16, 22, 23)}
    assert told == {6: 0.8571, 7: 0.8067, 10: 0.7529, 13: 0.6902, 16: 0.6275, 22: 0.5378, 23: 0.4482}
    assert found.at_risk[[5, 6, 9, 12, 15, 21, 22]].tolist() == [21, 17, 15, 12, 11, 7, 6]
    assert found.median == 23
    # Greenwood's standard error at six weeks: 0.0764.
    assert (found.high[5] - found.low[5]) / (2 * 1.96) == pytest.approx(0.0764, abs=6e-4) or found.high[5] == 1.0
    low, high = wilson_ranges(np.array([0.0, 15.0]), np.array([10.0, 148.0]))
    assert low.tolist() == pytest.approx([0.0, 0.0624], abs=1e-4)
    assert high.tolist() == pytest.approx([0.2775, 0.1605], abs=1e-4)


@pytest.mark.parametrize("once", [True, False])
def test_a_cohort_that_lapses_twice_as_fast_is_told_first(once: bool) -> None:
    for seed, odd in ((1, 4), (2, 9), (3, 12)):
        found = ga.cohorts(_log(seed, once=once, odd=odd, per=90), "member", "day")
        first = found.result.odd[0]
        month = f"{2023 + odd // 12}-{odd % 12 + 1:02d}-01"
        assert str(first.period.start) == month
        assert first.gap < 0
        assert ("left faster" if once else "Fewer of those who joined") in found.headline
        assert (found.result.survival is not None) == once


@pytest.mark.parametrize("once", [True, False])
def test_noise_is_not_told(once: bool) -> None:
    told = [bool(ga.cohorts(_log(100 + seed, once=once), "member", "day").result.odd) for seed in range(12)]
    assert sum(told) <= 1


def test_who_the_newcomers_are() -> None:
    found = ga.cohorts(_log(8), "member", "day", by=["channel"])
    shift = found.result.shifts[0]
    assert shift.now - shift.before == pytest.approx(0.2, abs=0.08) or shift.now - shift.before < -0.1
    assert "of newcomers in the later half" in str(found.summary("long"))


def test_the_command_writes_a_page_and_refuses_in_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "trips.csv"
    _log(6, odd=6, per=90).to_csv(path, index=False)
    done = run("cohorts", path, "--member", "member", "--active", "day", "-m", "fare", "-o", tmp_path / "page.html")
    assert done.returncode == 0, done.stderr
    assert "July 2023 left faster" in " ".join(done.stdout.split())
    assert "Share active by month after joining" in (tmp_path / "page.html").read_text("utf-8")
    for words, message in (
        (("--member", "nobody", "--active", "day"), "nobody"),
        (("--member", "member", "--active", "fare"), "holds number, not dates"),
        (("--member", "member", "--active", "day", "-m", "avg(fare)"), "a sum or a count"),
        (("--member", "member", "--active", "member"), "holds text, not dates"),
    ):
        refused = run("cohorts", path, *words)
        assert refused.returncode == 2
        assert message in " ".join(refused.stderr.split())


def test_a_cohort_of_one_and_a_log_of_a_day() -> None:
    one = ga.cohorts(HAND.head(4), "who", "day")
    assert len(one.to_frame()) > 0
    with pytest.raises(ga.PeriodError):
        ga.cohorts(pd.DataFrame({"who": ["a", "b"], "day": pd.to_datetime(["2024-01-03", "2024-01-03"])}), "who", "day")


def test_a_log_of_the_same_few_and_odd_names_are_told_of() -> None:
    days = pd.date_range("2020-01-01", periods=400)
    same = ga.cohorts(pd.DataFrame({"m": list("ab") * 200, "d": days}), "m", "d")
    assert "Of those who join, 100% are active after 3 months" in same.headline
    odd = pd.DataFrame({"=cmd()": list("ab") * 20, "<b>x</b>": days[::10], "o'r\"": range(40)})
    page = ga.cohorts(odd, "=cmd()", "<b>x</b>", measure="count(*)").report().made("html").decode()
    assert "<b>x</b>" not in page
    with pytest.raises(ga.ColumnError, match="not dates"):
        ga.cohorts(pd.DataFrame({"m": [None, "a"] * 10, "d": [pd.NaT] * 20}), "m", "d")


def test_json_holds_each_cohort_with_its_ages() -> None:
    found = ga.cohorts(HAND, "who", "day").to_dict()["cohorts"]
    assert [(one["cohort"], one["size"]) for one in found] == [("2024-01-01", 2), ("2024-02-01", 2), ("2024-04-01", 1)]
    ages = [(one["age"], one["active"], one["rate"]) for one in found[0]["ages"]]
    assert ages == [(0, 2, 1.0), (1, 1, 0.5), (2, 0, 0.0), (3, 1, 0.5)]
    assert {"low", "high"} <= set(found[0]["ages"][1])
