"""A ledger reviewed: planted slips are told first, clean books stay silent, the bridge adds up to the last digit."""

from __future__ import annotations

import json
from decimal import Decimal
from pathlib import Path

import duckdb
import numpy as np
import pandas as pd
import pytest
from bench.ledger import MONTHS, frame_of, monthly
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga

from ..commands import run


def _books(seed: int, accounts: int = 25) -> tuple[list[str], np.ndarray]:
    """The first accounts of a made-up ledger, nothing planted."""
    names, amounts = monthly(seed)
    return names[:accounts], amounts[:accounts]


def _first(frame: pd.DataFrame, account: str) -> str | None:
    """What is asked of an account in the first three places."""
    told = ga.review_ledger(frame, "account", "amount", "month").to_frame().head(3)
    own = told[told["account"] == account]["kind"]
    return None if own.empty else str(own.iloc[0])


def test_clean_books_stay_silent() -> None:
    told = [ga.review_ledger(frame_of(*_books(seed)), "account", "amount", "month").to_frame() for seed in range(12)]
    assert sum((frame["weight"] == "major").sum() for frame in told) == 0
    # 300 accounts, of which 2% may be said to differ.
    assert sum(frame["account"].nunique() for frame in told) <= 6


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("what", ["twice", "sign", "timing", "missing", "drift", "stops", "begins"])
def test_what_is_planted_is_told_first(what: str, seed: int) -> None:
    names, amounts = _books(100 + seed)
    random = np.random.default_rng(seed)
    account, month = int(random.integers(1, len(names))), int(random.integers(6, 28))
    own = amounts[account]
    if what == "twice":
        own[month] *= 2
    elif what == "sign":
        own[month] *= -1
    elif what == "timing":
        own[month + 1] += own[month]
        own[month] = np.nan
    elif what == "missing":
        own[month] = np.nan
    elif what == "drift":
        own *= np.exp(0.025 * np.maximum(0, np.arange(36) - 14))
    elif what == "stops":
        own[month:] = np.nan
    else:
        own[:month] = np.nan
    assert _first(frame_of(names, amounts), names[account]) == what


def _postings(seed: int = 5) -> pd.DataFrame:
    """Three accounts with a dozen postings a month, one of them of rent."""
    random = np.random.default_rng(seed)
    rows = []
    for month in MONTHS:
        for account, level, count in (("4000 Revenue", 9_000, 12), ("4100 Goods", 4_000, 12), ("4200 Rent", 6_500, 1)):
            for _ in range(count):
                size = level if count == 1 else level * np.exp(random.normal(0, 0.6))
                rows.append(
                    (account, month.to_timestamp() + pd.Timedelta(days=int(random.integers(0, 28))), round(size, 2))
                )
    return pd.DataFrame(rows, columns=["account", "day", "amount"])


def test_postings_that_repeat_and_that_have_another_sign() -> None:
    frame = _postings()
    assert ga.review_ledger(frame, "account", "amount", "day").to_frame().empty
    rent = frame[(frame["account"] == "4200 Rent") & (frame["day"].dt.strftime("%Y-%m") == "2023-05")]
    told = ga.review_ledger(pd.concat([frame, rent]), "account", "amount", "day")
    first = told.result.questions[0]
    assert (first.kind, first.account, first.amount, first.postings) == ("repeated", "4200 Rent", 6500.0, 1)
    assert "1 posting to 4200 Rent in May 2023 repeats another of the same day and amount: 6,500." in str(
        told.summary()
    )
    # A credit note takes a bill back; one that takes nothing back is asked about.
    goods = frame[frame["account"] == "4100 Goods"].nlargest(1, "amount")
    back = goods.assign(amount=-goods["amount"], day=goods["day"] + pd.Timedelta(days=9))
    assert ga.review_ledger(pd.concat([frame, back]), "account", "amount", "day").to_frame()["kind"].tolist() != [
        "opposite"
    ]
    alone = back.assign(amount=back["amount"] - 0.01)
    kinds = ga.review_ledger(pd.concat([frame, alone]), "account", "amount", "day").to_frame()["kind"].tolist()
    assert kinds[0] == "opposite"


def test_round_amounts_and_first_digits() -> None:
    random = np.random.default_rng(2)
    days = pd.to_datetime("2023-01-01") + pd.to_timedelta(random.integers(0, 700, 1200), unit="D")
    # Nine orders of magnitude: their first digits are as Newcomb has it.
    free = pd.DataFrame(
        {"account": "Sales of goods", "day": days, "amount": np.round(10 ** random.uniform(1, 5, 1200), 2)}
    )
    assert ga.review_ledger(free, "account", "amount", "day").to_frame().empty
    guessed = pd.DataFrame({"account": "Provisions", "day": days[:90], "amount": random.integers(2, 60, 90) * 1000.0})
    told = ga.review_ledger(pd.concat([free, guessed]), "account", "amount", "day").to_frame()
    assert ("round", "Provisions") in set(zip(told["kind"], told["account"], strict=True))
    limit = free.assign(
        account="Fees", amount=np.where(random.random(1200) < 0.3, random.uniform(4800, 4999, 1200), free["amount"])
    )
    told = ga.review_ledger(limit, "account", "amount", "day").to_frame()
    assert told["kind"].tolist()[0] == "digits"


def test_debits_equal_credits() -> None:
    frame = _postings().rename(columns={"amount": "debit"}).assign(credit=0.0)
    frame["entry"] = [f"E{place:05d}" for place in range(len(frame))]
    other = frame.assign(account="1000 Bank", debit=0.0, credit=frame["debit"])
    whole = pd.concat([frame, other])
    asked = {"debit": "debit", "credit": "credit", "period": "day"}
    assert ga.review_ledger(whole, "account", entry="entry", **asked).to_frame().empty
    whole.iloc[7, whole.columns.get_loc("debit")] += 90.0
    told = ga.review_ledger(whole, "account", entry="entry", **asked).result.questions
    assert [(one.kind, one.account, round(one.amount, 2)) for one in told if one.kind == "unbalanced"] == [
        ("unbalanced", "E00007", 90.0)
    ]
    assert any(one.kind == "unbalanced" for one in ga.review_ledger(whole, "account", **asked).result.questions)


amounts = st.lists(st.integers(-900_00, 900_00), min_size=6, max_size=6)


@settings(max_examples=25)
@given(
    costs=st.lists(amounts, min_size=1, max_size=6), sales=st.lists(st.integers(1_00, 9000_00), min_size=6, max_size=6)
)
def test_the_bridge_adds_up_to_the_last_digit(costs: list[list[int]], sales: list[int]) -> None:
    rows = [("Sales", place, value) for place, value in enumerate(sales)]
    rows += [(f"Cost {number}", place, value) for number, line in enumerate(costs) for place, value in enumerate(line)]
    frame = pd.DataFrame(rows, columns=["account", "place", "cents"])
    frame["month"] = [(MONTHS[0] + place).to_timestamp() for place in frame["place"]]
    frame["amount"] = frame["cents"] / 100
    asked = {"account": "account", "amount": "amount", "period": "month", "base": "Sales"}
    try:
        books = ga.review_ledger(frame[["account", "month", "amount"]], **asked, bridge="2022-06", baseline="2022-03")
    except ga.RequestError:
        # All accounts together come to nought in both months: there is no margin.
        return
    bridge = books.margin
    assert bridge is not None
    exact = [Decimal(repr(line.money)) for line in bridge.lines]
    assert sum(exact) == Decimal(repr(bridge.margin[1])) - Decimal(repr(bridge.margin[0]))
    share = bridge.share
    assert sum(line.points for line in bridge.lines) == pytest.approx(100 * (share[1] - share[0]), abs=1e-9)
    told = books.tables()[-1]
    shown = [sum(_whole(row[column]) for row in told.rows) for column in (1, 2, 3)]
    assert shown == [_whole(text) for text in told.total[1:4]]


def _whole(text: str) -> Decimal:
    return Decimal(text.replace("−", "-").replace("+", "").replace(",", "").replace("–", "0"))


def test_the_bridge_is_what_an_independent_query_gives() -> None:
    frame = frame_of(*_books(7))
    bridge = ga.review_ledger(frame, "account", "amount", "month").margin
    assert bridge is not None
    found = duckdb.sql(
        "SELECT account, sum(amount) FILTER (year(month) = 2023), sum(amount) FILTER (year(month) = 2024) FROM frame "
        "GROUP BY 1"
    ).fetchall()
    wanted = {name: (before, now) for name, before, now in found}
    sales = wanted["4000 Revenue"]
    for line in bridge.lines:
        side = 1 if line.revenue else -1
        before, now = wanted[line.account]
        assert (line.before, line.now) == pytest.approx((side * before, side * now), abs=1e-6)
        if not line.revenue:
            assert line.points == pytest.approx(-100 * (now / sales[1] - before / sales[0]), abs=1e-9)


def test_the_check_of_each_question_gives_its_figures(sailings: Path) -> None:
    """Of each kind that the demo and made-up books show, the SELECT gives what the question says."""
    names, amounts = _books(11)
    amounts[3, 12] *= 2
    amounts[5, 14] = np.nan
    amounts[7, 20] += amounts[7, 19]
    amounts[7, 19] = np.nan
    amounts[9, :16] = np.nan
    amounts[11, 25:] = np.nan
    amounts[13] *= np.exp(0.03 * np.maximum(0, np.arange(36) - 14))
    amounts[15, 20:] *= 1.8
    random = np.random.default_rng(2)
    guessed = pd.DataFrame({
        "account": "Provisions", "month": MONTHS[10].to_timestamp(), "amount": random.integers(2, 60, 90) * 1000.0,
    })  # fmt: skip
    seen: set[str] = set()
    for table, day in (
        (ga.read(sailings.parent / "ledger.csv"), "day"),
        (ga.read(frame_of(names, amounts)), "month"),
        (ga.read(pd.concat([_postings().rename(columns={"day": "month"}), guessed])), "month"),
    ):
        books = ga.review_ledger(table, "account", period=day)
        for one in books.result.questions:
            seen.add(one.kind)
            found = table.sql(books.check_sql(one))
            if one.kind == "repeated":
                assert (found["amount"] * (found["times"] - 1)).sum() == pytest.approx(one.amount)
            elif one.kind in ("timing", "step", "drift", "begins", "stops"):
                own = books.result.books.amounts[books.result.books.names.index(str(one.account))]
                assert found["value"].sum() == pytest.approx(own.sum())
            elif one.kind == "round":
                assert int(found["whole_thousands"][0]) == one.postings
            elif one.kind != "digits":
                value = found["value"].fillna(0.0)[0]
                assert value == pytest.approx(one.value), one.kind
    assert {"sign", "repeated", "timing", "drift", "twice", "missing", "begins", "stops", "step", "round"} <= seen


def test_what_was_planned_and_other_currencies_are_not_added(sailings: Path) -> None:
    frame = frame_of(*_books(5, accounts=6))
    plan = frame.assign(amount=frame["amount"] * 2, scenario="Budget")
    both = pd.concat([frame.assign(scenario="Actual"), plan])
    alone = ga.review_ledger(frame, "account", period="month")
    told = ga.review_ledger(both, "account", period="month")
    assert told.result.books.amounts == pytest.approx(alone.result.books.amounts)
    assert any("Budget" in text for text in told.caveats())
    first = told.sql
    found = ga.read(both).sql(first)
    assert found["amount"].sum() == pytest.approx(frame["amount"].sum())


def test_quarters_have_a_season_of_four_and_numbers_may_name_accounts() -> None:
    random = np.random.default_rng(3)
    quarters = pd.period_range("2016Q1", periods=32, freq="Q")
    season = np.tile([1.0, 1.6, 2.2, 0.7], 8)
    rows = []
    for number in range(4000, 4008):
        own = 50_000 * season * np.exp(random.normal(0, 0.03, 32))
        if number == 4003:
            own[20] *= 1.4
        rows += [(quarter.end_time.normalize(), number, value) for quarter, value in zip(quarters, own, strict=True)]
    frame = pd.DataFrame(rows, columns=["day", "account", "amount"]).round(2)
    told = ga.review_ledger(frame, "account", period="day", grain="quarter").result.questions
    assert [(one.kind, one.account) for one in told] == [("movement", "4003")]
    assert str(told[0].period.start) == "2021-01-01"


def test_a_margin_is_bridged_between_whole_periods_that_lie_apart(sailings: Path) -> None:
    book = sailings.parent / "ledger.csv"
    for bridge, baseline, said in (
        ("last 45 days", None, "cuts a month"),
        ("2025-Q1", "2025-02", "overlap"),
        ("2026", None, "does not lie within"),
        ("2022-10", None, "no span as long"),
    ):
        with pytest.raises(ga.PeriodError, match=said):
            ga.review_ledger(book, "account", bridge=bridge, baseline=baseline)
    with pytest.raises(ga.RequestError, match="accounts of revenue"):
        ga.review_ledger(book, "account", where="account > '5'", bridge="2025-Q1")
    short = ga.review_ledger(book, "account", bridge="2025-Q1", baseline="2024-Q1").margin
    assert short is not None
    assert (str(short.period.start), str(short.baseline.end)) == ("2025-01-01", "2024-03-31")


def test_the_demo_tells_what_is_planted(sailings: Path) -> None:
    import tomllib

    stories = tomllib.loads((sailings.parent / "stories.toml").read_text("utf-8"))["ledger_story"]
    books = ga.review_ledger(sailings.parent / "ledger.csv", "account", "amount", "day")
    told = {(one.account, one.kind) for one in books.result.questions}
    for story in stories:
        if story["kinds"] != ["margin"]:
            assert any((story["account"], kind) in told for kind in story["kinds"]), story["id"]
    assert {account for account, _ in told} <= {story["account"] for story in stories}
    assert books.margin is not None
    fuel = next(line for line in books.margin.lines if line.account == "5000 Fuel")
    assert fuel.slice_ is not None
    assert (fuel.slice_.column, fuel.slice_.label) == ("port", "Skerry Haven")


def test_wide_tables_thresholds_and_notes(tmp_path: Path) -> None:
    names, amounts = _books(3, accounts=6)
    amounts[2, 20] *= 1.6
    wide = pd.DataFrame(amounts, columns=[str(month) for month in MONTHS])
    wide.insert(0, "account", [name[5:] for name in names])
    wide.to_csv(tmp_path / "wide.csv", index=False)
    told = ga.review_ledger(tmp_path / "wide.csv", "account").to_frame()
    assert told["account"].tolist() == [names[2][5:]]
    above = float(told["amount"].iloc[0]) + 1
    assert ga.review_ledger(tmp_path / "wide.csv", "account", floor=above).to_frame().empty
    assert ga.review_ledger(tmp_path / "wide.csv", "account", since="2024-01").to_frame().empty
    assert ga.review_ledger(tmp_path / "wide.csv", "account", major=1e-9, minor=1e-9).to_frame()["weight"][0] == "major"
    note = ga.Note(
        start=np.datetime64("2023-08-01"),
        end=np.datetime64("2023-10-31"),
        text="Yard strike",
        where={"account": names[2][5:]},
    )
    margin = ga.review_ledger(tmp_path / "wide.csv", "account", notes=[note]).margin
    assert margin is not None
    assert next(line for line in margin.lines if line.account == names[2][5:]).notes == (note.told(),)


def test_what_cannot_be_judged_is_said(tmp_path: Path) -> None:
    names, amounts = _books(4, accounts=5)
    frame = frame_of(names, amounts)
    frame = frame[~frame["month"].astype(str).str.startswith("2023-07")]
    lone = frame.tail(1).assign(account="9000 Once", amount=5.0)
    few = frame.tail(4).assign(account="9100 New")
    books = ga.review_ledger(pd.concat([frame, lone, few]), "account", "amount", "month")
    text = " ".join(books.caveats())
    assert "9000 Once" in text
    assert "9100 New" in text
    assert "1 period has no postings at all" in text
    assert not any(one.kind == "missing" for one in books.result.questions)
    # A base of nought in a month is no divisor.
    frame.loc[(frame["account"] == "4000 Revenue") & (frame["month"] == "2023-02-01"), "amount"] = 0.0
    books = ga.review_ledger(frame, "account", "amount", "month", base="4000 Revenue")
    assert "months without an amount" in " ".join(books.caveats())


@pytest.mark.parametrize(
    ("asked", "told"),
    [
        ({"account": "acount"}, "acount"),
        ({"account": "account", "amount": "account"}, "not amounts"),
        ({"account": "account", "base": "Revenue"}, "Revenue"),
        ({"account": "account", "debit": "amount"}, "both or neither"),
        ({"account": "account", "since": "2031"}, "2031"),
        ({"account": "account", "bridge": "1999"}, "1999"),
        ({"account": "account", "major": 0.001, "minor": 0.1}, "minor first"),
    ],
)
def test_wrong_requests_are_refused_in_a_sentence(asked: dict[str, object], told: str) -> None:
    frame = frame_of(*_books(1, accounts=4))
    with pytest.raises(ga.AlmanacError, match=told):
        ga.review_ledger(frame, **asked)  # type: ignore[arg-type]


def test_the_command(sailings: Path, tmp_path: Path) -> None:
    book = sailings.parent / "ledger.csv"
    done = run("ledger", book, "--account", "account", "--floor", "5000", "-o", tmp_path / "l.html")
    assert done.returncode == 0, done.stderr
    assert "What to ask" in done.stdout
    assert "5000 Fuel took 1.5 points" in (tmp_path / "l.html").read_text("utf-8")
    found = json.loads(run("ledger", book, "--account", "account", "--json").stdout)
    assert found["format"] == "golden-almanac/ledger/1"
    assert found["questions"][0]["kind"] == "sign"
    assert sum(line["money"] for line in found["margin"]["lines"]) == pytest.approx(
        found["margin"]["margin"][1] - found["margin"]["margin"][0], abs=0.005
    )
    assert run("ledger", book, "--account", "account", "--major", "many").returncode == 2
