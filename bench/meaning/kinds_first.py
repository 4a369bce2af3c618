"""Kinds of tables of a dozen trades, written beside the code."""

from __future__ import annotations

import numpy as np
import pandas as pd

from .case import Case, Rng, days, kind, money, months, pick, some, walk
from .vocabulary import CITIES, PEOPLE, PORTS, PRODUCTS, TEAMS

Frame = pd.DataFrame
_SUMS = r"(?i)\b(\d[\d,.]*) (million|billion)? ?in the (week|day) of"


@kind
def sales_rows(rng: Rng) -> Case:
    n = 900
    day = pick(rng, "date", "sold_on", "Datum", "fecha")
    amount, units, price = (
        pick(rng, "revenue", "Umsatz", "ventas", "montant"),
        pick(rng, "units", "Menge", "cantidad"),
        "unit_price",
    )
    frame = Frame(
        {
            day: some(rng, days("2023-01-02", 700), n),
            "shop": some(rng, CITIES[:5], n),
            units: rng.integers(1, 9, n),
            price: money(rng, n, 20),
        }
    )
    frame[amount] = (frame[units] * frame[price]).round(2)
    frame["invoice_no"] = rng.permutation(np.arange(40_000, 40_000 + n))
    columns = {day: "time", "shop": "dimension", units: "count", price: "price", amount: "flow", "invoice_no": "key"}
    return Case(
        frame=frame, columns=columns, time=day, never=[r"(?i)invoice.no (was|were|rose|fell|leads|averaged|peaks)"]
    )


@kind
def bank_balances(rng: Rng) -> Case:
    """A balance each day for each account."""
    name = pick(rng, "closing_balance", "Kontostand", "saldo", "solde", "balance")
    rows = [
        (day, account, value)
        for account, size in zip(CITIES[:4], (1e6, 3e5, 5e4, 2e6), strict=True)
        for day, value in zip(days("2023-01-01", 850), walk(rng, 850, size, 0.005), strict=True)
    ]
    frame = Frame(rows, columns=["date", "account_name", name])
    return Case(
        frame=frame,
        columns={"date": "time", "account_name": "dimension", name: "stock"},
        time="date",
        grain="month",
        never=[r"(?i)averaged .* a month", r"has made \d+% of (closing balance|balance|saldo|solde|kontostand)"],
    )


@kind
def headcount(rng: Rng) -> Case:
    name = pick(rng, "headcount", "employees", "Mitarbeiterzahl", "effectif", "plantilla", "FTE")
    rows = [
        (month, team, int(value))
        for team in TEAMS[:5]
        for month, value in zip(months("2021-01", 42), walk(rng, 42, 80, 0.01), strict=True)
    ]
    leavers = pick(rng, "leavers", "Abgänge", "bajas")
    frame = Frame(rows, columns=["month", "team", name]).assign(**{leavers: rng.poisson(1.5, len(rows))})
    return Case(
        frame=frame,
        columns={"month": "time", "team": "dimension", name: "stock", leavers: "flow|count"},
        time="month",
        grain="month",
        never=[r"(?i)a month \("],
    )


@kind
def stock_on_hand(rng: Rng) -> Case:
    name = pick(rng, "stock_on_hand", "Lagerbestand", "existencias", "inventory_units", "on_hand")
    rows = [
        (week, product, int(value), int(sold))
        for product in PRODUCTS[:6]
        for week, value, sold in zip(
            days("2023-01-02", 7 * 80)[::7], walk(rng, 80, 400, 0.05), rng.poisson(30, 80), strict=True
        )
    ]
    frame = Frame(rows, columns=["week", "product", name, "units_sold"])
    return Case(
        frame=frame,
        columns={"week": "time", "product": "dimension", name: "stock", "units_sold": "count"},
        time="week",
        grain="week",
    )


@kind
def ledger_48(rng: Rng) -> Case:
    """48 monthly figures, one row a month."""
    amount = pick(rng, "amount", "Betrag", "importe", "revenue")
    frame = Frame({"month": months("2021-01", 48), amount: walk(rng, 48, 9e5, 0.05)})
    return Case(frame=frame, columns={"month": "time", amount: "flow"}, time="month", grain="month")


@kind
def year_column(rng: Rng) -> Case:
    year = pick(rng, "year", "Jahr", "año", "annee")
    value = pick(rng, "exports", "Ausfuhr", "production", "gasto")
    frame = Frame({year: range(1985, 2024), value: walk(rng, 39, 5000, 0.05)})
    return Case(
        frame=frame,
        columns={year: "part", value: "flow"},
        time="date",
        grain="year",
        never=[r"(?i)no column holds dates"],
    )


@kind
def six_digit_months(rng: Rng) -> Case:
    name = pick(rng, "period", "yyyymm", "monat", "mes")
    rows = [
        (100 * year + month, city, value)
        for city in CITIES[:3]
        for (year, month), value in zip(
            ((y, m) for y in (2021, 2022, 2023) for m in range(1, 13)), walk(rng, 36, 900), strict=True
        )
    ]
    frame = Frame(rows, columns=[name, "branch", "turnover"])
    return Case(
        frame=frame, columns={name: "time", "branch": "dimension", "turnover": "flow"}, time=name, grain="month"
    )


@kind
def year_and_month(rng: Rng) -> Case:
    names = {"en": ("year", "month"), "de": ("Jahr", "Monat"), "es": ("año", "mes"), "fr": ("annee", "mois")}
    year, month = names[pick(rng, *names)]
    rows = [
        (y, m, city, round(float(rng.gamma(3, 300)), 2))
        for y in (2020, 2021, 2022, 2023)
        for m in range(1, 13)
        for city in CITIES[:2]
    ]
    frame = Frame(rows, columns=[year, month, "city", "sales"])
    return Case(
        frame=frame,
        columns={year: "part", month: "part", "city": "dimension", "sales": "flow"},
        time="date",
        grain="month",
        never=[r"\b20\d\d (ended|began|leads)"],
    )


@kind
def month_names(rng: Rng) -> Case:
    german = "Januar Februar März April Mai Juni Juli August September Oktober November Dezember".split()
    spanish = "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre".split()
    year, month, words = [("Jahr", "Monat", german), ("año", "mes", spanish)][int(rng.integers(2))]
    rows = [(y, word, value) for y in (2021, 2022, 2023) for word, value in zip(words, walk(rng, 12, 700), strict=True)]
    frame = Frame(rows, columns=[year, month, pick(rng, "Kosten", "costes", "cost")])
    return Case(
        frame=frame, columns={year: "part", month: "part", frame.columns[2]: "flow"}, time="date", grain="month"
    )


@kind
def date_with_parts(rng: Rng) -> Case:
    n = 1200
    dates = pd.to_datetime(some(rng, days("2022-01-01", 730), n))
    frame = Frame(
        {
            "order_date": dates.strftime("%Y-%m-%d"),
            "year": dates.year,
            "month": dates.month,
            "quarter": [f"Q{q}" for q in dates.quarter],
            "weekday": dates.day_name(),
            "category": some(rng, PRODUCTS[:4], n),
            "sales": money(rng, n),
        }
    )
    columns = {
        "order_date": "time",
        "year": "part",
        "month": "part",
        "quarter": "part",
        "weekday": "part",
        "category": "dimension",
        "sales": "flow",
    }
    return Case(frame=frame, columns=columns, time="order_date", never=[r"\b202\d (ended|began|leads)", r"Q\d leads"])


@kind
def fiscal_quarters(rng: Rng) -> Case:
    form = pick(rng, "Q{q} FY{y}", "20{y}-Q{q}", "20{y} Q{q}", "Q{q}/20{y}")
    rows = [
        (form.format(q=q, y=y), team, round(float(rng.gamma(4, 2000)), 0))
        for y in range(18, 25)
        for q in (1, 2, 3, 4)
        for team in TEAMS[:2]
    ]
    frame = Frame(rows, columns=["quarter", "department", "spend"])
    return Case(
        frame=frame,
        columns={"quarter": "time", "department": "dimension", "spend": "flow"},
        time="quarter",
        grain="quarter",
    )


@kind
def calendar_weeks(rng: Rng) -> Case:
    form = pick(rng, "KW {w:02d}/2024", "2024-W{w:02d}", "W{w} 2024", "2024-KW{w:02d}")
    frame = Frame(
        [
            (form.format(w=w), line, int(v))
            for w in range(1, 50)
            for line, v in zip("AB", rng.poisson(90, 2), strict=True)
        ],
        columns=[pick(rng, "Woche", "week", "semana"), "line", "pieces"],
    )
    week = frame.columns[0]
    return Case(frame=frame, columns={week: "time", "line": "dimension", "pieces": "count"}, time=week, grain="week")


@kind
def actual_budget(rng: Rng) -> Case:
    labels = {
        "scenario": ("Actual", "Budget"),
        "Szenario": ("Ist", "Plan"),
        "version": ("Actuals", "Forecast", "Budget 2024"),
        "escenario": ("Real", "Presupuesto"),
    }
    column = pick(rng, *labels)
    rows = [
        (month, team, label, round(float(rng.gamma(30, 300)), 0))
        for month in months("2022-01", 30)
        for team in TEAMS[:3]
        for label in labels[column]
    ]
    frame = Frame(rows, columns=["month", "team", column, "cost"])
    return Case(
        frame=frame,
        columns={"month": "time", "team": "dimension", column: "dimension", "cost": "flow"},
        time="month",
        grain="month",
        scenario=column,
        never=[r"(Budget|Plan|Forecast|Presupuesto)( 2024)? leads"],
    )


@kind
def budget_columns(rng: Rng) -> Case:
    n = 36
    base = pick(rng, "sales", "Umsatz", "ventas")
    beside = {
        "sales": ("sales_budget", "sales_ly"),
        "Umsatz": ("Umsatz_Plan", "Umsatz_Vorjahr"),
        "ventas": ("ventas_presupuesto", "ventas_objetivo"),
    }[base]
    frame = Frame(
        {
            "month": months("2021-01", n),
            base: walk(rng, n, 5e5, 0.1),
            beside[0]: walk(rng, n, 5e5, 0.02),
            beside[1]: walk(rng, n, 4e5, 0.1),
        }
    )
    return Case(
        frame=frame,
        columns={"month": "time", base: "flow", beside[0]: "beside", beside[1]: "beside"},
        time="month",
        grain="month",
        never=[r"(?i)(budget|plan|presupuesto|objetivo|vorjahr) (rose|fell|was|were)"],
    )


@kind
def currencies(rng: Rng) -> Case:
    n = 800
    column = pick(rng, "currency", "Währung", "devise", "moneda", "ccy")
    codes = np.array(["EUR", "USD", "JPY"])[rng.choice(3, n, p=[0.5, 0.3, 0.2])]
    frame = Frame(
        {
            "date": some(rng, days("2022-01-01", 900), n),
            column: codes,
            "amount": money(rng, n) * np.where(codes == "JPY", 150, 1),
            "branch": some(rng, CITIES[:3], n),
        }
    )
    return Case(
        frame=frame,
        columns={"date": "time", column: "dimension", "amount": "flow", "branch": "dimension"},
        time="date",
        grain="month",
        unit=column,
        never=[r"JPY leads", r"leads the (currencies|ccys|moneda|devises)"],
    )


@kind
def unit_column(rng: Rng) -> Case:
    n = 600
    column = pick(rng, "unit", "Einheit", "uom")
    frame = Frame(
        {
            "date": some(rng, days("2023-01-01", 500), n),
            column: np.array(["kg", "pcs", "l"])[rng.choice(3, n, p=[0.6, 0.3, 0.1])],
            "quantity": rng.integers(1, 500, n),
            "product": some(rng, PRODUCTS, n),
        }
    )
    return Case(
        frame=frame,
        columns={"date": "time", column: "dimension", "quantity": "count", "product": "dimension"},
        time="date",
        unit=column,
    )


@kind
def survey_scores(rng: Rng) -> Case:
    n = 400
    frame = Frame({"submitted": some(rng, days("2024-01-01", 300), n), "department": some(rng, TEAMS[:5], n)})
    for name in ("q1", "q2", "q3"):
        frame[name] = rng.integers(1, 6, n)
    score = pick(rng, "satisfaction", "Zufriedenheit", "nps", "rating")
    frame[score] = rng.integers(0, 11, n)
    return Case(
        frame=frame,
        columns={
            "submitted": "time",
            "department": "dimension",
            "q1": "score",
            "q2": "score",
            "q3": "score",
            score: "score",
        },
        time="submitted",
        never=[r"(?i)of the total", r"(?i)in satisfaction: \d+%"],
    )


@kind
def school_marks(rng: Rng) -> Case:
    n = 500
    mark = pick(rng, "grade", "Note", "nota", "mark")
    frame = Frame(
        {
            "class": some(rng, ["7a", "7b", "8a", "8b"], n),
            "subject": some(rng, ["Mathe", "Biology", "Historia", "Art"], n),
            mark: rng.integers(1, 7, n),
            "student_id": rng.integers(1000, 1120, n),
        }
    )
    return Case(
        frame=frame,
        columns={"class": "dimension", "subject": "dimension", mark: "score", "student_id": "key|code"},
        never=[r"(?i)of the total", r"(?i)student.id (was|were|rose|fell|leads|averaged|peaks)"],
    )


@kind
def support_tickets(rng: Rng) -> Case:
    n = 1500
    wait = pick(rng, "wait_hours", "response_time", "Bearbeitungszeit", "tiempo_espera", "resolution_minutes")
    frame = Frame(
        {
            "opened": some(rng, days("2023-01-01", 600), n),
            "priority": some(rng, ["low", "medium", "high"], n),
            "channel": some(rng, ["web", "mail", "phone"], n),
            wait: money(rng, n, 9),
            "ticket_no": np.arange(70_001, 70_001 + n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "opened": "time",
            "priority": "dimension",
            "channel": "dimension",
            wait: "duration",
            "ticket_no": "key",
        },
        time="opened",
        never=[r"(?i)hours? (was|were) [\d,]{4,}", r"(?i)days in the week"],
    )


@kind
def tickets_without_numbers(rng: Rng) -> Case:
    n = 1200
    frame = Frame(
        {
            "opened": some(rng, days("2023-01-01", 500), n),
            "status": some(rng, ["open", "closed", "waiting"], n),
            "site": some(rng, CITIES[:6], n),
        }
    )
    return Case(frame=frame, columns={"opened": "time", "status": "dimension", "site": "dimension"}, time="opened")


@kind
def hospital_stays(rng: Rng) -> Case:
    n = 900
    stay = pick(rng, "length_of_stay", "los_days", "Liegezeit", "days_in_ward")
    frame = Frame(
        {
            "admitted": some(rng, days("2022-06-01", 700), n),
            "ward": some(rng, ["A1", "A2", "B1"], n),
            "age": rng.integers(1, 95, n),
            stay: rng.integers(0, 20, n),
            "patient_id": rng.integers(100_000, 999_999, n),
            "cost": money(rng, n, 4000),
        }
    )
    columns = {
        "admitted": "time",
        "ward": "dimension",
        "age": "duration",
        stay: "duration|reading",
        "patient_id": "key",
        "cost": "flow",
    }
    return Case(
        frame=frame,
        columns=columns,
        time="admitted",
        never=[
            r"(?i)\bage (was|were|rose|fell) [\d,]{4,}",
            r"(?i)patient.id (was|were|rose|fell|leads|averaged|peaks)",
        ],
    )


@kind
def sensors(rng: Rng) -> Case:
    rows = [
        (day, station, round(float(t), 1), round(float(h), 0))
        for station in PORTS[:3]
        for day, t, h in zip(days("2023-01-01", 700), rng.normal(12, 6, 700), rng.uniform(40, 99, 700), strict=True)
    ]
    temperature, humidity = (
        pick(rng, "temperature", "Temperatur", "temperatura", "temp_c"),
        pick(rng, "humidity", "Feuchte", "humedad"),
    )
    frame = Frame(rows, columns=["day", "station", temperature, humidity])
    return Case(
        frame=frame,
        columns={"day": "time", "station": "dimension", temperature: "reading", humidity: "reading"},
        time="day",
        never=[r"(?i)of the total"],
    )


@kind
def sensors_with_codes(rng: Rng) -> Case:
    code = int(rng.choice([-999, -9999, 9999]))
    values = np.where(rng.random(800) < 0.06, code, np.round(rng.normal(14, 5, 800), 1))
    frame = Frame(
        {"day": some(rng, days("2023-01-01", 365), 800), "station": some(rng, PORTS[:4], 800), "temperature": values}
    )
    return Case(
        frame=frame,
        columns={"day": "time", "station": "dimension", "temperature": "reading"},
        time="day",
        never=[rf"(?<!\d){code}(?!\d)", r"−\d{3}"],
    )


@kind
def share_prices(rng: Rng) -> Case:
    rows = [
        (day, name, *np.round([p * 0.99, p * 1.02, p * 0.98, p], 2), int(v))
        for name in ("TRN", "SKY", "QAY")
        for day, p, v in zip(days("2023-01-02", 500), walk(rng, 500, 50), rng.integers(1000, 90_000, 500), strict=True)
    ]
    frame = Frame(rows, columns=["date", "ticker", "open", "high", "low", "close", "volume"])
    columns = {
        "date": "time",
        "ticker": "dimension",
        "open": "price",
        "high": "price",
        "low": "price",
        "close": "price",
        "volume": "flow|count",
    }
    return Case(frame=frame, columns=columns, time="date", never=[r"(?i)(open|close|high|low) .{0,30}of the total"])


@kind
def energy_meter(rng: Rng) -> Case:
    use = pick(rng, "consumption_kwh", "Verbrauch_kWh", "consumo_kwh", "kwh")
    frame = Frame(
        [
            (day, site, round(float(v), 1))
            for day in days("2022-01-01", 800)
            for site, v in zip(CITIES[:2], rng.gamma(20, 5, 2), strict=True)
        ],
        columns=["date", "site", use],
    )
    return Case(frame=frame, columns={"date": "time", "site": "dimension", use: "flow"}, time="date")


@kind
def web_shop(rng: Rng) -> Case:
    n = 400
    visits = rng.integers(100, 900, n)
    orders = rng.binomial(visits, 0.03)
    rate = pick(rng, "conversion_rate", "Conversion %", "tasa_conversion")
    frame = Frame(
        {
            "date": np.repeat(days("2024-01-01", 200), 2),
            "device": ["phone", "desktop"] * 200,
            "visits": visits,
            "orders": orders,
            rate: np.round(100 * orders / visits, 2),
        }
    )
    return Case(
        frame=frame,
        columns={"date": "time", "device": "dimension", "visits": "count", "orders": "count", rate: "share"},
        time="date",
        never=[r"(?i)conversion.{0,20}of the total"],
    )


@kind
def year_to_date(rng: Rng) -> Case:
    name = pick(rng, "revenue_ytd", "Umsatz_kumuliert", "ventas_acumuladas_ytd", "cumulative_sales")
    flow = rng.gamma(20, 50, 36).round(0)
    frame = Frame(
        {
            "month": months("2021-01", 36),
            "orders": rng.poisson(300, 36),
            name: np.concatenate([np.cumsum(flow[i : i + 12]) for i in (0, 12, 24)]),
        }
    )
    return Case(
        frame=frame,
        columns={"month": "time", "orders": "count", name: "running total"},
        time="month",
        grain="month",
        never=[r"(?i)(ytd|kumuliert|cumulative).{0,30}peaks"],
    )


@kind
def payroll(rng: Rng) -> Case:
    n = 480
    pay = pick(rng, "salary", "Gehalt", "salario", "gross_pay")
    frame = Frame(
        {
            "pay_date": np.repeat(months("2022-01", 24), 20),
            "employee_no": np.tile(np.arange(5001, 5021), 24),
            "department": np.tile(some(rng, TEAMS[:4], 20), 24),
            pay: money(rng, n, 3000),
            "hourly_wage": np.round(rng.uniform(14, 60, n), 2),
        }
    )
    return Case(
        frame=frame,
        columns={
            "pay_date": "time",
            "employee_no": "key|code|dimension",
            "department": "dimension",
            pay: "flow",
            "hourly_wage": "price",
        },
        time="pay_date",
        grain="month",
        never=[r"(?i)hourly.wage.{0,30}of the total"],
    )


@kind
def projects(rng: Rng) -> Case:
    n = 700
    hours = pick(rng, "hours_worked", "hours_billed", "Stunden")
    frame = Frame(
        {
            "day": some(rng, days("2023-01-02", 400), n),
            "project": some(rng, PRODUCTS[:6], n),
            "person": some(rng, PEOPLE, n),
            hours: np.round(rng.uniform(0.5, 8, n), 2),
            "progress_pct": rng.integers(0, 101, n),
        }
    )
    return Case(
        frame=frame,
        columns={"day": "time", "project": "dimension", "person": "dimension", hours: "flow", "progress_pct": "share"},
        time="day",
    )


@kind
def contracts_forever(rng: Rng) -> Case:
    n = 300
    ends = [str(rng.choice(days("2024-01-01", 900))) if rng.random() > 0.3 else "9999-12-31" for _ in range(n)]
    frame = Frame(
        {
            "signed": some(rng, days("2021-01-01", 900), n),
            "valid_until": ends,
            "plan": some(rng, ["S", "M", "L"], n),
            "monthly_fee": money(rng, n, 30),
        }
    )
    return Case(
        frame=frame,
        columns={"signed": "time", "valid_until": "time", "plan": "dimension", "monthly_fee": "flow|price"},
        time="signed",
        never=[r"9999"],
    )


@kind
def members(rng: Rng) -> Case:
    name = pick(rng, "members", "Mitglieder", "abonados", "abonnes", "subscribers")
    frame = Frame(
        [
            (month, club, int(v), int(j))
            for club in CITIES[:3]
            for month, v, j in zip(months("2020-01", 48), walk(rng, 48, 900, 0.01), rng.poisson(12, 48), strict=True)
        ],
        columns=["month", "club", name, "new_members"],
    )
    return Case(
        frame=frame,
        columns={"month": "time", "club": "dimension", name: "stock", "new_members": "flow|count"},
        time="month",
        grain="month",
    )


@kind
def articles(rng: Rng) -> Case:
    n = 300
    frame = Frame(
        {
            "Artikelnummer": rng.permutation(np.arange(10_000, 10_000 + n)),
            "Warengruppe": some(rng, PRODUCTS[:5], n),
            "Listenpreis": money(rng, n, 60),
            "Gewicht": money(rng, n, 4),
            "Lagerbestand": rng.integers(0, 900, n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "Artikelnummer": "key",
            "Warengruppe": "dimension",
            "Listenpreis": "price",
            "Gewicht": "reading",
            "Lagerbestand": "stock",
        },
        never=[r"(?i)artikelnummer (was|were|rose|fell|leads|averaged|peaks)", r"(?i)listenpreis.{0,30}of the total"],
    )


@kind
def branch_codes(rng: Rng) -> Case:
    n = 900
    frame = Frame(
        {
            "date": some(rng, days("2023-01-01", 700), n),
            "branch_code": rng.integers(1, 25, n),
            "postcode": rng.integers(10_000, 99_999, n),
            "takings": money(rng, n),
        }
    )
    return Case(
        frame=frame,
        columns={"date": "time", "branch_code": "dimension|code", "postcode": "key|code|text", "takings": "flow"},
        time="date",
        never=[r"(?i)postcode (was|were|rose|fell|leads|averaged|peaks)", r"(?i)branch code (was|were|rose)"],
    )


@kind
def occupancy(rng: Rng) -> Case:
    name = pick(rng, "occupancy", "Auslastung", "ocupacion", "utilisation")
    frame = Frame(
        [
            (day, house, round(float(v), 3), 120)
            for day in days("2023-01-01", 500)
            for house, v in zip(CITIES[:3], rng.uniform(0.3, 1, 3), strict=True)
        ],
        columns=["date", "house", name, "rooms"],
    )
    return Case(
        frame=frame,
        columns={"date": "time", "house": "dimension", name: "share", "rooms": "ignored|flow|dimension"},
        time="date",
        never=[rf"(?i){name}.{{0,30}}of the total"],
    )


@kind
def exchange_rates(rng: Rng) -> Case:
    frame = Frame(
        [
            (day, pair, v)
            for pair, start in (("EURUSD", 1.1), ("EURGBP", 0.86))
            for day, v in zip(days("2023-01-02", 400), walk(rng, 400, start, 0.004), strict=True)
        ],
        columns=["date", "pair", pick(rng, "exchange_rate", "Kurs", "rate")],
    )
    return Case(
        frame=frame,
        columns={"date": "time", "pair": "dimension", frame.columns[2]: "share|price"},
        time="date",
        never=[r"(?i)of the total"],
    )


@kind
def population(rng: Rng) -> Case:
    name = pick(rng, "population", "Einwohner", "poblacion")
    frame = Frame(
        [
            (year, country, int(v), round(float(g), 1))
            for country, size in zip(CITIES[:5], (8e6, 5e6, 2e6, 1e6, 4e5), strict=True)
            for year, v, g in zip(range(1990, 2024), walk(rng, 34, size, 0.01), rng.normal(2, 1, 34), strict=True)
        ],
        columns=["year", "country", name, "growth_pct"],
    )
    return Case(
        frame=frame,
        columns={"year": "part", "country": "dimension", name: "stock", "growth_pct": "share"},
        time="date",
        grain="year",
    )


@kind
def call_centre(rng: Rng) -> Case:
    n = 400
    frame = Frame(
        {
            "date": np.repeat(days("2024-01-01", 200), 2),
            "team": ["day", "night"] * 200,
            "calls": rng.poisson(200, n),
            "avg_wait_sec": money(rng, n, 40),
            "answered_pct": np.round(rng.uniform(70, 100, n), 1),
        }
    )
    return Case(
        frame=frame,
        columns={
            "date": "time",
            "team": "dimension",
            "calls": "count",
            "avg_wait_sec": "reading|duration",
            "answered_pct": "share",
        },
        time="date",
        never=[r"(?i)wait.{0,30}of the total"],
    )


@kind
def purchase_orders(rng: Rng) -> Case:
    n = 500
    frame = Frame(
        {
            "ordered": some(rng, days("2022-01-01", 900), n),
            "delivered": some(rng, days("2022-02-01", 900), n),
            "supplier": some(rng, CITIES, n),
            "order": np.arange(9001, 9001 + n),
            "value": money(rng, n, 800),
            "days_late": rng.integers(0, 30, n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "ordered": "time",
            "delivered": "time",
            "supplier": "dimension",
            "order": "key",
            "value": "flow",
            "days_late": "duration|reading",
        },
        time="ordered",
        never=[r"(?i)days late (was|were) [\d,]{4,}"],
    )


@kind
def debtors(rng: Rng) -> Case:
    frame = Frame(
        [
            (month, customer, v)
            for customer in CITIES
            for month, v in zip(months("2022-01", 30), walk(rng, 30, 40_000, 0.1), strict=True)
        ],
        columns=[
            "month_end",
            "customer_name",
            pick(rng, "receivables", "Forderungen", "outstanding_balance", "encours"),
        ],
    )
    return Case(
        frame=frame,
        columns={"month_end": "time", "customer_name": "dimension", frame.columns[2]: "stock"},
        time="month_end",
        grain="month",
    )


@kind
def names_in_two_scripts(rng: Rng) -> Case:
    n = 400
    frame = Frame(
        {
            "Buchungsdatum": some(rng, days("2023-01-01", 600), n),
            "Kostenstelle": rng.integers(100, 140, n),
            "Betrag in EUR": money(rng, n),
            "Belegnummer": np.arange(30_000, 30_000 + n),
        }
    )
    return Case(
        frame=frame,
        columns={
            "Buchungsdatum": "time",
            "Kostenstelle": "dimension|code|key",
            "Betrag in EUR": "flow",
            "Belegnummer": "key",
        },
        time="Buchungsdatum",
        never=[r"(?i)kostenstelle (was|were|rose)"],
    )


@kind
def people_list(rng: Rng) -> Case:
    n = 240
    frame = Frame(
        {
            "name": [f"{some(rng, PEOPLE, 1)[0]} {i}" for i in range(n)],
            "city": some(rng, CITIES[:5], n),
            "role": some(rng, TEAMS[:5], n),
            "entry_date": some(rng, days("2010-01-01", 5000), n),
        }
    )
    return Case(
        frame=frame,
        columns={"name": "key|text", "city": "dimension", "role": "dimension", "entry_date": "time"},
        time="entry_date",
    )


@kind
def margins(rng: Rng) -> Case:
    n = 360
    revenue = money(rng, n, 900)
    frame = Frame(
        {
            "month": np.repeat(months("2021-01", 36), 10),
            "product": np.tile(PRODUCTS, 36),
            "revenue": revenue,
            "margin_pct": np.round(rng.uniform(5, 40, n), 1),
            "avg_price": money(rng, n, 12),
        }
    )
    return Case(
        frame=frame,
        columns={
            "month": "time",
            "product": "dimension",
            "revenue": "flow",
            "margin_pct": "share",
            "avg_price": "reading|price",
        },
        time="month",
        grain="month",
        never=[r"(?i)margin.{0,30}of the total"],
    )
