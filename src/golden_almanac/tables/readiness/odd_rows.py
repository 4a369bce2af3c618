"""Rows that cannot be as they are, seen across columns: two values swapped, an end before its start, a number that no
unit of its kind reaches."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

import numpy as np
import numpy.typing as npt

from ...support.phrasing import figure, phrased_count
from .. import Role, Table
from ..meaning.name_words import words
from ..problems import Problem
from ..reading_guide import Guide

Floats = npt.NDArray[np.float64]
#: Columns looked at in pairs, rows there must be, and the share of them that a rule of order must hold for.
_MOST_COLUMNS, _LEAST_ROWS, _RULE = 10, 50, 0.98
#: The share of rows against the order that a swap must account for.
_EXPLAINED = 0.8
#: Ends between which numbers of a kind lie, by words of a name: a fault lies beyond.
_ENDS: tuple[tuple[frozenset[str], float, float], ...] = (
    (frozenset("age alter edad".split()), 0, 125),
    (frozenset("humidity luftfeuchte luftfeuchtigkeit humedad humidite humid".split()), 0, 100),
    (frozenset("lat latitude breitengrad latitud".split()), -90, 90),
    (frozenset("lon lng longitude langengrad longitud".split()), -180, 180),
    (frozenset("temperature temp temperatur temperatura".split()), -130, 200),
)
#: Winds blow at no more than this, whatever the unit; gusts neither.
_WIND, _STORM = frozenset("wind gust gusts wsp windspeed".split()), 400.0


def ready(table: Table, guide: Guide) -> Table:
    """Tell rows with swapped values, with an end before its start, and with numbers beyond what there is."""
    problems = [*_swapped(table), *_backwards(table), *_beyond(table)]
    return replace(table, problems=(*table.problems, *problems))


def _swapped(table: Table) -> Iterator[Problem]:
    """Rows in which two numbers stand each where the other belongs."""
    measures = [
        column.name for column in table.with_role(Role.MEASURE) if column.type == "number" and not column.beside
    ]
    for first, second in combinations(measures[:_MOST_COLUMNS], 2):
        a, b = table.numbers(first), table.numbers(second)
        known = np.isfinite(a) & np.isfinite(b)
        if known.sum() < _LEAST_ROWS:
            continue
        larger = a > b
        if larger[known].mean() < 0.5:
            (first, a), (second, b) = (second, b), (first, a)
            larger = a > b
        against = known & (a < b)
        if not 0 < against.sum() <= max(3, (1 - _RULE) * known.sum()):
            continue
        rest = known & larger
        ends_a, ends_b = (np.quantile(values[rest], (0.005, 0.995)) for values in (a, b))
        swapped = against & _within(a, ends_b) & _within(b, ends_a) & ~_within(a, ends_a) & ~_within(b, ends_b)
        places = np.flatnonzero(swapped)
        # Columns whose values overlap say nothing by their order, nor do such that break it otherwise.
        apart = ends_a[0] > ends_b[1]
        if places.size == 0 or not apart or places.size < _EXPLAINED * against.sum():
            continue
        yield Problem(
            check="swapped values",
            severity="note",
            column=first,
            rows=int(places.size),
            examples=tuple(table.example(int(place), f"{a[place]:.10g}, {b[place]:.10g}") for place in places[:3]),
            message=phrased_count(
                int(places.size),
                "{first} and {second} look swapped in {n} row.",
                "{first} and {second} look swapped in {n} rows.",
                first=repr(first),
                second=repr(second),
            ),
        )


def _within(values: Floats, ends: Floats) -> npt.NDArray[np.bool_]:
    return np.asarray((values >= ends[0]) & (values <= ends[1]))


def _backwards(table: Table) -> Iterator[Problem]:
    """Rows in which a date lies before the one that it follows everywhere else."""
    dated = [column.name for column in table.columns if column.type in ("date", "datetime")]
    for first, second in combinations(dated[:_MOST_COLUMNS], 2):
        a, b = table.days(first), table.days(second)
        known = ~np.isnat(a) & ~np.isnat(b)
        if known.sum() < _LEAST_ROWS:
            continue
        if (a[known] > b[known]).mean() > 0.5:
            (first, a), (second, b) = (second, b), (first, a)
        against = known & (a > b)
        places = np.flatnonzero(against)
        if not 0 < places.size <= (1 - _RULE) * known.sum() or (a[known] == b[known]).mean() > _RULE:
            continue
        yield Problem(
            check="ends before starts",
            severity="note",
            column=second,
            rows=int(places.size),
            examples=tuple(table.example(int(place), f"{a[place]} > {b[place]}") for place in places[:3]),
            message=phrased_count(
                int(places.size),
                "{second} lies before {first} in {n} row, in all others it does not.",
                "{second} lies before {first} in {n} rows, in all others it does not.",
                first=repr(first),
                second=repr(second),
            ),
        )


def _beyond(table: Table) -> Iterator[Problem]:
    """Numbers that nothing of their kind reaches."""
    for column in table.with_role(Role.MEASURE):
        said = set(words(column.name))
        ends = next(((low, high) for known, low, high in _ENDS if said & known), None)
        if ends is None and said & _WIND:
            ends = (0.0, _STORM)
        if column.type != "number" or ends is None:
            continue
        least, most = (float(end) if end is not None else 0.0 for end in table.extent(column.name))
        if ends[0] <= least and most <= ends[1]:
            continue
        values = table.numbers(column.name)
        places = np.flatnonzero((values < ends[0]) | (values > ends[1]))
        if places.size > (1 - _RULE) * np.isfinite(values).sum():
            # So many beyond say that the column is of another kind, or in another unit.
            continue
        yield Problem(
            check="implausible values",
            severity="note",
            column=column.name,
            rows=int(places.size),
            examples=tuple(table.example(int(place), f"{values[place]:.10g}") for place in places[:3]),
            message=phrased_count(
                int(places.size),
                "{n} cell of {column} is beyond what there is, {low} to {high}.",
                "{n} cells of {column} are beyond what there is, {low} to {high}.",
                column=repr(column.name),
                low=figure(ends[0], 0),
                high=figure(ends[1], 0),
            ),
        )
