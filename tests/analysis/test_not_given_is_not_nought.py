"""What rows have no value for is unknown, and not nought; what few rows tell is no history."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.analysis.detectors import gap

TOWNS = "Aldwick Brae Carrick Dunmore Elsay Fara Garve Hoy".split()


@pytest.fixture(scope="module")
def permits() -> pd.DataFrame:
    """Permits of eight towns by the month, of which Brae gave none of its figures before March 2013."""
    rng = np.random.default_rng(4)
    months = pd.period_range("2010-01", "2015-12", freq="M")
    frame = pd.DataFrame(
        [
            (month.to_timestamp(), town, round(size * rng.normal(1, 0.06)))
            for town, size in _sizes(rng)
            for month in months
        ],
        columns=["month", "town", "permits"],
    )
    late = (frame["town"] == "Brae") & (frame["month"] < "2013-03")
    return frame.assign(permits=frame["permits"].astype(float).where(~late))


def _sizes(rng: np.random.Generator) -> list[tuple[str, float]]:
    return [(town, rng.uniform(80, 400)) for town in TOWNS]


@pytest.fixture(scope="module")
def scanned(permits: pd.DataFrame) -> ga.Scan:
    return ga.scan(permits)


def test_no_step_from_nought_is_told_of_who_gave_no_figures(scanned: ga.Scan) -> None:
    told = [(one.kind, one.where.label) for one in (*scanned.findings, *scanned.folded)]
    assert not [one for one in told if one[0] in ("shift", "trend", "spike", "divergence") and one[1]]


def test_it_is_told_as_what_it_is(scanned: ga.Scan, permits: pd.DataFrame) -> None:
    (gap,) = [one for one in scanned.findings if one.kind == "gap"]
    assert gap.headline == "No permits of Brae is given before March 2013, in any of 38 rows."
    assert gap.check().agrees
    assert gap.figures["rows"] == permits["permits"].isna().sum() == 38


def test_the_step_of_the_whole_says_what_it_is_like_for_like(scanned: ga.Scan, permits: pd.DataFrame) -> None:
    (step,) = [one for one in scanned.findings if one.kind == "shift"]
    others = permits[permits["town"] != "Brae"].set_index("month")["permits"].sort_index()
    before, after = others["2012-03":"2013-02"].sum(), others["2013-03":"2014-02"].sum()  # type: ignore[misc]
    alike = step.figures["like_for_like"]
    assert (alike["came"], alike["stayed"]) == (["Brae"], 7)
    assert alike["change_pct"] == pytest.approx(100 * (after / before - 1))


def test_a_change_against_months_without_figures_is_told_like_for_like(permits: pd.DataFrame) -> None:
    change = ga.explain_change(permits, period="2013")
    assert "Like for like, the 7 towns there throughout moved by" in str(change.summary())


def test_falling_by_less_than_the_others_is_no_step_up() -> None:
    """All fall by half but one, which falls by a quarter: beside them it gained, by itself it fell."""
    rng = np.random.default_rng(11)
    months = pd.date_range("2021-01-01", periods=36, freq="MS")
    rows = [
        (month, town, rng.normal(50, 4) * ((0.75 if town == "Hoy" else 0.4) if at >= 20 else 1.0))
        for town in TOWNS
        for at, month in enumerate(months)
        for _ in range(12)
    ]
    scan = ga.scan(pd.DataFrame(rows, columns=["month", "town", "revenue"]))
    (own,) = [one for one in (*scan.findings, *scan.folded) if one.where.label == "Hoy" and one.kind == "shift"]
    assert own.direction == "up"
    assert own.figures["change"] < 0
    assert own.headline.startswith("Revenue of Hoy fell by less in September 2022: −25% on a year before, against −")
    (advice,) = [one.text for one in scan.suggestions() if "Hoy" in one.text]
    assert advice.startswith("Find why revenue of Hoy does better than the other towns")


def test_a_share_that_two_rows_tell_expects_nobody() -> None:
    """Two early licences of a district do not make hundreds missing later, when all others are counted in thousands."""
    rng = np.random.default_rng(12)
    days = pd.Timestamp("2020-01-01") + pd.to_timedelta(np.sort(1000 * rng.beta(6, 1, 8000)).astype(int), unit="D")
    district = rng.choice([f"district {at}" for at in range(9)], days.size)
    district[:60] = np.where(np.arange(60) < 2, "district 9", district[:60])
    scan = ga.scan(pd.DataFrame({"licensed": days, "district": district}))
    assert not [one for one in scan.findings if one.kind == "gap" and one.where.label == "district 9"]


def test_a_few_stray_years_are_no_history_and_choose_no_grain() -> None:
    rng = np.random.default_rng(13)
    days = pd.to_datetime("2022-01-01") + pd.to_timedelta(rng.integers(0, 1095, 6000), unit="D")
    stray = pd.to_datetime([f"{year}-05-0{1 + year % 3}" for year in range(1999, 2009)])
    frame = pd.DataFrame({"licensed": [*stray, *days], "district": rng.choice(list("ABC"), 6010)})
    assert "months within the data hold no" in str(ga.scan(frame).summary())
    explained = ga.explain_change(frame, period="2024").to_dict()["explanation"]
    expected = explained["expected"]
    assert expected is None or expected["high"] - expected["low"] > 20


def test_events_with_nothing_but_prices_are_counted() -> None:
    rng = np.random.default_rng(14)
    # Twice as many on Saturdays.
    days = rng.choice(pd.date_range("2024-01-01", periods=364), 6000, p=_saturdays(364))
    frame = pd.DataFrame({"day": days, "size": rng.choice(["S", "M"], 6000), "price": rng.normal(9, 1, 6000)})
    scan = ga.scan(frame)
    assert "count(*)" in scan.to_dict()["request"]["measures"]
    assert any("Saturdays" in one.headline and one.measure.name == "count(*)" for one in scan.findings if one.measure)
    # One row a day and city is a table of readings, which nobody counts.
    daily = pd.DataFrame({"day": pd.date_range("2024-01-01", periods=200).repeat(3), "city": list("ABC") * 200})
    assert "count(*)" not in ga.scan(daily.assign(temperature=rng.normal(9, 2, 600))).to_dict()["request"]["measures"]


def _saturdays(n: int) -> np.ndarray:
    weights = np.where(np.arange(n) % 7 == 5, 2.0, 1.0)
    return weights / weights.sum()


def test_what_is_left_over_leads_nothing() -> None:
    rng = np.random.default_rng(15)
    months = pd.date_range("2022-01-01", periods=36, freq="MS").repeat(20)
    firm = rng.choice(["Other", "Gull Line", "Tern Line", "Skua Line"], months.size, p=[0.55, 0.25, 0.12, 0.08])
    scan = ga.scan(pd.DataFrame({"month": months, "firm": firm, "revenue": rng.normal(100, 5, months.size)}))
    leaders = [one.headline for one in scan.findings if one.kind == "ranking"]
    assert leaders
    assert not [one for one in leaders if one.startswith("Other")]


@pytest.mark.parametrize(
    ("columns", "told"),
    [(("high_gust", "low_gust"), False), (("gust", "delay"), True), (("net_fare", "gross_fare"), False)],
)
def test_one_thing_seen_twice_is_no_relationship(columns: tuple[str, str], told: bool) -> None:
    rng = np.random.default_rng(16)
    first = rng.normal(40, 6, 900)
    days = pd.Timestamp("2022-01-03") + pd.to_timedelta(np.arange(900), unit="D")
    frame = pd.DataFrame({"day": days, columns[0]: first, columns[1]: first + rng.normal(0, 4, 900)})
    scan = ga.scan(frame)
    found = [one for one in (*scan.findings, *scan.folded) if one.kind == "relationship"]
    assert bool(found) is told
    assert all("within the same month and" in one.detail for one in found)


@pytest.mark.parametrize(("spacing", "said"), [("D", "month"), ("QS", "quarter"), ("YS", "year")])
def test_rows_near_in_time_are_said_to_be_of_the_period_that_they_are_of(spacing: str, said: str) -> None:
    rng = np.random.default_rng(17)
    dates, places = (900, 1) if spacing == "D" else (40, 12)
    days = pd.date_range("1980-01-01", periods=dates, freq=spacing)
    gust = rng.normal(40, 6, dates * places)
    frame = pd.DataFrame({"day": days.repeat(places), "gust": gust, "delay": gust + rng.normal(0, 4, gust.size)})
    if places > 1:
        frame = frame.assign(port=[f"port {at}" for at in range(places)] * dates)
    scan = ga.scan(frame)
    (found,) = [one for one in (*scan.findings, *scan.folded) if one.kind == "relationship"]
    assert f"within the same {said} and the same groups" in found.detail


def test_an_indicator_is_not_added_to_another() -> None:
    """A long table of what ports report: tons and a share of them stand in one column, and are told one at a time."""
    rng = np.random.default_rng(18)
    months = pd.date_range("2022-01-01", periods=36, freq="MS")
    rows = [
        (month, port, what, size * rng.normal(1, 0.03))
        for month in months
        for port in ("Skerry", "Holm", "Ness")
        for what, size in (("tons landed", 9e5), ("share on time", 0.9))
    ]
    for name in ("indicator", "category"):
        frame = pd.DataFrame(rows, columns=["month", "port", name, "value"])
        told = ga.explain_change(frame, period="2024-12")
        own = frame[(frame["month"] == "2024-12-01") & (frame[name] == "tons landed")]
        assert told.to_dict()["findings"][0]["figures"]["value"] == pytest.approx(own["value"].sum())
        assert told.to_dict()["caveats"] == [
            f"Figures are those of tons landed; share on time in '{name}' are not added to them."
        ]
    # Of one size they are kinds of one thing, unless the name says otherwise.
    alike = frame.assign(value=rng.normal(100, 5, len(frame)))
    assert ga.explain_change(alike, period="2024-12").to_dict()["findings"][0]["figures"]["value"] == pytest.approx(
        alike.loc[alike["month"] == "2024-12-01", "value"].sum()
    )


def test_begun_next_to_nothing_is_told_by_its_ends() -> None:
    rng = np.random.default_rng(19)
    months = pd.date_range("2019-01-01", periods=60, freq="MS")
    rows = [
        (month, town, 100 * rng.normal(1, 0.05) if town != "Hoy" else np.exp(0.12 * at) * rng.normal(1, 0.05))
        for at, month in enumerate(months)
        for town in TOWNS
    ]
    scan = ga.scan(pd.DataFrame(rows, columns=["month", "town", "revenue"]))
    (own,) = [one for one in (*scan.findings, *scan.folded) if one.where.label == "Hoy" and one.kind == "trend"]
    assert own.figures["change_pct"] > 1000
    assert "%" not in own.headline.partition(", against")[0]
    assert " from " in own.headline


def test_a_row_within_its_usual_range_is_no_outlier() -> None:
    """Values over five orders of size have no row that is too large among them."""
    rng = np.random.default_rng(20)
    killed = np.concatenate([np.round(np.exp(rng.uniform(0, np.log(312), 420))), [965, 1690]])
    day = pd.Timestamp("1995-01-01") + pd.to_timedelta(rng.integers(0, 7000, killed.size), unit="D")
    scan = ga.scan(pd.DataFrame({"day": day, "lost": killed}))
    for one in scan.findings:
        if one.kind == "outlier":
            assert not one.figures["expected_low"] <= one.figures["value"] <= one.figures["expected_high"]


def test_degrees_are_told_in_degrees() -> None:
    days = pd.date_range("2021-01-01", periods=1461)
    warm = 11 + 8 * np.sin(2 * np.pi * (days.day_of_year - 110) / 365.25) + np.random.default_rng(21).normal(0, 1, 1461)
    told = [one.headline for one in ga.scan(pd.DataFrame({"day": days, "temperature": warm})).findings]
    assert told
    assert not [line for line in told if "%" in line]


def test_a_column_hardly_filled_expects_no_more_than_there_are_rows() -> None:
    """Periods without rows are no filled ones: they have no share of anything."""
    rows = np.where(np.arange(61) >= 47, 0.0, 5.0)
    filled = np.where((np.arange(61) >= 44) & (rows > 0), 4.0, 0.0)
    run = gap._longest(np.where(rows > 0, filled, 1.0), rows, 52)
    assert run is not None
    assert run.expected <= rows.sum()


def test_what_began_on_the_way_is_a_series_and_not_more_events() -> None:
    months = pd.date_range("2015-01-01", periods=100, freq="MS")
    rows = [(month, name) for at, month in enumerate(months) for name in "ABCDE" if name != "E" or at >= 55]
    frame = pd.DataFrame(rows, columns=["month", "share"]).assign(
        price=np.random.default_rng(23).normal(50, 5, len(rows))
    )
    assert ga.scan(frame).to_dict()["request"]["measures"] == ["avg(price)"]


def test_even_is_said_only_where_a_branch_that_doubled_beside_the_others_was_seen() -> None:
    """Few rows, wild ones: that only a branch which tripled would have been noticed is no evenness."""
    rng = np.random.default_rng(24)
    months = pd.date_range("2021-01-01", periods=36, freq="MS").repeat(40)
    wild = np.exp(rng.normal(3, 0.9, months.size)) * np.where(months >= "2023-12-01", 0.2, 1.0)
    frame = pd.DataFrame({"month": months, "branch": list("ABCD") * (months.size // 4), "revenue": wild})
    told = str(ga.explain_change(frame, period="2023-12").summary())
    assert "even across the board" not in told


def test_labels_that_say_the_number_once_more_differ_by_nothing() -> None:
    """Ages in groups of age, and a flag that hangs on the harbour, are no news; what is paid in them is."""
    rng = np.random.default_rng(25)
    age = rng.integers(16, 80, 3000)
    group = np.select([age < 30, age < 50], ["16-29", "30-49"], "50+")
    harbour = rng.choice(["Skerry", "Holm", "Ness"], 3000)
    paid = rng.normal(50, 5, 3000) + np.where(age < 30, -8, 0) + np.where(harbour == "Ness", 6, 0)
    frame = pd.DataFrame(
        {"age": age, "age_group": group, "harbour": harbour, "island": harbour == "Ness", "avg_paid": paid}
    )
    scan = ga.scan(frame, kinds=["difference"])
    told = {(one.measure.name, one.by) for one in (*scan.findings, *scan.folded) if one.measure}
    assert {("avg(avg_paid)", "age_group"), ("avg(avg_paid)", "harbour")} <= told
    assert not {("avg(age)", "age_group")} & told
    assert not [one for one in told if "island" in one[0] and one[1] == "harbour"]


def test_money_is_added_up_however_far_its_kinds_lie_apart() -> None:
    """Pencils and yachts are both sold: no category of revenue is left aside."""
    rng = np.random.default_rng(26)
    months = pd.date_range("2022-01-01", periods=36, freq="MS").repeat(20)
    kind = np.where(np.arange(months.size) % 10 == 0, "yachts", "pencils")
    paid = np.where(kind == "yachts", 9e5, 2.0) * rng.normal(1, 0.05, months.size)
    frame = pd.DataFrame({"month": months, "category": kind, "revenue": paid})
    told = ga.explain_change(frame, period="2024-12").to_dict()
    assert told["findings"][0]["figures"]["value"] == pytest.approx(
        frame.loc[frame["month"] == "2024-12-01", "revenue"].sum()
    )
    assert not told["caveats"]
