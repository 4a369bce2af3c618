"""The groups of a comparison: their labels, the values of each, and what is left out."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ...aggregation.measure_names import spoken
from ...support.errors import ColumnError
from ...support.phrasing import named, phrased
from ..drivers.outcome import Outcome
from .comparison_results import Group, described

Floats = npt.NDArray[np.float64]

#: Groups beyond this many are not compared two by two; groups of fewer rows than the least take no part.
MOST_GROUPS, LEAST = 30, 3


class Parted(NamedTuple):
    """The groups by label, their values, their rows without outcome, and what is said of the groups left out."""

    labels: list[str]
    samples: list[Floats]
    missing: list[int]
    left: list[str]
    places: list[npt.NDArray[np.intp]]


def groups_of(about: Outcome, by: str) -> Parted:
    """The groups with enough rows, by label, their values, their rows without outcome, and the groups left out."""
    codes, known = about.table.codes(by)
    code = codes[about.rows]
    rows = np.bincount(codes, minlength=len(known))
    labels, samples, missing, places = [], [], [], []
    left: list[str] = []
    few = 0
    for place, label in enumerate(known):
        values = about.values[code == place]
        if label is None:
            left.append(phrased("{n} rows without {column}", n=int(rows[place]), column=named(by, spoken(by))))
        elif values.size < max(LEAST, about.table.minimum):
            few += 1
            if about.table.minimum < 2:
                left.append(phrased("{label} ({n} rows)", label=str(label), n=int(values.size)))
        else:
            labels.append(label)
            samples.append(values)
            places.append(np.flatnonzero(code == place))
            missing.append(int(rows[place] - values.size))
    if few and about.table.minimum > 1:
        left.append(phrased("{n} smaller groups", n=few))
    if len(labels) < 2:
        raise ColumnError(
            by,
            f"The column {by!r} has {'only one group' if labels else 'no group'} with {LEAST} rows or more that "
            f"have the "
            "outcome, so there is nothing to compare.",
            "Compare by a column with at least two groups.",
        )
    if len(labels) > MOST_GROUPS:
        order = sorted(range(len(labels)), key=lambda i: (-samples[i].size, labels[i]))[:MOST_GROUPS]
        kept = sorted(order)
        left.append(phrased("{n} smaller groups", n=len(labels) - MOST_GROUPS))
        labels, samples = [labels[i] for i in kept], [samples[i] for i in kept]
        missing, places = [missing[i] for i in kept], [places[i] for i in kept]
    own = about.table.stated.places(by, list(labels))
    if own is not None:
        labels, samples = [labels[i] for i in own], [samples[i] for i in own]
        missing, places = [missing[i] for i in own], [places[i] for i in own]
    return Parted(labels, samples, missing, left, places)


def described_groups(labels: list[str], samples: list[Floats], missing: list[int]) -> list[Group]:
    """The figures of each group, with its rows that have no outcome."""
    return [
        replace(described(label, values), missing=gone)
        for label, values, gone in zip(labels, samples, missing, strict=True)
    ]
