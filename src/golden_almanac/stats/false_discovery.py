"""Control of false discoveries: one family per scan, over every test of every kind."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

#: The share of false stories a scan allows itself. Stricter than the customary 5%: every test is right to within a
#: small factor only, and a scan of chance must be silent in all but a few of a hundred tables (`bench.truth`). A
#: reader forgives a finding that was missed, not one that was never there.
LEVEL = 0.012
#: Ranks beyond this buy no more room: the expected number of false tests stays below a half however
#: much there is to tell.
MOST_RANK = 25
#: Tests less sure than this are never told, however few they are.
UNLIKELY = 0.1
#: What is folded under a finding pays for no room, and may be less sure by so much.
_FOLDED = 10


def worth_a_look(tests: int) -> float:
    """The largest p-value with which one of so many tests of equal weight may still be told, or folded under what is:
    at best it has the highest rank that counts, and the others of the family only make it dearer. What is less sure
    needs no figures, no second test and no SQL."""
    return min(UNLIKELY, _FOLDED * LEVEL * MOST_RANK / max(1, tests))


def q_values(
    p: Sequence[float], weighted: Sequence[float] | None = None, most_rank: int | None = None
) -> npt.NDArray[np.float64]:
    """Benjamini–Hochberg adjusted p-values (1995), with weights that average one (Genovese et al. 2006);
    ranks count at most `most_rank`.

    Every test done must be in `p`, also those whose effect is too small to report; shape (n,).
    """
    raw = np.asarray(p, dtype=np.float64)
    n = raw.size
    if n == 0:
        return raw
    if weighted is not None:
        w = np.asarray(weighted, dtype=np.float64)
        raw = np.minimum(1.0, raw / (w / w.mean()))
    order = np.argsort(raw, kind="stable")
    ranks = np.minimum(np.arange(1, n + 1), n if most_rank is None else most_rank)
    stepped = raw[order] * n / ranks
    adjusted = np.minimum.accumulate(stepped[::-1])[::-1]
    out = np.empty(n)
    out[order] = np.minimum(adjusted, 1.0)
    return out
