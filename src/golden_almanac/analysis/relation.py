"""How two columns of numbers go together: correlations with intervals, a fit with its band, the shape."""

from __future__ import annotations

from dataclasses import dataclass
from math import atanh, sqrt, tanh

import numpy as np
import numpy.typing as npt

from ..support.errors import ColumnError, shorten
from ..tables import Column, Table
from .comparison.rank_tests import ranked
from .drivers.effect_shapes import Shape, shape_of
from .drivers.factors import Factor

Floats = npt.NDArray[np.float64]

LEAST_ROWS = 5
#: Sums of squares beyond this cannot be multiplied with each other any more.
_MOST_SPREAD = 1e150
#: Points of the scatter kept for drawing.
_MOST_POINTS = 1500


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Relation:
    """Two columns over the rows that have both. `pearson` and `spearman` are (r, low, high, p); `intercept`, `slope`
    and `slope_error` of the straight line; `shape` along x; `points` (m, 2) some of the rows; `band` (50, 4) x, fit,
    low, high of the mean at 95%."""

    table: Table
    x: Column
    y: Column
    n: int
    pearson: tuple[float, float, float, float]
    spearman: tuple[float, float, float, float]
    intercept: float
    slope: float
    slope_error: float
    residual_sd: float
    shape: Shape
    bins_p: float
    points: Floats
    band: Floats


def relate(table: Table, x: str, y: str) -> Relation:
    """Relate y to x. Raises ColumnError."""
    one, other = (_number(table, name) for name in (x, y))
    if one.name == other.name:
        raise ColumnError(one.name, f"{one.name!r} is given twice.", "Name two different columns.")
    a, b = table.numbers(one.name), table.numbers(other.name)
    both = np.isfinite(a) & np.isfinite(b)
    a, b = a[both], b[both]
    if a.size < LEAST_ROWS:
        raise ColumnError(
            one.name,
            f"Only {a.size} rows have both {one.name!r} and {other.name!r}; at least {LEAST_ROWS} are needed.",
            "Choose columns that are filled together.",
        )
    for column, values in ((one, a), (other, b)):
        if float(np.ptp(values)) == 0.0:
            raise ColumnError(column.name, f"{column.name!r} is the same in every row.", "Choose a column that varies.")
        with np.errstate(over="ignore", under="ignore"):
            spread = float(np.sum((values - values.mean()) ** 2))
        if not 0.0 < spread < _MOST_SPREAD:
            raise ColumnError(
                column.name,
                f"{shorten(column.name)!r} has numbers whose squares are beyond reckoning.",
                "Multiply or divide it, such as by a million.",
            )
    n = a.size
    r = float(np.corrcoef(a, b)[0, 1])
    rho = float(np.corrcoef(ranked(a)[0], ranked(b)[0])[0, 1])
    slope = r * float(b.std()) / float(a.std())
    intercept = float(b.mean() - slope * a.mean())
    residual = b - intercept - slope * a
    sd = sqrt(float(residual @ residual) / max(1, n - 2))
    spread = float(np.sum((a - a.mean()) ** 2))
    grid = np.linspace(a.min(), a.max(), 50)
    half = 1.959964 * sd * np.sqrt(1 / n + (grid - a.mean()) ** 2 / spread)
    fit = intercept + slope * grid
    factor = Factor(name=one.name, column=one.name, part="", values=a, codes=None, levels=(), unit=one.unit)
    order = np.lexsort((b, a))
    thin = order[:: max(1, n // _MOST_POINTS)]
    shape = shape_of(factor, b, None)
    return Relation(
        bins_p=_bins_p(shape, b),
        table=table,
        x=one,
        y=other,
        n=n,
        pearson=_with_interval(r, n, 1.0),
        spearman=_with_interval(rho, n, 1.0 + rho**2 / 2),
        intercept=intercept,
        slope=slope,
        slope_error=sd / sqrt(spread),
        residual_sd=sd,
        shape=shape,
        points=np.column_stack([a[thin], b[thin]]),
        band=np.column_stack([grid, fit, fit - half, fit + half]),
    )


def _bins_p(shape: Shape, y: Floats) -> float:
    """The F test that averages along the curve are all the same: what turns has no correlation, and goes together."""
    from scipy.special import fdtrc

    mean = np.array([point[1] for point in shape.curve])
    rows = np.array([point[3] for point in shape.curve], dtype=float)
    if mean.size < 2 or rows.sum() <= mean.size:
        return 1.0
    centre = float(rows @ mean / rows.sum())
    between = float(rows @ (mean - centre) ** 2) * y.size / rows.sum()
    within = max(float(np.sum((y - y.mean()) ** 2)) - between, 1e-300)
    df1, df2 = mean.size - 1, y.size - mean.size
    return float(fdtrc(df1, df2, between / df1 / (within / df2))) if df2 > 0 else 1.0


def least_telling(n: int) -> float:
    """The smallest correlation of so many rows that chance alone would not give in 19 of 20 cases (Student's t)."""
    from scipy.special import stdtrit

    t = float(stdtrit(n - 2, 0.975))
    return t / sqrt(n - 2 + t * t)


def _number(table: Table, name: str) -> Column:
    column = table.column(name, "the columns to relate")
    if column.type not in ("number", "boolean"):
        raise ColumnError(
            column.name, f"The column {column.name!r} holds {column.type}, not numbers.", "For labels use compare."
        )
    return column


def _with_interval(r: float, n: int, variance: float) -> tuple[float, float, float, float]:
    """r with Fisher's (1921) interval, wider for ranks (Bonett & Wright 2000), and its p by Student's t."""
    from scipy.special import stdtr

    if abs(r) >= 1:
        return r, r, r, 0.0
    z, half = atanh(r), 1.959964 * sqrt(variance / (n - 3))
    t = r * sqrt((n - 2) / (1 - r * r))
    return r, tanh(z - half), tanh(z + half), float(2 * stdtr(n - 2, -abs(t)))
