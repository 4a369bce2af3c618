"""Some of a table's rows: a slice, a span of days."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..sql.expressions import quote_name
from ..tables import Table


@dataclass(frozen=True, slots=True)
class Only:
    """The rows whose columns have the labels of `conditions` and whose date lies in `span`, both days included."""

    conditions: tuple[tuple[str, str | None], ...] = ()
    span: tuple[np.datetime64, np.datetime64] | None = None

    def sql(self, table: Table, time: str | None) -> str:
        """The same as an SQL condition."""
        terms = [table.equals(column, label) for column, label in self.conditions]
        if self.span is not None and time is not None:
            first, last = self.span
            terms.append(f"CAST({quote_name(time)} AS DATE) BETWEEN DATE '{first}' AND DATE '{last}'")
        return " AND ".join(terms) or "TRUE"


EVERY = Only()
