"""Control of false discoveries: one family per scan, over every test of every kind."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

#: The share of false stories a scan allows itself. Stricter than the customary 5%: a reader forgives a
#: finding that was missed, not one that was never there.
LEVEL = 0.02


def q_values(p: Sequence[float], weights: Sequence[float] | None = None) -> npt.NDArray[np.float64]:
    """Benjamini–Hochberg adjusted p-values (1995), with weights that average one (Genovese et al. 2006).

    Every test done must be in `p`, also those whose effect is too small to report; shape (n,).
    """
    raw = np.asarray(p, dtype=np.float64)
    n = raw.size
    if n == 0:
        return raw
    if weights is not None:
        w = np.asarray(weights, dtype=np.float64)
        raw = raw / (w / w.mean())
    order = np.argsort(raw, kind="stable")
    stepped = raw[order] * n / np.arange(1, n + 1)
    adjusted = np.minimum.accumulate(stepped[::-1])[::-1]
    out = np.empty(n)
    out[order] = np.minimum(adjusted, 1.0)
    return out
