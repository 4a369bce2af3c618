"""The gallery: every kind of chart once, drawn from the made-up company's sailings."""

from __future__ import annotations

from typing import Any

from ..charts import Chart
from ..tables import Table
from .draw import draw


def gallery(table: Table) -> list[Chart]:
    """A chart of each kind that `ga.draw` knows, from the demo's sailings."""
    source = f"Source: {table.name}"
    month = "strftime(date_trunc('month', date), '%Y-%m')"
    by_month = table.sql(
        f"SELECT {month} AS month, sum(revenue) / 1000 AS revenue, sum(fuel_cost) / 1000 AS fuel FROM source "
        "GROUP BY 1 ORDER BY 1"
    )
    by_route = table.sql("SELECT route, sum(revenue) AS revenue FROM source GROUP BY 1 ORDER BY 1")
    both = table.sql("SELECT route, fare_class, sum(revenue) / 1000 AS revenue FROM source GROUP BY 1, 2 ORDER BY 1, 2")
    paths = table.sql(
        f"SELECT route, {month} AS month, sum(revenue) / 1000 AS revenue FROM source GROUP BY 1, 2 ORDER BY 1, 2"
    )
    # A month half over beside whole ones would look like a collapse.
    whole = paths[paths["month"] < by_month["month"].max()]
    rows = table.sql(
        "SELECT route, delay_min, passengers, revenue FROM source WHERE delay_min IS NOT NULL "
        "AND dayofyear(date) % 9 = 0 ORDER BY sailing_id"
    )
    late = table.sql(
        "SELECT vessel, avg(delay_min) AS delay, avg(delay_min) - 1.96 * stddev(delay_min) / sqrt(count(*)) AS low, "
        "avg(delay_min) + 1.96 * stddev(delay_min) / sqrt(count(*)) AS high FROM source GROUP BY 1 ORDER BY 1"
    )
    return [
        draw(
            by_month,
            "line",
            title="Revenue climbs each summer, fuel hardly moves",
            subtitle="Thousands a month",
            source=source,
            partial_last=True,
            events={"2025-02": "storm week"},
        ),
        draw(
            paths,
            "line",
            x="month",
            by="route",
            title="Outer Bar has passed all other routes",
            source=source,
            subtitle="Revenue, thousands a month",
            highlight="Outer Bar",
            partial_last=True,
        ),
        draw(
            by_route,
            "bars",
            title="Three routes earn more than the average",
            subtitle="Revenue in all",
            source=source,
            highlight="above average",
            references={"average": float(by_route["revenue"].mean())},
        ),
        draw(
            by_route.assign(revenue=by_route["revenue"] - by_route["revenue"].mean()),
            "diverging",
            title="Three routes earn less than the average",
            subtitle="Revenue against the average route",
            source=source,
        ),
        draw(
            both,
            "grouped",
            by="fare_class",
            title="Standard fares earn most on every route",
            source=source,
            subtitle="Revenue, thousands",
        ),
        draw(
            both,
            "stacked",
            by="fare_class",
            title="Outer Bar earns most, in every class",
            source=source,
            subtitle="Revenue, thousands",
        ),
        draw(
            both,
            "shares",
            by="fare_class",
            title="The mix of fares is alike on all routes",
            source=source,
            subtitle="Share of revenue",
        ),
        draw(
            late,
            "dots",
            title="Tern and Petrel are the latest vessels",
            subtitle="Average delay in minutes, 95% range",
            source=source,
            highlight=["Tern", "Petrel"],
        ),
        draw(
            rows,
            "box",
            y="delay_min",
            title="Outer Bar is the least punctual route",
            source=source,
            subtitle="Delay in minutes · line: median, diamond: mean, box: middle half",
            highlight="Outer Bar",
        ),
        draw(
            rows,
            "histogram",
            y="revenue",
            title="Most sailings earn less than 2,000",
            subtitle="Sailings by revenue",
            source=source,
        ),
        draw(
            rows,
            "scatter",
            x="passengers",
            y="revenue",
            title="More passengers, more revenue",
            source=source,
            subtitle="Revenue over passengers, a sailing each · line: fit with its 95% band",
        ),
        draw(both, "heat", by="fare_class", title="Where revenue comes from", subtitle="Thousands", source=source),
        draw(
            both,
            "crosstab",
            by="fare_class",
            title="No route sells another mix of fares",
            source=source,
            subtitle="Share of each route's revenue",
        ),
        draw(
            _season_tickets(),
            "triangle",
            by="age",
            title="About a tenth of season tickets lapse each month",
            subtitle="Share still active by months since the start",
            source="Source: made-up season tickets",
        ),
        draw(
            whole,
            "sparks",
            x="route",
            by="month",
            title="Six routes at a glance",
            source=source,
            subtitle="Revenue, thousands a month",
        ),
        draw(by_month.iloc[:-1], "card", title="Revenue, September 2025, thousands", source=source),
    ]


def _season_tickets() -> Any:
    """Plain arithmetic in the shape of retention, until a table of members tells it."""
    import pandas as pd

    return pd.DataFrame(
        [
            {"cohort": f"2025-{start:02d}", "age": str(age), "active": 0.9**age * (1 - 0.01 * start)}
            for start in range(1, 8)
            for age in range(9 - start)
        ]
    )
