"""What each label of a dimension contributes to a change."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...aggregation import Survey
from ...aggregation.measures import Measure
from .contributions import Contribution, additive, captured, farthest, gross, ratio
from .explaining_slices import Smallest
from .label_evidence import Evidence
from .row_chance import errors_of


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Breakdown:
    """A dimension's contributions, largest first, and how far they stray from a proportional change: more than chance
    would have it (`captured`), and the farthest of them by chance or not, relative to the change (`farthest`).

    `evidence` says whether its labels moved apart by more than chance, where that was looked for and can be told.
    """

    by: str
    captured: float
    farthest: float
    contributions: tuple[Contribution, ...]
    evidence: Evidence | None = None

    @property
    def of_chance(self) -> bool:
        """Whether its labels surely show no more than chance makes."""
        return self.evidence is not None and not self.evidence.beyond_chance

    @property
    def gross(self) -> tuple[float, float]:
        """What went up, and what went down; their sum is the change."""
        return gross(self.contributions)

    @property
    def mix(self) -> float:
        """For averages and rates, how much of the change went through the weights."""
        return sum(part.mix or 0.0 for part in self.contributions)


def breakdown_of(measure: Measure, by: str, both: Sequence[Survey]) -> Breakdown | None:
    """The contributions of a dimension between two periods; None where fewer than two labels have any."""
    cells0, cells1 = (part.cells(by) for part in both)
    (labels,) = cells0.labels
    top0, top1 = (cells.linear(measure.top) for cells in (cells0, cells1))
    if measure.additive:
        parts = additive(labels, measure.factor * top0, measure.factor * top1, cells0.rows, cells1.rows)
        weight = measure.factor * top0
    else:
        bottom0, bottom1 = (cells.linear(measure.bottom) for cells in (cells0, cells1))
        if not bottom0.sum() or not bottom1.sum():
            return None
        parts = ratio(labels, measure.factor * top0, bottom0, measure.factor * top1, bottom1)
        weight = bottom0
    if len(parts) < 2:
        return None
    present = np.array([labels.index(part.label) for part in parts])
    errors = errors_of(measure, (cells0, cells1))[present]
    changes = np.array([part.change for part in parts])
    held, total = weight[present], float(weight[present].sum())
    parts.sort(key=lambda part: (-abs(part.change), part.label or ""))
    return Breakdown(
        by=by,
        captured=captured(changes, held, errors, total),
        farthest=farthest(changes, held, total),
        contributions=tuple(parts),
    )


def ranked(breakdowns: Sequence[Breakdown], found: Smallest) -> tuple[Breakdown, ...]:
    """Breakdowns with what their labels show: those beyond chance first, the most telling of them first."""
    evidence = {one.by: one for one in found.evidence}
    told = [replace(one, evidence=evidence.get(one.by)) for one in breakdowns]
    return tuple(sorted(told, key=lambda one: (one.of_chance, -one.captured, -one.farthest, one.by)))
