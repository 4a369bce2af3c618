"""Why a label has most: because it has most rows, or because it has more in each of them."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...aggregation.measures import Measure
from ...findings.checks import scalar
from ...stats.autocorrelated_fits import Floats

#: The share of a lead, as a logarithm, from which it is one of rows.
_BY_ROWS = 0.8


def lead_by_rows(
    rows: Floats, values: Floats, first: list[int], second: int | None, measure: Measure
) -> dict[str, Any]:
    """The part that rows have in a lead of the labels `first` over the label `second`, or over all others: their share
    of the rows, how many more rows a label of them has and how much more it makes in each, in percent, and whether the
    lead is one of rows alone. All None where rows are what is counted, or where each label has as many.

    `rows` and `values` have the shape (labels,).
    """
    nothing = {"row_share": None, "rows_pct": None, "per_row_pct": None, "by_rows": False}
    inside = np.zeros(rows.size, dtype=bool)
    inside[first] = True
    beside = ~inside
    if second is not None:
        beside = np.zeros(rows.size, dtype=bool)
        beside[second] = True
    counted = len(measure.top) == 1 and measure.top[0][1].kind == "count"
    more = _ratio(rows, inside, beside)
    lead = _ratio(values, inside, beside)
    if counted or not np.isfinite(more) or not np.isfinite(lead) or more == 1 or lead <= 1:
        return nothing
    return {
        "row_share": float(rows[inside].sum() / rows.sum()),
        "rows_pct": 100 * (more - 1),
        "per_row_pct": 100 * (lead / more - 1),
        "by_rows": bool(more > 1 and abs(np.log(lead / more)) <= (1 - _BY_ROWS) * np.log(lead)),
    }


def checked(
    measure: Measure, found: dict[str, Any], first: str, beside: str, everything: str
) -> tuple[dict[str, str], dict[str, float]]:
    """The SQL of those figures, by the conditions of the first, of what it is set against and of all rows, and what it
    is to give; nothing where there are none. Of several labels only their share of the rows is told, and checked."""
    if found["row_share"] is None:
        return {}, {}
    rows = {where: f"(SELECT count(*) FROM source WHERE {where})" for where in (first, beside, everything) if where}
    columns = {"row_share": f"{rows[first]} / {rows[everything]}"}
    if beside:
        own, other = scalar(measure, first), scalar(measure, beside)
        columns["per_row_pct"] = f"100 * (({own} / {rows[first]}) / ({other} / {rows[beside]}) - 1)"
    return columns, {name: found[name] for name in columns}


def _ratio(of: Floats, inside: Any, beside: Any) -> float:
    """How many times as much a label inside has as one beside, on average."""
    low = float(of[beside].sum()) / max(1, int(beside.sum()))
    high = float(of[inside].sum()) / max(1, int(inside.sum()))
    return high / low if low > 0 < high else float("nan")
