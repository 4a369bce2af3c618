"""What the labels of a dimension show of a change: whether they moved apart by more than chance, and how far one would
have had to move for that to be noticed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .deviation_tests import Stray
from .minimal_explanation import SURE, Looked, Scales, look_at
from .span_cube import Cube

#: A label is asked for what would have been noticed of it when it holds so much of the whole.
_HOLDS = 0.1
#: Standard errors by which what is noticed four times in five lies beyond the line (the normal quantile of 0.8).
_POWER = 0.84
#: Labels that moved apart as much by chance less often than this did so by more than chance.
_BEYOND = 0.05
#: The most degrees of freedom that the dispersion of labels is given.
_MOST_DF = 100.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """Of one dimension: how often chance would set its labels as far apart (`p`), and how far one that holds a tenth of
    the whole must stray to be noticed four times in five (`noticed`: relative to what was expected of a sum, in the
    measure's unit of an average; None where that cannot be told)."""

    by: str
    p: float
    noticed: float | None

    @property
    def beyond_chance(self) -> bool:
        return self.p <= _BEYOND


def evidence_of(cube: Cube, stray: Stray, scales: Scales, *, additive: bool) -> tuple[Evidence, ...]:
    """Of each dimension that has two labels told of, of a sum (`additive`) or an average."""
    looked = [look_at(cube, name, stray, scales) for name in sorted(cube.labels)]
    # What the search pays for each label it names: all that it looks at.
    many = max(1, scales.kinds * sum(int(one.tested().sum()) for one in looked))
    found = (_of(one, many, additive) for one in looked)
    return tuple(one for one in found if one is not None)


def _of(looked: Looked, many: int, additive: bool) -> Evidence | None:
    from scipy.special import fdtrc, stdtrit

    tested = looked.tested()
    n = int(tested.sum())
    if n < 2:
        return None
    groups = looked.groups
    size = np.abs(groups.spans.then.top if additive else groups.spans.then.bottom)
    weight = size / max(float(size.sum()), np.finfo(float).tiny)
    # Against all others a label strays by its own error and theirs: those of all labels together have n − 1 degrees.
    squares = groups.strayed.squared / looked.dispersion
    df = np.minimum(looked.df(), _MOST_DF)
    ratio = float((squares * (1 - weight))[tested].sum()) / (n - 1)
    together = float(fdtrc(n - 1, float(np.median(df[tested])), ratio))
    alone = float(looked.p_values(n)[tested].min())
    line = -stdtrit(df, SURE / (2 * many)) + _POWER
    reach = (line * np.sqrt(looked.dispersion) * groups.strayed.error)[tested & (weight >= _HOLDS)]
    known = bool(reach.size) and bool(np.isfinite(reach).all())
    return Evidence(
        by=looked.names[0], p=min(1.0, 2 * min(together, alone)), noticed=float(reach.max()) if known else None
    )
