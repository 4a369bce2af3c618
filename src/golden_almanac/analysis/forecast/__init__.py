"""What to expect: the past of a measure without what is known to have disturbed it, carried on, with ranges."""

from __future__ import annotations

from .foretell import foretell
from .outlook import Ahead, Candidate, Disturbance, KnownEvent, Outlook, Part, Target
from .wanted import Wanted

__all__ = ["Ahead", "Candidate", "Disturbance", "KnownEvent", "Outlook", "Part", "Target", "Wanted", "foretell"]
