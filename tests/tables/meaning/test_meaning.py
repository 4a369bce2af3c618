"""What columns are taken for, and that whoever says otherwise is obeyed; the same whatever door a table comes by."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pandas as pd
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.analysis.scan_pipeline import timeline_for
from golden_almanac.tables.meaning.mixed_units import mixed_units_of
from golden_almanac.tables.meaning.natures import Nature, Seen, nature_of
from golden_almanac.tables.meaning.scenarios import scenario_of, scenarios_of

GERMAN = "Januar Februar März April Mai Juni Juli August September Oktober November Dezember".split()
SHORT = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split()
MONTHS = [f"{year}-{month:02d}-01" for year in (2022, 2023, 2024) for month in range(1, 13)]


def seen(low: float = 0.0, high: float = 5000.0, *, whole: bool = True, distinct: int = 200) -> Seen:
    return Seen(whole=whole, low=low, high=high, filled=1000, distinct=distinct)


@pytest.mark.parametrize(
    ("name", "facts", "nature"),
    [
        ("closing_balance", seen(whole=False), "stock"),
        ("Kontostand", seen(whole=False), "stock"),
        ("effectif", seen(), "stock"),
        ("existencias", seen(), "stock"),
        ("open_tickets", seen(), "stock"),
        ("new_members", seen(), "flow"),
        ("stock_price", seen(whole=False), "price"),
        ("closing price", seen(whole=False), "price"),
        ("Umsatz", seen(whole=False), "flow"),
        ("Zinssatz", seen(0, 9, whole=False), "share"),
        ("Absatz", seen(), "flow"),
        ("umsatz_kumuliert", seen(), "running total"),
        ("revenue_ytd", seen(), "running total"),
        ("Kilometerstand", seen(), "running total"),
        ("occupancy", seen(0, 1, whole=False), "share"),
        ("growth_pct", seen(-50, 80, whole=False), "share"),
        ("Zufriedenheit", seen(1, 5, distinct=5), "score"),
        ("q7", seen(1, 5, distinct=5), "score"),
        ("q7", seen(1, 5000, distinct=900), "flow"),
        ("Wartezeit", seen(whole=False), "duration"),
        ("days_overdue", seen(0, 90, distinct=60), "duration"),
        ("hours_worked", seen(0, 24, whole=False), "flow"),
        ("temperatura", seen(-9, 40, whole=False), "reading"),
        ("avg_wait", seen(whole=False), "reading"),
        ("customer_no", seen(10_000, 99_999), "code"),
        ("customers", seen(), "flow"),
        ("number of orders", seen(), "count"),
        ("Postleitzahl PLZ", seen(10_000, 99_999), "code"),
        ("invoice_amount", seen(), "flow"),
        ("x", seen(0, 1, whole=False), "share"),
    ],
)
def test_names_and_values_tell_what_a_number_is(name: str, facts: Seen, nature: str) -> None:
    found = nature_of(name, facts)
    assert found.nature == nature, found.because
    assert found.because


@given(st.text(max_size=20), st.floats(-1e9, 1e9), st.floats(0, 1e9), st.booleans(), st.integers(1, 5000))
def test_any_name_has_a_nature_and_a_reason(name: str, low: float, more: float, whole: bool, distinct: int) -> None:
    found = nature_of(name, seen(low, low + more, whole=whole, distinct=distinct))
    assert found.nature in tuple(Nature)
    assert found.because


def balances() -> pd.DataFrame:
    rng = np.random.default_rng(4)
    days = pd.date_range("2023-01-01", "2024-12-31")
    parts = [
        pd.DataFrame(
            {
                "date": days.strftime("%Y-%m-%d"),
                "account": name,
                "balance": np.round(size + rng.normal(0, 9, days.size).cumsum(), 2),
            }
        )
        for name, size in (("Current", 5000.0), ("Savings", 20_000.0))
    ]
    return pd.concat(parts, ignore_index=True)


def test_a_level_is_read_at_the_end_of_a_period_and_never_added_up_over_time() -> None:
    frame = balances()
    change = ga.explain_change(ga.read(frame), period="2024-Q4", baseline="2023-Q4")
    ends = [frame.loc[frame["date"] == day, "balance"].sum() for day in ("2024-12-31", "2023-12-31")]
    assert [change.explanation.value, change.explanation.before] == pytest.approx(ends, abs=1e-6)
    assert sum(part.change for part in change.explanation.breakdowns[0].contributions) == pytest.approx(
        ends[0] - ends[1], abs=1e-6
    )
    assert "at the end of" in change.summary().headline
    assert all(finding.check().agrees for finding in change.findings)
    scan = ga.scan(frame)
    assert all(finding.check().agrees for finding in scan.findings)
    series = scan.result.survey
    assert [measure.level for measure in series.measures] == [True]
    # Who says that it is an amount has it added up.
    added = ga.explain_change(ga.read(frame, natures={"balance": "flow"}), period="2024-12", baseline="2023-12")
    december = frame.loc[frame["date"].str.startswith("2024-12"), "balance"].sum()
    assert added.explanation.value == pytest.approx(december, abs=1e-6)


@given(st.lists(st.lists(st.integers(1, 10**6), min_size=24, max_size=24, unique=True), min_size=2, max_size=4))
def test_parts_of_a_level_add_up_to_it(levels: list[list[int]]) -> None:
    rows = [
        (month, f"site {place}", value)
        for place, own in enumerate(levels)
        for month, value in zip(MONTHS, own, strict=False)
    ]
    table = ga.read(pd.DataFrame(rows, columns=["month", "site", "headcount"]))
    change = ga.explain_change(table, period="2023-12", baseline="2022-12")
    parts = change.explanation.breakdowns[0].contributions if change.explanation.breakdowns else ()
    assert change.explanation.value == sum(own[23] for own in levels)
    assert change.explanation.before == sum(own[11] for own in levels)
    if parts:
        assert sum(part.change for part in parts) == change.explanation.change


def test_levels_at_different_moments_are_averaged() -> None:
    rng = np.random.default_rng(2)
    days = sorted(str(day) for day in rng.choice(pd.date_range("2023-01-01", "2024-12-31").strftime("%Y-%m-%d"), 900))
    frame = pd.DataFrame(
        {"booked": days, "account": rng.choice(list("abcd"), 900), "balance": rng.normal(1000, 90, 900).round(2)}
    )
    column = ga.read(frame).column("balance")
    assert (column.nature, column.adds_up) == ("stock", False)
    assert "different moments" in column.because


def test_what_stands_beside_the_date_is_no_label() -> None:
    days = pd.date_range("2023-01-01", periods=700)
    frame = pd.DataFrame(
        {
            "day": days.strftime("%Y-%m-%d"),
            "year": days.year,
            "Monat": days.month,
            "quarter": [f"Q{q}" for q in days.quarter],
            "weekday": days.day_name(),
            "week": days.isocalendar().week.astype(int).to_numpy(),
            "shop": ["x", "y"] * 350,
            "sales": np.arange(700.0),
        }
    )
    table = ga.read(frame)
    roles = {column.name: column.role.value for column in table.columns}
    assert roles == {
        "day": "time",
        "year": "part of a date",
        "Monat": "part of a date",
        "quarter": "part of a date",
        "weekday": "part of a date",
        "week": "part of a date",
        "shop": "dimension",
        "sales": "measure",
    }
    assert not any("year" in finding.headline for finding in ga.scan(table).findings)
    # Asked for by name it is a column like others.
    assert ga.explain_change(table, by="weekday").explanation.breakdowns[0].by == "weekday"
    # Values of their own are no part of the date.
    assert ga.read(frame.assign(year=1900 + np.arange(700) % 7)).column("year").role.value == "dimension"


@pytest.mark.parametrize(
    ("frame", "time", "grain", "first"),
    [
        (pd.DataFrame({"year": range(1990, 2020)}), "date", "year", "1990-01-01"),
        (pd.DataFrame({"year": range(70, 95)}), "date", "year", "1970-01-01"),
        (pd.DataFrame({"period": [int(m[:4] + m[5:7]) for m in MONTHS]}), "period", "month", "2022-01-01"),
        (pd.DataFrame({"period": [m[:4] + "M" + m[5:7] for m in MONTHS]}), "period", "month", "2022-01-01"),
        (pd.DataFrame({"Jahr": [int(m[:4]) for m in MONTHS], "Monat": GERMAN * 3}), "date", "month", "2022-01-01"),
        (
            pd.DataFrame({"year": np.repeat([2021, 2022, 2023], 4), "quarter": ["Q1", "Q2", "Q3", "Q4"] * 3}),
            "date",
            "quarter",
            "2021-01-01",
        ),
        (
            pd.DataFrame({"q": [f"Q{q} FY{y}" for y in range(18, 25) for q in (1, 2, 3, 4)]}),
            "q",
            "quarter",
            "2018-01-01",
        ),
        (pd.DataFrame({"h": [f"H{h} {y}" for y in range(2010, 2025) for h in (1, 2)]}), "h", "quarter", "2010-01-01"),
        (
            pd.DataFrame({"year": [f"FY{y}/{(y + 1) % 100:02d}" for y in range(1995, 2025)]}),
            "year",
            "year",
            "1995-01-01",
        ),
        (pd.DataFrame({"Woche": [f"KW {w:02d}/2024" for w in range(1, 50)]}), "Woche", "week", "2024-01-01"),
        (pd.DataFrame({"d": [f"{m} 1 {y}" for y in (2022, 2023, 2024) for m in SHORT]}), "d", "month", "2022-01-01"),
    ],
)
def test_time_in_every_dress(frame: pd.DataFrame, time: str, grain: str, first: str) -> None:
    table = ga.read(frame.assign(amount=np.arange(len(frame)) % 7 + 100.5))
    line = timeline_for(table)
    assert line is not None
    assert (line.column, line.grain.value, str(line.first_day)) == (time, grain, first)
    # Who names the column that the dates were made of means the dates.
    assert timeline_for(table, frame.columns[0]) is not None
    assert ga.read(table).rows == len(frame)


def test_dates_put_together_are_made_again_from_a_log(tmp_path: Path) -> None:
    path = tmp_path / "ledger.csv"
    pd.DataFrame(
        {"year": np.repeat([2023, 2024], 12), "month": list(range(1, 13)) * 2, "cost": np.arange(24.0)}
    ).to_csv(path, index=False)
    table = ga.read(path)
    again = ga.read(path, repairs=table.repair_log())
    assert again.arrow.equals(table.arrow)
    assert [column.role for column in again.columns] == [column.role for column in table.columns]


@pytest.mark.parametrize(
    ("label", "scenario"),
    [
        ("Actual", "actual"),
        ("Ist", "actual"),
        ("Budget 2024", "budget"),
        ("Soll", "plan"),
        ("Prognose", "forecast"),
        ("Vorjahr", "last year"),
        ("last year", "last year"),
        ("Objetivo", "target"),
        ("Nord", None),
        ("Budget or plan", None),
    ],
)
def test_scenarios_are_known_by_their_labels(label: str, scenario: str | None) -> None:
    assert scenario_of(label) == scenario


def test_a_plan_is_never_added_to_what_was() -> None:
    rows = [
        (month, site, what, 100.0 + place)
        for place, month in enumerate(MONTHS)
        for site in "ab"
        for what in ("Actual", "Budget")
    ]
    table = ga.read(pd.DataFrame(rows, columns=["month", "site", "version", "cost"]))
    plans = scenarios_of(table)
    assert plans is not None
    assert (plans.column, plans.read, plans.others) == ("version", "Actual", ("Budget",))
    scan = ga.scan(table)
    assert scan.result.survey.table.rows == len(rows) / 2
    assert any("Budget" in caveat and "not added" in caveat for caveat in scan.caveats())
    assert ga.explain_change(table, period="2024-12").explanation.value == 2 * (100 + 35)
    # Asked for, the plan is read.
    assert ga.scan(table, where="version = 'Budget'").result.survey.table.rows == len(rows) / 2


def planned() -> pd.DataFrame:
    rows = [
        (month, site, what, 100.0 + (20.0 if what == "Ist" and site == "Ost" and month >= "2024-07" else 0.0))
        for month in MONTHS
        for site in ("Nord", "Ost")
        for what in ("Ist", "Budget 2024")
    ]
    return pd.DataFrame(rows, columns=["month", "site", "Szenario", "cost"])


def test_what_was_is_compared_with_the_plan_for_the_same_days(tmp_path: Path) -> None:
    change = ga.explain_change(planned(), baseline="budget", period="2024-Q4")
    assert (change.explanation.value, change.explanation.before) == (660.0, 600.0)
    assert change.headline.endswith("10% above Budget 2024.")
    by_site = change.explanation.breakdowns[0]
    assert {part.label: part.change for part in by_site.contributions} == {"Ost": 60.0, "Nord": 0.0}
    assert "East" not in change.summary().text
    assert "Ost" in change.summary().text
    # The SQL speaks of the scenario and the days as they stand in the source.
    assert all(finding.check().agrees for finding in change.findings)
    assert not re.search(r"\b16\d\d-", str(change.to_dict()))
    assert change.to_dict()["request"]["baseline"]["scenario"] == "Budget 2024"
    assert {chart.name for chart in change.charts()} >= {"change-site"}
    page = change.report().write(tmp_path / "plan.html").read_text(encoding="utf-8")
    assert "1 January 2022 to 1 December 2024" in page
    assert not re.search(
        r"\b16[12]\d\b", re.sub(r"<(?:svg|script|style).*?</(?:svg|script|style)>", "", page, flags=re.DOTALL)
    )
    with pytest.raises(ga.RequestError, match="one reported on"):
        ga.explain_change(planned(), baseline="Ist", period="2024-Q4")
    with pytest.raises(ga.RequestError, match=r"\(Budget 2024, Ist\)"):
        ga.explain_change(planned(), baseline="forecast")
    with pytest.raises(ga.RequestError, match="none"):
        ga.explain_change(balances(), baseline="plan")
    gone = planned()
    with pytest.raises(ga.PeriodError, match="has both"):
        ga.explain_change(
            gone[(gone["Szenario"] == "Ist") | (gone["month"] < "2024-06")], baseline="budget", period="2024-Q4"
        )


def test_what_was_is_compared_with_the_plan_in_the_column_beside_it(tmp_path: Path) -> None:
    wide = planned().pivot_table(index=["month", "site"], columns="Szenario", values="cost").reset_index()
    wide.columns = ["month", "site", "cost_budget", "cost"]
    wide["cost_budget"] = wide["cost_budget"].astype(int)
    change = ga.explain_change(wide, baseline="budget", period="2024-Q4")
    assert (change.explanation.value, change.explanation.before) == (660.0, 600.0)
    assert change.headline.endswith("10% above cost budget.")
    assert {part.label: part.change for part in change.explanation.breakdowns[0].contributions} == {
        "Ost": 60,
        "Nord": 0,
    }
    checks = [finding.check() for finding in (*change.findings, *change.within(site="Ost").findings)]
    assert len(checks) >= 2
    assert all(check.agrees for check in checks)
    assert 'SUM("cost_budget")' in change.findings[0].evidence.sql
    assert change.to_dict()["request"]["baseline"]["scenario"] == "cost budget"
    # What is usual from period to period says nothing of a plan.
    assert change.within(site="Ost").explanation.usual is None
    page = change.report().write(tmp_path / "plan.html").read_text(encoding="utf-8")
    # Its rows are told once, though they stand for what was and for the plan.
    assert "72 rows" in page
    assert "144 rows" not in page
    assert not re.search(
        r"\b16[12]\d\b", re.sub(r"<(?:svg|script|style).*?</(?:svg|script|style)>", "", page, flags=re.DOTALL)
    )
    with pytest.raises(ga.RequestError, match="cost_budget"):
        ga.explain_change(wide, baseline="forecast")


@pytest.mark.parametrize("shape", ["scenarios", "columns"])
def test_a_plan_for_the_whole_year_is_compared_as_far_as_the_year_has_come(shape: str) -> None:
    frame = planned()
    if shape == "scenarios":
        frame = frame[(frame["Szenario"] != "Ist") | (frame["month"] < "2024-11")]
    else:
        frame = frame.pivot_table(index=["month", "site"], columns="Szenario", values="cost").reset_index()
        frame.columns = ["month", "site", "cost_budget", "cost"]
        frame.loc[frame["month"] >= "2024-11", "cost"] = np.nan
    change = ga.explain_change(frame, baseline="budget", period="2024")
    assert (change.explanation.value, change.explanation.before) == (2080.0, 2000.0)
    assert "January to October 2024" in change.headline


def test_a_rate_is_weighed_by_what_stands_below_its_line() -> None:
    rng = np.random.default_rng(5)
    visits = rng.integers(10, 5000, 360)
    orders = rng.binomial(visits, 0.04)
    frame = pd.DataFrame(
        {
            "month": np.repeat(MONTHS, 10),
            "shop": [f"s{place}" for place in range(10)] * 36,
            "visits": visits,
            "orders": orders,
            "conversion_pct": np.round(100 * orders / visits, 2),
            "mood_pct": rng.uniform(0, 100, 360).round(2),
        }
    )
    table = ga.read(frame)
    assert table.column("conversion_pct").weighed == ("orders", "visits", 100.0)
    assert table.column("mood_pct").weighed is None
    kept = frame["month"] == "2024-12-01"
    wanted = 100 * frame.loc[kept, "orders"].sum() / frame.loc[kept, "visits"].sum()
    change = ga.explain_change(table, "conversion_pct", period="2024-12")
    assert change.explanation.value == pytest.approx(wanted, rel=1e-12)
    assert change.headline.startswith("Conversion was") or change.headline.startswith("Conversion pct was")
    assert all(finding.check().agrees for finding in change.findings)
    assert "'conversion_pct' is 'orders' over 'visits'" in " ".join(ga.check(table).meaning())
    # A plain average is still there for whoever asks for it.
    plain = ga.explain_change(table, "avg(conversion_pct)", period="2024-12").explanation.value
    assert plain == pytest.approx(frame.loc[kept, "conversion_pct"].mean())


def test_currencies_are_never_added_up() -> None:
    rng = np.random.default_rng(6)
    frame = pd.DataFrame(
        {
            "month": np.repeat(MONTHS, 6),
            "currency": ["EUR", "EUR", "EUR", "USD", "USD", "JPY"] * 36,
            "amount": rng.gamma(3, 50, 216),
        }
    )
    units = mixed_units_of(ga.read(frame))
    assert units is not None
    assert (units.column, units.read) == ("currency", "EUR")
    change = ga.explain_change(frame, period="2024-12")
    kept = frame[(frame["month"] == "2024-12-01") & (frame["currency"] == "EUR")]
    assert change.explanation.value == pytest.approx(kept["amount"].sum())
    assert mixed_units_of(ga.read(frame[frame["currency"] == "USD"])) is None


def test_codes_for_missing_are_told_and_never_averaged(tmp_path: Path) -> None:
    values = np.where(np.arange(200) % 20 == 0, -999, 15 + np.arange(200) % 7)
    frame = pd.DataFrame(
        {"day": [str(d) for d in pd.date_range("2024-01-01", periods=200).date], "temperature": values}
    )
    table = ga.read(frame)
    (told,) = [problem for problem in table.problems if problem.check == "codes for missing"]
    assert (told.rows, told.severity) == (10, "question")
    assert table.column("temperature").missing == 10
    kept = ga.read(frame, answers={"codes for missing/temperature": "keep as values"})
    assert kept.column("temperature").missing == 0
    path = tmp_path / "weather.csv"
    frame.to_csv(path, index=False)
    assert ga.read(path, repairs=ga.read(path).repair_log()).column("temperature").missing == 10
    # Minus one among minus one, nought and one is a step.
    steps = pd.DataFrame({"day": frame["day"], "swing": [-1, 0, 1, 1] * 50})
    assert not ga.read(steps).problems or ga.read(steps).column("swing").missing == 0


def test_a_table_without_numbers_is_counted() -> None:
    rng = np.random.default_rng(3)
    frame = pd.DataFrame(
        {
            "opened": [str(d) for d in rng.choice(pd.date_range("2023-01-01", "2024-12-31").date, 900)],
            "site": rng.choice(["a", "b", "c"], 900, p=[0.7, 0.2, 0.1]),
        }
    )
    scan = ga.scan(frame)
    assert [measure.name for measure in scan.result.survey.measures] == ["count(*)"]
    assert any(finding.kind == "ranking" for finding in scan.findings)


def test_the_same_meaning_whatever_the_door(tmp_path: Path) -> None:
    rng = np.random.default_rng(8)
    n = 300
    frame = pd.DataFrame(
        {
            "year": rng.integers(2019, 2024, n),
            "site": rng.choice(["Nord", "Süd"], n),
            "paid": rng.choice(["yes", "no"], n),
            "balance": rng.normal(900, 300, n).round(2),
            "rating": rng.integers(1, 6, n),
            "invoice_no": np.arange(5000, 5000 + n),
            "amount": rng.gamma(2, 40, n).round(2),
        }
    )
    frame.to_csv(tmp_path / "t.csv", index=False)
    pq.write_table(pa.Table.from_pandas(frame, preserve_index=False), tmp_path / "t.parquet")
    frame.to_excel(tmp_path / "t.xlsx", index=False)
    doors = [
        frame,
        pa.Table.from_pandas(frame, preserve_index=False),
        *(tmp_path / f"t.{kind}" for kind in ("csv", "parquet", "xlsx")),
    ]
    said = [[(c.name, c.type, c.role, c.nature, c.adds_up, c.because) for c in ga.read(door).columns] for door in doors]
    assert all(one == said[0] for one in said[1:])


def test_a_nature_is_obeyed_or_refused_in_one_sentence() -> None:
    frame = pd.DataFrame({"month": MONTHS, "x": np.arange(36) * 1000.0})
    table = ga.read(frame, natures={"x": "stock"})
    assert (table.column("x").nature, table.column("x").because) == ("stock", "so it was said")
    with pytest.raises(ga.ColumnError, match="no share does"):
        ga.read(frame, natures={"x": "share"})
    with pytest.raises(ga.RequestError, match="one of flow"):
        ga.read(frame, natures={"x": "pile"})
    with pytest.raises(ga.ColumnError, match="holds date"):
        ga.read(frame, natures={"month": "stock"})


def test_check_says_what_a_table_means() -> None:
    told = ga.check(balances())
    text = " ".join(told.meaning())
    assert "one row for each 'date' and 'account'" in text
    assert "Levels, read at the end of a period and never added up over time: 'balance'." in text
    head = told.to_dict()
    assert (head["table"]["time"], head["table"]["grain"], head["table"]["last"]) == ("date", "week", "2024-12-31")
    assert {column["name"]: column["nature"] for column in head["columns"]}["balance"] == "stock"
    german = ga.check(balances(), locale="de")
    assert "Bestände" in " ".join(german.meaning())


def test_what_is_private_leaves_no_trace_in_what_columns_mean() -> None:
    rng = np.random.default_rng(7)
    visits = rng.integers(100, 900, 48)
    orders = rng.binomial(visits, 0.05)
    frame = pd.DataFrame({"year": np.repeat([2021, 2022, 2023, 2024], 12), "month": list(range(1, 13)) * 4})
    frame = frame.assign(visits=visits, orders=orders, rate=np.round(orders / visits, 4), orders_budget=orders + 5)
    table = ga.read(frame)
    assert table.column("rate").weighed is not None
    assert table.column("orders_budget").beside == "orders"
    for hidden in (["orders"], ["visits"], ["month"], ["year"]):
        for told in (ga.read(table, private=hidden), ga.read(frame, private=hidden)):
            assert hidden[0] not in told.names
            text = str([(column, column.because) for column in told.columns]) + str(
                [str(p.message) for p in told.problems]
            )
            # A word of another column's own name is none of it.
            assert not re.search(rf"(?<!says )'{hidden[0]}'", text), (hidden, text)
            if hidden[0] in ("year", "month") and told.columns[-1].name == "date":
                # Months are gone from the dates too.
                assert {str(day)[5:] for day in told.days("date")} == {"01-01"}


def sold(seed: int = 1) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    return pd.DataFrame(
        {
            "day": rng.choice(pd.date_range("2023-01-01", "2024-12-31"), 400),
            "shop": rng.choice(["a", "b", "c"], 400),
            "quantity": rng.integers(1, 50, 400),
            "unit_price": rng.gamma(20, 1, 400).round(2),
        }
    )


@settings(max_examples=15)
@given(st.integers(0, 500), st.floats(0, 0.3))
def test_a_price_is_weighed_by_the_quantity(seed: int, blank: float) -> None:
    frame = sold(seed)
    frame["unit_price"] = frame["unit_price"].where(np.random.default_rng(seed).random(400) >= blank)
    table = ga.read(frame)
    change = ga.explain_change(table, "unit_price", period="2024", baseline="2023").explanation
    year = frame[(frame["day"].dt.year == 2024) & frame["unit_price"].notna()]
    assert change.value == pytest.approx((year["unit_price"] * year["quantity"]).sum() / year["quantity"].sum())
    parts = change.breakdowns[0].contributions
    assert sum(part.change for part in parts) == pytest.approx(change.change, abs=1e-9)


def test_of_two_weights_none_is_taken_and_it_is_said() -> None:
    frame = sold().assign(units=lambda one: one["quantity"] + 3)
    table = ga.read(frame)
    assert table.column("unit_price").weights == ("quantity", "units")
    assert "averaged plainly, since 'quantity' and 'units' could all weigh it" in " ".join(ga.check(table).meaning())
    assert ga.explain_change(table, "unit_price").explanation.measure.kind == "mean"


def test_indices_and_rates_of_exchange_have_no_weight() -> None:
    frame = sold().rename(columns={"unit_price": "price_index"})
    assert ga.read(frame).column("price_index").weights == ()


def test_what_is_said_to_be_an_amount_is_added_up_whatever_could_weigh_it() -> None:
    table = ga.read(sold(), natures={"unit_price": "flow"})
    found = ga.explain_change(table, "unit_price", period="2024", baseline="2023").explanation
    frame = sold()
    assert found.value == pytest.approx(frame["unit_price"][frame["day"].dt.year == 2024].sum())
