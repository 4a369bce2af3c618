"""Kinds for running totals, returns, clusters, plans, rates, slips of rows: written once that code was done, by
thinking of the trade alone; their first score: `docs/meaning.md`."""

from __future__ import annotations

import numpy as np
import pandas as pd

from .case import Case, Rng, days, kind, money, months, pick, some
from .vocabulary import CITIES, PEOPLE, PORTS, PRODUCTS, TEAMS

Frame = pd.DataFrame


@kind
def gym_visits(rng: Rng) -> Case:
    """Members come again and again."""
    members = rng.integers(100_000, 999_999, 90)
    n = 1200
    frame = Frame(
        {
            "visit_date": some(rng, days("2023-01-01", 700), n),
            "member_no": rng.choice(members, n),
            "club": some(rng, CITIES[:4], n),
            "minutes_stayed": rng.gamma(9, 8, n).round(),
        }
    )
    columns = {"visit_date": "time", "member_no": "key", "club": "dimension", "minutes_stayed": "duration"}
    return Case(
        frame=frame, columns=columns, time="visit_date", never=[r"(?i)member no (was|rose)"],
        must=[r"'member_no' numbers what several rows belong to"],
    )  # fmt: skip


@kind
def hotel_bookings(rng: Rng) -> Case:
    """Booked on one day, arrived on another, paid in three currencies."""
    n = 900
    booked = np.array(days("2023-01-01", 600), dtype="datetime64[D]")[rng.integers(0, 600, n)]
    frame = Frame(
        {
            "reservation": rng.permutation(np.arange(70_000, 70_000 + n)),
            "booked_on": booked,
            "arrival": booked + rng.integers(1, 120, n),
            "hotel": some(rng, PORTS[:4], n),
            "currency": rng.choice(["EUR", "CHF", "GBP"], n, p=[0.5, 0.3, 0.2]),
            "room_revenue": money(rng, n, 300),
            "nights": rng.integers(1, 9, n),
        }
    )
    columns = {
        "reservation": "key", "booked_on": "time", "arrival": "time", "hotel": "dimension", "currency": "dimension",
        "room_revenue": "flow", "nights": "count|flow|duration",
    }  # fmt: skip
    return Case(
        frame=frame, columns=columns, time="booked_on", unit="currency",
        must=[r"Dates stand in 'arrival', too", r"not added"],
        never=[r"(?i)(CHF|GBP) leads"],
    )  # fmt: skip


@kind
def cuenta_de_resultados(rng: Rng) -> Case:
    """A Spanish profit and loss account with figures of the year to date."""
    rows = []
    for account in ("Ventas", "Personal", "Alquiler", "Energía"):
        size, total = rng.uniform(10_000, 80_000), 0.0
        for month in months("2022-01-01", 30):
            total = 0.0 if month[5:7] == "01" else total
            total += float(size * rng.normal(1, 0.08))
            rows.append((month, account, round(total, 2)))
    frame = Frame(rows, columns=["mes", "cuenta", "importe_acumulado"])
    return Case(
        frame=frame,
        columns={"mes": "time", "cuenta": "dimension", "importe_acumulado": "running total", "importe": "flow"},
        time="mes", grain="month",
        never=[r"(?i)(highest|peak)[^.]{0,20}december", r"(?i)lowest in january"],
        must=[r"'importe_acumulado' is a running total that starts again each year"],
    )  # fmt: skip


@kind
def water_meters(rng: Rng) -> Case:
    """Meters read each month; they never start again."""
    rows = []
    for flat in range(1, 9):
        reading = float(rng.integers(200, 4000))
        for month in months("2021-01-01", 36):
            reading += float(rng.gamma(6, 1.2))
            rows.append((month, f"Wohnung {flat}", round(reading, 1)))
    frame = Frame(rows, columns=["Ablesung", "Wohnung", "Zählerstand_m3"])
    return Case(
        frame=frame,
        columns={
            "Ablesung": "time", "Wohnung": "dimension", "Zählerstand_m3": "running total",
            "Zählerstand_m3 difference": "flow",
        },
        time="Ablesung", grain="month", must=[r"'Zählerstand_m3' is a running total"],
        never=[r"(?i)Zählerstand m3 rose"],
    )  # fmt: skip


@kind
def shop_with_returns(rng: Rng) -> Case:
    n = 700
    sold = Frame(
        {
            "date": some(rng, days("2023-01-01", 500), n),
            "order_id": np.arange(50_000, 50_000 + n),
            "article": some(rng, PRODUCTS, n),
            "amount": money(rng, n, 60),
        }
    )
    back = sold.sample(50, random_state=int(rng.integers(1, 1e6))).assign(amount=lambda one: -one["amount"])
    frame = pd.concat([sold, back]).sort_values("date", ignore_index=True)
    return Case(
        frame=frame,
        columns={"date": "time", "order_id": "key", "article": "dimension", "amount": "flow"},
        time="date", must=[r"mirror others, as returns and corrections do"],
        never=[r"(?i)is the sign wrong"],
    )  # fmt: skip


@kind
def clinic_measurements(rng: Rng) -> Case:
    """Two patients whose height and weight stand in each other's place."""
    n = 400
    frame = Frame(
        {
            "seen": some(rng, days("2022-01-01", 600), n),
            "ward": some(rng, TEAMS[:4], n),
            "taille_cm": rng.normal(172, 7, n).round(),
            "poids_kg": rng.normal(72, 9, n).round(),
            "temperature": rng.normal(37, 0.5, n).round(1),
        }
    )
    for row in rng.choice(n, 2, replace=False):
        frame.loc[row, ["taille_cm", "poids_kg"]] = [68.0, 175.0]
    return Case(
        frame=frame,
        columns={"seen": "time", "ward": "dimension", "taille_cm": "reading", "poids_kg": "reading",
                 "temperature": "reading"},
        time="seen", must=[r"'taille_cm' and 'poids_kg' look swapped in 2 rows"],
    )  # fmt: skip


@kind
def stock_moves_loaded_twice(rng: Rng) -> Case:
    n = 500
    moves = Frame(
        {
            "Datum": sorted(some(rng, days("2024-01-01", 300), n)),
            "Lager": some(rng, CITIES[:3], n),
            "Artikel": some(rng, PRODUCTS, n),
            "Menge": rng.integers(1, 400, n),
            "Wert": money(rng, n, 900),
        }
    )
    again = moves.iloc[int(n * 0.7) :]
    return Case(
        frame=pd.concat([moves, again], ignore_index=True),
        columns={"Datum": "time", "Lager": "dimension", "Artikel": "dimension", "Menge": "count|flow", "Wert": "flow"},
        time="Datum", must=[r"23% of all, repeat an earlier one in every column"],
    )  # fmt: skip


@kind
def weather_mast(rng: Rng) -> Case:
    n = 600
    frame = Frame(
        {
            "taken": days("2022-01-01", n),
            "gust_kmh": rng.gamma(4, 8, n).round(),
            "humidity": rng.uniform(30, 99, n).round(1),
            "air_temp": (12 + 9 * np.sin(np.arange(n) / 58) + rng.normal(0, 3, n)).round(1),
        }
    )
    frame.loc[int(rng.integers(10, n - 10)), "gust_kmh"] = 1048.0
    return Case(
        frame=frame,
        columns={"taken": "time", "gust_kmh": "reading", "humidity": "reading|share", "air_temp": "reading"},
        time="taken", must=[r"beyond what there is"],
    )  # fmt: skip


@kind
def projektstunden(rng: Rng) -> Case:
    """Hours of projects, actual and planned, in one column."""
    rows = []
    for team in TEAMS[:4]:
        for month in months("2023-01-01", 24):
            plan = float(rng.integers(300, 500))
            rows.append((month, team, "Soll", plan))
            rows.append((month, team, "Ist", round(plan * float(rng.normal(1, 0.05)))))
    frame = Frame(rows, columns=["Monat", "Team", "Art", "Stunden"])
    return Case(
        frame=frame,
        columns={"Monat": "time", "Team": "dimension", "Art": "dimension", "Stunden": "flow|count|duration"},
        time="Monat", grain="month", scenario="Art", must=[r"Figures are those of Ist"],
        never=[r"(?i)Soll leads", r"(?i)Stunden rose 100"],
    )  # fmt: skip


@kind
def deliveries(rng: Rng) -> Case:
    """A parcel cannot arrive before it is sent; three seem to."""
    n = 500
    sent = np.array(days("2023-02-01", 400), dtype="datetime64[D]")[rng.integers(0, 400, n)]
    arrived = sent + rng.integers(1, 9, n)
    wrong = rng.choice(n, 3, replace=False)
    arrived[wrong] = sent[wrong] - 20
    frame = Frame(
        {
            "sent": sent,
            "delivered": arrived,
            "depot": some(rng, CITIES[:5], n),
            "weight_kg": rng.gamma(3, 2, n).round(1),
            "courier": some(rng, PEOPLE, n),
        }
    )
    return Case(
        frame=frame,
        columns={"sent": "time", "delivered": "time", "depot": "dimension", "weight_kg": "reading|flow",
                 "courier": "dimension"},
        time="sent", must=[r"'delivered' lies before 'sent' in 3 rows"],
    )  # fmt: skip


@kind
def call_centre(rng: Rng) -> Case:
    """Calls of the month so far, day by day."""
    start = pick(rng, "2023-01-01", "2024-03-01")
    rows = []
    for team in TEAMS[:3]:
        total = 0
        for day in days(start, 180):
            total = int(rng.poisson(80)) + (0 if day.endswith("-01") else total)
            rows.append((day, team, total))
    frame = Frame(rows, columns=["day", "team", "calls_mtd"])
    return Case(
        frame=frame,
        columns={"day": "time", "team": "dimension", "calls_mtd": "running total", "calls": "flow|count"},
        time="day", must=[r"starts again each month"], never=[r"(?i)calls mtd (peak|rose|fell)"],
    )  # fmt: skip


@kind
def spende(rng: Rng) -> Case:
    """Donations: one was booked with the wrong sign."""
    n = 450
    frame = Frame(
        {
            "fecha": some(rng, days("2022-01-01", 900), n),
            "campaña": some(rng, ["Invierno", "Mar", "Escuela"], n),
            "donativo": money(rng, n, 80),
        }
    )
    frame.loc[int(rng.integers(0, n)), "donativo"] = -round(float(frame["donativo"].median()), 2)
    return Case(
        frame=frame,
        columns={"fecha": "time", "campaña": "dimension", "donativo": "flow"},
        time="fecha", must=[r"'donativo' is below nought in 1 of 450 rows"],
    )  # fmt: skip
