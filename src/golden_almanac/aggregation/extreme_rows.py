"""The rows of a column that lie farthest from the middle of their group, wherever the rows are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ..engine.arrow_arrays import column as arrow_column
from ..engine.arrow_arrays import floats, texts, wholes
from ..engine.store import ROW
from ..sql.expressions import quote_name
from ..support.parallel import each
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


def farthest_of(survey: Survey, asked: Sequence[tuple[str, Scale]], count: int) -> list[Far]:
    """Of each column the `count` rows that lie farthest from the middle of their group; of equally far ones the first.
    Rows that are elsewhere are asked for all columns in one go."""
    if not survey.table.store.abilities.in_order:
        return _asked(survey, asked, count)
    return list(each(lambda one: _in_memory(survey, one[0], one[1], count), asked, survey.size))


def _in_memory(survey: Survey, column: str, scale: Scale, count: int) -> Far:
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


def _asked(survey: Survey, asked: Sequence[tuple[str, Scale]], count: int) -> list[Far]:
    """By one statement that keeps the rows beyond what is far in the sample: the farthest of all are no nearer."""
    if not asked:
        return []
    texts_of, beside = [], {}
    for place, (column, scale) in enumerate(asked):
        known, sql = _beyond(survey, column, scale, count, place)
        beside[f"groups_known_{place}"] = known
        texts_of.append(sql)
    found = survey.table.store.query(" UNION ALL ".join(texts_of), beside)
    of = wholes(found.column("place"))
    return [
        _ordered(found.take(arrow_column(np.flatnonzero(of == place))), scale, count)
        for place, (_, scale) in enumerate(asked)
    ]


def _beyond(survey: Survey, column: str, scale: Scale, count: int, place: int) -> tuple[Any, str]:
    """What is far in each group, as a table, and the SELECT of the rows beyond."""
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
    low, high = low * (1 + 1e-9 * np.sign(low)), high * (1 - 1e-9 * np.sign(high))
    labels = (None,) if scale.by is None else table.labels(scale.by)
    known = pa.table(
        {
            "label": texts(labels),
            "code": arrow_column(np.arange(len(labels), dtype=np.int32)),
            "low": arrow_column(low),
            "high": arrow_column(high),
        }
    )
    own = "CAST(NULL AS VARCHAR)" if scale.by is None else table.label_sql(scale.by)
    value, finite = f"CAST({quote_name(column)} AS DOUBLE)", np.isfinite(low)
    # Few rows are beyond what is far in any group: they are picked out before groups are looked up.
    first = (
        f"({value} <= {float(low[finite].max())!r} OR {value} >= {float(high[finite].min())!r})"
        if finite.any()
        else "FALSE"
    )
    name = f"groups_known_{place}"
    return known, (
        f"SELECT {place} AS place, r, v, code FROM ("
        f"SELECT r, v, code, row_number() OVER (PARTITION BY v, code ORDER BY r) AS nth "
        f"FROM (SELECT {quote_name(ROW)} AS r, {value} AS v, {own} AS l FROM numbered WHERE {first}) AS rows_{place} "
        f"JOIN {name} ON l IS NOT DISTINCT FROM label WHERE v <> 0 AND (v <= low OR v >= high)"
        f"{' AND v > 0' if scale.log else ''} AND isfinite(low)"
        # Many rows may share the value of the last: of these the first will do.
        f") AS far_{place} WHERE nth <= {count}"
    )


def _ordered(found: Any, scale: Scale, count: int) -> Far:
    """The rows found, the farthest first."""
    numbers, values = wholes(found.column("r")), floats(found.column("v"))
    own_codes = wholes(found.column("code")).astype(np.intp)
    deviations = scale.measured(values, own_codes)
    order = np.lexsort((numbers, -np.abs(deviations)))[:count]
    return Far(numbers=numbers[order], values=values[order], codes=own_codes[order], deviations=deviations[order])
