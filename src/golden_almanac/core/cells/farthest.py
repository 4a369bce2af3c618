"""The rows of a column that lie farthest from the middle of their group, wherever the rows are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..expressions import quote_name
from ..tables.filed import ROW
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
    if survey.table.store.filed:
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
    import pyarrow as pa

    table = survey.table
    labels = (None,) if scale.by is None else table.labels(scale.by)
    known = pa.table(
        {
            "label": pa.array([str(place) if label is None else f"={label}" for place, label in enumerate(labels)]),
            "code": np.arange(len(labels), dtype=np.int32),
            "m": scale.middle,
            "s": scale.width,
        }
    )
    missing = f"'{len(labels) - 1}'"
    own = missing if scale.by is None else f"coalesce('=' || {table.label_sql(scale.by)}, {missing})"
    value = f"CAST({quote_name(column)} AS DOUBLE)"
    x = f"CASE WHEN {value} > 0 THEN ln({value}) END" if scale.log else f"nullif({value}, 0)"
    found = table.store.query(
        f"SELECT r, v, code FROM (SELECT {quote_name(ROW)} AS r, {value} AS v, {x} AS x, {own} AS l FROM numbered) "
        "JOIN groups_known ON l = label WHERE x IS NOT NULL AND isfinite(x) AND isfinite(m) "
        f"ORDER BY abs((x - m) / s) DESC, r LIMIT {count}",
        {"groups_known": known},
    )
    values = np.asarray(found.column("v").to_numpy(), dtype=np.float64)
    codes = found.column("code").to_numpy().astype(np.intp)
    return Far(
        numbers=found.column("r").to_numpy(), values=values, codes=codes, deviations=scale.measured(values, codes)
    )
