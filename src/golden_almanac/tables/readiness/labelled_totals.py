"""Labels that are the total of the others: "Total" among countries, "World", "All ages".

Other totals may stand among the rows, too (regions beside their countries), so that sums need not agree: a label that
says so and is at least as large as each other one, everywhere, is a total.
"""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ...support.phrasing import phrased, phrased_count
from .. import Column, Role, Table
from ..problems import Problem, Step
from ..reading_guide import Guide
from .empty_columns import overflows
from .reckoned_totals import reckoned, side_by_side
from .repairs import SET_ASIDE, set_aside

#: What is a total as a whole label, not only as a word of one; and what may be one ("All risks" may be a product).
_TOTAL = re.compile(
    r"(grand |overall )?total|totals|world(wide)?|insgesamt|gesamt(summe)?|welt|mundo|total general|monde|ensemble",
    re.IGNORECASE,
)
_MAY_BE = re.compile(
    r"overall|all|all \w+( \w+)?|both( sexes)?|alle|alle \w+|summe|todos|todas|tod[oa]s l[oa]s \w+|suma|"
    r"tous|toutes|tou(te)?s les \w+|somme",
    re.IGNORECASE,
)
#: How near to the sum of the others what may be a total must be.
_NEAR = 0.1
#: The share of its groups in which a total must be as large as the largest other label, groups that tell, and labels.
_MOSTLY, _LEAST_GROUPS, _LEAST_LABELS = 0.95, 3, 3
_WHY = "a total of the other labels"
_MOST_LABELS, _EXAMPLES = 10_000, 3

Mask = npt.NDArray[np.bool_]


def ready(table: Table, guide: Guide) -> Table:
    """Set aside the rows of labels that are totals of the others in their column."""
    amounts = [column.name for column in table.columns if column.role is Role.MEASURE and column.adds_up]
    amounts = [name for name in amounts if not overflows(table, table.column(name))]
    if not amounts:
        return table
    for column in table.with_role(Role.DIMENSION):
        if column.type != "text" or not _LEAST_LABELS <= column.distinct <= _MOST_LABELS:
            continue
        table = _checked(table, column, amounts)
        names = reckoned(table, column, amounts)
        if names:
            codes, labels = table.codes(column.name)
            places = np.flatnonzero(np.isin(codes, [code for code, label in enumerate(labels) if label in names]))
            table = _without(table, column, names, places)
    return table


def _checked(table: Table, column: Column, amounts: list[str]) -> Table:
    """The table without the labels of a column that are totals of its others."""
    codes, labels = table.codes(column.name)
    told = {code: label.strip() for code, label in enumerate(labels) if label is not None}
    said = [code for code, label in told.items() if _TOTAL.fullmatch(label) or _MAY_BE.fullmatch(label)]
    if not said:
        return table
    parts = ~np.isin(codes, said)
    values = np.column_stack([table.numbers(name) for name in amounts])
    found = np.zeros(codes.size, dtype=bool)
    names = []
    for code in said:
        mine, sure = codes == code, _TOTAL.fullmatch(told[code]) is not None
        if _is_total(mine, parts, values, _groups(table, column, mine, parts), sure=sure):
            found |= mine
            names.append(told[code])
    return _without(table, column, names, np.flatnonzero(found)) if names else table


def _groups(table: Table, column: Column, mine: Mask, parts: Mask) -> npt.NDArray[np.int64]:
    """Which rows belong together: those with the same date and the same labels of other columns; a column in which the
    total has a label of its own, as a code of it, tells none apart."""
    return side_by_side(table, column, lambda codes: bool(np.isin(codes[mine], codes[parts]).all()))


def _is_total(
    mine: Mask, parts: Mask, values: npt.NDArray[np.float64], group: npt.NDArray[np.int64], *, sure: bool
) -> bool:
    """Whether rows are as large as each other row of their group, or where they are not `sure` by their label as large
    as all of them together, in every amount and nearly every group."""
    count = int(group.max(initial=0)) + 1
    others = np.bincount(group[parts], minlength=count)
    held = 0
    for amount in values.T:
        known = np.isfinite(amount)
        largest = np.full(count, -np.inf)
        np.maximum.at(largest, group[known & parts], amount[known & parts])
        own = np.full(count, np.nan)
        own[group[known & mine]] = amount[known & mine]
        below = np.zeros(count, dtype=bool)
        below[group[known & (amount < 0)]] = True
        if not sure:
            sums = np.bincount(group[known & parts], weights=amount[known & parts], minlength=count)
            largest = np.where(np.abs(own - sums) <= _NEAR * sums, largest, np.inf)
        tell = ~below & np.isfinite(own) & (largest > -np.inf) & (others >= _LEAST_LABELS - 1)
        if not tell.any():
            continue
        if tell.sum() < _LEAST_GROUPS or np.mean(own[tell] >= largest[tell]) < _MOSTLY:
            return False
        held += 1
    return held > 0 and np.bincount(group[mine], minlength=count).max() == 1


def _without(table: Table, column: Column, labels: list[str], places: npt.NDArray[np.intp]) -> Table:
    count = int(places.size)
    problem = Problem(
        check="totals among the rows",
        severity="repair",
        column=column.name,
        rows=count,
        examples=tuple(table.example(int(place), labels[0]) for place in places[:_EXAMPLES]),
        repair=phrased("set aside"),
        message=phrased_count(
            count,
            "{n} row of {label} ({column}) is a total of the other labels and was set aside, so that nothing is "
            "counted twice.",
            "{n} rows of {label} ({column}) are totals of the other labels and were set aside, so that nothing is "
            "counted twice.",
            label=", ".join(map(repr, labels)),
            column=repr(column.name),
        ),
        step=Step(do=SET_ASIDE, facts={"why": _WHY, "places": places.tolist()}),
    )
    table = set_aside(table, places, _WHY)
    return replace(table, problems=(*table.problems, problem))
