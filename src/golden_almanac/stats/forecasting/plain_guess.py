"""Whether anything is to be foretold: of noise the mean, or the last value, is as good a guess as any."""

from __future__ import annotations

import warnings

import numpy as np

from .combination import Combined
from .origins import Floats, Origins, scale_of

#: The guesses that say nothing of what is to come, and by how much the procedure must beat them.
GUESSES = ("last value", "mean")
_BETTER = 0.97


def plain_guess(series: Floats, origins: Origins, found: Combined, place: int) -> str | None:
    """The guess that the procedure does not beat at the origins of a series; None where it does, or where too few
    origins are known to tell."""
    if origins.count < 6:
        return None
    own = series[place : place + 1]
    scale = scale_of(own, origins.season)[0]

    def missed(path: Floats) -> Floats:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", RuntimeWarning)
            made: Floats = np.nanmean(np.abs(origins.errors(own, path[place : place + 1]))[0, :-1], axis=1) / scale
        return made

    procedure = missed(found.path)
    guesses = {name: missed(found.paths[found.names.index(name)]) for name in GUESSES}
    best = min(GUESSES, key=lambda name: float(guesses[name].mean()))
    return best if procedure.mean() >= _BETTER * guesses[best].mean() else None
