"""What shares, rates and prices are to be weighed by: the column below the line, where the one above stands there too.

A conversion rate beside orders and visits is orders over visits; its plain average over the rows would count a day of
ten visits like one of ten thousand. That a column is the ratio of two others is seen in the rows, not in the names.
Where what stands above the line is not there, names tell what such a number is weighed by: a price by the quantity, an
occupancy by the beds. Of two that could be it none is taken, and it is said.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import permutations

import numpy as np
import numpy.typing as npt

from .. import Column, Role, Table
from . import glimpse
from .name_words import QUOTED, words
from .natures import Nature

Floats = npt.NDArray[np.float64]
#: Columns among which both are looked for, rows that show it, and the share of them that must agree.
_MOST, _LEAST, _AGREE = 12, 20, 0.98
#: What pieces are counted in, and prices that are none of a piece.
_QUANTITIES = frozenset(
    "quantity qty units pieces volume menge stuck stuckzahl anzahl cantidad unidades quantite quantites unites".split()
)
_NOT_BY_PIECE = frozenset("index indice kurs fx exchange cpi wage bid ask spread strike nav hourly".split()) | QUOTED
_PLACES = (
    "rooms beds seats capacity zimmer betten platze kapazitat habitaciones camas plazas capacidad chambres lits places "
    "capacite"
)
#: Words of rates, and of what stands below their line.
_DENOMINATORS: tuple[tuple[frozenset[str], frozenset[str]], ...] = tuple(
    (frozenset(of.split()), frozenset(by.split()))
    for of, by in (
        ("conversion konversion conversiones", "visits visitors sessions clicks leads besuche visitas visites"),
        ("occupancy auslastung ocupacion occupation utilisation utilization", _PLACES),
        ("ctr", "impressions impresiones einblendungen"),
        ("defect scrap ausschuss defectos rebut", "units pieces produced produktion produccion production stuck"),
        ("attendance anwesenheit asistencia presence", "enrolled pupils students schuler alumnos eleves"),
        ("turnout wahlbeteiligung participacion", "voters electorate wahlberechtigte electores electeurs"),
    )
)
_AVERAGED = (Nature.SHARE, Nature.PRICE, Nature.READING, Nature.DURATION)


def weighed(table: Table) -> Table:
    """The table with rates and prices that are the ratio of two of its columns known as that."""
    rates = [
        column
        for column in table.with_role(Role.MEASURE)
        if column.type == "number" and column.nature in _AVERAGED and column.distinct > 2
    ]
    amounts = [
        column
        for column in table.with_role(Role.MEASURE)
        if column.type == "number" and column.nature in (Nature.FLOW, Nature.COUNT, Nature.STOCK) and not column.beside
    ][:_MOST]
    if not rates or not amounts:
        return table
    values = {column.name: glimpse.numbers(table, column.name) for column in amounts}
    found = {}
    for column in rates:
        pair = _ratio(glimpse.numbers(table, column.name), values)
        if pair is not None:
            found[column.name] = replace(column, weighed=pair)
        elif by_nature := _natural(column, amounts):
            found[column.name] = replace(column, weights=by_nature)
    return table.with_described(found)


def _natural(rate: Column, amounts: list[Column]) -> tuple[str, ...]:
    """The columns that a price, rate or average is naturally weighed by, as their names tell."""
    said = set(words(rate.name))
    weights = next((by for of, by in _DENOMINATORS if said & of), frozenset())
    if not weights and rate.nature == Nature.PRICE and not said & _NOT_BY_PIECE:
        weights = _QUANTITIES
    return tuple(one.name for one in amounts if one.adds_up and set(words(one.name)) & weights)


def _ratio(rate: Floats, amounts: dict[str, Floats]) -> tuple[str, str, float] | None:
    """(above, below, factor) of the ratio that a rate is, in so many or in percent; None where it is none."""
    step = _resolution(rate)
    for above, below in permutations(amounts, 2):
        for factor in (1.0, 100.0):
            # That nought over something is nought shows no ratio.
            something = (rate != 0) | (amounts[above] != 0)
            known = np.isfinite(rate) & np.isfinite(amounts[above]) & (amounts[below] > 0) & something
            if known.sum() < _LEAST or np.ptp(amounts[below][known]) == 0:
                continue
            made = factor * amounts[above][known] / amounts[below][known]
            off = np.abs(made - rate[known])
            if np.mean(off <= 0.51 * step + 1e-9 * np.abs(made)) >= _AGREE and np.ptp(made) > 4 * step:
                return above, below, factor
    return None


def _resolution(rate: Floats) -> float:
    """The last digit that a column is rounded to: 0.01, 0.1, 1; nought for doubles at full length."""
    known = rate[np.isfinite(rate)]
    for decimals in range(7):
        if np.all(np.abs(known - np.round(known, decimals)) <= 1e-9 * np.maximum(1.0, np.abs(known))):
            return float(10.0**-decimals)
    return 0.0
