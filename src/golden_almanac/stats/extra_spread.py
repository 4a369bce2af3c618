"""By how much things differ in any case, beyond what chance makes of each."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt


def extra_spread(z: npt.NDArray[np.float64]) -> float:
    """The spread of gaps given in standard errors, shape (n,), n ≥ 1: one where it may be chance. The tenth that lie
    farthest out are left aside, as they may be odd themselves."""
    wide = _trimmed(z)
    return wide if wide > 1 + 1.645 / np.sqrt(2 * max(3, int(np.ceil(0.9 * z.size)))) else 1.0


def _trimmed(z: npt.NDArray[np.float64]) -> float:
    kept = np.sort(np.abs(z - np.median(z)))[: max(3, int(np.ceil(0.9 * z.size)))]
    # Nine tenths of a normal sample, cut at 1.645, have a mean square of 0.624.
    return float(np.sqrt((kept**2).mean() / 0.624))


def spread_between(gaps: npt.NDArray[np.float64], errors: npt.NDArray[np.float64]) -> float:
    """The standard deviation by which things differ in any case, beside the errors of their gaps, both shape (n,): as
    much as makes the gaps as wide as chance would (DerSimonian & Laird 1986, without the tenth that lie farthest out);
    nought where chance makes them."""
    if extra_spread(gaps / errors) == 1.0:
        return 0.0
    low, high = 0.0, float(np.abs(gaps).max()) + float(errors.max())
    for _ in range(40):
        middle = (low + high) / 2
        if _trimmed(gaps / np.hypot(errors, middle)) > 1:
            low = middle
        else:
            high = middle
    return high
