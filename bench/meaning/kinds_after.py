"""Kinds written once the code was done, by thinking of nothing but the trade; their first score: `docs/meaning.md`."""

from __future__ import annotations

import numpy as np
import pandas as pd

from .case import Case, Rng, days, kind, money, months, some, walk
from .vocabulary import CITIES, PEOPLE, PORTS, PRODUCTS, TEAMS

Frame = pd.DataFrame


@kind
def insurance_claims(rng: Rng) -> Case:
    n = 800
    frame = Frame(
        {
            "loss_date": some(rng, days("2021-01-01", 1000), n),
            "reported": some(rng, days("2021-02-01", 1000), n),
            "claim_number": rng.permutation(np.arange(880_000, 880_000 + n)),
            "cause": some(rng, ["storm", "theft", "fire"], n),
            "paid": money(rng, n, 2500),
            "reserve": money(rng, n, 900),
            "deductible_pct": rng.integers(0, 30, n),
        }
    )
    columns = {
        "loss_date": "time",
        "reported": "time",
        "claim_number": "key",
        "cause": "dimension",
        "paid": "flow",
        "reserve": "stock|flow",
        "deductible_pct": "share",
    }
    return Case(frame=frame, columns=columns, time="loss_date", never=[r"(?i)claim number (was|were|rose)"])


@kind
def hotel_nights(rng: Rng) -> Case:
    rows = [
        (day, house, int(r), round(float(p), 2), round(float(o), 1))
        for day in days("2023-01-01", 400)
        for house, r, p, o in zip(
            CITIES[:3], rng.integers(20, 90, 3), rng.uniform(60, 180, 3), rng.uniform(30, 99, 3), strict=True
        )
    ]
    frame = Frame(rows, columns=["night", "hotel", "rooms_sold", "adr", "occupancy_pct"])
    frame["revpar"] = (frame["adr"] * frame["occupancy_pct"] / 100).round(2)
    return Case(
        frame=frame,
        columns={
            "night": "time",
            "hotel": "dimension",
            "rooms_sold": "flow|count",
            "adr": "price",
            "occupancy_pct": "share",
            "revpar": "price",
        },
        time="night",
        never=[r"(?i)occupancy.{0,30}of the total"],
    )


@kind
def water_works(rng: Rng) -> Case:
    rows = [
        (f"{day} {hour:02d}:00", plant, round(float(f), 1), round(float(ph), 2), round(float(lv), 2))
        for day in days("2024-01-01", 60)
        for hour in range(0, 24, 2)
        for plant, f, ph, lv in zip(
            "NS", rng.gamma(9, 20, 2), rng.normal(7.4, 0.1, 2), rng.uniform(2, 5, 2), strict=True
        )
    ]
    frame = Frame(rows, columns=["timestamp", "plant", "flow_m3", "ph", "tank_level_m"])
    return Case(
        frame=frame,
        columns={
            "timestamp": "time",
            "plant": "dimension",
            "flow_m3": "flow",
            "ph": "reading",
            "tank_level_m": "reading|stock",
        },
        time="timestamp",
        never=[r"(?i)\bph .{0,30}of the total"],
    )


@kind
def football(rng: Rng) -> Case:
    n = 380
    home, away = rng.poisson(1.5, n), rng.poisson(1.1, n)
    frame = Frame(
        {
            "match_day": some(rng, days("2023-08-01", 280), n),
            "home_team": some(rng, CITIES, n),
            "away_team": some(rng, CITIES, n),
            "home_goals": home,
            "away_goals": away,
            "attendance": rng.integers(3000, 40_000, n),
            "possession": np.round(rng.uniform(30, 70, n), 0),
        }
    )
    return Case(
        frame=frame,
        columns={
            "match_day": "time",
            "home_team": "dimension",
            "away_team": "dimension",
            "home_goals": "flow|count",
            "away_goals": "flow|count",
            "attendance": "flow|count",
            "possession": "share|reading",
        },
        time="match_day",
    )


@kind
def farm_yields(rng: Rng) -> Case:
    rows = [
        (
            year,
            field,
            crop,
            round(float(rng.uniform(2, 9)), 2),
            round(float(rng.uniform(1, 40)), 1),
            round(float(rng.gamma(9, 30)), 1),
        )
        for year in range(2008, 2024)
        for field in ("Nord 1", "Nord 2", "Süd 1", "Süd 2")
        for crop in ("Weizen",)
    ]
    frame = Frame(rows, columns=["Erntejahr", "Schlag", "Frucht", "Ertrag_t_je_ha", "Fläche_ha", "Erntemenge_t"])
    return Case(
        frame=frame,
        columns={
            "Erntejahr": "part",
            "Schlag": "dimension",
            "Ertrag_t_je_ha": "price|share|reading",
            "Fläche_ha": "flow|stock|reading|ignored",
            "Erntemenge_t": "flow|count",
        },
        time="date",
        grain="year",
    )


@kind
def parking(rng: Rng) -> Case:
    n = 2000
    frame = Frame(
        {
            "entry": some(rng, days("2024-01-01", 200), n),
            "garage": some(rng, PORTS, n),
            "minutes_parked": rng.integers(5, 900, n),
            "fee_eur": money(rng, n, 6),
            "plate": [f"TR {i:04d}" for i in rng.integers(0, 9999, n)],
        }
    )
    return Case(
        frame=frame,
        columns={
            "entry": "time",
            "garage": "dimension",
            "minutes_parked": "duration",
            "fee_eur": "flow",
            "plate": "text|key",
        },
        time="entry",
        never=[r"(?i)minutes parked (was|were) [\d,]{4,}"],
    )


@kind
def library_loans(rng: Rng) -> Case:
    n = 1500
    frame = Frame(
        {
            "fecha_prestamo": some(rng, days("2022-01-01", 700), n),
            "biblioteca": some(rng, CITIES[:4], n),
            "genero": some(rng, ["novela", "ensayo", "infantil"], n),
            "dias_prestado": rng.integers(1, 60, n),
            "num_ejemplar": rng.integers(100_000, 900_000, n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "fecha_prestamo": "time",
            "biblioteca": "dimension",
            "genero": "dimension",
            "dias_prestado": "duration",
            "num_ejemplar": "key|code|text",
        },
        time="fecha_prestamo",
        never=[r"(?i)num.ejemplar (was|were|rose)", r"(?i)dias prestado (was|were) [\d,]{4,}"],
    )


@kind
def loan_book(rng: Rng) -> Case:
    rows = [
        (month, bank, v, round(float(r), 2), int(c))
        for bank in CITIES[:4]
        for month, v, r, c in zip(
            months("2020-01", 48),
            walk(rng, 48, 9e6, 0.01),
            rng.uniform(2, 6, 48),
            walk(rng, 48, 400, 0.01),
            strict=True,
        )
    ]
    frame = Frame(rows, columns=["reporting_month", "lender", "loans_outstanding", "interest_rate", "open_accounts"])
    return Case(
        frame=frame,
        columns={
            "reporting_month": "time",
            "lender": "dimension",
            "loans_outstanding": "stock",
            "interest_rate": "share|price",
            "open_accounts": "stock",
        },
        time="reporting_month",
        grain="month",
    )


@kind
def marketing(rng: Rng) -> Case:
    n = 360
    impressions = rng.integers(5000, 90_000, n)
    clicks = rng.binomial(impressions, 0.02)
    spend = money(rng, n, 300)
    frame = Frame(
        {
            "week_start": np.repeat(days("2023-01-02", 7 * 60)[::7], 6),
            "campaign": np.tile(PRODUCTS[:6], 60),
            "impressions": impressions,
            "clicks": clicks,
            "ctr": np.round(clicks / impressions, 4),
            "spend": spend,
            "cpc": np.round(spend / np.maximum(clicks, 1), 3),
            "roas": np.round(rng.uniform(0.5, 6, n), 2),
        }
    )
    return Case(
        frame=frame,
        columns={
            "week_start": "time",
            "campaign": "dimension",
            "impressions": "count",
            "clicks": "count",
            "ctr": "share",
            "spend": "flow",
            "cpc": "price",
            "roas": "share|price|reading",
        },
        time="week_start",
        grain="week",
        never=[r"(?i)(ctr|cpc|roas).{0,30}of the total"],
    )


@kind
def factory_quality(rng: Rng) -> Case:
    n = 900
    made = rng.integers(200, 900, n)
    frame = Frame(
        {
            "Schichtdatum": some(rng, days("2023-01-01", 365), n),
            "Linie": rng.integers(1, 6, n),
            "Schicht": some(rng, ["Früh", "Spät", "Nacht"], n),
            "Gutmenge": made,
            "Ausschuss": rng.binomial(made, 0.03),
            "Ausschussquote": np.round(rng.uniform(0, 9, n), 2),
            "Taktzeit_s": np.round(rng.normal(42, 3, n), 1),
        }
    )
    return Case(
        frame=frame,
        columns={
            "Schichtdatum": "time",
            "Linie": "dimension|code|score",
            "Schicht": "dimension",
            "Gutmenge": "count|flow",
            "Ausschuss": "flow|count",
            "Ausschussquote": "share",
            "Taktzeit_s": "duration",
        },
        time="Schichtdatum",
        never=[r"(?i)Linie (was|were|rose|fell)", r"(?i)taktzeit.{0,30}of the total"],
    )


@kind
def emissions(rng: Rng) -> Case:
    rows = [
        (f"{year}M{month:02d}", site, round(float(rng.gamma(20, 3)), 1))
        for year in range(2019, 2024)
        for month in range(1, 13)
        for site in PORTS[:3]
    ]
    frame = Frame(rows, columns=["TIME_PERIOD", "site", "co2_t"])
    return Case(
        frame=frame,
        columns={"TIME_PERIOD": "time", "site": "dimension", "co2_t": "flow"},
        time="TIME_PERIOD",
        grain="month",
    )


@kind
def restaurant(rng: Rng) -> Case:
    n = 1400
    frame = Frame(
        {
            "date_addition": some(rng, days("2023-03-01", 500), n),
            "salle": some(rng, ["terrasse", "bar", "salle"], n),
            "couverts": rng.integers(1, 9, n),
            "montant_ttc": money(rng, n, 45),
            "pourboire": money(rng, n, 4),
            "note_client": rng.integers(1, 6, n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "date_addition": "time",
            "salle": "dimension",
            "couverts": "flow|count",
            "montant_ttc": "flow",
            "pourboire": "flow",
            "note_client": "score",
        },
        time="date_addition",
        never=[r"(?i)note.client.{0,30}of the total"],
    )


@kind
def fleet(rng: Rng) -> Case:
    rows = [
        (day, truck, int(o), round(float(k), 0), round(float(fuel), 1))
        for truck in ("T1", "T2", "T3", "T4")
        for day, o, k, fuel in zip(
            days("2024-01-01", 180),
            np.cumsum(rng.integers(80, 400, 180)) + 90_000,
            rng.integers(80, 400, 180),
            rng.uniform(20, 90, 180),
            strict=True,
        )
    ]
    frame = Frame(rows, columns=["day", "truck", "odometer_km", "km_driven", "litres"])
    return Case(
        frame=frame,
        columns={
            "day": "time",
            "truck": "dimension",
            "odometer_km": "running total|stock",
            "km_driven": "flow",
            "litres": "flow",
        },
        time="day",
        never=[r"(?i)odometer.{0,30}of the total"],
    )


@kind
def plan_and_actual_rows(rng: Rng) -> Case:
    rows = [
        (f"2024-{m:02d}", region, kind_, round(float(rng.gamma(40, 90)), 0))
        for m in range(1, 13)
        for region in ("Nord", "Süd", "West")
        for kind_ in ("Ist", "Soll", "Vorjahr")
    ]
    frame = Frame(rows, columns=["Monat", "Region", "Werttyp", "Absatz"])
    return Case(
        frame=frame,
        columns={"Monat": "time", "Region": "dimension", "Werttyp": "dimension", "Absatz": "flow"},
        time="Monat",
        grain="month",
        scenario="Werttyp",
        never=[r"(Soll|Vorjahr|Ist) leads"],
    )


@kind
def exam_results(rng: Rng) -> Case:
    n = 300
    frame = Frame(
        {
            "school": some(rng, CITIES, n),
            "year": rng.integers(2018, 2024, n),
            "pupils": rng.integers(10, 120, n),
            "mean_points": np.round(rng.uniform(30, 90, n), 1),
            "pass_rate": np.round(rng.uniform(0.4, 1, n), 3),
        }
    )
    return Case(
        frame=frame,
        columns={
            "school": "dimension",
            "year": "part",
            "pupils": "stock|flow|count",
            "mean_points": "reading|score",
            "pass_rate": "share",
        },
        grain="year",
        never=[r"(?i)mean points.{0,30}of the total"],
    )


@kind
def donations(rng: Rng) -> Case:
    n = 700
    frame = Frame(
        {
            "gift_date": [
                f"{m} {d} {y}"
                for m, d, y in zip(
                    some(rng, "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split(), n),
                    rng.integers(1, 28, n),
                    rng.integers(2021, 2024, n),
                    strict=True,
                )
            ],
            "donor_id": rng.integers(10_000, 12_000, n),
            "appeal": some(rng, ["spring", "winter", "web"], n),
            "gift": money(rng, n, 60),
        }
    )
    return Case(
        frame=frame,
        columns={"gift_date": "time", "donor_id": "key", "appeal": "dimension", "gift": "flow"},
        time="gift_date",
        never=[r"(?i)donor.id (was|were|rose)"],
    )


@kind
def freight_rates(rng: Rng) -> Case:
    n = 500
    frame = Frame(
        {
            "quoted": some(rng, days("2022-01-01", 900), n),
            "lane": some(rng, PORTS, n),
            "rate_per_container": money(rng, n, 1900),
            "currency": np.array(["USD", "EUR"])[rng.choice(2, n, p=[0.7, 0.3])],
            "transit_days": rng.integers(3, 40, n),
            "containers": rng.integers(1, 30, n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "quoted": "time",
            "lane": "dimension",
            "rate_per_container": "price|share",
            "currency": "dimension",
            "transit_days": "duration",
            "containers": "flow|count",
        },
        time="quoted",
        unit="currency",
        never=[r"(?i)transit days (was|were) [\d,]{4,}"],
    )


@kind
def clinic_measures(rng: Rng) -> Case:
    n = 420
    frame = Frame(
        {
            "visit": some(rng, days("2023-01-01", 500), n),
            "sex": some(rng, ["f", "m"], n),
            "weight_kg": np.round(rng.normal(75, 12, n), 1),
            "height_cm": np.round(rng.normal(172, 9, n), 0),
            "systolic_bp": rng.integers(95, 180, n),
            "pain_score": rng.integers(0, 11, n),
            "smoker": some(rng, ["yes", "no"], n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "visit": "time",
            "sex": "dimension",
            "weight_kg": "reading",
            "height_cm": "reading",
            "systolic_bp": "reading",
            "pain_score": "score",
            "smoker": "share",
        },
        time="visit",
        never=[r"(?i)(weight|height|systolic|pain).{0,30}of the total"],
    )


@kind
def incidents(rng: Rng) -> Case:
    n = 500
    frame = Frame(
        {
            "Meldedatum": some(rng, days("2021-01-01", 1100), n),
            "Art": some(rng, ["Sturz", "Schnitt", "Brand"], n),
            "Bereich": some(rng, TEAMS, n),
            "gemeldet_von": some(rng, PEOPLE, n),
        }
    )
    return Case(
        frame=frame,
        columns={"Meldedatum": "time", "Art": "dimension", "Bereich": "dimension", "gemeldet_von": "dimension"},
        time="Meldedatum",
    )


@kind
def cumulative_cases(rng: Rng) -> Case:
    rows = [
        (day, city, int(c))
        for city in CITIES[:3]
        for day, c in zip(days("2022-01-01", 300), np.cumsum(rng.poisson(9, 300)), strict=True)
    ]
    frame = Frame(rows, columns=["date", "district", "cumulative_cases"])
    return Case(
        frame=frame,
        columns={"date": "time", "district": "dimension", "cumulative_cases": "running total"},
        time="date",
        never=[r"(?i)cumulative cases.{0,30}(of the total|rose)"],
    )


@kind
def rents(rng: Rng) -> Case:
    n = 350
    frame = Frame(
        {
            "listed": some(rng, days("2022-05-01", 800), n),
            "district": some(rng, CITIES, n),
            "rooms": rng.integers(1, 6, n),
            "sqm": rng.integers(20, 140, n),
            "rent_per_sqm": np.round(rng.uniform(8, 25, n), 2),
            "built": rng.integers(1900, 2023, n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "listed": "time",
            "district": "dimension",
            "rooms": "dimension|reading|flow",
            "sqm": "reading|flow",
            "rent_per_sqm": "price",
            "built": "dimension|part|reading|key|code",
        },
        time="listed",
        never=[r"(?i)built (was|were|rose) [\d,.]+ million", r"(?i)rent per sqm.{0,30}of the total"],
    )
