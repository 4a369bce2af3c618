"""A forecast as figures: the path with its ranges, the candidates, the parts, what was taken into account."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...aggregation.measures import Measure
from ...tables import Column, Grain, Period, Table, Timeline

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Ahead:
    """A period ahead: the value expected, its ranges, and the same period a year before where the data have it."""

    period: Period
    value: float
    low80: float
    high80: float
    low95: float
    high95: float
    year_before: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A method with its mean absolute error over the origins, as a multiple of the seasonal naive step (MASE), and its
    weight."""

    name: str
    mase: float
    weight: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Disturbance:
    """A step or an outlier that a scan tells of the measure: when, and by how much the past was moved for it. A step by
    the factor that what went before was carried over with."""

    kind: str
    period: Period
    value: float
    expected: float


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownEvent:
    """An event of a name: how often it was seen, its usual effect on a whole period as a share, and the periods ahead
    that it falls in. `effect` is None where none like it was seen before: none is invented."""

    name: str
    seen: int
    effect: float | None
    ahead: tuple[Period, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """What the rest of a year has to come to: `reached` so far, `expected` of the periods that are left (`periods`),
    `needed` of them, as a factor of what is expected. `met` of `tried` past periods came out as far above what was
    foretold of them a period before."""

    value: float
    year: Period
    reached: float
    expected: float
    periods: int
    factor: float | None
    met: int
    tried: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A label (None: all others together) with its own path; `history` over the same periods as the whole."""

    label: str | None
    history: tuple[float, ...]
    ahead: tuple[Ahead, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Components:
    """The past taken apart, each of shape (periods,): the level, the season, known events, what remains. As sums or, if
    `factors`, as factors of the level. `trend` is the change of the level per period at the end."""

    level: Floats
    season: Floats
    events: Floats
    remainder: Floats
    trend: float
    factors: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlook:
    """`history` with the periods it is of; `ahead` the periods to come. `total` is the sum over them, with ranges of
    its own, of what adds up. `plain` names the plain guess that nothing beat (last value, mean), and then is the
    forecast. `errors` are the mean absolute errors by horizon, as shares of the mean level; `own` and `naive` those
    over all, scaled. `holes` are periods that nothing is known of, `unfinished` the one that the forecast begins
    with."""

    table: Table
    line: Timeline
    measure: Measure
    grain: Grain
    periods: tuple[Period, ...]
    history: tuple[float, ...]
    ahead: tuple[Ahead, ...]
    total: Ahead | None
    candidates: tuple[Candidate, ...]
    form: str
    plain: str | None
    own: float
    naive: float
    naive_ranges: bool
    origins: int
    errors: tuple[float, ...]
    components: Components
    disturbances: tuple[Disturbance, ...]
    events: tuple[KnownEvent, ...]
    parts: tuple[Part, ...]
    by: Column | None
    reconciled: str | None
    target: Target | None
    holes: tuple[Period, ...]
    unfinished: Period | None
    sql: str
    short: bool = False
