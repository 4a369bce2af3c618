"""What a model sees of a table: numbers and labels as it learned them, so that new rows are read the same way."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ...aggregation.measures import ROWS
from ...support.errors import ColumnError
from ...tables import Table
from ..drivers.factors import OTHER, Factor, factors_of
from ..drivers.outcome import Outcome

Floats = npt.NDArray[np.float64]
Codes = npt.NDArray[np.uint8]

#: Numbers are cut into at most so many bins for trees.
_BINS = 120


@dataclass(frozen=True, slots=True, kw_only=True)
class Feature:
    """One column as learned. A number has `mean`, `sd` and the upper `edges` of its bins; a category its `levels`."""

    name: str
    column: str
    part: str
    levels: tuple[str | None, ...] = ()
    edges: tuple[float, ...] = ()
    mean: float = 0.0
    sd: float = 1.0

    @property
    def number(self) -> bool:
        return not self.levels

    @property
    def bins(self) -> int:
        """Bins of a number and one more for missing; levels of a category and one more for labels never seen."""
        return (len(self.edges) if self.number else len(self.levels)) + 1

    def codes(self, factor: Factor) -> Codes:
        """Bin numbers (n,) of a factor's rows."""
        if self.number:
            assert factor.values is not None
            made = np.minimum(np.searchsorted(self.edges, factor.values, side="left"), len(self.edges) - 1)
            return np.where(np.isnan(factor.values), len(self.edges), made).astype(np.uint8)
        assert factor.codes is not None
        place = {level: number for number, level in enumerate(self.levels)}
        unseen = place.get(OTHER, len(self.levels))
        return np.array([place.get(level, unseen) for level in factor.levels], dtype=np.uint8)[factor.codes]

    def columns(self, factor: Factor) -> Floats:
        """Dense columns (n, k) of a factor's rows: the standardised number and whether it is missing; or the levels."""
        if self.number:
            assert factor.values is not None
            gone = np.isnan(factor.values)
            return np.column_stack(
                [np.where(gone, 0.0, (factor.values - self.mean) / (self.sd or 1.0)), gone.astype(float)]
            )
        made = np.zeros((factor.codes.size, self.bins))  # type: ignore[union-attr]
        made[np.arange(made.shape[0]), self.codes(factor)] = 1.0
        return made[:, : len(self.levels)]

    def to_dict(self) -> dict[str, Any]:
        return {
            "name": self.name,
            "column": self.column,
            "part": self.part,
            "levels": list(self.levels),
            "edges": list(self.edges),
            "mean": self.mean,
            "sd": self.sd,
        }

    @classmethod
    def from_dict(cls, kept: dict[str, Any]) -> Feature:
        return cls(**{**kept, "levels": tuple(kept["levels"]), "edges": tuple(kept["edges"])})


def learned(factor: Factor, rows: npt.NDArray[np.intp] | None = None) -> Feature:
    """A factor as learned from its rows (or some of them)."""
    if not factor.number:
        return Feature(name=factor.name, column=factor.column, part=factor.part, levels=factor.levels)
    assert factor.values is not None
    values = factor.values if rows is None else factor.values[rows]
    known = values[~np.isnan(values)]
    if not known.size:
        return Feature(name=factor.name, column=factor.column, part="", edges=(0.0,))
    distinct = np.unique(known)
    if distinct.size > _BINS:
        distinct = np.unique(np.quantile(known, np.linspace(0, 1, _BINS + 1)[1:], method="lower"))
    # Cuts lie half way between values, so that new rows fall on the side they are nearer to.
    above = np.searchsorted(np.sort(known), distinct, side="right")
    ordered = np.sort(known)
    following = ordered[np.minimum(above, known.size - 1)]
    return Feature(
        name=factor.name,
        column=factor.column,
        part="",
        edges=tuple(float(edge) for edge in (distinct + following) / 2),
        mean=float(known.mean()),
        sd=float(known.std()),
    )


def taken(table: Table, features: Sequence[Feature], rows: int) -> list[Factor]:
    """The features of a table of new rows. Raises ColumnError where one is not there or is of another kind."""
    every = Outcome(
        name="",
        label="",
        kind="number",
        event=None,
        measure=ROWS,
        table=table,
        sampled=None,
        rows=np.arange(rows),
        values=np.zeros(rows),
        weights=None,
        columns=frozenset(),
    )
    factors = []
    for feature in features:
        column = table.column(feature.column, "the model's columns")
        if feature.number:
            if column.type not in ("number", "empty"):
                raise ColumnError(
                    column.name,
                    f"The model takes {column.name!r} as a number, and here it holds {column.type}.",
                    "Give rows like those it was made from.",
                )
            values = table.numbers(column.name) if column.type == "number" else np.full(rows, np.nan)
            factors.append(
                Factor(name=feature.name, column=feature.column, part="", values=values, codes=None, levels=())
            )
        elif feature.part:
            factors.append(_dated(every, feature))
        else:
            codes, labels = table.codes(column.name)
            factors.append(
                Factor(
                    name=feature.name,
                    column=feature.column,
                    part="",
                    values=None,
                    codes=codes.astype(np.intp),
                    levels=labels,
                )
            )
    return factors


def _dated(every: Outcome, feature: Feature) -> Factor:
    found, _ = factors_of(every, [feature.column])
    for factor in found:
        if factor.name == feature.name:
            return factor
    # All rows lie in one month, or on one weekday.
    days = every.table.days(feature.column)
    from ..drivers.factors import _MONTHS, _WEEKDAYS

    number = (
        (days.astype("datetime64[M]").astype(np.int64) % 12)
        if feature.part == "month"
        else ((days.astype("datetime64[D]").astype(np.int64) + 3) % 7)
    )
    names: tuple[str | None, ...] = (*(_MONTHS if feature.part == "month" else _WEEKDAYS), None)
    codes = np.where(np.isnat(days), len(names) - 1, number).astype(np.intp)
    return Factor(name=feature.name, column=feature.column, part=feature.part, values=None, codes=codes, levels=names)
