"""The list of detectors, by the kind of finding they make; loaded when first asked for."""

from __future__ import annotations

from collections.abc import Sequence
from importlib import import_module
from typing import ClassVar, Protocol, cast

from ...aggregation import Survey
from ...findings import Candidate

#: kind → (module, class, what it looks for)
KINDS: dict[str, tuple[str, str, str]] = {
    "trend": ("trend", "Trend", "a measure that rises or falls steadily, as a whole or against its siblings"),
    "shift": ("shift", "Shift", "a lasting step from one period to the next"),
    "spike": ("spike", "Spike", "a week or period far off, while those before and after it are not"),
    "divergence": (
        "divergence",
        "Divergence",
        "a slice whose last few periods leave the path it kept among its siblings",
    ),
    "seasonality": ("seasonality", "Seasonality", "the same ups and downs every year, month or week"),
    "mix": ("mix", "Mix", "an average or rate that moves because its parts weigh otherwise"),
    "concentration": ("concentration", "Concentration", "a few labels that make most of the whole"),
    "relationship": (
        "relationship",
        "Relationship",
        "two columns that go together, beyond what time and groups explain",
    ),
    "distribution": ("distribution", "Distribution", "heaps at round numbers, two humps, a few rows that make most"),
    "ranking": ("ranking", "Ranking", "who leads by more than chance"),
    "difference": ("difference", "Difference", "a group whose average or rate differs from the rest"),
    "exception": ("exception", "Exceptional", "two labels that together make more or less than each would alone"),
    "gap": ("gap", "Gap", "a label that ends, begins or pauses, a column that stops being filled"),
    "outlier": ("outlier", "Outlier", "one row far from all others, and what may be wrong with it"),
}


#: kind → (setting, what it is measured in): the effect below which a finding of that kind is not told.
FLOORS: dict[str, tuple[str, str]] = {
    "trend": ("floor_pct", "percent over the leg"),
    "shift": ("floor_pct", "percent"),
    "spike": ("floor_pct", "percent"),
    "divergence": ("floor_pct", "percent"),
    "seasonality": ("floor_pct", "percent off the average"),
    "mix": ("floor_pct", "percent"),
    "concentration": ("floor_times", "times an even share"),
    "relationship": ("floor", "correlation"),
    "ranking": ("floor_pct", "percent ahead of the next"),
    "difference": ("floor", "standard deviations of the rows"),
    "exception": ("floor_ratio", "times what is expected"),
    "gap": ("floor_share", "share of the rows"),
    "outlier": ("floor_factor", "times the next value"),
}


class Detector(Protocol):
    """Settings are frozen; `detect` keeps nothing and changes nothing it is given.

    Every test done is returned, also those that find nothing: the false-discovery control counts
    them. `needs_time` and `least_periods` are checked by the caller.
    """

    kind: ClassVar[str]
    needs_time: ClassVar[bool]
    least_periods: ClassVar[int]

    def detect(self, survey: Survey) -> Sequence[Candidate]: ...


def load(kind: str, floor: float | None = None) -> Detector:
    """The detector of a kind, with its default settings but for its floor where one is given."""
    module, name, _ = KINDS[kind]
    settings = {} if floor is None else {FLOORS[kind][0]: floor}
    return cast(Detector, getattr(import_module(f".{module}", __package__), name)(**settings))


def floor_of(kind: str) -> tuple[float, str] | None:
    """The floor of a kind and what it is measured in; None for kinds that have no single one."""
    if kind not in FLOORS:
        return None
    setting, unit = FLOORS[kind]
    return float(getattr(load(kind), setting)), unit
