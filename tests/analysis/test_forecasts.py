"""What to expect, through the public call: the past by SQL, parts that add up, bounds, events, targets, bad input."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

from ..commands import run


def _table(values: Any, freq: str = "MS", start: str = "2021-01-01", **more: Any) -> ga.Table:
    return ga.read(
        pd.DataFrame({"date": pd.date_range(start, periods=len(values), freq=freq), "value": values, **more}), name="t"
    )


def _usual(seed: int = 1, size: int = 60) -> np.ndarray:
    return 100 + 20 * np.sin(np.arange(size) * np.pi / 6) + np.random.default_rng(seed).normal(0, 3, size)


def _routes(seed: int = 2) -> pd.DataFrame:
    random = np.random.default_rng(seed)
    frames = []
    for name, level in (("north", 30), ("south", 80), ("east", 50)):
        days = pd.date_range("2021-01-01", "2025-03-14", freq="3D")
        swing = 1 + 0.3 * np.sin(2 * np.pi * days.day_of_year / 365)
        frames.append(pd.DataFrame({
            "date": days, "route": name, "people": random.poisson(level * swing),
            "late": random.random(len(days)) < 0.2,
            "fee": random.gamma(20, level / 20, len(days)).round(2),
        }))  # fmt: skip
    return pd.concat(frames, ignore_index=True)


@pytest.fixture(scope="module")
def routes() -> ga.Table:
    return ga.read(_routes(), name="routes")


def test_the_past_is_that_of_the_sql_without_the_unfinished_period(routes: ga.Table) -> None:
    found = ga.forecast(routes, "sum(fee)", 4)
    plain = _routes()
    whole = plain[plain["date"] < "2025-03-01"].groupby(plain["date"].dt.to_period("M"))["fee"].sum()
    assert found.result.history == pytest.approx(whole.tolist())
    assert str(found.result.ahead[0].period.start) == "2025-03-01"
    assert found.check()
    assert any("unfinished" in text for text in found.caveats())
    before = plain[(plain["date"] >= "2024-03-01") & (plain["date"] < "2024-04-01")]["fee"].sum()
    assert found.result.ahead[0].year_before == pytest.approx(before)


@pytest.mark.parametrize("measure", ["sum(fee)", "sum(people)", "count(*)"])
def test_parts_and_whole_agree_and_ranges_of_sums_are_their_own(routes: ga.Table, measure: str) -> None:
    found = ga.forecast(routes, measure, 6, by="route")
    frame = found.to_frame()
    for period, rows in frame.groupby("period"):
        whole = rows.loc[rows["route"] == "", "value"].item()
        assert rows.loc[rows["route"] != "", "value"].sum() == pytest.approx(whole), period
    total = found.result.total
    assert total is not None
    assert total.value == pytest.approx(sum(one.value for one in found.result.ahead))
    assert total.high80 - total.low80 < sum(one.high80 - one.low80 for one in found.result.ahead)
    assert (frame["low95"] <= frame["low80"]).all()
    assert (frame["high80"] <= frame["high95"]).all()


def test_counts_stay_whole_shares_within_one_and_ratios_are_of_sums(routes: ga.Table) -> None:
    counted = ga.forecast(routes, "sum(people)", 3).to_frame()
    values = counted[["value", "low80", "high80", "low95", "high95"]].to_numpy()
    assert (values == np.round(values)).all()
    assert (values >= 0).all()
    share = ga.forecast(routes, "late", 12).to_frame()
    assert share["low95"].min() >= 0
    assert share["high95"].max() <= 1
    ratio = ga.forecast(routes, "sum(fee) / sum(people)", 3).result
    plain = _routes()
    sums = plain[plain["date"] < "2025-03-01"].groupby(plain["date"].dt.to_period("M"))[["fee", "people"]].sum()
    assert ratio.history == pytest.approx((sums["fee"] / sums["people"]).tolist())


def test_the_order_of_rows_and_the_names_of_labels_do_not_matter(routes: ga.Table) -> None:
    shuffled = _routes().sample(frac=1, random_state=3)
    shuffled["route"] = shuffled["route"].map({"north": "a", "south": "b", "east": "c"})
    one = ga.forecast(routes, "sum(fee)", 4, by="route").to_frame()
    other = ga.forecast(ga.read(shuffled, name="r"), "sum(fee)", 4, by="route").to_frame()
    assert other["value"].tolist() == pytest.approx(one["value"].tolist())


def test_the_run_so_far_is_set_against_its_own_year_before() -> None:
    values = np.tile(100 + 50 * np.sin(np.arange(12) * np.pi / 6), 5)
    values[-6:] *= 1.1
    assert (
        "The 6 months just before were 10% above their year before."
        in ga.forecast(_table(values), "value").summary().text
    )


def test_noise_is_said_to_be_noise() -> None:
    found = ga.forecast(_table(50 + np.random.default_rng(3).normal(size=72)), "sum(value)", 6)
    assert found.result.plain == "mean"
    assert "looks like chance" in found.summary().text
    assert len({round(one.value, 9) for one in found.result.ahead}) == 1


@pytest.mark.parametrize(("kind", "place"), [("step", 30), ("outlier", 47)])
def test_a_step_and_an_outlier_are_taken_out_and_said(kind: str, place: int) -> None:
    values = 75 + np.random.default_rng(4).normal(size=60)
    values[:place] -= 25 * (kind == "step")
    values[place] += 40 * (kind == "outlier")
    found = ga.forecast(_table(values), "sum(value)", 6)
    assert [one.kind for one in found.result.disturbances] == [kind]
    assert found.result.ahead[0].value == pytest.approx(75, abs=2)
    assert {"step": "carried over", "outlier": "left out of the past"}[kind] in found.summary("long").text
    assert found.result.ahead[5].high95 < 85


def test_a_step_of_one_part_leaves_the_others_as_they_were() -> None:
    random = np.random.default_rng(14)
    months = pd.date_range("2020-01-01", periods=60, freq="MS")
    levels = {"calm": np.full(60, 50.0), "stepped": np.where(np.arange(60) < 36, 40.0, 90.0)}
    frames = [pd.DataFrame({"date": months, "part": name, "value": level + random.normal(0, 1, 60)})
              for name, level in levels.items()]  # fmt: skip
    found = ga.forecast(ga.read(pd.concat(frames, ignore_index=True), name="t"), "sum(value)", 4, by="part").result
    assert [one.kind for one in found.disturbances] == ["step"]
    parts = {part.label: part.ahead[0].value for part in found.parts}
    assert parts["calm"] == pytest.approx(50, abs=2)
    assert parts["stepped"] == pytest.approx(90, abs=3)


def _note(first: str, last: str, text: str) -> ga.Note:
    return ga.Note(start=np.datetime64(first), end=np.datetime64(last), text=text)


def test_events_do_again_what_they_did_and_none_is_invented() -> None:
    values = 100 + np.random.default_rng(5).normal(0, 2, 60)
    values[[4, 20, 37, 51]] *= 1.5
    months = ("2021-05", "2022-09", "2024-02", "2025-04", "2026-03")
    events = [
        _note(
            f"{month}-01",
            str((np.datetime64(month) + np.timedelta64(1, "M")).astype("datetime64[D]") - np.timedelta64(1, "D")),
            "Regatta",
        )
        for month in months
    ]
    events.append(_note("2026-05-01", "2026-05-31", "Strike"))
    found = ga.forecast(_table(values), "sum(value)", 6, events=events).result
    regatta, strike = found.events
    assert regatta.seen == 4
    assert regatta.effect == pytest.approx(0.5, abs=0.05)
    assert strike.effect is None
    assert found.ahead[2].value == pytest.approx(150, rel=0.05)
    # The errors made at the origins are those of the past without its events.
    assert max(found.errors) < 0.05
    assert found.ahead[4].value == pytest.approx(100, rel=0.05)


def test_what_a_target_asks_of_the_rest_of_the_year() -> None:
    found = ga.forecast(_table(_usual(size=57)), "sum(value)", 3, target=1300.0)
    target = found.result.target
    assert target is not None
    reached = sum(found.result.history[-9:])
    assert target.reached == pytest.approx(reached)
    assert target.factor == pytest.approx((1300 - reached) / sum(one.value for one in found.result.ahead))
    assert "1,300" in found.summary("long").text


@pytest.mark.parametrize(
    ("values", "more", "said"),
    [
        (_usual(size=7), {}, "8"),
        (_usual(), {"periods": 0}, "1 to 120"),
        (_usual(), {"grain": "fortnight"}, "day, week"),
        (_usual(), {"by": "nothing"}, "nothing"),
        (_usual(), {"periods": 3, "target": 900.0}, "end of the year"),
        (_usual(), {"events": [_note("2022-01-01", "2022-02-03", "A"), _note("2022-02-01", "2022-02-09", "a")]}, "lap"),
    ],
)  # fmt: skip
def test_what_cannot_be_forecast_is_refused_in_one_sentence(values: Any, more: dict[str, Any], said: str) -> None:
    with pytest.raises(ga.AlmanacError, match=said):
        ga.forecast(_table(values), "sum(value)", **more)


@pytest.mark.parametrize(
    "values",
    [
        np.full(40, 7.0), np.zeros(40), 10 * np.sin(np.arange(48) * np.pi / 6) + 0.1 * np.arange(48) % 3,
        np.exp(0.3 * np.arange(40)), np.where(np.arange(50) % 7 == 0, np.nan, _usual(size=50)), _usual(size=9),
        np.where(np.random.default_rng(6).random(60) < 0.3, 5, 0),
    ],
)  # fmt: skip
def test_odd_series_give_finite_figures_and_a_report(values: Any) -> None:
    found = ga.forecast(_table(values), "sum(value)", 12)
    frame = found.to_frame().drop(columns=["period", "year_before"])
    assert np.isfinite(frame.to_numpy()).all()
    assert (frame["low95"] <= frame["value"]).all()
    assert found.headline
    json.dumps(found.to_dict(), allow_nan=False)
    assert found.report().html()


def test_the_command_says_the_same_and_asks_read_it(tmp_path: Path, routes: ga.Table) -> None:
    source = tmp_path / "routes.csv"
    _routes().to_csv(source, index=False)
    told = json.loads(run("forecast", str(source), "-m", "fee", "--periods", "4", "--json").stdout)
    assert told["format"] == "golden-almanac/forecast/1"
    assert [one["period"] for one in told["forecast"]] == ["2025-03-01", "2025-04-01", "2025-05-01", "2025-06-01"]
    assert {"period", "value", "low80", "high80", "low95", "high95"} <= set(told["forecast"][0])
    assert {"method", "mase"} <= set(told["candidates"][0])
    (finding,) = told["findings"]
    assert finding["kind"] == "forecast"
    assert finding["figures"]["change"] == pytest.approx(finding["figures"]["value"] - finding["figures"]["baseline"])
    again = ga.read(source).sql(finding["check"]["sql"])
    assert again["value"].item() == pytest.approx(finding["check"]["expect"]["value"])
    german = run("forecast", str(source), "-m", "fee", "--locale", "de").stdout
    assert "erwartet" in german
    assert run("forecast", str(source), "-m", "fee", "--periods", "900").returncode == 2
    answer = ga.ask(routes, "what will fees be over the next 4 months by route?")
    assert answer.request is not None
    assert answer.request.as_call().startswith("ga.forecast(")
    assert ga.ask(routes, "forecast of fees for 2027").status == "refused"


def test_private_columns_and_small_groups_are_not_forecast() -> None:
    frame = _routes()
    frame.loc[frame.index[:3], "route"] = "tiny"
    table = ga.read(frame, name="r", minimum_group=5)
    labels = {part.label for part in ga.forecast(table, "sum(fee)", 3, by="route").result.parts}
    assert "tiny" not in labels
    with pytest.raises(ga.AlmanacError, match="fewer than 40 rows"):
        ga.forecast(ga.read(frame, name="r", minimum_group=40), "sum(fee)", 3)
    with pytest.raises(ga.AlmanacError):
        ga.forecast(ga.read(frame, name="r", private=["fee"]), "sum(fee)", 3)


def test_a_forecast_is_a_section_of_a_brief_and_a_kept_answer_one_too(tmp_path: Path, routes: ga.Table) -> None:
    _routes().to_csv(tmp_path / "routes.csv", index=False)
    brief = tmp_path / "monthly.toml"
    brief.write_text(
        'source = "routes.csv"\nmeasures = ["sum(fee)"]\nby = ["route"]\n'
        '[[section]]\nforecast = "fee"\nperiods = 3\nfirst = true\n'
    )
    report = ga.report(ga.read_brief(brief))
    assert report.ids[0] == "forecast"
    assert "expected to come to" in report.html().decode()
    talk = ga.conversation(routes)
    talk.ask("forecast of total fee by route")
    talk.ask("keep this")
    assert 'forecast = "sum(fee)"' in talk.brief("routes.csv")
    brief.write_text('source = "routes.csv"\n[[section]]\nforecast = "nothing"\n')
    with pytest.raises(ga.AlmanacError, match="nothing"):
        ga.report(ga.read_brief(brief))


def test_a_forecast_made_before_is_a_baseline_and_what_the_parts_missed_adds_up(routes: ga.Table) -> None:
    change = ga.explain_change(routes, "sum(fee)", period="2025-02", baseline="forecast")
    earlier = ga.forecast(ga.read(_routes().query("date < '2025-02-01'"), name="routes"), "sum(fee)", 1).result.ahead[0]
    told = change.findings[0].figures
    assert told["baseline"] == pytest.approx(earlier.value)
    # Nothing of the period itself was known to it.
    plain = _routes()
    came = plain[(plain["date"] >= "2025-02-01") & (plain["date"] < "2025-03-01")]
    assert told["value"] == pytest.approx(came["fee"].sum())
    parts = change.to_frame()
    assert parts["by"].unique().tolist() == ["route"]
    assert parts["change"].sum() == pytest.approx(told["change"])
    assert parts.set_index("label")["value"].to_dict() == pytest.approx(came.groupby("route")["fee"].sum().to_dict())
    assert list(change.findings[0].to_dict()["check"]["expect"]) == ["value"]
    assert change.findings[0].check()
    assert ("within" in change.summary().text) == (earlier.low95 <= told["value"] <= earlier.high95)
    assert change.to_dict()["findings"][0]["baseline"]["scenario"] == "forecast made before"


@pytest.mark.parametrize(
    ("period", "part"), [("2025-03", "unfinished"), ("2025-01-20/2025-02-28", "whole periods"), ("2021-04", "needs 8")]
)
def test_a_forecast_is_no_baseline_of_a_part_of_a_period_or_without_a_past(
    routes: ga.Table, period: str, part: str
) -> None:
    with pytest.raises(ga.PeriodError, match=part):
        ga.explain_change(routes, "sum(fee)", period=period, baseline="forecast")


def test_two_series_in_one_column_are_not_averaged_without_a_word() -> None:
    months = pd.date_range("2020-01-01", periods=48, freq="MS")
    noise = np.random.default_rng(1).normal(0, 1, (2, 48))
    frame = pd.concat(
        [
            pd.DataFrame({"month": months, "item": "gas", "price": 50 + noise[0]}),
            pd.DataFrame({"month": months, "item": "water", "price": 900 + 9 * noise[1]}),
        ]
    )
    with pytest.raises(ga.PeriodError, match=r"one row for each item \(gas, water\) in every month.*18 times apart"):
        ga.forecast(frame, "price", 6)
    assert len(ga.forecast(frame, "price", 6, by="item").to_frame()) > 0
    gas = ga.forecast(frame[frame["item"] == "gas"], "price", 6).to_frame()
    assert gas.select_dtypes("number").iloc[:, 0].between(47, 53).all()
    # Stations of one network have levels alike: their average is a series.
    near = frame.assign(price=frame["price"].where(frame["item"] == "gas", frame["price"] - 800))
    assert len(ga.forecast(near, "price", 6).to_frame()) == 6
