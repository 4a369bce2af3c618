"""Key drivers: effects, cut points, importance and segments of an outcome."""

from .factors import Factor, LeftOut
from .find import LEVEL, TOWARD, Driver, Effect, Found, Unclear, driver_of, find
from .outcome import Outcome, outcome_of
from .segments import Condition, Segment
from .shapes import Cut, Shape

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
