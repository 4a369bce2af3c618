"""Rows at the end that stand for periods to come: the plan is there, or nothing, and the figures are not filled in yet.

Kept, they would make a last period that fell to nothing. They are set aside unless someone says that they belong.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ...support.phrasing import phrased, phrased_count
from .. import Role, Table
from ..meaning.scenarios import is_planned
from ..problems import Problem, Step
from ..reading_guide import Guide
from .repairs import SET_ASIDE, set_aside

_WHY = "not filled in yet"
#: Days with a figure there must be.
_FEWEST = 5
#: So large a share of the rows before must be filled, and chance would leave so many blank at the end less often.
_FILLED, _CHANCE = 0.9, 0.01


def ready(table: Table, guide: Guide) -> Table:
    """Set aside the rows after the last day that has a figure, in a table that has one in nearly all rows before."""
    timed = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    figures = [column for column in table.with_role(Role.MEASURE) if not is_planned(column.name)]
    if not timed or not figures or any(column.missing == 0 for column in figures):
        return table
    days = table.days(timed[0].name)
    blank = np.all([np.isnan(table.numbers(column.name)) for column in figures], axis=0)
    places = _to_come(days, blank)
    if places.size == 0:
        return table
    answer = guide.ask("rows to come", None, phrased("Are these rows still to be filled in?"), ("set aside", "keep"))
    last = str(days[~blank & ~np.isnat(days)].max())
    problem = Problem(
        check="rows to come",
        severity="note",
        column=None,
        rows=int(places.size),
        examples=tuple(table.example(int(place), str(days[place])) for place in places[:3]),
        message=phrased_count(
            int(places.size),
            "{n} row after {last}, the last day with a figure, has none.",
            "{n} rows after {last}, the last day with a figure, have none.",
            last=last,
        ),
    )
    if answer == "keep":
        return replace(table, problems=(*table.problems, problem))
    problem = replace(
        problem,
        severity="repair" if isinstance(answer, str) else "question",
        message=phrased_count(
            int(places.size),
            "{n} row after {last}, the last day with a figure, has none yet and was set aside.",
            "{n} rows after {last}, the last day with a figure, have none yet and were set aside.",
            last=last,
        ),
        repair=phrased("set aside"),
        question=None if isinstance(answer, str) else answer,
        step=Step(do=SET_ASIDE, facts={"why": _WHY, "places": places.tolist()}),
    )
    table = set_aside(table, places, _WHY)
    return replace(table, problems=(*table.problems, problem))


def _to_come(days: npt.NDArray[np.datetime64], blank: npt.NDArray[np.bool_]) -> npt.NDArray[np.intp]:
    """The places of the rows after the last day with a figure; none where blanks are common or one could be chance."""
    dated = ~np.isnat(days)
    filled = days[dated & ~blank]
    none = np.zeros(0, dtype=np.intp)
    if np.unique(filled).size < _FEWEST:
        return none
    before = dated & (days <= filled.max())
    after = np.flatnonzero(dated & (days > filled.max()))
    share = float(blank[before].mean())
    return after if share <= 1 - _FILLED and share**after.size < _CHANCE else none
