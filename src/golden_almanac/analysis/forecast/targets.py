"""What is left to do for a target: of the year that is forecast into, what came, is expected, and is needed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...support.errors import RequestError
from ...tables import Grain, Period
from .outlook import Ahead, Floats, Target


def target_of(
    value: float, periods: Sequence[Period], history: Floats, ahead: Sequence[Ahead], surprises: Floats
) -> Target:
    """The target of the year of the first period ahead. `surprises` are what past periods came to as a factor of what
    was foretold a period before, NaN where that is not known. Raises RequestError where the year is not forecast to its
    end."""
    first = ahead[0].period
    year = first.calendar.holding(Grain.YEAR, first.start)
    inside = [one for one in ahead if one.period.start <= year.end]
    if inside[-1].period.end < year.end:
        raise RequestError(
            "The target",
            value,
            f"reached within the periods ahead: forecast to {year.end}, the end of the year, or further",
        )
    reached = float(sum(made for one, made in zip(periods, history, strict=True) if one.start >= year.start))
    expected = float(sum(one.value for one in inside))
    needed = value - reached
    factor = needed / expected if expected > 0 else None
    known = surprises[np.isfinite(surprises)]
    met = 0 if factor is None else int((known >= factor).sum() if factor >= 1 else (known <= factor).sum())
    return Target(
        value=value,
        year=year,
        reached=reached,
        expected=expected,
        periods=len(inside),
        factor=factor,
        met=met,
        tried=int(known.size),
    )
