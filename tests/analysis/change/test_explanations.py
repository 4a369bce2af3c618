"""Explanations: the slices planted are those named, everything adds up, and what is usual is told as usual."""

from __future__ import annotations

from typing import Any

import numpy as np
import pandas as pd
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import golden_almanac as ga

SHOPS, AREAS = [f"Shop {i}" for i in range(6)], ["North", "South", "East"]


@pytest.fixture(scope="module")
def sales() -> pd.DataFrame:
    """Three even years of 40 rows a day; nothing happens."""
    rng = np.random.default_rng(61)
    count = 40 * 1096
    return pd.DataFrame(
        {
            "day": np.datetime64("2022-01-01") + np.repeat(np.arange(1096), 40).astype("timedelta64[D]"),
            "shop": rng.choice(SHOPS, count),
            "area": rng.choice(AREAS, count),
            "lane": rng.choice(list("pqrs"), count),
            "amount": np.round(rng.lognormal(3, 0.4, count), 2),
        }
    )


def late(frame: pd.DataFrame) -> pd.Series:
    return frame["day"] >= "2024-10-01"


def explained(frame: pd.DataFrame, measure: str = "sum(amount)", **asked: Any) -> ga.Change:
    return ga.explain_change(frame, measure, **({"period": "2024-Q4", "baseline": "year-ago"} | asked))


def slices(change: ga.Change) -> list[dict[str, list[str]]]:
    return [one["where"] for one in change.to_dict()["explanation"]["smallest"]["slices"]]


def test_a_slice_of_three_dimensions_is_named_and_nothing_else(sales: pd.DataFrame) -> None:
    frame = sales.copy()
    own = (frame["shop"] == "Shop 2") & (frame["area"] == "East") & (frame["lane"] == "q") & late(frame)
    frame.loc[own, "amount"] *= 12
    change = explained(frame)
    assert [dict(sorted(one.items())) for one in slices(change)] == [
        {"area": ["East"], "lane": ["q"], "shop": ["Shop 2"]}
    ]
    assert change.findings[1].check().agrees
    assert "What stands out: Shop 2 with East and q (shop, area, lane; +" in change.summary().text
    found = change.to_dict()["explanation"]["smallest"]
    assert found["explained"] == pytest.approx(1, abs=0.15)
    # The rest of the rows, counted without the product.
    other = frame[~((frame["shop"] == "Shop 2") & (frame["area"] == "East") & (frame["lane"] == "q"))]
    assert found["rest"]["value"] == pytest.approx(other.loc[late(other), "amount"].sum())


def test_rises_and_falls_that_offset_each_other_are_told_of_a_flat_total(sales: pd.DataFrame) -> None:
    frame = sales.copy()
    frame.loc[(frame["shop"] == "Shop 1") & late(frame), "amount"] *= 1.6
    frame.loc[(frame["shop"] == "Shop 4") & late(frame), "amount"] *= 0.4
    change = explained(frame)
    assert change.to_dict()["explanation"]["verdict"] == "offset"
    assert "Rises and falls offset each other: Shop " in change.summary().text
    assert {one["shop"][0] for one in slices(change)} == {"Shop 1", "Shop 4"}
    by_shop = next(one for one in change.to_dict()["explanation"]["dimensions"] if one["by"] == "shop")
    assert by_shop["up"] + by_shop["down"] == pytest.approx(change.explanation.change)


def test_an_even_fall_says_so_and_where_to_look(sales: pd.DataFrame) -> None:
    frame = sales.copy()
    frame.loc[late(frame), "amount"] *= 0.7
    text = explained(frame).summary().text
    assert "even across the board" in text
    assert "The fall went with amount per row (−30%), not with rows" in text
    assert "Look next at amount per row: that made the fall, everywhere." in text


def test_table_of_totals_is_as_calm_as_its_past(sales: pd.DataFrame) -> None:
    """One row a month and shop: the rows are few, but earlier months show how little they stray."""
    monthly = sales.assign(day=sales["day"].dt.to_period("M").dt.to_timestamp()).groupby(
        ["day", "shop"], as_index=False
    )
    frame = monthly["amount"].sum()
    frame.loc[(frame["shop"] == "Shop 3") & late(frame), "amount"] *= 0.3
    assert slices(explained(frame)) == [{"shop": ["Shop 3"]}]


def test_few_rows_claim_nothing() -> None:
    frame = pd.DataFrame(
        {
            "day": pd.to_datetime(["2024-01-10"] * 3 + ["2024-02-10"] * 3),
            "item": ["tea", "cake", "pie"] * 2,
            "sales": [100.0, 50.0, 20.0, 140.0, 45.0, 22.0],
        }
    )
    change = ga.explain_change(frame, "sum(sales)", period="2024-02", baseline="previous")
    assert change.to_dict()["explanation"]["verdict"] == "nothing"
    assert "Largest by item: tea (+40)" in change.summary().text
    assert "too few to tell that from chance" in change.summary().text


def test_a_season_of_the_whole_and_of_a_shop_is_no_news(sales: pd.DataFrame) -> None:
    wave = np.cos(2 * np.pi * (sales["day"].dt.month - 7) / 12)
    frame = sales.assign(amount=sales["amount"] * (1 + wave * np.where(sales["shop"] == "Shop 0", 0.6, 0.3)))
    change = explained(frame, period="2024-07", baseline="2024-04")
    one = change.explanation
    assert one.verdict == "season"
    assert slices(change) == []
    assert "That is the season: a rise of" in change.summary().text
    # A business without noise: the season from a table of the same months by hand, to a few points.
    months = frame.groupby(frame["day"].dt.to_period("M"))["amount"].sum()
    usual = np.mean([np.log(months[f"{year}-07"] / months[f"{year}-04"]) for year in (2022, 2023)])
    assert one.expected is not None
    assert one.expected.change / one.before == pytest.approx(np.expm1(usual), abs=0.05)


def test_surprise_beside_the_season_and_the_forecast(sales: pd.DataFrame) -> None:
    wave = np.cos(2 * np.pi * (sales["day"].dt.month - 7) / 12)
    frame = sales.assign(amount=sales["amount"] * (1 + 0.3 * wave))
    frame.loc[frame["day"] >= "2024-12-01", "amount"] *= 0.6
    change = explained(frame, period="2024-12", baseline="previous")
    assert "unusual for the season: a fall of" in change.summary().text
    found = change.to_dict()["explanation"]
    for name in ("expected", "forecast"):
        assert found[name]["low"] < found[name]["change"] < found[name]["high"]
        assert change.explanation.change < found[name]["low"]
        assert found[name]["surprise"] == pytest.approx(change.explanation.change - found[name]["change"])


def test_a_rolling_span_against_the_days_before(sales: pd.DataFrame) -> None:
    change = explained(sales, period="last 30 days", baseline="previous")
    one = change.explanation
    assert (str(one.period.start), str(one.period.end)) == ("2024-12-02", "2024-12-31")
    assert (str(one.baseline.start), str(one.baseline.end)) == ("2024-11-02", "2024-12-01")
    assert one.value == pytest.approx(sales.loc[sales["day"] >= "2024-12-02", "amount"].sum())
    # How spans of thirty days moved before, counted by hand.
    daily = sales.groupby("day")["amount"].sum()
    ends = [np.datetime64("2024-12-31") - np.timedelta64(30 * back, "D") for back in range(1, 36)]
    totals = [daily[(daily.index > end - np.timedelta64(30, "D")) & (daily.index <= end)].sum() for end in ends]
    moves = np.log(np.array(totals[:-1]) / np.array(totals[1:]))
    assert one.expected is not None
    assert one.expected.change / one.before == pytest.approx(np.expm1(moves.mean()), abs=1e-3)
    assert one.expected.usual
    with pytest.raises(ga.PeriodError, match="holds no day"):
        explained(sales, period="last 0 days")


@pytest.mark.parametrize("seed", range(2))
def test_order_of_rows_and_names_of_labels_change_nothing(seed: int, sales: pd.DataFrame) -> None:
    frame = sales.copy()
    frame.loc[(frame["shop"] == "Shop 2") & (frame["area"] == "East") & late(frame), "amount"] *= 3.5
    renamed = frame.sample(frac=1, random_state=seed).replace({"shop": {"Shop 2": "A shop"}, "area": {"East": "Zone"}})
    one, other = explained(frame), explained(renamed)
    assert slices(one) == [{"area": ["East"], "shop": ["Shop 2"]}]
    assert slices(other) == [{"area": ["Zone"], "shop": ["A shop"]}]
    excess = [change.explanation.smallest.slices[0].excess for change in (one, other)]
    assert excess[0] == pytest.approx(excess[1], rel=1e-12)


def test_contributions_nest(sales: pd.DataFrame) -> None:
    whole = explained(sales)
    inside = whole.within(shop="Shop 2")
    parts = whole.to_frame().query("by == 'shop' and label == 'Shop 2'")["change"]
    assert inside.explanation.change == pytest.approx(float(parts.iloc[0]))
    deeper = inside.within(area="East")
    area = inside.to_frame().query("by == 'area' and label == 'East'")["change"]
    assert deeper.explanation.change == pytest.approx(float(area.iloc[0]))
    assert set(deeper.to_frame()["by"]) == {"lane"}
    assert deeper.findings[0].check().agrees
    assert "of Shop 2, East were" in deeper.headline or "of Shop 2, East was" in deeper.headline


@pytest.mark.parametrize(
    ("labels", "words"), [({"shpo": "Shop 2"}, "'shop'"), ({"shop": "Shop 22"}, "Shop 2"), ({"day": "2024"}, "columns")]
)
def test_looking_within_what_is_not_there(sales: pd.DataFrame, labels: dict[str, str], words: str) -> None:
    with pytest.raises(ga.RequestError, match=words):
        explained(sales).within(**labels)


amounts = st.lists(
    st.tuples(
        st.sampled_from("abc"), st.sampled_from("xy"), st.sampled_from([0, 1]), st.integers(-500, 900),
        st.integers(0, 40), st.integers(1, 90),
    ),
    min_size=30,
    max_size=60,
)  # fmt: skip


@settings(max_examples=15)
@given(amounts)
def test_every_decomposition_adds_up(rows: list[tuple[str, str, int, int, int, int]]) -> None:
    assume({when for _, _, when, *_ in rows} == {0, 1})
    frame = pd.DataFrame(
        {
            "day": [np.datetime64("2024-03-05") + np.timedelta64(31 * when, "D") for _, _, when, *_ in rows],
            "shop": [shop for shop, *_ in rows],
            "lane": [lane for _, lane, *_ in rows],
            "cost": [cost / 100 for *_, cost, _, _ in rows],
            "units": [units for *_, units, _ in rows],
            "price": [price / 10 for *_, price in rows],
        }
    )
    frame["paid"] = frame["units"] * frame["price"]
    frame["profit"] = frame["paid"] - frame["cost"]
    asked = {"period": "2024-04", "baseline": "2024-03", "by": ["shop", "lane"], "time": "day"}
    for measure, identity in (("sum(paid)", "paid = units * price"), ("sum(profit)", "profit = paid - cost")):
        whole = ga.explain_change(frame, measure, identity=identity, **asked)
        one = whole.explanation
        scale = 1e-9 * max(1.0, abs(one.value), abs(one.before), float(frame["cost"].abs().sum()))
        if one.factors is not None:
            assert sum(part for _, part in one.factors.parts) == pytest.approx(one.change, abs=scale)
        if measure == "sum(profit)":
            assert {part.column for part in one.bridge} >= {"paid", "cost"}
            assert sum(part.change for part in one.bridge) == pytest.approx(one.change, abs=scale)
        for breakdown in one.breakdowns:
            up, down = breakdown.gross
            assert up + down == pytest.approx(one.change, abs=scale)
            for part in breakdown.contributions[:1]:
                if part.status == "kept":
                    nested = whole.within(**{breakdown.by: part.label}).explanation
                    assert nested.change == pytest.approx(part.change, abs=scale)


def test_an_average_that_moves_no_more_than_its_rows_spread_is_chance(sales: pd.DataFrame) -> None:
    frame = sales[sales["day"] < "2022-03-01"]
    calm = ga.explain_change(frame, "avg(amount)", period="2022-02", baseline="previous")
    assert "no more than chance makes from row to row" in calm.summary().text
    months = [frame.loc[frame["day"].dt.month == month, "amount"] for month in (1, 2)]
    error = np.sqrt(sum(month.var(ddof=0) / len(month) for month in months))
    assert calm.explanation.chance is not None
    assert calm.explanation.chance.high == pytest.approx(2 * error)
    moved = frame.assign(amount=frame["amount"] * np.where(frame["day"] >= "2022-02-01", 1.3, 1.0))
    assert ga.explain_change(moved, "avg(amount)", period="2022-02", baseline="previous").explanation.chance is None


def test_amounts_of_both_signs_are_set_against_the_rows_of_the_rest(sales: pd.DataFrame) -> None:
    """A loss that shrinks alike everywhere is even, though no proportion can be told of it."""
    frame = sales[sales["day"] < "2022-03-01"].copy()
    frame["amount"] -= 60
    calm = ga.explain_change(frame, "sum(amount)", period="2022-02", baseline="2022-01").explanation
    assert calm.verdict == "nothing"
    assert calm.noticed is not None
    halved = frame.assign(amount=np.where(frame["day"] >= "2022-02-01", frame["amount"] / 2, frame["amount"]))
    assert ga.explain_change(halved, "sum(amount)", period="2022-02", baseline="2022-01").explanation.verdict == "even"
    frame.loc[(frame["shop"] == "Shop 5") & (frame["day"] >= "2022-02-01"), "amount"] += 90
    change = ga.explain_change(frame, "sum(amount)", period="2022-02", baseline="2022-01")
    assert slices(change) == [{"shop": ["Shop 5"]}]
    assert "%" not in change.headline
