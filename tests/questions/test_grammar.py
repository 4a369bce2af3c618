"""Whatever the grammar can say reads back to the request it was made from."""

from __future__ import annotations

from functools import cache
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from golden_almanac.asking import read
from golden_almanac.asking.asked import Asked, Filter, Measured
from golden_almanac.asking.requests import call_of
from golden_almanac.asking.wording import question_of

from . import tables
from .corpus import frame_of

NUMBERS = ("revenue", "fuel_cost", "passengers", "vehicles", "capacity")
LABELS = {"route": "Outer Bar", "port": "Longstrand", "vessel": "Tern", "fare_class": "Night", "channel": "Web"}


def label(column: str) -> Filter:
    name = LABELS[column]
    return Filter(sql=f"\"{column}\" = '{name}'", column=column, words=f"{column} {name}", labels=(name,))


def over(column: str, size: int) -> Filter:
    return Filter(sql=f'"{column}" > {size}', column=column, words=f"{column} > {size}")


measured = st.one_of(
    st.builds(Measured, aggregate=st.just("count"), said=st.just(True)),
    st.builds(
        Measured,
        aggregate=st.sampled_from(["", "total", "mean", "median", "max", "min"]),
        column=st.sampled_from(NUMBERS),
        said=st.just(True),
    ),
    st.builds(
        Measured,
        aggregate=st.just("sum"),
        column=st.sampled_from(NUMBERS[:2]),
        over=st.sampled_from(NUMBERS[2:]),
        sign=st.sampled_from(["/", "-", "+"]),
        said=st.just(True),
    ),
    st.builds(
        Measured, aggregate=st.just("rate"), column=st.sampled_from(["cancelled", "on_time"]), said=st.just(True)
    ),
    st.builds(Measured, aggregate=st.just("distinct"), column=st.sampled_from(list(LABELS)), said=st.just(True)),
)
filters = st.lists(st.sampled_from(sorted(LABELS)), max_size=2, unique=True).flatmap(
    lambda names: st.one_of(
        st.just(tuple(label(name) for name in names)),
        st.integers(1, 90).map(lambda size: (*(label(name) for name in names), over("delay_min", size))),
    )
)
periods = st.sampled_from([None, "2024", "2025-03", "2024-Q3", "2024-02-10/2024-05-20", "2025-08-14"])


@st.composite
def totals(draw: st.DrawFn) -> Asked:
    chosen = draw(filters)
    used = {one.column for one in chosen}
    free = [name for name in LABELS if name not in used]
    by = tuple(draw(st.lists(st.sampled_from(free), max_size=2, unique=True)))
    grain = draw(st.sampled_from([None, None, "month", "quarter", "year"]))
    one = draw(measured)
    if one.column in by or one.column in used:
        one = Measured(aggregate="count", said=True)
    given_: dict[str, Any] = {"measures": (one,), "by": by, "grain": grain, "filters": chosen, "period": draw(periods)}
    if by and grain is None and draw(st.booleans()):
        given_ |= {"order": draw(st.sampled_from(["descending", "ascending"])), "top": draw(st.integers(2, 9))}
    return Asked(**given_)


@st.composite
def others(draw: st.DrawFn) -> Asked:
    intent = draw(st.sampled_from(["why", "drivers", "relation", "difference", "trend", "season", "unusual"]))
    chosen = draw(filters)
    column = draw(st.sampled_from(["revenue", "fuel_cost", "passengers"]))
    one = Measured(aggregate="", column=column)
    if intent == "relation":
        return Asked(intent=intent, pair=("passengers", "fuel_cost"), filters=chosen)
    if intent == "difference":
        return Asked(intent=intent, measures=(one,), by=("crew_rota",), filters=chosen)
    if intent == "why":
        return Asked(intent=intent, measures=(one,), filters=chosen, period=draw(st.sampled_from(["2024", "2025-03"])))
    return Asked(intent=intent, measures=(one,), filters=chosen)


@given(st.one_of(totals(), others()))
@settings(max_examples=150, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
def test_what_is_said_reads_back(asked: Asked) -> None:
    table = tables.table("sailings")
    text = question_of(asked, table)
    reading = read(text, table)
    assert reading.call is not None, (text, reading.problem)
    meant = call_of(asked, table)
    assert reading.call.name == meant.name, text
    got, hoped = dict(reading.call.arguments), dict(meant.arguments)
    assert _rows(table, got.pop("where", "TRUE")) == _rows(table, hoped.pop("where", "TRUE")), text
    assert got == hoped, text


@cache
def _rows(table: Any, where: str) -> int:
    return int(frame_of(table, f"SELECT count(*) AS n FROM source WHERE {where}")["n"][0])
