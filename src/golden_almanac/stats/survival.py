"""Survival: how many are left after so many periods, where some are still there (Kaplan and Meier, "Nonparametric
estimation from incomplete observations", 1958), with Greenwood's standard errors."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
_Z95 = 1.959963984540054


@dataclass(frozen=True, slots=True)
class Survival:
    """Of each step from 1 on: how many were at risk and ended there, the share that is left, and its 95% range, each of
    shape (steps,)."""

    at_risk: Floats
    ended: Floats
    left: Floats
    low: Floats
    high: Floats

    @property
    def median(self) -> int | None:
        """The first step after which at most half are left; None where more are."""
        below = np.flatnonzero(self.left <= 0.5)
        return int(below[0]) + 1 if below.size else None


def kaplan_meier(steps: npt.NDArray[np.integer], ended: npt.NDArray[np.bool_]) -> Survival:
    """Survival from how many steps each was seen, and whether it ended with the last (else it is still there); shape
    (members,) each. One that is still there after its last step is at risk in it."""
    most = int(steps.max()) if steps.size else 0
    seen = np.bincount(steps, minlength=most + 1)[1:].astype(float)
    ends = np.bincount(steps[ended], minlength=most + 1)[1:].astype(float)
    at_risk = seen[::-1].cumsum()[::-1]
    with np.errstate(divide="ignore", invalid="ignore"):
        hazard = np.where(at_risk > 0, ends / at_risk, 0.0)
        spread = np.where(at_risk > ends, ends / (at_risk * (at_risk - ends)), 0.0)
    left = np.cumprod(1 - hazard)
    error = left * np.sqrt(np.cumsum(spread))
    return Survival(at_risk, ends, left, np.maximum(0.0, left - _Z95 * error), np.minimum(1.0, left + _Z95 * error))
