"""Words: numbers, names and sentences for what was found."""

from . import dates, names, numbers
from .headlines import detail, headline
from .joint import joint_summary
from .lines import Line
from .live import Live, fill
from .suggestions import Suggestion, suggestions
from .summary import LENGTHS, Fact, Summary, change_summary, scan_summary

__all__ = [
    "LENGTHS",
    "Fact",
    "Line",
    "Live",
    "Suggestion",
    "Summary",
    "change_summary",
    "dates",
    "detail",
    "fill",
    "headline",
    "joint_summary",
    "names",
    "numbers",
    "scan_summary",
    "suggestions",
]
