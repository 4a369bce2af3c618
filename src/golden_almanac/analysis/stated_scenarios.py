"""What stated assumptions come to: an amount that grows at a stated rate, with payments, costs and taxes, step by step.

Arithmetic, and no forecast: nothing is known here of what will happen.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import isfinite

from ..support.errors import RequestError

#: Steps at most, and scenarios side by side.
MOST_STEPS, MOST_SCENARIOS = 1_200, 12
_PER_YEAR = {"year": 1, "month": 12}


@dataclass(frozen=True, slots=True, kw_only=True)
class Scenario:
    """Stated assumptions. Rates are percent a year: `rate` of growth, `cost` of the amount, `payment_growth` of the
    payments; `tax` is percent of what grew beyond the cost. `payment` comes at the end of each step, `lumps` at the end
    of the steps named, `fee` is taken at the end of each step."""

    name: str
    start: float = 0.0
    rate: float = 0.0
    payment: float = 0.0
    payment_growth: float = 0.0
    lumps: Mapping[int, float] = field(default_factory=dict)
    cost: float = 0.0
    fee: float = 0.0
    tax: float = 0.0

    def __post_init__(self) -> None:
        for what in ("start", "rate", "payment", "payment_growth", "cost", "fee", "tax"):
            value = getattr(self, what)
            if not isinstance(value, int | float) or not isfinite(value):
                raise RequestError(f"{what} of {self.name}", value, "a number")
        for what in ("rate", "payment_growth"):
            if getattr(self, what) <= -100:
                raise RequestError(f"{what} of {self.name}", getattr(self, what), "more than -100 percent")
        for what in ("cost", "tax"):
            if not 0 <= getattr(self, what) <= 100:
                raise RequestError(f"{what} of {self.name}", getattr(self, what), "0 to 100 percent")
        if self.fee < 0:
            raise RequestError(f"fee of {self.name}", self.fee, "0 or more")


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """What happens in a step: begin + payments + growth − costs − taxes = end."""

    step: int
    begin: float
    payments: float
    growth: float
    costs: float
    taxes: float
    end: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Crossing:
    """The first step at whose end one scenario is no less than another that was ahead of it before."""

    ahead: str
    behind: str
    step: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Projection:
    """Scenarios side by side, over steps of a year or a month."""

    scenarios: tuple[Scenario, ...]
    grain: str
    paths: tuple[tuple[Step, ...], ...]
    crossings: tuple[Crossing, ...]


def projected(scenarios: Sequence[Scenario], steps: int, grain: str) -> Projection:
    """The steps of every scenario. A yearly rate makes (1 + rate)^(1/12) − 1 of a month. Raises RequestError."""
    if grain not in _PER_YEAR:
        raise RequestError("The step", grain, "year or month")
    if not 1 <= steps <= MOST_STEPS:
        raise RequestError("The number of steps", steps, f"1 to {MOST_STEPS}")
    if not 1 <= len(scenarios) <= MOST_SCENARIOS:
        raise RequestError("The number of scenarios", len(scenarios), f"1 to {MOST_SCENARIOS}")
    names = [one.name for one in scenarios]
    if len(set(names)) < len(names):
        raise RequestError("The names of scenarios", names, "different")
    for one in scenarios:
        beyond = [step for step in one.lumps if not 1 <= step <= steps]
        if beyond:
            raise RequestError(f"A lump sum of {one.name} at step", beyond[0], f"within 1 to {steps}")
    paths = tuple(tuple(_steps(one, steps, _PER_YEAR[grain])) for one in scenarios)
    return Projection(scenarios=tuple(scenarios), grain=grain, paths=paths, crossings=_crossings(names, paths))


def _steps(one: Scenario, steps: int, per_year: int) -> list[Step]:
    rate, cost = ((1 + one.rate / 100) ** (1 / per_year) - 1, 1 - (1 - one.cost / 100) ** (1 / per_year))
    more = (1 + one.payment_growth / 100) ** (1 / per_year)
    made, amount = [], one.start
    for step in range(1, steps + 1):
        growth = amount * rate
        costs = max(amount, 0.0) * cost + one.fee
        taxes = one.tax / 100 * max(0.0, growth - costs)
        payments = one.payment * more ** (step - 1) + one.lumps.get(step, 0.0)
        end = amount + payments + growth - costs - taxes
        if not isfinite(end):
            raise RequestError(f"The amounts of {one.name}", end, "finite; the rate is too high for so many steps")
        made.append(Step(step=step, begin=amount, payments=payments, growth=growth, costs=costs, taxes=taxes, end=end))
        amount = end
    return made


def _crossings(names: Sequence[str], paths: Sequence[Sequence[Step]]) -> tuple[Crossing, ...]:
    """For each pair, where the one behind at first overtakes."""
    made = []
    for i, first in enumerate(paths):
        for j in range(i + 1, len(paths)):
            apart = [one.end - other.end for one, other in zip(first, paths[j], strict=True)]
            opening = first[0].begin - paths[j][0].begin or apart[0]
            step = next((place for place, gap in enumerate(apart, start=1) if gap * opening < 0), None)
            if step is not None:
                winner, loser = (j, i) if opening > 0 else (i, j)
                made.append(Crossing(ahead=names[winner], behind=names[loser], step=step))
    return tuple(made)
