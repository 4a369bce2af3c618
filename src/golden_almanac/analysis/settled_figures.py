"""Figures that an engine added up in doubles, without the digits that hang on the order of the rows.

Several threads add the same amounts in another order on every run, so the last digits of a sum of doubles differ. A sum
of amounts with few decimals has no more of them than they have; of all others thirteen digits hold, which is more than
any figure is shown with.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..aggregation.measures import Measure
from ..aggregation.sql_sums import facts_of
from ..tables import Table

Floats = npt.NDArray[np.float64]
#: Digits that do not hang on the order in which doubles are added.
_DIGITS = 13
#: Sums beyond this have fewer decimals than their amounts, in a double.
_MOST = 2.0**53


def settled(table: Table, measure: Measure, values: Floats) -> Floats:
    """Figures of a measure, any shape, rounded to the digits that are the same on every run."""
    values = np.asarray(values, dtype=float)
    decimals = _decimals(table, measure)
    if decimals is not None:
        whole = values * 10.0**decimals
        return np.where(np.abs(whole) < _MOST, np.round(whole) / 10.0**decimals, values)
    with np.errstate(divide="ignore", invalid="ignore"):
        size = np.floor(np.log10(np.abs(values)))
        places = np.clip(_DIGITS - 1 - size, -300, 300)
        scale = 10.0**places
        rounded = np.round(values * scale) / scale
    return np.where(np.isfinite(rounded) & (np.abs(places) < 300), rounded, values)


def _decimals(table: Table, measure: Measure) -> int | None:
    """The decimals of what is added, where sums and counts of it can have no more. Another engine is not asked for
    them: that would be one more pass over its rows."""
    if not measure.additive or measure.bottom or measure.factor != 1 or not table.store.abilities.in_order:
        return None
    weights = [weight for weight, _ in measure.top]
    if any(weight != round(weight) for weight in weights) or any(
        part.kind not in ("sum", "count") for part in measure.parts
    ):
        return None
    sums = [part.sql for part in measure.parts if part.kind == "sum"]
    found = [facts.decimals for facts in facts_of(table, sums).values()] if sums else [0]
    return None if any(one is None for one in found) else max(one or 0 for one in found)
