"""Numbers of states or countries that are no amounts, though no name says so: they do not grow with the population.

What a place has in all (income, cars, crimes) is some ten times as much where ten times as many people live; what one
of its people has, a tax or an age is about as much everywhere, and is never added up over places.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ...support.phrasing import phrased
from .. import Role, Table
from . import glimpse
from .name_words import words
from .natures import Nature

_POPULATION = frozenset("pop population inhabitants residents einwohner bevolkerung poblacion habitants".split())
#: Places of which so many are needed; by how much their populations must differ (standard deviation of logarithms), and
#: the most that a number per head differs, and goes with them.
_LEAST_PLACES, _VARIED, _LESS, _MOST_TOGETHER = 8, 0.5, 0.5, 0.5


def per_head(table: Table) -> Table:
    """The table with such amounts averaged, where each place has a row a date beside its population."""
    measures = table.with_role(Role.MEASURE)
    people = [one for one in measures if set(words(one.name)[-1:]) & _POPULATION]
    amounts = [one for one in measures if one.nature == Nature.FLOW]
    dated = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    if not people or not amounts or not dated:
        return table
    days = glimpse.days(table, dated[0].name)
    for places in table.with_role(Role.DIMENSION):
        codes = glimpse.codes(table, places.name)
        labels = int(codes.max(initial=-1)) + 1
        pairs = codes.astype(np.int64) + labels * np.unique(days, return_inverse=True)[1]
        if labels < _LEAST_PLACES or np.unique(pairs).size < pairs.size:
            continue
        size = _usual(glimpse.numbers(table, people[0].name), codes, labels)
        found = {
            one.name: replace(
                one,
                nature=Nature.READING,
                adds_up=False,
                because=phrased("it does not grow with {column}, as an amount would", column=repr(people[0].name)),
            )
            for one in amounts
            if _apart_from(size, _usual(glimpse.numbers(table, one.name), codes, labels))
        }
        return table.with_described(found)
    return table


def _usual(values: npt.NDArray[np.float64], codes: npt.NDArray[np.integer], labels: int) -> npt.NDArray[np.float64]:
    """The logarithm of the average of each place; NaN where it is not above nought."""
    known = np.isfinite(values)
    count = np.bincount(codes[known], minlength=labels)
    total = np.bincount(codes[known], weights=values[known], minlength=labels)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.log(np.where(total > 0, total / np.maximum(count, 1), np.nan))


def _apart_from(size: npt.NDArray[np.float64], usual: npt.NDArray[np.float64]) -> bool:
    both = np.isfinite(size) & np.isfinite(usual)
    if both.sum() < _LEAST_PLACES or np.isfinite(usual).sum() < np.isfinite(size).sum():
        return False
    people, amount = size[both], usual[both]
    varied = float(people.std())
    if varied < _VARIED or float(amount.std()) > _LESS * varied:
        return False
    together = float(np.mean((people - people.mean()) * (amount - amount.mean())))
    return together <= _MOST_TOGETHER * varied * float(amount.std())
