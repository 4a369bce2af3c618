"""Volume, mix and price, and bridges by component: worked by hand, found by themselves, stated."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def shop(before: dict[str, tuple[int, float]], now: dict[str, tuple[int, float]]) -> pd.DataFrame:
    """Items with (units, price) in January and February, a row for each."""
    rows = [
        (day, item, units, price, units * price)
        for day, month in (("2024-01-10", before), ("2024-02-10", now))
        for item, (units, price) in month.items()
    ]
    frame = pd.DataFrame(rows, columns=["day", "item", "units", "price", "paid"])
    return frame.assign(day=pd.to_datetime(frame["day"]))


def factors(frame: pd.DataFrame) -> dict[str, float]:
    change = ga.explain_change(
        frame, "sum(paid)", period="2024-02", baseline="2024-01", by="item", identity="paid = units * price"
    )
    return {one["name"]: one["change"] for one in change.to_dict()["explanation"]["factors"]}


@pytest.mark.parametrize(
    ("now", "wanted"),
    [
        ({"tea": (10, 3.0), "cake": (5, 4.0)}, {"volume": 0, "price": 10}),
        ({"tea": (20, 2.0), "cake": (10, 4.0)}, {"volume": 40, "price": 0}),
        ({"tea": (10, 2.0), "cake": (5, 4.0), "pie": (2, 6.0)}, {"volume": 0, "price": 0, "new": 12}),
        ({"tea": (10, 2.0)}, {"volume": 0, "price": 0, "ended": -20}),
    ],
)
def test_worked_by_hand(now: dict[str, tuple[int, float]], wanted: dict[str, float]) -> None:
    """Tea 10 at 2.00 and cake 5 at 4.00 before: 20 each."""
    found = factors(shop({"tea": (10, 2.0), "cake": (5, 4.0)}, now))
    assert {name: found.get(name, 0.0) for name in (*wanted, "mix")} == pytest.approx(wanted | {"mix": 0})


def test_mix_is_the_dearer_item_in_place_of_the_cheaper() -> None:
    """As many units, prices as before: 10 and 5 become 5 and 10. Log means: tea −10, cake +20, all of it mix."""
    found = factors(shop({"tea": (10, 2.0), "cake": (5, 4.0)}, {"tea": (5, 2.0), "cake": (10, 4.0)}))
    assert found["mix"] == pytest.approx(10)
    assert found["volume"] == pytest.approx(0, abs=1e-12)
    assert found["price"] == pytest.approx(0, abs=1e-12)


@pytest.fixture(scope="module")
def ledger() -> pd.DataFrame:
    """Two years of months and ports: revenue is passengers times fare, profit revenue less fuel and crew."""
    rng = np.random.default_rng(8)
    months = pd.date_range("2023-01-01", "2024-12-01", freq="MS")
    frame = pd.DataFrame([(day, port) for day in months for port in ("Pellow Quay", "Skerry", "Tarn")] * 4)
    frame.columns = pd.Index(["month", "port"])
    n = len(frame)
    frame["passengers"] = rng.integers(300, 500, n)
    frame["fare"] = np.round(rng.uniform(8, 12, n), 2)
    frame["revenue"] = np.round(frame["passengers"] * frame["fare"], 2)
    frame["fuel"] = np.round(rng.uniform(800, 1200, n), 2)
    frame["crew"] = np.round(rng.uniform(500, 700, n), 2)
    late = frame["month"] >= "2024-07-01"
    frame.loc[late, "fuel"] = np.round(frame.loc[late, "fuel"] * 1.6, 2)
    frame["profit"] = np.round(frame["revenue"] - frame["fuel"] - frame["crew"], 2)
    return frame


def test_bridge_is_found_and_agrees_with_sums_by_hand(ledger: pd.DataFrame) -> None:
    change = ga.explain_change(ledger, "sum(profit)", period="2024-07/2024-12", baseline="2023-07/2023-12")
    found = {part["column"]: part["change"] for part in change.to_dict()["explanation"]["components"]}
    now = ledger[ledger["month"] >= "2024-07-01"]
    then = ledger[(ledger["month"] >= "2023-07-01") & (ledger["month"] < "2024-01-01")]
    signs = {"revenue": 1, "fuel": -1, "crew": -1}
    wanted = {name: sign * (now[name].sum() - then[name].sum()) for name, sign in signs.items()}
    assert {name: found[name] for name in wanted} == pytest.approx(wanted)
    assert "fuel −" in change.summary().text
    chart = change.chart(kind="bridge")
    assert chart.issues() == []
    assert chart.data["value"].iloc[:-1].sum() == pytest.approx(chart.data["value"].iloc[-1])


def test_product_is_found_and_revenue_is_not_bridged_by_profit(ledger: pd.DataFrame) -> None:
    one = ga.explain_change(ledger, "sum(revenue)", period="2024-07/2024-12", baseline="2023-07/2023-12").explanation
    assert one.factors is not None
    assert one.factors.units == "passengers"
    assert one.bridge == ()


@pytest.mark.parametrize(
    ("measure", "identity", "words"),
    [
        ("sum(profit)", "profit = revenue + fuel", "does not"),
        ("sum(profit)", "profit", "equals sign"),
        ("sum(profit)", "profit = sqrt(revenue)", "sum or product"),
        ("sum(revenue)", "profit = revenue - fuel - crew", "column that is summed"),
        ("avg(fare)", "profit = revenue - fuel - crew", "column that is summed"),
        ("sum(profit)", "profit = revenue - fule", "fuel"),
    ],
)
def test_identities_that_cannot_be_used(ledger: pd.DataFrame, measure: str, identity: str, words: str) -> None:
    with pytest.raises(ga.AlmanacError, match=words):
        ga.explain_change(ledger, measure, period="2024-12", baseline="2023-12", identity=identity)


def test_several_measures_are_one_story(ledger: pd.DataFrame) -> None:
    asked = {"period": "2024-07/2024-12", "baseline": "2023-07/2023-12"}
    found = ga.explain_changes(ledger, ["sum(fuel)", "sum(revenue)", "sum(profit)"], **asked)
    assert [change.explanation.measure.name for change in found.changes] == ["sum(revenue)", "sum(fuel)", "sum(profit)"]
    text = found.summary().text
    assert "fuel rose by" in text.lower()
    assert "profit fell by" in text
    frame = found.to_frame().set_index("measure")
    fuel = ledger.set_index("month")["fuel"].sort_index()
    assert frame.loc["sum(fuel)", "change"] == pytest.approx(
        fuel.loc["2024-07":"2024-12"].sum() - fuel.loc["2023-07":"2023-12"].sum()
    )
    assert len(found.to_dict()["explanations"]) == 3
    assert all(finding.check().agrees for change in found.changes for finding in change.findings)


def test_several_baselines(ledger: pd.DataFrame) -> None:
    found = ga.explain_changes(ledger, "sum(fuel)", period="2024-12", baseline=["previous", "year-ago"])
    assert [str(change.explanation.baseline.start) for change in found.changes] == ["2024-11-01", "2023-12-01"]
    assert "above December 2023" in found.summary().text


def test_a_measure_without_values_is_left_out_and_told(ledger: pd.DataFrame) -> None:
    frame = ledger.copy()
    frame.loc[frame["month"] >= "2024-12-01", "fuel"] = np.nan
    found = ga.explain_changes(frame, ["sum(fuel)", "sum(crew)"], period="2024-12", baseline="previous")
    assert len(found) == 1
    assert any("sum(fuel) has no value" in text for text in found.caveats())
    with pytest.raises(ga.PeriodError, match="no value"):
        ga.explain_changes(frame, ["sum(fuel)"], period="2024-12", baseline="previous")


def test_an_identity_goes_with_the_measure_it_is_about(ledger: pd.DataFrame) -> None:
    """Revenue leads the story; the identity stated is that of profit, and holds inside a slice too."""
    asked = {"period": "2024-07/2024-12", "baseline": "2023-07/2023-12", "identity": "profit = revenue - fuel - crew"}
    found = ga.explain_changes(ledger, ["sum(revenue)", "sum(profit)"], **asked)
    assert found[0].explanation.bridge == ()
    inside = found[1].within(port="Tarn").explanation
    assert {part.column for part in inside.bridge} == {"revenue", "fuel", "crew"}
    assert sum(part.change for part in inside.bridge) == pytest.approx(inside.change)
    with pytest.raises(ga.RequestError, match="column that is summed"):
        ga.explain_changes(ledger, ["sum(revenue)", "sum(crew)"], **asked)


def test_one_figure_has_one_name(ledger: pd.DataFrame) -> None:
    """The volume among the contributions is the volume of the explanation; weights are told as what they are of."""
    data = ga.explain_change(ledger, "sum(revenue)", period="2024-07/2024-12", baseline="2023-07/2023-12").to_dict()
    factors = {one["name"]: one["change"] for one in data["explanation"]["factors"]}
    parts = [one for one in data["findings"][0]["figures"]["contributions"] if one["by"] is None]
    assert {one["factor"]: one["change"] for one in parts} == factors
    frame = ledger.copy()
    late = (frame["month"] >= "2024-07-01") & (frame["port"] == "Tarn")
    frame.loc[late, ["passengers", "revenue"]] *= 6
    frame.loc[frame["port"] == "Tarn", "revenue"] *= 2
    asked = {"period": "2024-07/2024-12", "baseline": "2024-01/2024-06"}
    text = ga.explain_change(frame, "sum(revenue) / sum(passengers)", **asked).summary().text
    assert "of the passengers: by that alone" in text
    assert "of the rows" not in text
