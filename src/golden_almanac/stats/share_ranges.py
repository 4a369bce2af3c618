"""95% ranges of shares (Wilson, "Probable inference, the law of succession, and statistical inference", 1927)."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
_Z95 = 1.959963984540054


def wilson(yes: float, n: float) -> tuple[float, float]:
    """The range of one share."""
    low, high = wilson_ranges(np.array([float(yes)]), np.array([float(n)]))
    return float(low[0]), float(high[0])


def wilson_ranges(yes: Floats, n: Floats) -> tuple[Floats, Floats]:
    """The ranges of many, NaN where there is none to count; shape (shares,)."""
    with np.errstate(divide="ignore", invalid="ignore"):
        share = yes / n
        middle = (share + _Z95**2 / (2 * n)) / (1 + _Z95**2 / n)
        half = _Z95 / (1 + _Z95**2 / n) * np.sqrt(share * (1 - share) / n + _Z95**2 / (4 * n**2))
    return np.maximum(0.0, middle - half), np.minimum(1.0, middle + half)
