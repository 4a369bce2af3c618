"""What a search for drivers gives: drivers with their effects, factors without a clear one, segments."""

from __future__ import annotations

from dataclasses import dataclass
from math import floor, log10

from .effect_shapes import Shape
from .factors import Factor, LeftOut
from .outcome import Outcome
from .segments import Segment

#: How sure effects are where rows are too few for a fit.
PERMUTATION = "permutation"


@dataclass(frozen=True, slots=True, kw_only=True)
class Effect:
    """The effect of a factor (of one level, for a category) on the outcome, all else equal and by itself.

    For a number `effect` is per standard deviation, which is `per` in its unit, and `per_step` per `step`, a round one.
    For a level it is against the mean of the other levels, weighted by their rows. Effects on yes/no outcomes are
    changes of probability; `odds_ratio` stands beside. Intervals are of 95%."""

    factor: str
    level: str | None
    effect: float
    low: float
    high: float
    p: float
    unadjusted: float
    unadjusted_low: float
    unadjusted_high: float
    n: int
    sql: str | None
    value: float | None = None
    per: float | None = None
    step: float | None = None
    per_step: float | None = None
    odds_ratio: float | None = None

    @property
    def direction(self) -> str:
        return "up" if self.effect > 0 else "down"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Driver:
    """A factor that goes with the outcome: its effects (one for a number, the clear levels of a category, strongest
    first), how sure that is, how much of the outcome's variance it foretells, and the shape along a number."""

    factor: Factor
    effects: tuple[Effect, ...]
    every: tuple[Effect, ...]
    p: float
    q: float
    importance: float
    shape: Shape | None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Unclear:
    """A factor without a clear effect, and why."""

    factor: Factor
    effects: tuple[Effect, ...]
    p: float
    q: float
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Found:
    """All that was found: drivers by importance, factors of no clear effect, those left out, segments."""

    outcome: Outcome
    factors: tuple[Factor, ...]
    drivers: tuple[Driver, ...]
    unclear: tuple[Unclear, ...]
    left_out: tuple[LeftOut, ...]
    segments: tuple[Segment, ...]
    every_segment: tuple[Segment, ...]
    toward: str
    foretold: float
    errors: str

    @property
    def clusters(self) -> str | None:
        """The column whose rows resemble each other, so that its labels are counted; None for rows or weeks."""
        return None if self.errors in ("HC3", "by week", PERMUTATION) else self.errors.removeprefix("by ")

    @property
    def few(self) -> bool:
        """Whether there were so few rows that each factor was looked at by itself."""
        return self.errors == PERMUTATION


def round_step(size: float) -> float:
    """The round number (1, 2 or 5 with noughts) nearest to a standard deviation."""
    if size <= 0:
        return 1.0
    power = 10.0 ** floor(log10(size))
    return float(f"{min((power, 2 * power, 5 * power, 10 * power), key=lambda one: abs(one - size)):.3g}")
