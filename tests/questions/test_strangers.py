"""Tables of other trades, with names that nobody at home thought of: what is read, and what is rather not."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.asking import read

from . import tables as home


@cache
def _appointments() -> ga.Table:
    random, n = np.random.default_rng(15), 400
    frame = pd.DataFrame({
        "appointment_id": range(n), "booked_on": random.choice(pd.date_range("2024-01-01", "2025-03-20"), n),
        "clinic": random.choice(["Northgate", "Riverside", "Hillview"], n),
        "doctor": random.choice(["Dr Abel", "Dr Quist", "Dr Marr"], n),
        "insurance": random.choice(["Public", "Private"], n), "patient_age": random.integers(0, 95, n),
        "waiting_days": random.poisson(9, n), "fee_eur": random.gamma(4, 20, n).round(2),
        "no_show": random.choice([True, False], n, p=[0.12, 0.88]),
        "follow_up_needed": random.choice(["yes", "no"], n),
    })  # fmt: skip
    return ga.read(frame, name="appointments")


@cache
def _members() -> ga.Table:
    random, n = np.random.default_rng(35), 400
    frame = pd.DataFrame({
        "member_id": range(n), "branch": random.choice(["Quay", "Hill", "Mill"], n),
        "dues": random.gamma(3, 9, n).round(2), "churn": random.choice(["yes", "no"], n, p=[0.2, 0.8]),
    })  # fmt: skip
    return ga.read(frame, name="members")


@cache
def _tickets() -> ga.Table:
    random, n = np.random.default_rng(25), 400
    frame = pd.DataFrame({
        "ticket_no": range(n), "opened": random.choice(pd.date_range("2024-01-01", "2025-09-14"), n),
        "team": random.choice(["Billing", "Network", "Hardware"], n),
        "hours_to_resolve": random.gamma(2, 12, n).round(1), "satisfaction_score": random.integers(1, 6, n),
        "handling_cost": random.gamma(3, 9, n).round(2), "reopened": random.choice(["Y", "N"], n),
    })  # fmt: skip
    return ga.read(frame, name="tickets")


@cache
def _shipments() -> ga.Table:
    random, n = np.random.default_rng(35), 400
    frame = pd.DataFrame({
        "Shipment": [f"S-{k:05d}" for k in range(n)], "Warehouse": random.choice(["Leeds", "Porto", "Gdansk"], n),
        "Dispatched": random.choice(pd.date_range("2022-01-01", "2025-06-30"), n),
        "Carrier": random.choice(["Swift", "Bluebird", "Hauler & Sons"], n),
        "Mode": random.choice(["Road", "Rail", "Air"], n), "Weight (kg)": random.gamma(2, 100, n).round(1),
        "Freight Cost (EUR)": random.gamma(3, 60, n).round(2), "Days in Transit": random.poisson(4, n),
        "Damaged": random.choice([0, 1], n, p=[0.9, 0.1]), "Pallets": random.integers(1, 20, n),
    })  # fmt: skip
    return ga.read(frame, name="shipments")


def _sailings() -> ga.Table:
    return home.table("sailings")


@pytest.mark.parametrize(
    ("table", "question", "wanted"),
    [
        # Words of praise and blame go by what the figure is of.
        (_sailings, "worst month for delay", {"order": "descending", "grain": "month"}),
        (_sailings, "which route has the best delay", {"order": "ascending", "by": ("route",)}),
        (_sailings, "which vessel is worst for cancellations", {"order": "descending", "where": '"cancelled"'}),
        (_sailings, "best route by revenue", {"order": "descending", "measures": ("sum(revenue)",)}),
        (_tickets, "slowest team by hours to resolve", {"order": "descending", "measures": ("avg(hours_to_resolve)",)}),
        (_tickets, "fastest team by hours to resolve", {"order": "ascending", "measures": ("avg(hours_to_resolve)",)}),
        (_tickets, "worst team for satisfaction", {"order": "ascending", "measures": ("avg(satisfaction_score)",)}),
        # Whom a column is of is not what it holds.
        (_appointments, "which doctor sees the most patients?", {"by": ("doctor",), "order": "descending", "top": 1}),
        (_appointments, "average fee for private patients", {"measures": ("avg(fee_eur)",)}),
        (_appointments, "average patient age", {"measures": ("avg(patient_age)",)}),
        (_appointments, "how many patients under 18 were seen last year?", {"where": '"patient_age" < 18'}),
        # What is added to a name in speaking.
        (_appointments, "average waiting time by clinic", {"measures": ("avg(waiting_days)",), "by": ("clinic",)}),
        (_appointments, "fees by insurance type", {"measures": ("sum(fee_eur)",), "by": ("insurance",)}),
        (_appointments, "top 3 doctors by fee income", {"measures": ("sum(fee_eur)",), "top": 3}),
        (_appointments, "average appointment value", {"measures": ("avg(fee_eur)",)}),
        (_appointments, "total fees collected in January 2025", {"measures": ("sum(fee_eur)",), "period": "2025-01"}),
        # Noughts and ones say yes and no, and so do their contraries.
        (_shipments, "damaged shipments per warehouse", {"where": '"Damaged" = 1', "by": ("Warehouse",)}),
        (_shipments, "undamaged shipments by carrier", {"where": '"Damaged" = 0', "by": ("Carrier",)}),
        (_shipments, "damage rate by mode", {"measures": ('avg("Damaged")',), "by": ("Mode",)}),
        (_shipments, "which carrier damages the most shipments?", {"where": '"Damaged" = 1', "order": "descending"}),
        # What a price or a duration is best of is one row's, not what there is least of.
        (_shipments, "cheapest carrier", {"measures": ('avg("Freight Cost (EUR)")',), "order": "ascending"}),
        (_shipments, "which warehouse is the slowest?", {"order": "descending"}),
        (_shipments, "heaviest shipment", {"order": "Weight (kg)", "descending": True, "top": 1}),
        (_shipments, "total weight by mode", {"measures": ('sum("Weight (kg)")',)}),
        # Units say which column is meant.
        (_shipments, "cost per kilo by carrier", {"measures": ('sum("Freight Cost (EUR)") / sum("Weight (kg)")',)}),
        (_shipments, "shipments that took over 5 days", {"where": '"Days in Transit" > 5'}),
        (_shipments, "average freight cost of shipments heavier than 300 kg", {"where": '"Weight (kg)" > 300'}),
        (_shipments, "how many pallets per shipment on average?", {"measures": ('avg("Pallets")',)}),
        (_shipments, "did transit days improve in 2025?", {"period": "2025", "baseline": "year-ago"}),
        (_shipments, "average transit time per carrier", {"measures": ('avg("Days in Transit")',)}),
        # A season is not a verb; a part of the year is not a year.
        (_tickets, "why did tickets fall in 2025?", {"period": "2025"}),
        (_tickets, "busiest month of the year", {"cycle": "month of the year", "order": "descending"}),
        (_tickets, "most popular team", {"by": ("team",), "order": "descending"}),
        (_tickets, "did satisfaction get better in 2025?", {"period": "2025", "baseline": "year-ago"}),
        # Orders that count, rates that groups are chosen by, a name in two pieces.
        (_appointments, "busiest weekday", {"cycle": "weekday", "order": "descending"}),
        (_appointments, "which doctors have a no show rate above 12%?", {"above": 0.12, "by": ("doctor",)}),
        (_appointments, "what share of appointments need a follow up?", {"measures": ("avg(follow_up_needed)",)}),
        # Yes and no are two groups.
        (_appointments, "fees by no show", {"measures": ("sum(fee_eur)",), "by": ("no_show",)}),
        (_appointments, "average waiting time by no show", {"measures": ("avg(waiting_days)",), "by": ("no_show",)}),
        (_appointments, "no show rate by follow up needed",
         {"measures": ("avg(no_show)",), "by": ("follow_up_needed",)}),
        (_appointments, "number of appointments by no show", {"by": ("no_show",), "where": None}),
        (_appointments, "fees by clinic and no show", {"by": ("clinic", "no_show"), "where": None}),
        (_appointments, "no show appointments by clinic", {"by": ("clinic",), "where": '"no_show"'}),
        (_tickets, "handling cost by reopened", {"by": ("reopened",), "where": None}),
        (_shipments, "freight cost by damaged", {"by": ("Damaged",), "where": None}),
        (_appointments, "does no show differ by follow up needed?", {"by": "follow_up_needed"}),
        # What is named like a rate is one of groups, unless it is counted.
        (_members, "churn by branch", {"measures": ("avg(churn)",), "where": None}),
        (_members, "which branch has the most churn?", {"measures": ("avg(churn)",), "order": "descending"}),
        (_members, "number of churn by branch", {"where": '"churn"', "by": ("branch",)}),
        (_members, "how many members churn?", {"where": '"churn"'}),
    ],
)  # fmt: skip
def test_a_stranger_s_question_is_read_as_it_was_meant(table: Any, question: str, wanted: dict[str, Any]) -> None:
    reading = read(question, table())
    assert reading.call is not None, reading.problem
    told = reading.call.arguments
    assert {name: told.get(name) for name in wanted} == wanted
    if "most patients" in question or question == "busiest weekday":
        assert "measures" not in told, "it is rows that are counted"


@pytest.mark.parametrize(
    ("table", "question"),
    [
        # A deed before rows chooses some of them: without a column of it, all of them would be another answer.
        (_tickets, "how many answered tickets were there?"),
        (_tickets, "average cost of answered tickets"),
        (_sailings, "sailings with a delay over 30 euros"),
        (_sailings, "delivered sailings by route"),
        # A word that is two letters from one of the grammar is not it: "collected" once was "correlated".
        (_tickets, "costs corrected by team"),
        (_appointments, "clinics with a fee above 12%"),
    ],
)
def test_what_could_mean_something_else_is_refused(table: Any, question: str) -> None:
    assert read(question, table()).status == "refused"


def test_a_word_of_praise_says_which_way_it_was_taken_where_nobody_knows() -> None:
    reading = read("best route by vehicles", _sailings())
    assert any("taken as the highest" in note for note in reading.notes)
    assert not any("taken as" in note for note in read("best route by revenue", _sailings()).notes)


def test_parts_of_the_calendar_are_said_and_not_written_as_sql() -> None:
    assert ga.ask(_sailings(), "how many sailings on Fridays").sentence.endswith("sailings (on Fridays).")
    assert "(in December)" in ga.ask(_sailings(), "revenue in December").sentence
    assert ga.ask(_tickets(), "forecast of number of tickets").sentence.startswith("Tickets are expected")


def test_a_month_ahead_is_one_though_the_column_is_called_so() -> None:
    months = pd.date_range("2023-01-01", periods=30, freq="MS")
    table = ga.read(pd.DataFrame({"month": months, "income": np.random.default_rng(2).gamma(9, 9, 30)}), name="plan")
    reading = read("income in the next 3 months", table)
    assert reading.call is not None, reading.problem
    assert (reading.call.name, reading.call.arguments["periods"], reading.call.arguments["grain"]) == (
        "forecast",
        3,
        "month",
    )
    assert read("income next month", table).status == "answered"


@pytest.mark.parametrize(
    "asked", ["average price per berth by quay", "price per berth by quay", "avg price per berth by quay"]
)
def test_of_a_column_of_averages_one_asks_for_the_average(asked: str) -> None:
    prices = np.random.default_rng(4).normal(30, 3, 60)
    table = ga.read(
        pd.DataFrame({"quay": ["North", "South"] * 30, "avg_price_per_berth": prices, "berths": 5}), name="moorings"
    )
    reading = read(asked, table)
    assert reading.call is not None, reading.problem
    assert list(reading.call.arguments["by"]) == ["quay"]
    assert "avg_price_per_berth" in str(reading.call.arguments)
