"""Stated assumptions against the closed forms of compound growth and annuities; growth and falls against frames."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.export.office_parts import native

from ..commands import run


def test_compound_growth_and_an_annuity_are_those_of_the_text_book() -> None:
    found = ga.scenarios([ga.Scenario(name="a", start=10_000, rate=4, payment=100)], 10)
    wanted = 10_000 * 1.04**10 + 100 * (1.04**10 - 1) / 0.04
    assert found.result.paths[0][-1].end == pytest.approx(wanted, rel=1e-12)
    monthly = ga.scenarios([ga.Scenario(name="a", start=10_000, rate=4)], 120, grain="month")
    assert monthly.result.paths[0][-1].end == pytest.approx(10_000 * 1.04**10, rel=1e-12)


def test_costs_taxes_lumps_and_growing_payments() -> None:
    found = ga.scenarios(
        [
            ga.Scenario(
                name="a", start=1_000, rate=10, cost=2, tax=25, fee=5, payment=50, payment_growth=10, lumps={2: 300}
            )
        ],
        2,
    )
    first, second = found.result.paths[0]
    assert (first.growth, first.costs, first.taxes) == pytest.approx((100, 25, 18.75))
    assert first.end == pytest.approx(1_000 + 100 - 25 - 18.75 + 50)
    assert second.payments == pytest.approx(55 + 300)


@given(
    st.floats(-1e6, 1e6), st.floats(-50, 60), st.floats(-1e4, 1e4), st.floats(0, 20), st.floats(0, 90),
    st.integers(1, 60),
)  # fmt: skip
def test_every_step_adds_up(start: float, rate: float, payment: float, cost: float, tax: float, steps: int) -> None:
    found = ga.scenarios([ga.Scenario(name="a", start=start, rate=rate, payment=payment, cost=cost, tax=tax)], steps)
    for one in found.result.paths[0]:
        made = one.begin + one.payments + one.growth - one.costs - one.taxes
        assert one.end == pytest.approx(made, rel=1e-9, abs=1e-6)


def test_break_even_is_the_first_step_that_overtakes() -> None:
    keep = ga.Scenario(name="keep", start=0, payment=-300)
    buy = ga.Scenario(name="buy", start=-1_000, payment=-90)
    found = ga.scenarios([keep, buy], 10)
    assert [(one.ahead, one.behind, one.step) for one in found.result.crossings] == [("buy", "keep", 5)]
    assert "buy overtakes keep at step 5" in found.summary().text
    assert "no forecast" in found.summary().text


def test_a_file_of_scenarios_and_what_is_wrong_with_one(tmp_path: Path) -> None:
    path = tmp_path / "plans.toml"
    path.write_text(
        '[[scenario]]\nname = "low"\nstart = 10\nrate = 2\nlumps = {3 = 5}\n[[scenario]]\nname = "high"\nrate = 9\n'
    )
    told = json.loads(run("project", str(path), "--steps", "4", "--json").stdout)
    assert [one["name"] for one in told["scenarios"]] == ["low", "high"]
    assert told["scenarios"][0]["steps"][2]["payments"] == 5
    for text, said in (
        ('[[scenario]]\nname = "a"\nspeed = 3\n', "speed"), ("scenario = 3\n", "scenario"), ("[[scenario]\n", "TOML"),
        ('[[scenario]]\nname = "a"\nrate = -120\n', "-100"), ('[[scenario]]\nname = "a"\nlumps = {x = 1}\n', "lumps"),
    ):  # fmt: skip
        path.write_text(text)
        done = run("project", str(path))
        assert done.returncode == 2
        assert said in done.stderr
    assert run("project", "--rate", "2", "--rate", "2").returncode == 2
    assert run("project", "--lump", "five=2").returncode == 2


def _monthly(values: dict[str, np.ndarray]) -> ga.Table:
    size = len(next(iter(values.values())))
    months = pd.date_range("2020-01-01", periods=size, freq="MS")
    rows = [pd.DataFrame({"month": months, "shop": name, "sales": one}) for name, one in values.items()]
    return ga.read(pd.concat(rows, ignore_index=True), name="shops")


def test_growth_variability_and_the_worst_fall_by_hand() -> None:
    steady = 100 * 1.1 ** (np.arange(60) // 12)
    fallen = np.concatenate([np.full(24, 200.0), np.full(12, 120.0), np.full(24, 260.0)])
    found = ga.growth(_monthly({"steady": steady, "fallen": fallen}), "sum(sales)", "shop")
    parts = {one.label: one for one in found.result.parts}
    assert parts["steady"].rate == pytest.approx(0.1)
    assert parts["steady"].fall == 0
    assert parts["fallen"].rate == pytest.approx((260 / 200) ** 0.25 - 1)
    assert parts["fallen"].fall == pytest.approx(0.4)
    assert str(parts["fallen"].trough.start) == "2022-12-01"
    # Of 24 months at 200, then 12 at 120: a year's sum is 2,400 again once 7 of its months are at 260.
    assert str(parts["fallen"].back.start) == "2023-07-01"
    years = pd.Series(fallen).rolling(12).sum().dropna().to_numpy()
    moves = years[12:] / years[:-12] - 1
    assert parts["fallen"].varied == pytest.approx(moves.std(ddof=1))
    assert "recommend" not in found.summary("long").text
    again = found.result.table.sql(found.sql)
    last = again[again["shop"] == "fallen"]["sum(sales)"].tail(12).sum()
    assert parts["fallen"].value == pytest.approx(last)
    assert found.report().html()


def test_growth_needs_two_years_and_a_sum() -> None:
    table = _monthly({"a": np.arange(20.0) + 1, "b": np.arange(20.0) + 5})
    with pytest.raises(ga.AlmanacError, match="two years"):
        ga.growth(table, "sum(sales)", "shop")
    with pytest.raises(ga.AlmanacError, match="adds up"):
        ga.growth(table, "avg(sales)", "shop")
    with pytest.raises(ga.AlmanacError):
        ga.growth(table, "sum(sales)", "nothing")


def test_no_section_has_a_chart_and_a_table_which_a_slide_has_no_room_for() -> None:
    size = np.arange(60) // 12
    table = _monthly({"a": 100 * 1.1**size, "b": 300 * 1.02**size, "c": 90 * 1.3**size})
    reports = (
        ga.growth(table, "sum(sales)", "shop").report(), ga.forecast(table, "sum(sales)", 3, by="shop").report(),
        ga.scenarios([{"name": "a", "start": 5, "rate": 3}], 4).report(), ga.total(table, "sales", by="shop").report(),
    )  # fmt: skip
    for report in reports:
        assert len(report.model.sections) > 1
        assert not [one.id for one in report.model.sections if one.chart is not None and one.table is not None]


def test_bands_panels_and_named_dots_are_pictures_in_office_programs() -> None:
    size = np.arange(60) // 12
    table = _monthly({"a": 100 * 1.1**size, "b": 300 * 1.02**size})
    first, components, *_ = ga.forecast(table, "sum(sales)", 3).charts()
    for chart in (first, components, ga.growth(table, "sum(sales)", "shop").chart()):
        assert native(chart) is None
