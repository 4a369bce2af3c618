"""Regressions against certified answers, closed forms, and what bad input is told."""

from __future__ import annotations

import json

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.stats.double_double import dot, power, two_product

from .certified import problems


@pytest.mark.parametrize("problem", problems(), ids=lambda problem: problem[0])
def test_certified_to_eight_digits_and_more(problem: tuple) -> None:
    name, y, columns, degree, intercept, beta, error = problem
    frame = pd.DataFrame({"y": y, **{f"x{j}": column for j, column in enumerate(columns)}})
    table = ga.read(frame, roles={f"x{j}": "measure" for j in range(len(columns))} | {"y": "measure"})
    factors = [f"x{j}" for j in range(len(columns))] + [f"pow(x0, {power})" for power in range(2, degree + 1)]
    found = ga.regress(table, "y", factors, intercept=intercept).result
    for got, wanted, size in ((found.coefficients, beta, "estimate"), (found.coefficients, error, "error")):
        for one, value in zip(got, wanted, strict=True):
            assert getattr(one, size) == pytest.approx(value, rel=1e-8, abs=1e-8), (name, one.term, size)
    if name == "NoInt1":
        assert found.r2 == pytest.approx(0.999365492298663, rel=1e-12)
        assert found.f == pytest.approx(15750.25, rel=1e-9)
    if name == "Longley":
        assert found.residual_sd == pytest.approx(304.854073561965, rel=1e-11)
        assert found.f == pytest.approx(330.285339234588, rel=1e-11)


def test_doubled_arithmetic_is_exact() -> None:
    from fractions import Fraction

    a, b = np.array([1 / 3, 1e10 / 7]), np.array([0.1, 1 / 9])
    high, low = two_product(a, b)
    for place in range(2):
        exact = Fraction(float(a[place])) * Fraction(float(b[place]))
        assert Fraction(float(high[place])) + Fraction(float(low[place])) == exact
    cube = power(np.array([1 / 3]), 3)
    assert abs(float(Fraction(float(cube[0][0])) + Fraction(float(cube[1][0])) - Fraction(1 / 3) ** 3)) < 1e-32
    one = (np.array([1e16, 1.0, -1e16]), np.zeros(3))
    assert dot(one, (np.ones(3), np.zeros(3)))[0] == 1.0


def test_hc3_is_that_of_the_formula() -> None:
    rng = np.random.default_rng(4)
    x = rng.normal(size=60)
    y = 2 + 3 * x + rng.normal(size=60) * (1 + x**2)
    found = ga.regress(pd.DataFrame({"y": y, "x": x}), "y", ["x"]).result
    design = np.column_stack([np.ones(60), x])
    inverse = np.linalg.inv(design.T @ design)
    h = np.einsum("ij,jk,ik->i", design, inverse, design)
    e = y - design @ (inverse @ design.T @ y)
    meat = (design * ((e / (1 - h)) ** 2)[:, None]).T @ design
    wanted = np.sqrt(np.diag(inverse @ meat @ inverse))
    assert [one.error_hc3 for one in found.coefficients] == pytest.approx(wanted.tolist(), rel=1e-9)
    assert any("robust" in text for text in ga.regress(pd.DataFrame({"y": y, "x": x}), "y", "x").warnings())


def test_labels_are_told_against_the_first_and_copies_are_left_out(sailings) -> None:
    found = ga.regress(sailings, "fuel_cost", ["route", "capacity", "2 * capacity"])
    terms = [one.term for one in found.result.coefficients]
    assert terms[0] == "intercept"
    assert "route=Outer Bar" in terms
    assert "route=Castle Reach" not in terms
    assert "route is told against Castle Reach." in found.to_dict()["caveats"]
    assert any("combination" in text for text in found.warnings())
    assert found.equation.startswith("fuel_cost = ")
    means = found.table.sql("SELECT avg(fuel_cost) AS m FROM source")["m"].iloc[0]
    assert found.residuals()["fitted"].mean() == pytest.approx(means, rel=1e-9)
    json.dumps(found.to_dict(), allow_nan=False)


def test_what_cannot_be_fitted_is_said(shop) -> None:
    with pytest.raises(ga.ColumnError, match="too few for"):
        ga.regress(pd.DataFrame({"y": [1.0, 2, 4], "a": [1.0, 2, 3], "b": [1.0, 4, 2]}), "y", ["a", "b"])
    with pytest.raises(ga.ColumnError, match="Did you mean 'price'"):
        ga.regress(shop, "units", ["prise"])
    with pytest.raises(ga.ColumnError, match="holds date"):
        ga.regress(shop, "price", ["date"])
    with pytest.raises(ga.ColumnError, match="in every row"):
        ga.regress(pd.DataFrame({"y": [1.0] * 9, "a": range(9)}), "y", ["a"])
