"""The rows of a column that lie farthest from the middle of their group, wherever the rows are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..engine.arrow_arrays import column as arrow_column
from ..engine.arrow_arrays import floats, texts, wholes
from ..engine.store import ROW
from ..sql.expressions import quote_name
from .survey import Survey

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Scale:
    """How far a value lies: from the `middle` of its group in units of its `width` (each of shape (labels,), NaN for a
    group that is not known), on the scale of logarithms if `log`. `by` is None where all rows are one group."""

    by: str | None
    middle: Floats
    width: Floats
    log: bool

    def measured(self, values: Floats, codes: npt.NDArray[np.intp]) -> Floats:
        """Deviations, on a scale whose Pareto tails are exponential; NaN for missing and nought."""
        use = np.isfinite(values) & (values != 0)
        if self.log:
            x = np.log(values, where=use & (values > 0), out=np.full(values.size, np.nan))
            return np.asarray((x - self.middle[codes]) / self.width[codes])
        x = np.where(use, values, np.nan)
        return np.asarray(np.arcsinh((x - self.middle[codes]) / self.width[codes]))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Far:
    """Rows, the farthest first: their number in the file, value, code of the group, and deviation."""

    numbers: npt.NDArray[np.int64]
    values: Floats
    codes: npt.NDArray[np.intp]
    deviations: Floats


def farthest(survey: Survey, column: str, scale: Scale, count: int) -> Far:
    """The `count` rows that lie farthest from the middle of their group; of equally far ones the first."""
    if not survey.table.store.abilities.in_order:
        return _in_file(survey, column, scale, count)
    rows = survey.rows()
    values = rows.table.numbers(column)
    codes = np.zeros(values.size, dtype=np.intp) if scale.by is None else rows.codes(scale.by)[0]
    deviations = scale.measured(values, codes)
    size = np.where(np.isfinite(deviations), np.abs(deviations), -1.0)
    count = min(count, size.size)
    # Far fewer than the rows are sorted.
    least = np.partition(size, size.size - count)[size.size - count]
    places = np.flatnonzero(size >= least)
    order = places[np.argsort(-size[places], kind="stable")][:count]
    return Far(
        numbers=rows.table.row_numbers()[order],
        values=values[order],
        codes=np.asarray(codes[order], dtype=np.intp),
        deviations=deviations[order],
    )


def _in_file(survey: Survey, column: str, scale: Scale, count: int) -> Far:
    """By one pass that keeps the rows beyond what is far in the sample: the farthest of all are no nearer."""
    import pyarrow as pa

    table, drawn = survey.table, survey.drawn()
    codes = np.zeros(drawn.size, dtype=np.intp) if scale.by is None else drawn.codes(scale.by)[0]
    near = np.sort(np.abs(scale.measured(drawn.table.numbers(column), codes)))
    near = near[np.isfinite(near)]
    least = (float(near[-count]) if near.size >= count else 0.0) * (1 - 1e-9)
    reach = (least if scale.log else np.sinh(least)) * scale.width
    low, high = scale.middle - reach, scale.middle + reach
    if scale.log:
        low, high = np.exp(low), np.exp(high)
    labels = (None,) if scale.by is None else table.labels(scale.by)
    known = pa.table(
        {
            "label": texts(labels),
            "code": arrow_column(np.arange(len(labels), dtype=np.int32)),
            "low": arrow_column(low * (1 + 1e-9 * np.sign(low))),
            "high": arrow_column(high * (1 - 1e-9 * np.sign(high))),
        }
    )
    own = "NULL" if scale.by is None else table.label_sql(scale.by)
    value = f"CAST({quote_name(column)} AS DOUBLE)"
    found = table.store.query(
        f"SELECT r, v, code FROM (SELECT {quote_name(ROW)} AS r, {value} AS v, {own} AS l FROM numbered) "
        f"JOIN groups_known ON l IS NOT DISTINCT FROM label WHERE v <> 0 AND (v <= low OR v >= high)"
        f"{' AND v > 0' if scale.log else ''} AND isfinite(low)"
        # Many rows may share the value of the last: of these the first will do.
        f" QUALIFY row_number() OVER (PARTITION BY v, code ORDER BY r) <= {count}",
        {"groups_known": known},
    )
    numbers, values = wholes(found.column("r")), floats(found.column("v"))
    own_codes = wholes(found.column("code")).astype(np.intp)
    deviations = scale.measured(values, own_codes)
    order = np.lexsort((numbers, -np.abs(deviations)))[:count]
    return Far(numbers=numbers[order], values=values[order], codes=own_codes[order], deviations=deviations[order])
