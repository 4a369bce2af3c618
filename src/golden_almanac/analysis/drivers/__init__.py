"""Key drivers: effects, cut points, importance and segments of an outcome."""

from .driver_results import Driver, Effect, Found, Unclear
from .driver_search import LEVEL, TOWARD, driver_of, find
from .effect_shapes import Cut, Shape
from .factors import Factor, LeftOut
from .outcome import Outcome, outcome_of
from .segments import Condition, Segment

__all__ = [
    "LEVEL",
    "TOWARD",
    "Condition",
    "Cut",
    "Driver",
    "Effect",
    "Factor",
    "Found",
    "LeftOut",
    "Outcome",
    "Segment",
    "Shape",
    "Unclear",
    "driver_of",
    "find",
    "outcome_of",
]
