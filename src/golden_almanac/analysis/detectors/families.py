"""Labels that are siblings, and how much of the whole each makes."""

from __future__ import annotations

import numpy as np

from ...aggregation import Cells, Survey
from ...aggregation.hierarchies import parent_codes
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats


def families(survey: Survey, by: str) -> list[tuple[list[int], Slice]]:
    """The labels of a dimension that are siblings: those of one parent label, or all of them.

    A label alone in its family is the same rows as its parent, and is left out.
    """
    told = survey.told(by)
    above = survey.parents.get(by)
    if above is None:
        every = [int(code) for code in np.flatnonzero(told)]
        return [(every, Slice())] if len(every) > 1 else []
    up = parent_codes(survey.table, by, above)
    slices = []
    for code, label in enumerate(survey.labels(above)):
        family = [int(child) for child in np.flatnonzero((up == code) & told)]
        if len(family) > 1:
            slices.append((family, Slice(((above, label),))))
    return slices


def labelled(survey: Survey, by: str) -> list[tuple[list[int], Slice]]:
    """The families of a dimension with all labels that they have: those too small to be told of, and what is left over,
    are none of a label's siblings, but are among "all the others" all the same. Rows without a label are not."""
    named = np.array([label is not None for label in survey.labels(by)], dtype=bool)
    above = survey.parents.get(by)
    up = None if above is None else parent_codes(survey.table, by, above)
    return [
        ([int(code) for code in np.flatnonzero(named if up is None else named & (up == up[told[0]]))], parent)
        for told, parent in families(survey, by)
    ]


def reach(survey: Survey, cells: Cells, measure: Measure, code: int) -> float:
    """The share of the whole that a slice makes: of the measure if it adds up, else of the rows."""
    return float(shares_of_whole(survey, cells, measure)[code])


def shares_of_whole(survey: Survey, cells: Cells, measure: Measure) -> Floats:
    """The same of every label of the first key of the cells, shape (labels,); kept with the survey."""
    key = ("shares of whole", cells.keys, measure.name)
    if key not in survey._cache:
        if measure.additive:
            amounts = np.abs(cells.linear(measure.top).sum(axis=tuple(range(1, cells.rows.ndim))))
        else:
            amounts = cells.rows.sum(axis=tuple(range(1, cells.rows.ndim)))
        whole = float(amounts.sum())
        survey._cache[key] = amounts / whole if whole else np.zeros(amounts.shape)
    return survey._cache[key]  # type: ignore[no-any-return]
