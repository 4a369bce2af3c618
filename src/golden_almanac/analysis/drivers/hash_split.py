"""Rows dealt out by what they hold, not by their place, so that their order changes nothing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from .factors import Factor

Floats = npt.NDArray[np.float64]
Hashes = npt.NDArray[np.uint64]


def hashed(factors: Sequence[Factor], y: Floats) -> Hashes:
    """A number for each row (n,), evenly spread; equal rows get one each, dealt out in turn."""
    state = mixed(np.ascontiguousarray(y + 0.0).view(np.uint64))
    for factor in factors:
        if factor.number:
            assert factor.values is not None
            own = np.where(factor.missing, 0.5, factor.values) + 0.0
            bits = np.ascontiguousarray(own).view(np.uint64)
        else:
            assert factor.codes is not None
            bits = factor.codes.astype(np.uint64)
        state = mixed(state ^ (bits + np.uint64(0x9E3779B97F4A7C15)))
    order = np.argsort(state, kind="stable")
    sorted_ = state[order]
    new = np.r_[True, sorted_[1:] != sorted_[:-1]]
    starts = np.maximum.accumulate(np.where(new, np.arange(y.size), 0))
    turn = (np.arange(y.size) - starts).astype(np.uint64)
    made = np.empty(y.size, dtype=np.uint64)
    with np.errstate(over="ignore"):
        made[order] = mixed(sorted_ + turn * np.uint64(0xD1B54A32D192ED03))
    return made


def mixed(state: Hashes) -> Hashes:
    """SplitMix64's finaliser (Steele, Lea & Flood 2014)."""
    with np.errstate(over="ignore"):
        state = (state ^ (state >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        state = (state ^ (state >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return state ^ (state >> np.uint64(31))


def thinned(hashes: Hashes, most: int) -> npt.NDArray[np.intp]:
    """The places of about `most` of the rows; of all where there are hardly more."""
    if hashes.size <= 1.2 * most:
        return np.arange(hashes.size)
    # Another mix than the one that parts rows into halves.
    return np.flatnonzero(mixed(hashes ^ np.uint64(0xA5A5A5A5A5A5A5A5)) < np.uint64(int(2**64 * most / hashes.size)))
