"""What a log of activities comes to: each member in each period, and cohorts of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..tables import Period

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Cohort:
    """Those who joined in `period`: `size` members; by age from 0 on, `active` of them, the `low` and `high` end of the
    95% range of their share, and `value`, the measure over all of them. Ages that are not over are NaN."""

    period: Period
    size: int
    active: Floats
    low: Floats
    high: Floats
    value: Floats

    @property
    def share(self) -> Floats:
        return self.active / self.size if self.size else np.full(self.active.shape, np.nan)

    @property
    def per_member(self) -> Floats:
        """The measure a member, by age."""
        return self.value / self.size if self.size else np.full(self.value.shape, np.nan)


@dataclass(frozen=True, slots=True, kw_only=True)
class MemberPeriods:
    """Each member in each period: codes of members, ages, values; and of each member its cohort and how far it is
    observed (its last complete age)."""

    member: npt.NDArray[np.intp]
    age: npt.NDArray[np.int64]
    value: Floats
    cohort: npt.NDArray[np.int64]
    last: npt.NDArray[np.int64]
